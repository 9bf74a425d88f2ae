using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>One record as it was read, with all columns of its row, mapped or not.</summary>
/// <param name="Table">The record's table.</param>
/// <param name="Key">Its key.</param>
/// <param name="Row">The values, in the order of the table's columns.</param>
public sealed record RecordSnapshot(TableSchema Table, RecordKey Key, IReadOnlyList<ColumnValue> Row)
{
    /// <summary>The value of a column.</summary>
    /// <param name="column">The column's name.</param>
    /// <exception cref="InvalidOperationException">There is no such column.</exception>
    public ColumnValue this[string column] =>
        Table.IndexOf(column) is >= 0 and var place
            ? Row[place]
            : throw new InvalidOperationException($"The table {Table.Name} has no column {column}.");
}

/// <summary>The related rows of one record by one reference, as read.</summary>
/// <param name="Count">How many there are.</param>
/// <param name="Amount">The exact sum of the reference's amount column; null if it has none.</param>
/// <param name="Figures">The figures computed from them, by name.</param>
/// <param name="Digest">A digest of all columns of all rows, whatever their order.</param>
public sealed record RelatedRows(
    long Count,
    decimal? Amount,
    IReadOnlyDictionary<string, ColumnValue> Figures,
    string Digest
);

/// <summary>Related rows that must not all refer to the master, because of a unique key.</summary>
/// <param name="Reference">The reference's name.</param>
/// <param name="UniqueKey">The name of the unique key.</param>
/// <param name="Values">The values they share, as <c>column = value</c>.</param>
/// <param name="Rows">The rows.</param>
public sealed record Collision(string Reference, string UniqueKey, string Values, IReadOnlyList<CollidingRow> Rows);

/// <summary>A related row that collides with another.</summary>
/// <param name="Key">Its key.</param>
/// <param name="RecordIndex">
/// The index of the record it refers to; -1 if it only looks like a reference to one of them.
/// </param>
/// <param name="Row">Its values, in the order of the table's columns.</param>
/// <param name="Dependents">The rows that refer to it.</param>
public sealed record CollidingRow(
    RecordKey Key,
    int RecordIndex,
    IReadOnlyList<ColumnValue> Row,
    IReadOnlyList<DependentRows> Dependents
);

/// <summary>
/// Rows that refer to a related row, by a foreign key or as the map says, and move to the kept row if it is removed.
/// </summary>
/// <param name="Table">Their table.</param>
/// <param name="Columns">The referring columns.</param>
/// <param name="TargetColumns">The columns of the related row that they refer to.</param>
/// <param name="Count">How many there are.</param>
public sealed record DependentRows(
    string Table,
    IReadOnlyList<string> Columns,
    IReadOnlyList<string> TargetColumns,
    long Count
)
{
    /// <summary>Columns and the text that each has in these rows.</summary>
    public IReadOnlyDictionary<string, string> When { get; init; } = new Dictionary<string, string>();
}

/// <summary>One reference with its related rows, as read.</summary>
/// <param name="Reference">The reference.</param>
/// <param name="PointedAt">The values that refer to each record, in the order of the records.</param>
/// <param name="Related">
/// The related rows of each record, in the order of the records; without the records themselves.
/// </param>
/// <param name="Table">The table of the rows.</param>
/// <param name="Collisions">The collisions there would be.</param>
/// <param name="Obstacles">Why rows cannot move, or cannot be removed as repeats; one sentence each.</param>
/// <param name="Parents">
/// If the record type refers to itself: for the records and all above them the key of the parent; otherwise null.
/// </param>
public sealed record ReferenceSnapshot(
    Reference Reference,
    IReadOnlyList<RecordKey> PointedAt,
    IReadOnlyList<RelatedRows> Related,
    TableSchema Table,
    IReadOnlyList<Collision> Collisions,
    IReadOnlyList<string> Obstacles,
    IReadOnlyDictionary<RecordKey, RecordKey?>? Parents = null
);

/// <summary>The rows that count for a rule of <see cref="BlockerRules.AtMostOne"/>.</summary>
/// <param name="Rule">The rule.</param>
/// <param name="Counts">How many each record has, the master's first.</param>
public sealed record ActiveRows(AtMostOneRule Rule, IReadOnlyList<long> Counts);

