using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Drafting;

/// <summary>
/// A record type that is being drafted: its name, its fields and its references, before any of them is
/// written.
/// </summary>
internal sealed class DraftedType
{
    private readonly Dictionary<string, string> _fields = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>Collects the fields and references, and names them.</summary>
    /// <param name="table">The table.</param>
    /// <param name="name">The name of the type.</param>
    /// <param name="guesses">The references to its records, measured.</param>
    /// <param name="dependents">What refers to related rows of whatever type.</param>
    /// <param name="all">All tables.</param>
    public DraftedType(
        TableReading table,
        string name,
        IReadOnlyList<ReferenceGuess> guesses,
        IReadOnlyList<ReferenceGuess> dependents,
        IReadOnlyList<TableReading> all
    )
    {
        (Table, Name, All) = (table, name, all);
        Created = Column("created", column => column.IsTime);
        Changed = Column("changed", column => column.IsTime && column != Created);
        Source = Column("source", IsWord);
        Owner = Column("owner", column => IsWord(column) || column.Kind == FieldKind.Integer);
        var own = guesses
            .Where(guess => guess.Table == table.Name)
            .SelectMany(guess => guess.Columns)
            .ToHashSet(StringComparer.OrdinalIgnoreCase);
        Fields =
        [
            .. table.Columns.Where(column =>
                !IsKey(column)
                && !column.Profile.Column.Generated
                && !own.Contains(column.Name)
                && column != Created
                && column != Changed
                && column.Profile.Column.Storage != StorageClass.Blob
            ),
        ];
        var taken = new HashSet<string>();
        foreach (var field in Fields)
            _fields[field.Name] = MapDrafter.Free(taken, NameWords.ForMap(field.Name));
        References = Named(guesses, dependents, all);
    }

    public TableReading Table { get; }

    public string Name { get; }

    /// <summary>All tables of the database.</summary>
    public IReadOnlyList<TableReading> All { get; }

    public ColumnReading? Created { get; }

    public ColumnReading? Changed { get; }

    public ColumnReading? Source { get; }

    public ColumnReading? Owner { get; }

    /// <summary>The columns that become fields.</summary>
    public IReadOnlyList<ColumnReading> Fields { get; }

    /// <summary>The references to its records, most certain first.</summary>
    public IReadOnlyList<DraftedReference> References { get; }

    /// <summary>The name of a column's field, or null if the column is no field.</summary>
    public string? FieldOf(ColumnReading column) => _fields.GetValueOrDefault(column.Name);

    /// <summary>True if a column is part of the key.</summary>
    public bool IsKey(ColumnReading column) => Table.Key.ContainsIdentifier(column.Name);

    /// <summary>True if a column holds words.</summary>
    public static bool IsWord(ColumnReading column) =>
        column.Kind is FieldKind.Text or FieldKind.Code or FieldKind.PersonName
        && column.Profile.Column.Storage is StorageClass.Text or null;

    /// <summary>
    /// Groups of fields; if the fields of any group agree, two records of one parent are the same: identifying
    /// numbers, the name, and for people the e-mail address.
    /// </summary>
    public IReadOnlyList<IReadOnlyList<string>> Same
    {
        get
        {
            IEnumerable<IReadOnlyList<ColumnReading>> groups =
            [
                .. Fields
                    .Where(column => column.Kind is FieldKind.TaxNumber or FieldKind.Identifier)
                    .Select(column => new[] { column }),
                Table.Names,
                .. Fields
                    .Where(column => column.Kind == FieldKind.Email && Table.Role == EntityRole.Person)
                    .Take(1)
                    .Select(column => new[] { column }),
            ];
            return
            [
                .. groups
                    .Where(group => group.Count > 0 && group.All(column => FieldOf(column) is not null))
                    .Select(group => (IReadOnlyList<string>)[.. group.Select(column => FieldOf(column)!)]),
            ];
        }
    }

    private static List<DraftedReference> Named(
        IReadOnlyList<ReferenceGuess> guesses,
        IReadOnlyList<ReferenceGuess> dependents,
        IReadOnlyList<TableReading> all
    )
    {
        var taken = new HashSet<string>();
        return
        [
            .. guesses
                .OrderByDescending(MapDrafter.IsWritten)
                .Select(guess =>
                {
                    var rows = all.First(table => table.Name == guess.Table);
                    var words = string.Join('_', rows.Called);
                    var several = guesses.Count(other => other.Table == guess.Table) > 1;
                    return new DraftedReference(
                        MapDrafter.Free(taken, NameWords.ForMap(several ? $"{words}_{guess.Columns[^1]}" : words)),
                        guess,
                        rows
                    )
                    {
                        Dependents = [.. dependents.Where(dependent => dependent.Target == guess.Table)],
                    };
                }),
        ];
    }

    private ColumnReading? Column(string concept, Func<ColumnReading, bool> fits) =>
        Table.About(concept, column => fits(column) && !IsKey(column));
}

/// <summary>A reference with its name in the map.</summary>
/// <param name="Name">The name.</param>
/// <param name="Guess">The guess behind it.</param>
/// <param name="Rows">The table whose rows have it.</param>
internal sealed record DraftedReference(string Name, ReferenceGuess Guess, TableReading Rows)
{
    /// <summary>What refers to its rows, where the database does not declare it.</summary>
    public IReadOnlyList<ReferenceGuess> Dependents { get; init; } = [];

    /// <summary>True if it is written to the draft, and not only asked about.</summary>
    public bool IsWritten => MapDrafter.IsWritten(Guess);

    /// <summary>False if rows could collide by columns that may be blank, and nothing else tells them apart.</summary>
    public bool HasUsableKey =>
        Rows.Profile.Table is var table
        && (
            table.PrimaryKey.Count > 0
            || table.UniqueKeys.Count == 0
            || table.UniqueKeys.Any(key =>
                key.Filter is null && key.Columns.All(column => column is not null && table.Find(column)!.NotNull)
            )
        );

    /// <summary>True if a row only links two things and says nothing else, so that a repeat means nothing.</summary>
    /// <param name="beside">The other columns of the unique keys that the reference is part of.</param>
    public bool IsLink(IReadOnlyList<string> beside) =>
        Rows.Columns.All(column =>
            Guess.Columns.ContainsIdentifier(column.Name)
            || beside.ContainsIdentifier(column.Name)
            || Rows.Profile.Table.PrimaryKey.ContainsIdentifier(column.Name)
        );
}
