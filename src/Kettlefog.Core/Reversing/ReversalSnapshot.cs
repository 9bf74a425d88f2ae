using Kettlefog.Contracts;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Reversing;

/// <summary>Related rows that a merge moved, as they are now.</summary>
/// <param name="Step">The journal step.</param>
/// <param name="Reference">The reference's name.</param>
/// <param name="Title">What the rows are called.</param>
/// <param name="From">The duplicate they were moved from.</param>
/// <param name="OriginExists">True if that record is there now, or will be, so that rows can go back to it.</param>
/// <param name="Journaled">How many were moved.</param>
/// <param name="Intact">How many still point at the master.</param>
/// <param name="Elsewhere">The keys of rows that point elsewhere now; the first hundred.</param>
/// <param name="Deleted">The keys of rows that are gone; the first hundred.</param>
/// <param name="OfRecord">True if they referred to a duplicate itself, not to a related row that was removed.</param>
public sealed record JournaledRows(
    int Step,
    string Reference,
    string Title,
    RecordKey From,
    bool OriginExists,
    long Journaled,
    long Intact,
    IReadOnlyList<RecordKey> Elsewhere,
    IReadOnlyList<RecordKey> Deleted,
    bool OfRecord = true
);

/// <summary>A value that a merge wrote, as it is now.</summary>
/// <param name="Step">The journal step.</param>
/// <param name="Title">What the row is: the record type, or what related rows are called.</param>
/// <param name="Record">The key of the row.</param>
/// <param name="Column">The column.</param>
/// <param name="Before">The value before the merge.</param>
/// <param name="After">The value that the merge wrote.</param>
/// <param name="Current">The value now; null if the record's row is gone.</param>
/// <param name="Taken">True if another row has the value of before now, which must be unique.</param>
public sealed record JournaledCell(
    int Step,
    string Title,
    RecordKey Record,
    string Column,
    ColumnValue Before,
    ColumnValue After,
    ColumnValue? Current,
    bool Taken = false
);

/// <summary>A row that a merge deleted: a duplicate, or a related row removed as a repeat.</summary>
/// <param name="Step">The journal step.</param>
/// <param name="Title">What the row is: the record type, or what related rows are called.</param>
/// <param name="IsRecord">True for a duplicate.</param>
/// <param name="Record">Its key.</param>
/// <param name="IsKeyTaken">True if another row has its key now.</param>
/// <param name="Taken">
/// What another row has now that must be unique, as <c>column = value</c>; null if there is none.
/// </param>
public sealed record JournaledDeletion(
    int Step,
    string Title,
    bool IsRecord,
    RecordKey Record,
    bool IsKeyTaken,
    string? Taken = null
);

/// <summary>A row that a merge added, as it is now.</summary>
/// <param name="Step">The journal step.</param>
/// <param name="Table">Its table.</param>
/// <param name="Key">Its key.</param>
/// <param name="Exists">True if it is there.</param>
/// <param name="Intact">True if nobody changed it.</param>
public sealed record JournaledInsertion(int Step, string Table, RecordKey Key, bool Exists, bool Intact);

/// <summary>A related row that was added to the master since the merge.</summary>
/// <param name="Reference">The reference's name.</param>
/// <param name="Title">What such rows are called.</param>
/// <param name="Key">Its key.</param>
public sealed record AddedRow(string Reference, string Title, RecordKey Key);

/// <summary>All that the reversal of one merge is computed from.</summary>
/// <param name="Merge">The merge's entry.</param>
/// <param name="Type">The record type.</param>
/// <param name="Records">The records of the merge, the master first.</param>
/// <param name="Rows">The related rows that were moved.</param>
/// <param name="Cells">The values that were written.</param>
/// <param name="Deletions">The rows that were deleted.</param>
/// <param name="Insertions">The rows that were added.</param>
public sealed record ReversalSnapshot(
    HistoryEntry Merge,
    RecordType Type,
    IReadOnlyList<PlanRecord> Records,
    IReadOnlyList<JournaledRows> Rows,
    IReadOnlyList<JournaledCell> Cells,
    IReadOnlyList<JournaledDeletion> Deletions,
    IReadOnlyList<JournaledInsertion> Insertions
)
{
    /// <summary>The related rows that were added to the master since, as far as that can be told.</summary>
    public IReadOnlyList<AddedRow> Added { get; init; } = [];
}
