using Kettlefog.Contracts;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Reversing;

/// <summary>Related rows that a merge moved, as they are now.</summary>
/// <param name="Step">The journal step.</param>
/// <param name="Reference">The reference's name.</param>
/// <param name="Title">The title of the rows.</param>
/// <param name="From">The duplicate they were moved from.</param>
/// <param name="OriginExists">
/// True if that record exists, or will be restored, so that rows can be moved back to it.
/// </param>
/// <param name="Journaled">How many were moved.</param>
/// <param name="Intact">How many still refer to the master.</param>
/// <param name="Elsewhere">The keys of rows that refer to another record now; the first hundred.</param>
/// <param name="Deleted">The keys of rows that have been deleted; the first hundred.</param>
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
/// <param name="Title">The title of the row: that of the record type, or of the related rows.</param>
/// <param name="Record">The key of the row.</param>
/// <param name="Column">The column.</param>
/// <param name="Before">The value before the merge.</param>
/// <param name="After">The value that the merge wrote.</param>
/// <param name="Current">The value now; null if the row has been deleted.</param>
/// <param name="Taken">True if another row now has the value from before the merge, which must be unique.</param>
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
/// <param name="Title">The title of the row: that of the record type, or of the related rows.</param>
/// <param name="IsRecord">True for a duplicate.</param>
/// <param name="Record">Its key.</param>
/// <param name="IsKeyTaken">True if another row has its key now.</param>
/// <param name="Taken">
/// The unique value that another row has now, as <c>column = value</c>; null if there is none.
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
/// <param name="Exists">True if it exists.</param>
/// <param name="Intact">True if it has not changed.</param>
public sealed record JournaledInsertion(int Step, string Table, RecordKey Key, bool Exists, bool Intact);

/// <summary>A related row that was added to the master since the merge.</summary>
/// <param name="Reference">The reference's name.</param>
/// <param name="Title">The title of such rows.</param>
/// <param name="Key">Its key.</param>
public sealed record AddedRow(string Reference, string Title, RecordKey Key);

/// <summary>
/// What a reversal cannot restore, or cannot know, because the tables changed since the merge.
/// </summary>
/// <param name="Step">The journal step.</param>
/// <param name="What">What is not as it was, as a sentence without its full stop.</param>
/// <param name="Because">Why, as half a sentence.</param>
public sealed record JournalLoss(int Step, string What, string Because);

/// <summary>Everything that the reversal of one merge is computed from.</summary>
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
    /// <summary>The related rows that were added to the master since, where that can be known.</summary>
    public IReadOnlyList<AddedRow> Added { get; init; } = [];

    /// <summary>What cannot be restored, because the tables changed since the merge.</summary>
    public IReadOnlyList<JournalLoss> Lost { get; init; } = [];

    /// <summary>The state of the tables; see <see cref="CheckedMap.Version"/>.</summary>
    public string CatalogVersion { get; init; } = "";
}
