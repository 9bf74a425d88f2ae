using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>How the value of a field came to be chosen.</summary>
public enum ChosenBy
{
    /// <summary>By the field's survivorship rule.</summary>
    Rule,

    /// <summary>The operator chose a record's value, or another rule.</summary>
    Operator,

    /// <summary>The operator typed it in.</summary>
    Typed,

    /// <summary>It moved here from another field.</summary>
    Overflow,
}

/// <summary>One record of a plan, with what helps to judge it.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Label">Its label.</param>
/// <param name="Created">When it was created; NULL if unknown.</param>
/// <param name="Changed">When it was changed last; NULL if unknown.</param>
/// <param name="Source">Where it came from; NULL if unknown.</param>
/// <param name="Owner">Who is responsible for it; NULL if unknown.</param>
public sealed record PlannedRecord(
    RecordKey Key,
    string Label,
    ColumnValue Created,
    ColumnValue Changed,
    ColumnValue Source,
    ColumnValue Owner
);

/// <summary>How one field is merged.</summary>
/// <param name="Field">The field.</param>
/// <param name="Values">Each record's value, the master's first.</param>
/// <param name="Value">The surviving value.</param>
/// <param name="From">
/// The index of the record that it comes from; null if it was typed in or combined from several values.
/// </param>
/// <param name="ChosenBy">How it was chosen.</param>
/// <param name="Rule">The survivorship rule of the field, whether it decided or not.</param>
public sealed record PlannedField(
    Field Field,
    IReadOnlyList<ColumnValue> Values,
    ColumnValue Value,
    int? From,
    ChosenBy ChosenBy,
    SurvivorshipRule Rule
)
{
    /// <summary>True if the records do not all have the same value.</summary>
    public bool Differs => Values.Any(value => value != Values[0]);

    /// <summary>True if the master's value changes.</summary>
    public bool Changes => Value != Values[0];

    /// <summary>
    /// The column and the record that the value overflowed from; null if it did not come from another column.
    /// </summary>
    public (int Record, string Column)? Overflowed { get; init; }

    /// <summary>
    /// Where the database holds the surviving value: the index of the record, and the column. Null if it was typed in,
    /// or combined from several values.
    /// </summary>
    public (int Record, string Column)? Origin =>
        Overflowed ?? (From is { } record && Values[record] == Value ? (record, Field.Column) : null);

    /// <summary>True if the master loses a value.</summary>
    public bool Overwrites => Changes && !Values[0].IsBlank;
}

/// <summary>A column that the map does not name: it follows the master, and is journaled.</summary>
/// <param name="Column">The column.</param>
/// <param name="Values">Each record's value, the master's first.</param>
public sealed record UnmappedColumn(ColumnSchema Column, IReadOnlyList<ColumnValue> Values);

/// <summary>How the related rows of one reference are merged.</summary>
/// <param name="Reference">The reference, with its policy.</param>
/// <param name="PointedAt">The values that refer to each record, the master's first.</param>
/// <param name="Table">The table of the rows.</param>
/// <param name="Counts">How many rows each record has now, the master's first.</param>
/// <param name="Amount">The amount of the duplicates' rows; null if the reference has no amount.</param>
/// <param name="Collisions">Rows that must not all refer to the master, and how each conflict ends.</param>
/// <param name="RemovedCounts">For each record, how many of its rows are removed as repeats.</param>
public sealed record PlannedMove(
    Reference Reference,
    IReadOnlyList<RecordKey> PointedAt,
    TableSchema Table,
    IReadOnlyList<long> Counts,
    decimal? Amount,
    IReadOnlyList<PlannedCollision> Collisions,
    IReadOnlyList<long> RemovedCounts
)
{
    /// <summary>The number of the duplicates' rows.</summary>
    public long Count => Counts.Skip(1).Sum();
}

/// <summary>Related rows in conflict, of which one is kept.</summary>
/// <param name="Values">The values that must be unique, as <c>column = value</c>.</param>
/// <param name="Kept">The row that is kept.</param>
/// <param name="Removed">The rows that are removed; all their columns go to the journal.</param>
/// <param name="Changes">The new values of the kept row, by column.</param>
/// <param name="Differences">For each removed row, in what it differs from the kept one.</param>
public sealed record PlannedCollision(
    string Values,
    CollidingRow Kept,
    IReadOnlyList<CollidingRow> Removed,
    IReadOnlyList<PlannedChange> Changes,
    IReadOnlyList<IReadOnlyList<RowDifference>> Differences
);

/// <summary>A value of a removed row that the kept one does not have.</summary>
/// <param name="Column">The column.</param>
/// <param name="Kept">The value of the row that is kept.</param>
/// <param name="Removed">That of the row that is removed.</param>
public sealed record RowDifference(string Column, ColumnValue Kept, ColumnValue Removed);

/// <summary>A new value of a related row that is kept.</summary>
/// <param name="Column">The column.</param>
/// <param name="Value">The value.</param>
/// <param name="From">The removed row that has it; null if it was combined from several values.</param>
public sealed record PlannedChange(ColumnSchema Column, ColumnValue Value, CollidingRow? From);

/// <summary>The master's place in its own hierarchy, if it changes.</summary>
/// <param name="Reference">The reference of the record type to itself.</param>
/// <param name="Before">The key of the parent now, or null.</param>
/// <param name="After">The key of the parent afterwards, or null.</param>
public sealed record PlannedParent(Reference Reference, RecordKey? Before, RecordKey? After);

