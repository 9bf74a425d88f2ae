using System.Globalization;
using Kettlefog.Contracts;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.History;

/// <summary>The facts about a reference at the time of the merge that a reversal needs.</summary>
/// <param name="Reference">The reference's name.</param>
/// <param name="PointedAt">The values that referred to each record; null if they were the record's key.</param>
/// <param name="LastKey">
/// The highest key in the table at that time, where keys are generated in order: rows with a higher one were added
/// since. Otherwise null.
/// </param>
public sealed record ReferenceState(string Reference, IReadOnlyList<string?>? PointedAt, string? LastKey);

/// <summary>The details of a decision about records that changes none of them.</summary>
/// <param name="Records">The records.</param>
/// <param name="Cluster">The cluster they were proposed in, or null.</param>
public sealed record DecisionDetails(IReadOnlyList<PlanRecord> Records, long? Cluster);

/// <summary>
/// All that a merge decides and does, with every value as text: what the history keeps for people to read. The exact
/// values are in the journal.
/// </summary>
/// <param name="Map">The fingerprint of the map.</param>
/// <param name="Plan">The fingerprint of the plan.</param>
/// <param name="Records">The records, the master first.</param>
/// <param name="Fields">The fields, then the columns that the map does not name.</param>
/// <param name="Moves">The related rows, by reference.</param>
/// <param name="Figures">The figures.</param>
/// <param name="Timeline">The table to which a row is added for the master; null for none.</param>
/// <param name="Linked">The numbers of its linked merges; null for none.</param>
/// <param name="LinkedTo">The number of the merge that it was linked to; null for none.</param>
/// <param name="Ended">The duplicates' rows that were ended; null for none.</param>
/// <param name="Added">
/// The related rows that were added for the master, each with a value that did not survive; null for none.
/// </param>
/// <param name="Reopened">The records marked as not duplicates that the merge reopens; null for none.</param>
public sealed record MergeDetails(
    string Map,
    string Plan,
    IReadOnlyList<PlanRecord> Records,
    IReadOnlyList<PlanField> Fields,
    IReadOnlyList<PlanMove> Moves,
    IReadOnlyList<PlanFigure> Figures,
    string? Timeline = null,
    IReadOnlyList<long>? Linked = null,
    long? LinkedTo = null,
    IReadOnlyList<EndedRowView>? Ended = null,
    IReadOnlyList<AddedRowView>? Added = null,
    IReadOnlyList<ReopenedPair>? Reopened = null
)
{
    /// <summary>The form of the details; earlier ones are read by <see cref="EarlierDetails"/>.</summary>
    public int Format { get; init; } = EarlierDetails.CurrentFormat;

    /// <summary>
    /// The state of the tables; see <see cref="CheckedMap.Version"/>. Null in entries of earlier programs.
    /// </summary>
    public string? Catalog { get; init; }

    /// <summary>
    /// The facts about the references that a reversal needs, where they are not the default; null for none.
    /// </summary>
    public IReadOnlyList<ReferenceState>? References { get; init; }

    /// <summary>The journal steps that ended the rows of <see cref="Ended"/>, in their order; null for none.</summary>
    public IReadOnlyList<int>? EndedSteps { get; init; }

    /// <summary>The kind of a column that the map does not name.</summary>
    public const string Unmapped = "unmapped";

    /// <summary>
    /// The values by which a reference referred to each record, in text form, the master's first; null where a
    /// record had none.
    /// </summary>
    /// <param name="reference">The reference's name.</param>
    public IReadOnlyList<string?> PointedAt(string reference) =>
        ReferenceStateOf(reference)?.PointedAt ?? [.. Records.Select(record => record.Key)];

    /// <summary>The facts about a reference; null if there are none.</summary>
    /// <param name="reference">The reference's name.</param>
    public ReferenceState? ReferenceStateOf(string reference) =>
        References?.FirstOrDefault(state => state.Reference == reference);

    /// <summary>The details with the highest keys of the tables whose keys are generated in order.</summary>
    /// <param name="lastKeys">The highest key by the name of the reference.</param>
    public MergeDetails WithLastKeys(IReadOnlyDictionary<string, string> lastKeys)
    {
        ArgumentNullException.ThrowIfNull(lastKeys);
        var states = Moves
            .Select(move =>
                (ReferenceStateOf(move.Reference) ?? new ReferenceState(move.Reference, null, null)) with
                {
                    LastKey = lastKeys.GetValueOrDefault(move.Reference),
                }
            )
            .Where(state => state.PointedAt is not null || state.LastKey is not null)
            .ToList();
        return this with { References = states.Count == 0 ? null : states };
    }

    /// <summary>The details of a plan.</summary>
    /// <param name="plan">The plan.</param>
    /// <param name="map">The map it was made under.</param>
    public static MergeDetails Of(MergePlan plan, RecordMap map)
    {
        ArgumentNullException.ThrowIfNull(plan);
        ArgumentNullException.ThrowIfNull(map);
        var fields = plan.Fields.Select(field => new PlanField(
            field.Field.Name,
            field.Field.Title,
            EnumName.Of(field.Field.Kind),
            field.Field.Group,
            [.. field.Values.Select(value => value.ToText())],
            field.Value.ToText(),
            field.From,
            EnumName.Of(field.ChosenBy),
            EnumName.Of(field.Rule),
            field.Differs,
            field.Changes
        ));
        var unmapped = plan.Unmapped.Select(column => new PlanField(
            column.Column.Name,
            column.Column.Name,
            Unmapped,
            null,
            [.. column.Values.Select(value => value.ToText())],
            After(plan, column).ToText(),
            After(plan, column) == column.Values[0] ? 0 : null,
            EnumName.Of(ChosenBy.Rule),
            EnumName.Of(SurvivorshipRule.Master),
            column.Values.Any(value => value != column.Values[0]),
            After(plan, column) != column.Values[0]
        ));
        return new MergeDetails(
            map.Fingerprint,
            plan.Fingerprint.Text,
            [.. plan.Records.Select(Of)],
            [.. fields, .. unmapped],
            [
                .. plan.Moves.Select(move => new PlanMove(
                    move.Reference.Name,
                    move.Reference.Title,
                    move.Reference.Table,
                    EnumName.Of(move.Reference.Policy),
                    move.Counts,
                    move.Count,
                    move.Amount?.ToString(CultureInfo.InvariantCulture),
                    [.. move.Collisions.Select(collision => Of(collision, move.Table))],
                    move.Reference.MayExclude,
                    move.RemovedCounts.Skip(1).Sum()
                )),
            ],
            [
                .. plan.Figures.Select(figure => new PlanFigure(
                    figure.Figure.Name,
                    figure.Figure.Title,
                    EnumName.Of(figure.Figure.Operation),
                    figure.Figure.Control,
                    [.. figure.Before.Select(value => value.ToText())],
                    figure.After.ToText()
                )),
            ],
            plan.Type.Timeline?.Table,
            Ended: plan.Ended.Count == 0
                ? null
                :
                [
                    .. plan.Ended.Select(row => new EndedRowView(
                        row.Rule.Title,
                        plan.Records[row.Record].Key.ToString(),
                        row.Key.ToString()
                    )),
                ],
            Added: plan.Additions.Count == 0
                ? null
                :
                [
                    .. plan.Additions.Select(row => new AddedRowView(
                        row.Field.Title,
                        plan.Records[row.Record].Key.ToString(),
                        row.Value.ToText()!,
                        plan.Type.RequireReference(row.Field.OverflowRows!.Reference).Title
                    )),
                ],
            Reopened: plan.Reopened.Count == 0
                ? null
                : [.. plan.Reopened.Select(each => new ReopenedPair(each.Marked.A, each.Marked.B, each.Number))]
        )
        {
            EndedSteps = plan.Ended.Count == 0 ? null : [.. plan.Ended.Select(row => row.Step)],
            References = States(plan) is { Count: > 0 } states ? states : null,
        };
    }

    private static List<ReferenceState> States(MergePlan plan) =>
        [
            .. plan
                .Moves.Where(move => !move.Reference.HoldsKey)
                .Select(move => new ReferenceState(
                    move.Reference.Name,
                    [.. move.PointedAt.Select(key => key.Parts.Any(part => part.IsNull) ? null : key.ToString())],
                    null
                )),
        ];

    /// <summary>
    /// A column that no field names follows the master, unless it holds the master's place in a hierarchy.
    /// </summary>
    private static ColumnValue After(MergePlan plan, UnmappedColumn column)
    {
        foreach (var parent in plan.Parents)
        {
            var part = parent.Reference.Columns.IndexOfIdentifier(column.Column.Name);
            if (part >= 0)
                return parent.After?.Parts[part] ?? ColumnValue.Null;
        }

        return column.Values[0];
    }

    private static PlanCollision Of(PlannedCollision collision, TableSchema table) =>
        new(
            collision.Values,
            collision.Kept.Key.ToString(),
            [
                .. collision.Removed.Select(
                    (row, index) =>
                        new PlanRemovedRow(
                            row.Key.ToString(),
                            table
                                .Columns.Select((column, place) => (column.Name, Value: row.Row[place].ToText()))
                                .ToDictionary(cell => cell.Name, cell => cell.Value),
                            [
                                .. collision
                                    .Differences[index]
                                    .Select(each => new PlanRowDifference(
                                        each.Column,
                                        each.Kept.ToText(),
                                        each.Removed.ToText()
                                    )),
                            ]
                        )
                ),
            ],
            collision.Changes.ToDictionary(change => change.Column.Name, change => change.Value.ToText()),
            collision.Removed.Sum(row => row.Dependents.Sum(dependents => dependents.Count))
        );

    /// <summary>The details of one record.</summary>
    /// <param name="record">The record.</param>
    public static PlanRecord Of(PlannedRecord record)
    {
        ArgumentNullException.ThrowIfNull(record);
        return new PlanRecord(
            record.Key.ToString(),
            record.Label,
            record.Created.ToText(),
            record.Changed.ToText(),
            record.Source.ToText(),
            record.Owner.ToText()
        );
    }
}
