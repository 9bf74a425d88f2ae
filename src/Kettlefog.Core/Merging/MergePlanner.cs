using Kettlefog.Core.Map.Checking;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>Computes what a merge would do.</summary>
public static class MergePlanner
{
    /// <summary>The blocker checks, in the order in which they are reported.</summary>
    private static readonly IBlockerCheck[] Checks =
    [
        new MustAgreeCheck(),
        new ForbiddenValueCheck(),
        new AtMostOneCheck(),
        new BlockedReferenceCheck(),
        new ReferenceTargetCheck(),
        new CurrencyCheck(),
        new UniqueValueCheck(),
        new RequiredValueCheck(),
    ];

    /// <summary>Computes the plan.</summary>
    /// <param name="choices">What the operator chose.</param>
    /// <param name="snapshot">The snapshot read for these choices.</param>
    /// <returns>The plan; it may have blockers.</returns>
    /// <exception cref="KettlefogException">
    /// A choice names no record of the merge or no field, or a typed value does not fit.
    /// </exception>
    public static MergePlan Plan(MergeChoices choices, MergeSnapshot snapshot)
    {
        ArgumentNullException.ThrowIfNull(choices);
        ArgumentNullException.ThrowIfNull(snapshot);
        choices.Check();
        foreach (var name in choices.Fields.Keys)
            snapshot.Type.RequireField(name);
        var records = snapshot.Records.Select(record => Describe(snapshot.Type, record)).ToList();
        var blockers = new List<Blocker>();
        var fields = OverflowPlanner.Place(
            snapshot,
            [.. snapshot.Type.Fields.Select(field => FieldPlanner.Plan(field, choices, snapshot, blockers))],
            out var lost,
            out var additions
        );
        var parents = ParentPlanner.Plan(choices, snapshot, fields, blockers);
        var reopened = NonDuplicatesPlanner.Plan(choices, snapshot, blockers);
        FollowReferences(snapshot, fields);
        var collisions = snapshot
            .References.Select(reference => CollisionPlanner.Plan(snapshot, reference, blockers))
            .ToList();
        var gone = snapshot
            .References.Zip(collisions)
            .SelectMany(pair =>
                pair.Second.SelectMany(collision => collision.Removed).Select(row => (pair.First.Table, row.Row))
            )
            .ToList();
        var moves = snapshot
            .References.Zip(collisions)
            .Select(pair => MovePlanner.Plan(snapshot, pair.First, pair.Second, gone))
            .ToList();
        var figures = snapshot
            .Type.Figures.Select(figure => FigurePlanner.Plan(figure, snapshot, collisions, gone, blockers))
            .ToList();
        return new MergePlan(
            snapshot.Type,
            choices,
            records,
            fields,
            Unmapped(snapshot),
            moves,
            parents,
            figures,
            MasterSuggester.Suggest(snapshot),
            [
                .. blockers,
                .. Checks.SelectMany(check => check.Check(new BlockerContext(snapshot, records, fields, moves))),
            ],
            [
                .. Warnings(records, fields, moves),
                .. Placeholders(snapshot.Type, records, fields),
                .. lost,
                .. parents.Select(Describe),
                .. reopened.Select(marked => $"The merge reopens a decision: {NonDuplicatesPlanner.Describe(marked)}"),
                .. snapshot
                    .References.Select(reference => IndexAdvice.Of(reference.Reference, reference.Table))
                    .OfType<IndexAdvice>()
                    .Select(advice => advice.Warning),
            ],
            PlanFingerprint.Of(choices, snapshot, records)
        )
        {
            Ended = snapshot.Ended,
            Reopened = reopened,
            Additions = additions,
        };
    }

