namespace Kettlefog.Contracts;

/// <summary>An entry of the history in one line.</summary>
/// <param name="Number">Its number.</param>
/// <param name="Kind"><c>merge</c>, <c>reversal</c>, <c>non-duplicates</c> or <c>reopened</c>.</param>
/// <param name="RecordType">The record type.</param>
/// <param name="Records">The records, the master first.</param>
/// <param name="At">When, in UTC.</param>
/// <param name="Actor">Who.</param>
/// <param name="Reason">Why.</param>
/// <param name="Rule">By which rule or file line.</param>
/// <param name="ApprovedBy">With whose approval, or null.</param>
/// <param name="Rows">How many related rows were moved, or returned.</param>
/// <param name="Reverses">The merge that it reverses, wholly or for one record; or null.</param>
/// <param name="ReversedBy">The reversal that reversed it, or null if it is in effect.</param>
/// <param name="Hash">Its hash, which covers the hash of the previous entry.</param>
/// <param name="Only">The key of the one record whose part in the merge was reversed; null for a whole merge.</param>
/// <param name="Linked">The linked merges done in the same step; null for none.</param>
/// <param name="LinkedTo">The merge that this one was linked to, or null.</param>
/// <param name="IsInEffect">
/// False for a merge that was reversed, and for a decision that records are not duplicates that was reopened.
/// </param>
public sealed record EntrySummary(
    long Number,
    string Kind,
    string RecordType,
    IReadOnlyList<PlanRecord> Records,
    DateTimeOffset At,
    string Actor,
    string Reason,
    string Rule,
    string? ApprovedBy,
    long Rows,
    long? Reverses,
    long? ReversedBy,
    string Hash,
    string? Only = null,
    IReadOnlyList<long>? Linked = null,
    long? LinkedTo = null,
    bool IsInEffect = true
);

/// <summary>A page of the history.</summary>
/// <param name="Items">The entries, latest first.</param>
/// <param name="Total">How many there are in all.</param>
/// <param name="Page">The page, counted from 1.</param>
/// <param name="Size">The number of entries on a page.</param>
public sealed record HistoryPage(IReadOnlyList<EntrySummary> Items, long Total, int Page, int Size);

/// <summary>An entry of the history in full.</summary>
/// <param name="Summary">What the list shows.</param>
/// <param name="Merge">What was merged, with all old values; null for anything but a merge.</param>
/// <param name="Reversal">What was reversed; null for anything but a reversal.</param>
/// <param name="Catalog">
/// Identifies the definition of the tables at that time; entries with the same text were made on the same tables. Null
/// for decisions, and in entries of earlier programs.
/// </param>
public sealed record EntryView(
    EntrySummary Summary,
    PlanView? Merge,
    SingleReversalView? Reversal,
    string? Catalog = null
);

/// <summary>What reversing one merge does.</summary>
/// <param name="Number">The merge.</param>
/// <param name="RecordType">The record type.</param>
/// <param name="Records">Its records, the master first.</param>
/// <param name="Rows">The related rows that are moved back.</param>
/// <param name="Cells">The values that are restored.</param>
/// <param name="Restored">The keys of deleted records that are restored.</param>
/// <param name="Removed">What the merge had added and is removed again, one sentence each.</param>
/// <param name="Drift">The changes made since the merge, and whether each is kept or undone.</param>
/// <param name="Only">The one duplicate for which the merge is reversed; null for the whole merge.</param>
public sealed record SingleReversalView(
    long Number,
    string RecordType,
    IReadOnlyList<PlanRecord> Records,
    IReadOnlyList<ReturnedRows> Rows,
    IReadOnlyList<ReturnedCell> Cells,
    IReadOnlyList<string> Restored,
    IReadOnlyList<string> Removed,
    IReadOnlyList<DriftView> Drift,
    string? Only
);

/// <summary>A change made since the merge.</summary>
/// <param name="Id">Its id, for <see cref="ReversalPlanBody.UndoDrift"/>; empty in the history.</param>
/// <param name="Text">What it is, and whether it is kept or undone.</param>
/// <param name="Undo">What undoing it would do; null if it can only be kept.</param>
/// <param name="Undone">True if it is undone.</param>
public sealed record DriftView(string Id, string Text, string? Undo, bool Undone);

/// <summary>Related rows that are moved back.</summary>
/// <param name="Reference">The reference.</param>
/// <param name="Title">What the rows are called.</param>
/// <param name="Record">The key of the record that they are moved back to.</param>
/// <param name="Count">How many are moved back.</param>
/// <param name="Journaled">How many the merge had moved.</param>
public sealed record ReturnedRows(string Reference, string Title, string Record, long Count, long Journaled);

/// <summary>A value that is restored.</summary>
/// <param name="Record">The key of the record.</param>
/// <param name="Column">The column.</param>
/// <param name="Now">The value now.</param>
/// <param name="Back">The value that is restored.</param>
public sealed record ReturnedCell(string Record, string Column, string? Now, string? Back);

/// <summary>A request to plan a reversal.</summary>
/// <param name="WithLater">True to reverse later merges that depend on it first.</param>
/// <param name="UndoDrift">The changes made since that are undone, by their id; all others are kept.</param>
/// <param name="Only">The key of the one duplicate to take out of the merge; null for the whole merge.</param>
/// <param name="KeepLinked">True to keep the linked merges in effect.</param>
public sealed record ReversalPlanBody(
    bool WithLater = false,
    IReadOnlyList<string>? UndoDrift = null,
    string? Only = null,
    bool KeepLinked = false
);

