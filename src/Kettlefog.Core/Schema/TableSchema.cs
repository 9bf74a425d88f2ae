using System.Globalization;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Schema;

/// <summary>A column, as the database's own catalog describes it.</summary>
/// <param name="Name">Its name, in the catalog's spelling.</param>
/// <param name="DeclaredType">The declared type, such as <c>VARCHAR(40)</c>; empty if none is declared.</param>
/// <param name="Storage">The storage class that the declared type prefers, or null if values keep their own.</param>
/// <param name="NotNull">True if the column refuses NULL.</param>
/// <param name="MaxLength">The longest text in characters that the declared type allows, or null for no limit.</param>
/// <param name="Generated">True if the database computes the column, so that it cannot be written.</param>
/// <param name="TextType">
/// The type as a cast names it, where the engine passes all values in their text form; null where they come in their
/// storage class.
/// </param>
public sealed record ColumnSchema(
    string Name,
    string DeclaredType,
    StorageClass? Storage,
    bool NotNull,
    int? MaxLength,
    bool Generated,
    string? TextType = null
)
{
    /// <summary>True if the database fills in the column by itself: a default, or a generated number.</summary>
    public bool HasDefault { get; init; }

    /// <summary>The only values that a check or the type allows, as written; null if there is no such list.</summary>
    public IReadOnlyList<string>? Allowed { get; init; }

    /// <summary>True if the text is not longer than the declared type allows.</summary>
    /// <param name="text">The text.</param>
    public bool HasRoomFor(string text) =>
        MaxLength is not { } max
        || text is { Length: var length } && (length <= max || CharacterText.Count(text) <= max);

    /// <summary>The value that the column would hold if the text were written to it.</summary>
    /// <param name="text">A text, such as one from a map or a person.</param>
    /// <returns>The value, or null if the column cannot hold the text.</returns>
    public ColumnValue? TryRead(string text)
    {
        ArgumentNullException.ThrowIfNull(text);
        if (TextType is not null)
            return InTextForm(text) is { } form ? ColumnValue.Of(form) : null;
        return Storage switch
        {
            StorageClass.Integer => Whole(text),
            StorageClass.Real => Number(text),
            StorageClass.Text => ColumnValue.Of(text),
            StorageClass.Blob => null,
            _ => AsWritten(Whole(text), text) ?? AsWritten(Number(text), text) ?? ColumnValue.Of(text),
        };
    }

    /// <summary>True if values of the column can be compared with those of another.</summary>
    /// <param name="other">The other column.</param>
    public bool IsComparableWith(ColumnSchema other)
    {
        ArgumentNullException.ThrowIfNull(other);
        if (Storage is not null && other.Storage is not null)
            return Storage == other.Storage;
        return TextType is null || TextType == other.TextType;
    }

    /// <summary>The text as the database would write the value back, or null if the type cannot hold it.</summary>
    private string? InTextForm(string text) =>
        (Storage, TextType) switch
        {
            (StorageClass.Integer, _) => Whole(text)?.ToText(),
            (StorageClass.Text, _) => text,
            (StorageClass.Blob, _) => null,
            (StorageClass.Real, _) or (_, "numeric") => decimal.TryParse(
                text,
                NumberStyles.Float,
                CultureInfo.InvariantCulture,
                out _
            )
                ? text.Trim()
                : null,
            (_, "boolean") => text.ToLowerInvariant() switch
            {
                "1" or "true" or "t" or "yes" => "true",
                "0" or "false" or "f" or "no" => "false",
                _ => null,
            },
            (_, "uuid") => Guid.TryParse(text, out var id) ? id.ToString() : null,
            (_, "date") => DateOnly.TryParseExact(
                text,
                "yyyy-MM-dd",
                CultureInfo.InvariantCulture,
                DateTimeStyles.None,
                out _
            )
                ? text
                : null,
            (_, "timestamp with time zone") => TimestampText.TryRead(text, out var moment)
                ? Written(moment.ToUniversalTime()) + "+00"
                : null,
            (_, "timestamp without time zone") => TimestampText.TryRead(text, out var moment) ? Written(moment) : null,
            _ => text,
        };

    private static string Written(DateTimeOffset moment) =>
        moment.ToString("yyyy-MM-dd HH:mm:ss.FFFFFF", CultureInfo.InvariantCulture);

    private static ColumnValue? Whole(string text) =>
        long.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number)
            ? ColumnValue.Of(number)
            : null;

    /// <summary>A real, if it represents the text exactly: no digit of an amount may be lost.</summary>
    private static ColumnValue? Number(string text) =>
        decimal.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var exact)
        && ColumnValue.Of((double)exact) is var real
        && real.TryGetDecimal(out var back)
        && back == exact
            ? real
            : null;

    /// <summary>Keeps "007" and "1.50" from becoming 7 and 1.5 in a column that has no type of its own.</summary>
    private static ColumnValue? AsWritten(ColumnValue? value, string text) => value?.ToText() == text ? value : null;
}

