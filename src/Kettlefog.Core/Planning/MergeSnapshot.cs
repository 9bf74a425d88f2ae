using Kettlefog.Core.Maps;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Planning;

/// <summary>One record as it was read, with all columns of its row, mapped or not.</summary>
/// <param name="Table">The record's table.</param>
/// <param name="Key">Its key.</param>
/// <param name="Row">The values, in the order of the table's columns.</param>
public sealed record RecordSnapshot(TableSchema Table, RecordKey Key, IReadOnlyList<ColumnValue> Row)
{
    /// <summary>The value of a column.</summary>
    /// <param name="column">The column's name.</param>
    /// <exception cref="InvalidOperationException">There is no such column.</exception>
    public ColumnValue this[string column] => Table.PlaceOf(column) is >= 0 and var place
        ? Row[place]
        : throw new InvalidOperationException($"The table {Table.Name} has no column {column}.");
}

/// <summary>What was read about the related rows that one record has by one reference.</summary>
/// <param name="Count">How many there are.</param>
/// <param name="Worth">The exact sum of the reference's amount column; null if it has none.</param>
/// <param name="Figures">The figures got from them, by name.</param>
/// <param name="Digest">A digest of all columns of all rows, whatever their order.</param>
public sealed record RelatedRows(
    long Count,
    decimal? Worth,
    IReadOnlyDictionary<string, ColumnValue> Figures,
    string Digest);

/// <summary>Related rows that may not all point at the master, because of a unique key.</summary>
/// <param name="Reference">The reference's name.</param>
/// <param name="UniqueKey">The name of the unique key.</param>
/// <param name="Values">The values they share, as <c>column = value</c>.</param>
/// <param name="Rows">The keys of the rows.</param>
public sealed record Collision(string Reference, string UniqueKey, string Values, IReadOnlyList<RecordKey> Rows);

/// <summary>What was read about one reference.</summary>
/// <param name="Reference">The reference.</param>
/// <param name="Related">The related rows of each record, in the order of the records.</param>
/// <param name="Collisions">The collisions there would be.</param>
public sealed record ReferenceSnapshot(
    Reference Reference,
    IReadOnlyList<RelatedRows> Related,
    IReadOnlyList<Collision> Collisions);

/// <summary>All that a plan is computed from, read at one moment.</summary>
/// <param name="Map">The map.</param>
/// <param name="Type">The record type.</param>
/// <param name="Records">The records, the master first.</param>
/// <param name="References">The references, in the order of the map.</param>
public sealed record MergeSnapshot(
    RecordMap Map,
    RecordType Type,
    IReadOnlyList<RecordSnapshot> Records,
    IReadOnlyList<ReferenceSnapshot> References)
{
    /// <summary>The table of the records.</summary>
    public TableSchema Table => Records[0].Table;
}