/// <summary>A duplicate's row that is ended by the operator's choice.</summary>
/// <param name="Rule">The rule that applies to it.</param>
/// <param name="Record">The index of the duplicate.</param>
/// <param name="Key">The row's key before the merge.</param>
/// <param name="Step">The journal step that ended it.</param>
public sealed record EndedRow(AtMostOneRule Rule, int Record, RecordKey Key, int Step);

/// <summary>Two records of a merge that were marked as not duplicates.</summary>
/// <param name="A">The key of one, in text form.</param>
/// <param name="B">The key of the other.</param>
/// <param name="Marked">The keys of the records that were marked, of which these two may be the masters by now.</param>
/// <param name="Number">The history entry that marked them.</param>
/// <param name="Actor">Who marked them.</param>
/// <param name="At">When.</param>
/// <param name="Reason">Why; may be empty.</param>
public sealed record MarkedNonDuplicates(
    string A,
    string B,
    (string A, string B) Marked,
    long Number,
    string Actor,
    DateTimeOffset At,
    string Reason
);

/// <summary>Everything that a plan is computed from, read in one snapshot.</summary>
/// <param name="Map">The map.</param>
/// <param name="Type">The record type.</param>
/// <param name="Records">The records, the master first.</param>
/// <param name="References">The references, in the order of the map.</param>
/// <param name="Rule">The match rule that the choices name, or null.</param>
public sealed record MergeSnapshot(
    RecordMap Map,
    RecordType Type,
    IReadOnlyList<RecordSnapshot> Records,
    IReadOnlyList<ReferenceSnapshot> References,
    MatchRule? Rule = null
)
{
    /// <summary>The state of the tables; see <see cref="CheckedMap.Version"/>.</summary>
    public string CatalogVersion { get; init; } = "";

    /// <summary>What changed in the tables since the state before, one sentence each.</summary>
    public IReadOnlyList<string> CatalogChanges { get; init; } = [];

    /// <summary>
    /// For control totals that cannot be computed, by name of the figure, the key of a row whose value is no number.
    /// </summary>
    public IReadOnlyDictionary<string, RecordKey> Unsummable { get; init; } = new Dictionary<string, RecordKey>();

    /// <summary>The rows that count for each <c>at_most_one</c> rule.</summary>
    public IReadOnlyList<ActiveRows> Active { get; init; } = [];

    /// <summary>
    /// For fields that overflow into related rows, by name, the values that the records' rows already hold.
    /// </summary>
    public IReadOnlyDictionary<string, IReadOnlyList<ColumnValue>> Further { get; init; } =
        new Dictionary<string, IReadOnlyList<ColumnValue>>();

    /// <summary>The records that were marked as not duplicates of each other.</summary>
    public IReadOnlyList<MarkedNonDuplicates> NonDuplicates { get; init; } = [];

    /// <summary>The rows that were ended before everything else was read.</summary>
    public IReadOnlyList<EndedRow> Ended { get; init; } = [];

    /// <summary>The table of the records.</summary>
    public TableSchema Table => Records[0].Table;

    /// <summary>A column of a record; NULL if there is no such column.</summary>
    /// <param name="record">The index of the record.</param>
    /// <param name="column">The column's name, or null.</param>
    public ColumnValue Of(int record, string? column) => column is null ? ColumnValue.Null : Records[record][column];

    /// <summary>
    /// The rank of a record's source in the record type's order of sources; beyond the last if it is not listed.
    /// </summary>
    /// <param name="record">The index of the record.</param>
    public int SourceRank(int record) => SourceRank(record, Type.SourceOrder);

    /// <summary>The same in another order.</summary>
    /// <param name="record">The index of the record.</param>
    /// <param name="order">The sources, most trusted first.</param>
    public int SourceRank(int record, IReadOnlyList<string> order)
    {
        ArgumentNullException.ThrowIfNull(order);
        var source = Of(record, Type.Source).ToText()?.Trim();
        var place = order.ToList().FindIndex(each => string.Equals(each, source, StringComparison.OrdinalIgnoreCase));
        return place < 0 ? order.Count : place;
    }

    /// <summary>The survivorship rule of a field: the match rule's, its own, or the record type's.</summary>
    /// <param name="field">The field.</param>
    public SurvivorshipRule RuleOf(Field field)
    {
        ArgumentNullException.ThrowIfNull(field);
        return Rule is not null && Rule.Survivorship.TryGetValue(field.Name, out var rule)
            ? rule
            : field.Survivorship ?? Type.Survivorship;
    }
}