/// <summary>One part of a unique key.</summary>
/// <param name="Column">The column; null for an expression.</param>
/// <param name="Expression">The expression in SQL; null for a column.</param>
/// <param name="Collation">
/// The collation by which values are compared, as SQL names it; null for the column's own.
/// </param>
public sealed record KeyPart(string? Column, string? Expression = null, string? Collation = null)
{
    /// <summary>
    /// True if the part is the column, or an expression with it. Of an expression only the text is compared: the answer
    /// may be true where it ought to be false, never the other way round.
    /// </summary>
    /// <param name="column">The column's name.</param>
    public bool DependsOn(string column) =>
        Column is null
            ? Expression!.Contains(column, StringComparison.OrdinalIgnoreCase)
            : Identifiers.Same(Column, column);
}

/// <summary>A unique key of a table, the primary key among them.</summary>
/// <param name="Name">The name of the constraint or index.</param>
/// <param name="Parts">Its parts in order.</param>
/// <param name="Filter">The condition of a partial index in SQL, or null.</param>
/// <param name="NullsCollide">True if two NULLs count as the same value.</param>
public sealed record UniqueKey(string Name, IReadOnlyList<KeyPart> Parts, string? Filter, bool NullsCollide = false)
{
    /// <summary>Its columns in order; null stands for an expression.</summary>
    public IReadOnlyList<string?> Columns { get; } = [.. Parts.Select(part => part.Column)];

    /// <summary>Its columns and expressions in order, as text.</summary>
    public string Description => string.Join(", ", Parts.Select(part => part.Column ?? part.Expression));

    /// <summary>
    /// True if the filter mentions the column; see <see cref="KeyPart.DependsOn"/> for how exact that is.
    /// </summary>
    /// <param name="column">The column's name.</param>
    public bool FilterDependsOn(string column) => Filter?.Contains(column, StringComparison.OrdinalIgnoreCase) == true;

    /// <summary>
    /// True if a row's value in the column decides whether the row is under the key, or with which values.
    /// </summary>
    /// <param name="column">The column's name.</param>
    public bool DependsOn(string column) => Parts.Any(part => part.DependsOn(column)) || FilterDependsOn(column);

    /// <summary>A unique key of plain columns.</summary>
    /// <param name="name">The name.</param>
    /// <param name="columns">The columns.</param>
    public static UniqueKey Of(string name, params IEnumerable<string> columns) =>
        new(name, [.. columns.Select(column => new KeyPart(column))], null);
}

/// <summary>What the database does to rows when the row they refer to is deleted, or gets another key.</summary>
public enum KeyAction
{
    /// <summary>It refuses the change.</summary>
    Refuse,

    /// <summary>It deletes them too, or updates them to the new key.</summary>
    Cascade,

    /// <summary>It sets the referring columns to NULL.</summary>
    SetNull,

    /// <summary>It sets the referring columns to their defaults.</summary>
    SetDefault,
}

/// <summary>A foreign key, as the catalog declares it.</summary>
/// <param name="Columns">The columns that hold the reference.</param>
/// <param name="Target">The table referred to.</param>
/// <param name="TargetColumns">The columns referred to, in the same order.</param>
/// <param name="OnDelete">What the database does to its rows when the row they refer to is deleted.</param>
/// <param name="OnUpdate">What the database does to its rows when the key they refer to changes.</param>
public sealed record ForeignKey(
    IReadOnlyList<string> Columns,
    string Target,
    IReadOnlyList<string> TargetColumns,
    KeyAction OnDelete = KeyAction.Refuse,
    KeyAction OnUpdate = KeyAction.Refuse
);