/// <summary>What reversing a merge would do.</summary>
/// <param name="Number">The merge.</param>
/// <param name="DependentMerges">The later merges that must be reversed first, latest first.</param>
/// <param name="Reversals">The reversals, in the order in which they are carried out.</param>
/// <param name="Fingerprint">Hand it back to carry out the reversal.</param>
public sealed record ReversalPlanView(
    long Number,
    IReadOnlyList<long> DependentMerges,
    IReadOnlyList<SingleReversalView> Reversals,
    string Fingerprint
);

/// <summary>A request to reverse a merge.</summary>
/// <param name="Fingerprint">The fingerprint of the reversal plan that was shown.</param>
/// <param name="Reason">The reason, in the operator's words.</param>
/// <param name="WithLater">True to reverse later merges that depend on it first.</param>
/// <param name="DryRun">True to do everything and then roll it back.</param>
/// <param name="UndoDrift">The changes made since that are undone, as in the plan.</param>
/// <param name="Only">The one duplicate to take out, as in the plan.</param>
/// <param name="KeepLinked">True to keep the linked merges in effect, as in the plan.</param>
public sealed record ReversalBody(
    string Fingerprint,
    string Reason = "",
    bool WithLater = false,
    bool DryRun = false,
    IReadOnlyList<string>? UndoDrift = null,
    string? Only = null,
    bool KeepLinked = false
);

/// <summary>What a reversal did.</summary>
/// <param name="Entries">The entries it made, in order.</param>
public sealed record ReversalResult(IReadOnlyList<EntrySummary> Entries);

/// <summary>What a check of the history found.</summary>
/// <param name="Entries">How many entries were checked.</param>
/// <param name="Last">The number of the last entry.</param>
/// <param name="Head">The hash of the last entry.</param>
/// <param name="Faults">What is wrong, one sentence each; empty if no changes were detected.</param>
/// <param name="Checkpoint">The checkpoint that was compared; null if none was given.</param>
public sealed record HistoryCheck(
    long Entries,
    long Last,
    string Head,
    IReadOnlyList<string> Faults,
    ComparedCheckpoint? Checkpoint = null
);

/// <summary>A checkpoint with which the history was compared.</summary>
/// <param name="Size">How many entries the history had then.</param>
/// <param name="At">When it was made.</param>
/// <param name="Key">The name of the key that signed it.</param>
/// <param name="IsOwnKey">
/// Whether that is the key of this service, so that the signature was verified; otherwise only its entries were
/// compared.
/// </param>
public sealed record ComparedCheckpoint(long Size, DateTimeOffset At, string Key, bool IsOwnKey);

/// <summary>The key that verifies the checkpoints of a service.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Key">The public key, in the text form of signed notes (c2sp.org/signed-note).</param>
public sealed record CheckpointKey(string Name, string Key);

/// <summary>A signed checkpoint: what the history was at some time.</summary>
/// <param name="Size">How many entries it has.</param>
/// <param name="Root">The root of the tree over them, as hexadecimal digits (RFC 6962).</param>
/// <param name="At">When it was made.</param>
/// <param name="Text">The signed text, to be kept elsewhere (c2sp.org/tlog-checkpoint).</param>
public sealed record SignedCheckpoint(long Size, string Root, DateTimeOffset At, string Text);

/// <summary>An entry of the history with all that its hash covers.</summary>
/// <param name="Number">Its number.</param>
/// <param name="Kind">What it records.</param>
/// <param name="RecordType">The name of the record type.</param>
/// <param name="Master">The master's key.</param>
/// <param name="At">When, in UTC, to the microsecond.</param>
/// <param name="Actor">Who did it.</param>
/// <param name="Reason">Why.</param>
/// <param name="Rule">By which rule.</param>
/// <param name="ApprovedBy">With whose approval, or null.</param>
/// <param name="Reverses">The number of the merge that it reverses, or null.</param>
/// <param name="Details">All that was decided and done, as JSON text.</param>
/// <param name="JournalDigest">SHA-256 of its journal, in hexadecimal digits.</param>
/// <param name="PreviousHash">The hash of the entry before.</param>
public sealed record ProvenEntry(
    long Number,
    string Kind,
    string RecordType,
    string Master,
    DateTimeOffset At,
    string Actor,
    string Reason,
    string Rule,
    string? ApprovedBy,
    long? Reverses,
    string Details,
    string JournalDigest,
    string PreviousHash
);

/// <summary>
/// A proof that an entry is in the history of a checkpoint; it is verified without service or database.
/// </summary>
/// <param name="Kettlefog">Always <see cref="Kind"/>.</param>
/// <param name="Entry">The entry.</param>
/// <param name="Path">Its audit path, in hexadecimal digits (RFC 6962, section 2.1.1).</param>
/// <param name="Checkpoint">The signed checkpoint.</param>
public sealed record EntryProofView(string Kettlefog, ProvenEntry Entry, IReadOnlyList<string> Path, string Checkpoint)
{
    /// <summary>What the file says to be.</summary>
    public const string Kind = "proof of an entry";
}