/// <summary>A figure before and after.</summary>
/// <param name="Figure">The figure.</param>
/// <param name="Before">Each record's, the master's first.</param>
/// <param name="After">The master's afterwards.</param>
public sealed record PlannedFigure(Figure Figure, IReadOnlyList<ColumnValue> Before, ColumnValue After);

/// <summary>A related row that is added for the master, for a value that did not survive in a field.</summary>
/// <param name="Field">The field.</param>
/// <param name="Record">The index of the record whose value it was.</param>
/// <param name="Column">The record's column that holds it.</param>
/// <param name="Value">The value, as the new row's column holds it.</param>
public sealed record PlannedAddition(Field Field, int Record, string Column, ColumnValue Value);

/// <summary>The kinds of choices that clear a blocker.</summary>
public enum ClearingKind
{
    /// <summary>The rows of the duplicates are ended.</summary>
    End,

    /// <summary>The reference is excluded from the merge.</summary>
    Exclude,

    /// <summary>The decision that records are not duplicates is reopened.</summary>
    Reopen,
}

/// <summary>A choice that clears a blocker.</summary>
/// <param name="Kind">What it does.</param>
/// <param name="Name">The name to use in the choices.</param>
/// <param name="Title">What it does, in words.</param>
public sealed record Clearing(ClearingKind Kind, string Name, string Title);

/// <summary>Something that blocks a merge.</summary>
/// <param name="Message">What blocks the merge.</param>
/// <param name="Remedy">How to clear it.</param>
public sealed record Blocker(string Message, string Remedy)
{
    /// <summary>The choices that clear it; empty if none does.</summary>
    public IReadOnlyList<Clearing> Clearings { get; init; } = [];
}

/// <summary>
/// What a merge would do. Computed from a snapshot by <see cref="MergePlanner"/>; the same input gives the same plan.
/// </summary>
/// <param name="Type">The record type.</param>
/// <param name="Choices">What the operator chose.</param>
/// <param name="Records">The records, the master first.</param>
/// <param name="Fields">How each field is merged.</param>
/// <param name="Unmapped">The columns that the map names nowhere.</param>
/// <param name="Moves">How the related rows are merged, by reference.</param>
/// <param name="Parents">The master's place in its own hierarchy, where it changes.</param>
/// <param name="Figures">The figures before and after.</param>
/// <param name="Suggestion">The record that is suggested as the master, whichever was chosen.</param>
/// <param name="Blockers">What blocks the merge; empty if nothing does.</param>
/// <param name="Warnings">What the operator should know.</param>
/// <param name="Fingerprint">Identifies everything the plan was computed from.</param>
public sealed record MergePlan(
    RecordType Type,
    MergeChoices Choices,
    IReadOnlyList<PlannedRecord> Records,
    IReadOnlyList<PlannedField> Fields,
    IReadOnlyList<UnmappedColumn> Unmapped,
    IReadOnlyList<PlannedMove> Moves,
    IReadOnlyList<PlannedParent> Parents,
    IReadOnlyList<PlannedFigure> Figures,
    SuggestedMaster Suggestion,
    IReadOnlyList<Blocker> Blockers,
    IReadOnlyList<string> Warnings,
    Fingerprint Fingerprint
)
{
    /// <summary>The related rows that are added for the master.</summary>
    public IReadOnlyList<PlannedAddition> Additions { get; init; } = [];

    /// <summary>The decisions that records are not duplicates, which the merge reopens.</summary>
    public IReadOnlyList<MarkedNonDuplicates> Reopened { get; init; } = [];

    /// <summary>The duplicates' rows that are ended.</summary>
    public IReadOnlyList<EndedRow> Ended { get; init; } = [];

    /// <summary>
    /// The linked merges that can be chosen; empty for a plan that is one
    /// of them.
    /// </summary>
    public IReadOnlyList<LinkedOffer> Offers { get; init; } = [];

    /// <summary>The linked merges that were chosen, in the order in which they are done, before this one.</summary>
    public IReadOnlyList<MergePlan> Linked { get; init; } = [];

    /// <summary>
    /// This plan combined with those of the chosen linked merges: one fingerprint, and what blocks one blocks
    /// all.
    /// </summary>
    /// <param name="linked">The plans, in the order in which they are done.</param>
    public MergePlan With(IReadOnlyList<MergePlan> linked)
    {
        ArgumentNullException.ThrowIfNull(linked);
        return linked.Count == 0
            ? this
            : this with
            {
                Linked = linked,
                Blockers =
                [
                    .. Blockers,
                    .. linked.SelectMany(plan =>
                        plan.Blockers.Select(blocker => new Blocker(
                            $"{plan.Type.Title} {plan.Master.Key}: {blocker.Message}",
                            blocker.Clearings.Count == 0
                                ? blocker.Remedy
                                : "Merge them separately first, or leave them out " + "of the linked merges."
                        ))
                    ),
                ],
                Fingerprint = Fingerprint.Of([Fingerprint, .. linked.Select(plan => plan.Fingerprint)]),
            };
    }

    /// <summary>The record that is kept.</summary>
    public PlannedRecord Master => Records[0];

    /// <summary>The others.</summary>
    public IEnumerable<PlannedRecord> Duplicates => Records.Skip(1);
}
