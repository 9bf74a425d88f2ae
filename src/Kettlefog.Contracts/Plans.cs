using System.Text.Json.Serialization;

namespace Kettlefog.Contracts;

/// <summary>The records to merge, and the operator's choices.</summary>
/// <param name="RecordType">The record type.</param>
/// <param name="Master">The key of the record that is kept.</param>
/// <param name="Duplicates">The keys of the others.</param>
/// <param name="Fields">The choices by field; a field without a choice follows its survivorship rule.</param>
/// <param name="Rule">
/// The match rule that found the records; its survivorship rules and master preferences apply.
/// </param>
/// <param name="Exclude">
/// The references whose rows stay with the retired records in this merge, where the map allows it.
/// </param>
/// <param name="Linked">
/// The linked merges to include in the same transaction, chosen from those that a plan offers. They are done before
/// this one, last first: list a merge after the one that offered it.
/// </param>
/// <param name="End">The <c>at_most_one</c> rules whose rows of the duplicates are to be ended.</param>
/// <param name="Reopen">True to reopen decisions that records of the merge are not duplicates.</param>
public sealed record PlanRequest(
    string RecordType,
    string Master,
    IReadOnlyList<string> Duplicates,
    IReadOnlyDictionary<string, FieldChoiceView>? Fields = null,
    string? Rule = null,
    IReadOnlyList<string>? Exclude = null,
    IReadOnlyList<LinkedMerge>? Linked = null,
    IReadOnlyList<string>? End = null,
    bool Reopen = false
);

/// <summary>A linked merge: one that is done together with another.</summary>
/// <param name="RecordType">The record type.</param>
/// <param name="Master">The key of the record that is kept.</param>
/// <param name="Duplicates">The keys of the others.</param>
/// <param name="Fields">The choices by field; a field without a choice follows its survivorship rule.</param>
/// <param name="Exclude">The references whose rows stay with the retired records, where the map allows it.</param>
/// <param name="End">The <c>at_most_one</c> rules whose rows of the duplicates are to be ended.</param>
public sealed record LinkedMerge(
    string RecordType,
    string Master,
    IReadOnlyList<string> Duplicates,
    IReadOnlyDictionary<string, FieldChoiceView>? Fields = null,
    IReadOnlyList<string>? Exclude = null,
    IReadOnlyList<string>? End = null
);

/// <summary>A choice for one field: one of the three.</summary>
/// <param name="From">Take the value of the record with this key.</param>
/// <param name="Typed">Take this value; empty for a blank.</param>
/// <param name="Rule">
/// Take the result of this survivorship rule, such as <c>append</c>, <c>union</c> or <c>total</c>.
/// </param>
public sealed record FieldChoiceView(string? From = null, string? Typed = null, string? Rule = null);

/// <summary>What a merge would do, or did.</summary>
/// <param name="RecordType">The record type.</param>
/// <param name="Fingerprint">Identifies everything the plan was computed from; send it back to apply the plan.</param>
/// <param name="Records">The records, the master first.</param>
/// <param name="Fields">The fields, and the columns that the map does not name.</param>
/// <param name="Moves">The related rows, by reference.</param>
/// <param name="Figures">The figures before and after.</param>
/// <param name="Suggestion">The record that is suggested as the master; null for a merge that was done.</param>
/// <param name="Blockers">What blocks the merge.</param>
/// <param name="Warnings">What the operator should know.</param>
/// <param name="Timeline">The table to which a row is added for the master; null for none.</param>
/// <param name="Offers">The linked merges that can be included; null for a merge that was done.</param>
/// <param name="Linked">
/// The plans of the linked merges that were chosen, in the order in which they are done, before this one.
/// </param>
/// <param name="Ended">The duplicates' rows that are ended; null for none.</param>
/// <param name="Added">The related rows that are added for the master; null for none.</param>
/// <param name="Reopened">The records marked as not duplicates that the merge reopens; null for none.</param>
public sealed record PlanView(
    string RecordType,
    string Fingerprint,
    IReadOnlyList<PlanRecord> Records,
    IReadOnlyList<PlanField> Fields,
    IReadOnlyList<PlanMove> Moves,
    IReadOnlyList<PlanFigure> Figures,
    SuggestedMasterView? Suggestion,
    IReadOnlyList<PlanBlocker> Blockers,
    IReadOnlyList<string> Warnings,
    string? Timeline = null,
    IReadOnlyList<OfferView>? Offers = null,
    IReadOnlyList<PlanView>? Linked = null,
    IReadOnlyList<EndedRowView>? Ended = null,
    IReadOnlyList<AddedRowView>? Added = null,
    IReadOnlyList<ReopenedPair>? Reopened = null
);