    /// <summary>A record with what helps to judge it.</summary>
    /// <param name="type">Its type.</param>
    /// <param name="record">The record, as read.</param>
    public static PlannedRecord Describe(RecordType type, RecordSnapshot record)
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(record);
        ColumnValue Of(string? column) => column is null ? ColumnValue.Null : record[column];
        return new PlannedRecord(
            record.Key,
            type.LabelOf(column => record[column]),
            Of(type.Created),
            Of(type.Changed),
            Of(type.Source),
            Of(type.Owner)
        );
    }

    private static List<UnmappedColumn> Unmapped(MergeSnapshot snapshot)
    {
        var type = snapshot.Type;
        var mapped = type
            .Fields.Select(field => field.Column)
            .Concat(type.Key)
            .Concat(new[] { type.Created, type.Changed, type.Source, type.Owner }.OfType<string>())
            .ToHashSet(StringComparer.OrdinalIgnoreCase);
        return snapshot
            .Table.Columns.Where(column => !mapped.Contains(column.Name))
            .Select(column => new UnmappedColumn(
                column,
                snapshot.Records.Select(record => record[column.Name]).ToList()
            ))
            .ToList();
    }

    /// <summary>
    /// A surviving value by which a record refers to a duplicate, such as that of its last editor, refers to the
    /// master.
    /// </summary>
    private static void FollowReferences(MergeSnapshot snapshot, List<PlannedField> fields)
    {
        foreach (
            var reference in snapshot.References.Where(each =>
                each.Parents is null
                && each.Reference is { Policy: ReferencePolicy.Reassign, When.Count: 0, Columns.Count: 1 }
                && Identifiers.Same(each.Reference.Table, snapshot.Type.Table)
            )
        )
        {
            var place = fields.FindIndex(field => Identifiers.Same(field.Field.Column, reference.Reference.Columns[0]));
            if (place >= 0 && reference.PointedAt.Skip(1).Any(pointed => pointed.Parts[0] == fields[place].Value))
                fields[place] = fields[place] with { Value = reference.PointedAt[0].Parts[0], From = null };
        }
    }

    private static IEnumerable<string> Warnings(
        List<PlannedRecord> records,
        List<PlannedField> fields,
        List<PlannedMove> moves
    )
    {
        var rows = Enumerable.Range(0, records.Count).Select(index => moves.Sum(move => move.Counts[index])).ToList();
        var largest = rows.IndexOf(rows.Max());
        if (largest > 0 && rows[largest] > rows[0])
        {
            yield return $"{records[largest].Key} has more history ({rows[largest]} related rows) than the master "
                + $"{records[0].Key} ({rows[0]}).";
        }

        foreach (var move in moves.Where(move => move.Reference.Policy == ReferencePolicy.Leave && move.Count > 0))
            yield return $"{move.Count} {move.Reference.Title.ToLowerInvariant()} stay with the retired records, "
                + $"{(move.Reference.MayExclude ? "because you excluded them" : "as defined in the map")}.";
        foreach (var field in fields.Where(field => field.Overwrites && field.Value.IsBlank))
            yield return $"{field.Field.Title} of the master will be blank; it is {ValueText.Of(field.Values[0])} now.";
    }

    /// <summary>Warns where a placeholder would survive although another record has a value.</summary>
    private static IEnumerable<string> Placeholders(
        RecordType type,
        List<PlannedRecord> records,
        List<PlannedField> fields
    )
    {
        foreach (var field in fields.Where(each => !each.Value.IsBlank && type.IsBlank(each.Field, each.Value)))
        {
            var other = field.Values.ToList().FindIndex(value => !type.IsBlank(field.Field, value));
            if (other >= 0)
                yield return $"{field.Field.Title} will be {ValueText.Of(field.Value)}, which stands for a missing "
                    + $"value, although {records[other].Key} has {ValueText.Of(field.Values[other])}.";
        }
    }

    private static string Describe(PlannedParent parent) =>
        $"The master moves up in its hierarchy ({parent.Reference.Title.ToLowerInvariant()}): it was below "
        + $"{parent.Before?.ToString() ?? "none"}, and will be "
        + $"{(parent.After is null ? "at the top" : $"below {parent.After}")}.";
}
