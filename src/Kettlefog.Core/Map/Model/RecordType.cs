using Kettlefog.Core.Map.Checking;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Map.Model;

/// <summary>A kind of record that can be merged, such as vendor.</summary>
/// <param name="Name">Its name in commands and addresses.</param>
/// <param name="Title">The title of one record.</param>
/// <param name="Plural">The title of several records.</param>
/// <param name="Table">The table whose rows they are.</param>
/// <param name="Key">
/// The key columns; empty in the file means the table's primary key, filled in by <see cref="MapCheck"/>.
/// </param>
/// <param name="Label">The template of a record's one-line label: text with field names in braces.</param>
/// <param name="Created">The column with the time of creation, or null.</param>
/// <param name="Changed">The column with the time of the last change, or null.</param>
/// <param name="Source">The column that says where the record came from, or null.</param>
/// <param name="Owner">The column that says who is responsible for it, or null.</param>
/// <param name="Master">The preferences for the master, most important first; empty for the default.</param>
/// <param name="Survivorship">The default survivorship rule of fields.</param>
/// <param name="SourceOrder">The sources, most trusted first, for the survivorship rule of that name.</param>
/// <param name="Blanks">
/// Further texts that count as blank, such as <c>1900-01-01</c>, whatever their case: what people usually type when
/// they do not know counts as blank in the fields anyway.
/// </param>
/// <param name="Fields">The fields, in the order of the file.</param>
/// <param name="References">The references to the records.</param>
/// <param name="Figures">Numbers about a record, computed from its related rows.</param>
/// <param name="Retirement">How duplicates are retired.</param>
/// <param name="Blockers">What blocks a merge.</param>
/// <param name="Matching">How duplicates are found.</param>
public sealed record RecordType(
    string Name,
    string Title,
    string Plural,
    string Table,
    IReadOnlyList<string> Key,
    string Label,
    string? Created,
    string? Changed,
    string? Source,
    string? Owner,
    IReadOnlyList<MasterPreference> Master,
    SurvivorshipRule Survivorship,
    IReadOnlyList<string> SourceOrder,
    IReadOnlyList<string> Blanks,
    IReadOnlyList<Field> Fields,
    IReadOnlyList<Reference> References,
    IReadOnlyList<Figure> Figures,
    Retirement Retirement,
    BlockerRules Blockers,
    MatchSettings Matching
)
{
    /// <summary>The names of the tables that merges of the type read or write; a name may be repeated.</summary>
    public IEnumerable<string> TableNames =>
        [
            Table,
            .. References.Select(reference => reference.Table),
            .. References.SelectMany(reference => reference.Dependents).Select(dependent => dependent.Table),
            .. Timeline is { } timeline ? [timeline.Table] : Array.Empty<string>(),
        ];

    /// <summary>
    /// True if the database keeps the key unique. Otherwise each merge checks that only one row has the key of a
    /// record. Filled in by <see cref="MapCheck"/>.
    /// </summary>
    public bool HasUniqueKey { get; init; } = true;

    /// <summary>The name of the figure that counts as amount; null for none.</summary>
    public string? AmountName { get; init; }

    /// <summary>
    /// The figure that counts as the amount at stake in a cluster: the one that the map names, or its only sum. Null if
    /// there is none: different figures are never added.
    /// </summary>
    public Figure? Amount => Figures.FirstOrDefault(figure => figure.Name == AmountName);

    /// <summary>The row that a merge adds for the master; null for none.</summary>
    public Timeline? Timeline { get; init; }

    /// <summary>True if merging records of this type, and reversing a merge, requires a reason.</summary>
    public bool RequireReason { get; init; }

    /// <summary>The records of this and other types that are offered as linked merges.</summary>
    public IReadOnlyList<LinkedRecords> Linked { get; init; } = [];

    /// <summary>The field of that name.</summary>
    /// <param name="name">The name, as in the map.</param>
    /// <exception cref="KettlefogException">There is none.</exception>
    public Field RequireField(string name) =>
        Fields.FirstOrDefault(field => field.Name == name)
        ?? throw new KettlefogException(
            ErrorCode.UnknownField,
            $"A {Title.ToLowerInvariant()} has no field '{name}'.",
            $"The fields are: {string.Join(", ", Fields.Select(field => field.Name))}."
        );

    /// <summary>The reference of that name.</summary>
    /// <param name="name">The name, as in the map.</param>
    /// <exception cref="KettlefogException">There is none.</exception>
    public Reference RequireReference(string name) =>
        References.FirstOrDefault(reference => reference.Name == name)
        ?? throw new KettlefogException(
            ErrorCode.UnknownReference,
            $"A {Title.ToLowerInvariant()} has no reference '{name}'.",
            $"The references are: {string.Join(", ", References.Select(reference => reference.Name))}."
        );

    /// <summary>True if a value counts as missing: it is blank, or a placeholder that the map lists.</summary>
    /// <param name="value">The value.</param>
    public bool IsBlank(ColumnValue value) =>
        value.IsBlank
        || (
            Blanks.Count > 0
            && value.ToText()?.Trim() is { } text
            && Blanks.Contains(text, StringComparer.OrdinalIgnoreCase)
        );

    /// <summary>
    /// True if a value of a field counts as missing: also if it is what people type when they do not know.
    /// </summary>
    /// <param name="field">The field.</param>
    /// <param name="value">The value.</param>
    public bool IsBlank(Field field, ColumnValue value)
    {
        ArgumentNullException.ThrowIfNull(field);
        return IsBlank(value) || (value.ToText() is { } text && Placeholder.Is(field.Kind, text));
    }

    /// <summary>A record's label, made of its column values.</summary>
    /// <param name="column">Gives the value of a column.</param>
    public string LabelOf(Func<string, ColumnValue> column)
    {
        ArgumentNullException.ThrowIfNull(column);
        var label = Fields.Aggregate(Label, (text, field) =>
            text.Contains($"{{{field.Name}}}", StringComparison.Ordinal)
                ? text.Replace(
                    $"{{{field.Name}}}",
                    column(field.Column).ToText()?.Trim() ?? "",
                    StringComparison.Ordinal
                )
                : text
        );

        // Removes what is left around a blank value: "Gannet, " and "Gannet ()" become Gannet.
        return label.Replace("()", "", StringComparison.Ordinal).Trim(' ', ',', '-', '·') is { Length: > 0 } trimmed
            ? trimmed
            : "(no label)";
    }
}