/// <summary>Two records that had been marked as not duplicates.</summary>
/// <param name="A">The key of one.</param>
/// <param name="B">The key of the other.</param>
/// <param name="Number">The history entry that had marked them.</param>
public sealed record ReopenedPair(string A, string B, long Number);

/// <summary>A related row that is added for the master, with a value that did not survive in a field.</summary>
/// <param name="Field">The title of the field.</param>
/// <param name="Record">The key of the record whose value it was.</param>
/// <param name="Value">The value.</param>
/// <param name="Rows">The title of such rows.</param>
public sealed record AddedRowView(string Field, string Record, string Value, string Rows);

/// <summary>A duplicate's row that is ended.</summary>
/// <param name="Title">The title of such rows.</param>
/// <param name="Record">The duplicate's key.</param>
/// <param name="Key">The row's key.</param>
public sealed record EndedRowView(string Title, string Record, string Key);

/// <summary>A linked merge that is offered with a plan.</summary>
/// <param name="Link">The link by which they were found.</param>
/// <param name="Title">The title of the records.</param>
/// <param name="RecordType">Their record type.</param>
/// <param name="OfRecordType">The record type of the merge that offers them.</param>
/// <param name="OfMaster">The key of that merge's master.</param>
/// <param name="Records">The records.</param>
/// <param name="Reason">Why they are offered, in words.</param>
/// <param name="Suggestion">The record that is suggested as the master.</param>
/// <param name="Chosen">True if the request merges some of them.</param>
public sealed record OfferView(
    string Link,
    string Title,
    string RecordType,
    string OfRecordType,
    string OfMaster,
    IReadOnlyList<PlanRecord> Records,
    string Reason,
    SuggestedMasterView Suggestion,
    bool Chosen
);

/// <summary>The record that is suggested as the master.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Reasons">Why it is suggested, in words; empty if the records do not differ.</param>
public sealed record SuggestedMasterView(string Key, IReadOnlyList<string> Reasons);

/// <summary>A record of a plan.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Label">Its label.</param>
/// <param name="Created">When it was created.</param>
/// <param name="Changed">When it was changed last.</param>
/// <param name="Source">Where it came from.</param>
/// <param name="Owner">Who is responsible for it.</param>
public sealed record PlanRecord(
    string Key,
    string Label,
    string? Created,
    string? Changed,
    string? Source,
    string? Owner
);

/// <summary>How one field is planned.</summary>
/// <param name="Name">The field's name; the column's if the map does not name it.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Kind">
/// The kind of its values; <c>unmapped</c> for a column that the map does not name, which keeps the master's value.
/// </param>
/// <param name="Group">The heading under which it is shown, or null.</param>
/// <param name="Values">Each record's value, the master's first.</param>
/// <param name="Value">The surviving value.</param>
/// <param name="From">
/// The index of the record that it comes from; null if it was typed in or combined from several values.
/// </param>
/// <param name="ChosenBy">
/// <c>rule</c>, <c>operator</c>, <c>typed</c> or <c>overflow</c>: it moved here from another field.
/// </param>
/// <param name="Rule">The survivorship rule of the field.</param>
/// <param name="Differs">True if the records do not all have the same value.</param>
/// <param name="Changes">True if the master's value changes.</param>
public sealed record PlanField(
    string Name,
    string Title,
    string Kind,
    string? Group,
    IReadOnlyList<string?> Values,
    string? Value,
    int? From,
    string ChosenBy,
    string Rule,
    bool Differs,
    bool Changes
);