/// <summary>A table, as the database's own catalog describes it.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Columns">Its columns, in the order of the table.</param>
/// <param name="PrimaryKey">The primary key's columns in order; empty if the table has none.</param>
/// <param name="UniqueKeys">All unique keys but the primary key.</param>
/// <param name="ForeignKeys">Its foreign keys.</param>
/// <param name="IsView">True for a view, which can be read but not merged.</param>
/// <param name="Schema">The schema it is in, if its name alone would not find it; otherwise null.</param>
/// <param name="Indexes">
/// The columns of each whole index that is not unique, in order; null stands for an expression.
/// </param>
public sealed record TableSchema(
    string Name,
    IReadOnlyList<ColumnSchema> Columns,
    IReadOnlyList<string> PrimaryKey,
    IReadOnlyList<UniqueKey> UniqueKeys,
    IReadOnlyList<ForeignKey> ForeignKeys,
    bool IsView,
    string? Schema = null,
    IReadOnlyList<IReadOnlyList<string?>>? Indexes = null
)
{
    /// <summary>Its name without the schema.</summary>
    public string BareName => Schema is null ? Name : Name[(Schema.Length + 1)..];

    /// <summary>The foreign key that a column alone makes up, or null.</summary>
    /// <param name="column">The name of the column.</param>
    public ForeignKey? ForeignKeyOf(string column) =>
        ForeignKeys.FirstOrDefault(key => key.Columns.Count == 1 && Identifiers.Same(key.Columns[0], column));

    /// <summary>The triggers of the table.</summary>
    public IReadOnlyList<Trigger> Triggers { get; init; } = [];

    /// <summary>True if the database shows each user only some of the rows.</summary>
    public bool HidesRows { get; init; }

    private readonly Dictionary<string, int> _places = Columns
        .Select((column, place) => (column.Name, place))
        .ToDictionary(pair => pair.Name, pair => pair.place, StringComparer.OrdinalIgnoreCase);

    /// <summary>The columns of each whole index, unique or not, in order; null stands for an expression.</summary>
    public IEnumerable<IReadOnlyList<string?>> WholeIndexes =>
        UniqueKeys
            .Where(key => key.Filter is null)
            .Select(key => (IReadOnlyList<string?>)key.Columns)
            .Append(PrimaryKey)
            .Concat(Indexes ?? []);

    /// <summary>True if an index holds the rows in the order of some columns.</summary>
    /// <param name="columns">The columns, in order.</param>
    public bool HasIndexOn(IReadOnlyList<string> columns) =>
        WholeIndexes.Any(index => index.Take(columns.Count).SequenceEqual(columns, StringComparer.OrdinalIgnoreCase));

    /// <summary>The index of a column in <see cref="Columns"/>, by its name, ignoring case as SQL does.</summary>
    /// <param name="name">The name.</param>
    /// <returns>The index, or -1 if there is no such column.</returns>
    public int IndexOf(string name) => _places.TryGetValue(name, out var place) ? place : -1;

    /// <summary>Finds a column by name, ignoring case as SQL does.</summary>
    /// <param name="name">The name.</param>
    /// <returns>The column, or null.</returns>
    public ColumnSchema? Find(string name) => IndexOf(name) is >= 0 and var place ? Columns[place] : null;

    /// <summary>The columns of these names, which a checked map guarantees to exist.</summary>
    /// <param name="names">The names.</param>
    /// <exception cref="InvalidOperationException">A column is missing.</exception>
    public IReadOnlyList<ColumnSchema> Require(IEnumerable<string> names) =>
        [
            .. names.Select(name =>
                Find(name) ?? throw new InvalidOperationException($"The table {Name} has no column {name}.")
            ),
        ];
}

/// <summary>The tables of the operational database.</summary>
/// <param name="Tables">All tables and views but Kettlefog's own.</param>
public sealed record DatabaseCatalog(IReadOnlyList<TableSchema> Tables)
{
    /// <summary>Finds a table by name, ignoring case as SQL does.</summary>
    /// <param name="name">The name.</param>
    /// <returns>The table, or null.</returns>
    public TableSchema? Find(string name) => Tables.FirstOrDefault(table => Identifiers.Same(table.Name, name));

    /// <summary>The table of that name, which a checked map guarantees to exist.</summary>
    /// <param name="name">The name.</param>
    /// <exception cref="InvalidOperationException">The table is missing.</exception>
    public TableSchema Require(string name) =>
        Find(name) ?? throw new InvalidOperationException($"The database has no table {name}.");
}