/// <summary>How related rows are planned.</summary>
/// <param name="Reference">The reference.</param>
/// <param name="Title">The title of the rows.</param>
/// <param name="Table">Their table.</param>
/// <param name="Policy"><c>reassign</c>, <c>leave</c> or <c>block</c>.</param>
/// <param name="Counts">How many rows each record has, the master's first.</param>
/// <param name="Count">How many of them are the duplicates'.</param>
/// <param name="Amount">The amount of the rows that are moved, as an exact decimal, or null.</param>
/// <param name="Collisions">Rows that must not all refer to the master, and how each conflict ends.</param>
/// <param name="MayExclude">
/// True if the reference may be excluded from a merge; it was if the policy is <c>leave</c>.
/// </param>
/// <param name="Removed">How many of the duplicates' rows are not moved but removed, because they collide.</param>
public sealed record PlanMove(
    string Reference,
    string Title,
    string Table,
    string Policy,
    IReadOnlyList<long> Counts,
    long Count,
    string? Amount,
    IReadOnlyList<PlanCollision> Collisions,
    bool MayExclude = false,
    long Removed = 0
)
{
    /// <summary>How many of the duplicates' rows are moved.</summary>
    [JsonIgnore]
    public long Moved => Count - Removed;
}

/// <summary>Related rows in conflict, of which one is kept.</summary>
/// <param name="Values">The values that must be unique.</param>
/// <param name="Kept">The key of the row that is kept.</param>
/// <param name="Removed">The rows that are removed, with all their values; a reversal restores them.</param>
/// <param name="Changes">The new values of the kept row, by column.</param>
/// <param name="DependentsMoved">How many rows that refer to the removed rows move to the kept one.</param>
public sealed record PlanCollision(
    string Values,
    string Kept,
    IReadOnlyList<PlanRemovedRow> Removed,
    IReadOnlyDictionary<string, string?> Changes,
    long DependentsMoved
);

/// <summary>A row that is removed in a conflict.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Values">Its values, by column.</param>
/// <param name="Differences">
/// In what it differs from the row that is kept, but for its key, the reference and bookkeeping; null in entries of
/// earlier programs.
/// </param>
public sealed record PlanRemovedRow(
    string Key,
    IReadOnlyDictionary<string, string?> Values,
    IReadOnlyList<PlanRowDifference>? Differences = null
);

/// <summary>A value of a removed row that the kept row does not have.</summary>
/// <param name="Column">The column.</param>
/// <param name="Kept">The value of the row that is kept.</param>
/// <param name="Removed">The value of the row that is removed.</param>
public sealed record PlanRowDifference(string Column, string? Kept, string? Removed);

/// <summary>A figure before and after.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Operation"><c>count</c>, <c>sum</c>, <c>last</c> or <c>first</c>.</param>
/// <param name="Control">True for a control total.</param>
/// <param name="Before">Each record's, the master's first.</param>
/// <param name="After">The master's afterwards.</param>
public sealed record PlanFigure(
    string Name,
    string Title,
    string Operation,
    bool Control,
    IReadOnlyList<string?> Before,
    string? After
);

/// <summary>Something that blocks a merge.</summary>
/// <param name="Message">What blocks the merge.</param>
/// <param name="Remedy">How to clear it.</param>
/// <param name="Clearings">The choices that clear it; null for none.</param>
public sealed record PlanBlocker(string Message, string Remedy, IReadOnlyList<ClearingView>? Clearings = null);

/// <summary>A choice that clears a blocker.</summary>
/// <param name="Kind"><c>end</c> or <c>exclude</c>: the member of the request that takes it.</param>
/// <param name="Name">The value to send there.</param>
/// <param name="Title">What it does, in words.</param>
public sealed record ClearingView(string Kind, string Name, string Title);

/// <summary>A request to apply a plan.</summary>
/// <param name="Plan">The records and choices, as planned.</param>
/// <param name="Fingerprint">The fingerprint of the plan that was shown.</param>
/// <param name="Reason">The reason, in the operator's words.</param>
/// <param name="DryRun">True to do everything and then roll it back.</param>
public sealed record MergeBody(PlanRequest Plan, string Fingerprint, string Reason = "", bool DryRun = false);
