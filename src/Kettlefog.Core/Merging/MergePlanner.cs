using System.Globalization;
using Kettlefog.Core.Map.Checking;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging.Survivorship;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>Computes what a merge would do.</summary>
public static class MergePlanner
{
    /// <summary>Computes the plan.</summary>
    /// <param name="choices">What the operator chose.</param>
    /// <param name="snapshot">What was read for these choices.</param>
    /// <returns>The plan; it may have blockers.</returns>
    /// <exception cref="KettlefogException">A choice names no record of the merge or no field, or a typed value does not fit.</exception>
    public static MergePlan Plan(MergeChoices choices, MergeSnapshot snapshot)
    {
        ArgumentNullException.ThrowIfNull(choices);
        ArgumentNullException.ThrowIfNull(snapshot);
        choices.Check();
        foreach (var name in choices.Fields.Keys)
            snapshot.Type.RequireField(name);
        var records = snapshot.Records.Select(record => Describe(snapshot.Type, record)).ToList();
        var blockers = new List<Blocker>();
        var fields = OverflowPlanner.Place(snapshot, [.. snapshot.Type.Fields.Select(field => PlanField(field, choices, snapshot, blockers))], out var lost, out var additions);
        var parents = ParentPlanner.Plan(choices, snapshot, fields, blockers);
        var collisions = snapshot.References.Select(reference => CollisionPlanner.Plan(snapshot, reference, blockers)).ToList();
        var gone = snapshot.References.Zip(collisions).SelectMany(pair => pair.Second.SelectMany(collision => collision.Removed).Select(row => (pair.First.Table, row.Row))).ToList();
        var moves = snapshot.References.Zip(collisions).Select(pair => PlanMove(snapshot, pair.First, pair.Second, gone)).ToList();
        var figures = snapshot.Type.Figures.Select(figure => PlanFigure(figure, snapshot, collisions, gone, blockers)).ToList();
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
            [.. blockers, .. Blockers(snapshot, records, fields, moves)],
            [.. Warnings(records, fields, moves), .. lost, .. parents.Select(Describe), .. snapshot.References.Select(reference => IndexAdvice.Of(reference.Reference, reference.Table)).OfType<IndexAdvice>().Select(advice => advice.Warning)],
            FingerprintOf(choices, snapshot, records))
        { Ended = snapshot.Ended, Additions = additions };
    }

    /// <summary>A record as an operator judges it.</summary>
    /// <param name="type">Its type.</param>
    /// <param name="record">What was read of it.</param>
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
            Of(type.Owner));
    }

    private static PlannedField PlanField(Field field, MergeChoices choices, MergeSnapshot snapshot, List<Blocker> blockers)
    {
        var values = snapshot.Records.Select(record => record[field.Column]).ToList();
        var choice = choices.Fields.GetValueOrDefault(field.Name);
        var rule = choice is FieldChoice.ByRule(var chosen) ? chosen : snapshot.RuleOf(field);
        switch (choice)
        {
            case FieldChoice.FromRecord(var key):
                var from = snapshot.Records.ToList().FindIndex(record => record.Key.Equals(key));
                if (from < 0)
                {
                    throw new KettlefogException(
                        ErrorCode.InvalidChoice,
                        $"The value for {field.Title} is to come from {key}, which is not one of the records to be merged.",
                        "Take it from the master or from one of the duplicates.");
                }

                return new PlannedField(field, values, values[from], from, ChosenBy.Operator, rule);
            case FieldChoice.Typed(var text):
                var typed = TypedValue.Read(field, snapshot.Table.Find(field.Column)!, text);
                return new PlannedField(field, values, typed, null, ChosenBy.Typed, rule);
            default:
                var candidates = snapshot.Records
                    .Select((record, index) => new Candidate(
                        values[index],
                        snapshot.Of(index, snapshot.Type.Created),
                        snapshot.Of(index, snapshot.Type.Changed),
                        snapshot.Type.IsBlank(values[index]),
                        snapshot.SourceRank(index),
                        string.Join(", ", new[] { record.Key.ToString(), snapshot.Of(index, snapshot.Type.Source).ToText() }.OfType<string>())))
                    .ToList();
                if (SurvivorshipResolver.Decide(rule, candidates, field.Separator) is not { } survivor)
                {
                    blockers.Add(new Blocker(
                        $"{field.Title} cannot be added up: {string.Join(", ", values.Select(Describe))}.",
                        $"Choose or type the {field.Title.ToLowerInvariant()} yourself."));
                    survivor = new Survivor(values[0], 0);
                }

                return new PlannedField(field, values, FitToColumn(field, survivor, snapshot.Table, blockers), survivor.From, choice is null ? ChosenBy.Rule : ChosenBy.Operator, rule);
        }
    }

    /// <summary>A value that was made of several, as the column holds it.</summary>
    private static ColumnValue FitToColumn(Field field, Survivor survivor, TableSchema table, List<Blocker> blockers)
    {
        if (survivor.From is not null)
            return survivor.Value;
        var column = table.Find(field.Column)!;
        var text = survivor.Value.ToText()!;
        if (column.MaxLength is { } limit && text.Length > limit)
        {
            blockers.Add(new Blocker(
                $"{field.Title} would have {text.Length} characters, but the column {column.Name} allows {limit}.",
                $"Choose or type the {field.Title.ToLowerInvariant()} yourself."));
        }

        if (column.TryRead(text) is { } value)
            return value;
        blockers.Add(new Blocker(
            $"{field.Title} would be '{text}', which the column {column.Name} ({column.DeclaredType}) cannot hold.",
            $"Choose or type the {field.Title.ToLowerInvariant()} yourself."));
        return survivor.Value;
    }

    private static List<UnmappedColumn> Unmapped(MergeSnapshot snapshot)
    {
        var type = snapshot.Type;
        var mapped = type.Fields.Select(field => field.Column).Concat(type.Key)
            .Concat(new[] { type.Created, type.Changed, type.Source, type.Owner }.OfType<string>())
            .ToHashSet(StringComparer.OrdinalIgnoreCase);
        return snapshot.Table.Columns
            .Where(column => !mapped.Contains(column.Name))
            .Select(column => new UnmappedColumn(column, snapshot.Records.Select(record => record[column.Name]).ToList()))
            .ToList();
    }

    private static PlannedMove PlanMove(MergeSnapshot snapshot, ReferenceSnapshot reference, IReadOnlyList<PlannedCollision> collisions, List<(TableSchema Table, IReadOnlyList<ColumnValue> Row)> gone)
    {
        var removed = new long[snapshot.Records.Count];
        foreach (var row in gone)
        {
            if (IndexOfReferencedRecord(reference, row) is >= 0 and var holder)
                removed[holder]++;
        }

        return new PlannedMove(
            reference.Reference,
            reference.PointedAt,
            reference.Table,
            reference.Related.Select(related => related.Count).ToList(),
            reference.Reference.Amount is null ? null : reference.Related.Skip(1).Sum(related => related.Amount ?? 0),
            collisions,
            removed);
    }

    /// <summary>The index of the record at which a row points by a reference, or -1. One row may point by several.</summary>
    private static int IndexOfReferencedRecord(ReferenceSnapshot reference, (TableSchema Table, IReadOnlyList<ColumnValue> Row) row) =>
        row.Table == reference.Table ? reference.Reference.IndexOfReferencedRecord(column => row.Row[row.Table.IndexOf(column)], reference.PointedAt) : -1;

    private static PlannedFigure PlanFigure(
        Figure figure,
        MergeSnapshot snapshot,
        List<IReadOnlyList<PlannedCollision>> collisions,
        List<(TableSchema Table, IReadOnlyList<ColumnValue> Row)> gone,
        List<Blocker> blockers)
    {
        var place = snapshot.References.ToList().FindIndex(candidate => candidate.Reference.Name == figure.Reference);
        var reference = snapshot.References[place];
        var before = reference.Related.Select(related => related.Figures[figure.Name]).ToList();
        if (reference.Reference.Policy != ReferencePolicy.Reassign)
            return new PlannedFigure(figure, before, before[0]);
        var lost = gone.Where(row => IndexOfReferencedRecord(reference, row) >= 0).ToList();
        var ended = snapshot.References.Zip(collisions)
            .Where(pair => pair.First.Table == reference.Table)
            .SelectMany(pair => pair.Second)
            .Where(collision => IndexOfReferencedRecord(reference, (reference.Table, collision.Kept.Row)) >= 0);
        var after = figure.Operation switch
        {
            FigureOperation.Count => ColumnValue.Of(before.Sum(value => (long)value.Raw!) - lost.Count),
            FigureOperation.Sum => ColumnValue.Of((Sum(before) - Sum(lost.Select(row => row.Row[reference.Table.IndexOf(figure.Column!)])) + AmountGainedByCombining(figure, reference, ended)).ToString(CultureInfo.InvariantCulture)),
            FigureOperation.Last => before.MaxBy(value => value, FigureOrder)!,
            _ => before.Where(value => !value.IsBlank).DefaultIfEmpty().MinBy(value => value, FigureOrder)!,
        };
        if (figure.Control && figure.Adds && Sum([after]) != Sum(before))
        {
            blockers.Add(new Blocker(
                $"The control total {figure.Title} would become {after} instead of {Sum(before).ToString(CultureInfo.InvariantCulture)}, because {reference.Reference.Title.ToLowerInvariant()} that collide give way.",
                figure.Operation == FigureOperation.Count ? "Void or renumber one of the rows in the operational system, or make the figure no control total." : "Combine the rows with the rule 'total' for this column, or void one of them in the operational system."));
        }

        return new PlannedFigure(figure, before, after);
    }

    /// <summary>What combined rows have more in a figure's column than before.</summary>
    private static decimal AmountGainedByCombining(Figure figure, ReferenceSnapshot reference, IEnumerable<PlannedCollision> collisions) => collisions.Sum(collision =>
        collision.Changes.Where(change => string.Equals(change.Column.Name, figure.Column, StringComparison.OrdinalIgnoreCase))
            .Sum(change => Sum([change.Value]) - Sum([collision.Kept.Row[reference.Table.IndexOf(figure.Column!)]])));

    private static Comparer<ColumnValue> FigureOrder { get; } =
        Comparer<ColumnValue>.Create(SurvivorshipResolver.CompareValues);

    private static decimal Sum(IEnumerable<ColumnValue> values) =>
        values.Sum(value => value.TryGetDecimal(out var number) ? number : 0);

    private static IEnumerable<Blocker> Blockers(
        MergeSnapshot snapshot,
        List<PlannedRecord> records,
        List<PlannedField> fields,
        List<PlannedMove> moves)
    {
        var type = snapshot.Type;
        // Records of different partitions, such as legal entities, are not merged either, unless a rule crosses them.
        var mustAgree = snapshot.Rule is { CrossPartitions: true } ? type.Blockers.MustAgree : type.Blockers.MustAgree.Union(type.Matching.Partition);
        foreach (var field in fields.Where(field => mustAgree.Contains(field.Field.Name) && field.Differs))
        {
            var values = records.Select((record, index) => $"{record.Key} has {Describe(field.Values[index])}");
            yield return new Blocker(
                $"{field.Field.Title} must agree, but {string.Join(", ", values)}.",
                $"Leave the records that differ out of the merge, or mend their {field.Field.Title.ToLowerInvariant()} first.");
        }

        foreach (var field in fields.Where(field => type.Blockers.Forbid.ContainsKey(field.Field.Name)))
        {
            for (var index = 0; index < records.Count; index++)
            {
                if (field.Values[index].ToText() is { } text && type.Blockers.Forbid[field.Field.Name].Contains(text))
                {
                    yield return new Blocker(
                        $"{field.Field.Title} of {records[index].Key} is '{text}', and such a {type.Title.ToLowerInvariant()} may not be merged.",
                        $"Change its {field.Field.Title.ToLowerInvariant()} first, or leave it out.");
                }
            }
        }

        foreach (var active in snapshot.Active.Where(active => active.Counts.Count(count => count > 0) > 1))
        {
            var reference = moves.First(move => move.Reference.Name == active.Rule.Reference).Reference;
            if (reference is { MayExclude: true, Policy: ReferencePolicy.Leave })
                continue;
            var holders = records.Zip(active.Counts).Where(pair => pair.Second > 0).Select(pair => $"{pair.First.Key} has {pair.Second}");
            List<Clearing> clearings = [];
            if (active.Rule.End.Count > 0)
                clearings.Add(new Clearing(ClearingKind.End, active.Rule.Name, $"Let {active.Rule.Title.ToLowerInvariant()} of the duplicates end"));
            if (reference.MayExclude && active.Counts[0] > 0)
                clearings.Add(new Clearing(ClearingKind.Exclude, reference.Name, $"Let {reference.Title.ToLowerInvariant()} of the duplicates stay with them"));
            yield return new Blocker(
                $"Of {active.Rule.Title.ToLowerInvariant()} only one of the records may have any, but {string.Join(", ", holders)}.",
                clearings.Count > 0
                    ? $"{string.Join(", or ", clearings.Select((clearing, place) => $"{(place == 0 ? clearing.Title : char.ToLowerInvariant(clearing.Title[0]) + clearing.Title[1..])} ({EnumName.Of(clearing.Kind)} {clearing.Name})"))}."
                    : "End or detach those of all records but one in the operational system, or leave a record out of the merge.")
            { Clearings = clearings };
        }

        foreach (var move in moves.Where(move => move.Reference.Policy == ReferencePolicy.Block && move.Count > 0))
        {
            yield return new Blocker(
                $"The duplicates have {move.Count} {move.Reference.Title.ToLowerInvariant()}, which may not be moved.",
                "End or detach them in the operational system first, or choose another master.");
        }

        foreach (var move in moves.Where(move => move.Reference.To.Count > 0 && move.Counts.Sum() > 0))
        {
            foreach (var field in fields.Where(field => field.Changes && move.Reference.To.Contains(field.Field.Column, StringComparer.OrdinalIgnoreCase)))
            {
                yield return new Blocker(
                    $"{move.Reference.Title} point at the records by {field.Field.Title.ToLowerInvariant()}, which would change from {Describe(field.Values[0])} to {Describe(field.Value)}.",
                    $"Keep the master's {field.Field.Title.ToLowerInvariant()}, or choose another master.");
            }

            if (move.Count > 0 && move.Reference.Policy == ReferencePolicy.Reassign && move.PointedAt[0].Parts.Any(part => part.IsNull))
            {
                yield return new Blocker(
                    $"{move.Count} {move.Reference.Title.ToLowerInvariant()} cannot point at the master {records[0].Key}: it has no {string.Join(", ", move.Reference.To)}.",
                    "Give the master one in the operational system, or choose another master.");
            }
        }

        foreach (var blocker in CurrencyCheck.Blockers(type, records, fields).Concat(UniqueKeyBlockers(snapshot, records, fields)))
            yield return blocker;
        foreach (var field in fields)
        {
            var column = snapshot.Table.Find(field.Field.Column)!;
            if (field.Changes && column.NotNull && field.Value.IsNull)
            {
                yield return new Blocker(
                    $"{field.Field.Title} would be blank, which the column {column.Name} does not allow.",
                    "Take a record's value that is filled in, or type one.");
            }
        }
    }

    /// <summary>A marked duplicate keeps its row, and with it the values that must be unique in the table.</summary>
    private static IEnumerable<Blocker> UniqueKeyBlockers(
        MergeSnapshot snapshot,
        List<PlannedRecord> records,
        List<PlannedField> fields)
    {
        if (snapshot.Type.Retirement.Delete)
            yield break;
        foreach (var unique in snapshot.Table.UniqueKeys.Where(key => key.Filter is null && key.Columns.All(column => column is not null)))
        {
            var columns = unique.Columns.Select(column => column!).ToList();
            var changed = fields.Where(field => field.Changes && columns.Contains(field.Field.Column, StringComparer.OrdinalIgnoreCase)).ToList();
            if (changed.Count == 0 || columns.Any(snapshot.Type.Retirement.Mark.ContainsKey))
                continue;
            ColumnValue After(string column) =>
                fields.FirstOrDefault(field => string.Equals(field.Field.Column, column, StringComparison.OrdinalIgnoreCase))?.Value
                ?? snapshot.Records[0][column];
            for (var index = 1; index < records.Count; index++)
            {
                if (columns.All(column => !After(column).IsNull && snapshot.Records[index][column] == After(column)))
                {
                    yield return new Blocker(
                        $"{changed[0].Field.Title} must be unique, and the retired record {records[index].Key} keeps {Describe(changed[0].Value)}.",
                        $"Keep the master's {changed[0].Field.Title.ToLowerInvariant()}, or make {records[index].Key} the master.");
                }
            }
        }
    }

    private static IEnumerable<string> Warnings(
        List<PlannedRecord> records,
        List<PlannedField> fields,
        List<PlannedMove> moves)
    {
        var rows = Enumerable.Range(0, records.Count).Select(index => moves.Sum(move => move.Counts[index])).ToList();
        var most = rows.IndexOf(rows.Max());
        if (most > 0 && rows[most] > rows[0])
        {
            yield return $"{records[most].Key} has more history ({rows[most]} related rows) than the master {records[0].Key} ({rows[0]}).";
        }

        foreach (var move in moves.Where(move => move.Reference.Policy == ReferencePolicy.Leave && move.Count > 0))
            yield return $"{move.Count} {move.Reference.Title.ToLowerInvariant()} stay with the retired records, {(move.Reference.MayExclude ? "because you excluded them" : "as the map says")}.";
        foreach (var field in fields.Where(field => field.Overwrites && field.Value.IsBlank))
            yield return $"{field.Field.Title} of the master will be blank; it is {Describe(field.Values[0])} now.";
    }

    private static string Describe(PlannedParent parent) =>
        $"The master moves up in its hierarchy ({parent.Reference.Title.ToLowerInvariant()}): it was below {parent.Before?.ToString() ?? "none"}, and will be {(parent.After is null ? "at the top" : $"below {parent.After}")}.";

    private static string Describe(ColumnValue value) => value.IsBlank ? "a blank" : $"'{value.ToText()}'";

    private static Fingerprint FingerprintOf(
        MergeChoices choices,
        MergeSnapshot snapshot,
        List<PlannedRecord> records)
    {
        var builder = new Fingerprint.Builder(digest => AddChoices(digest, choices))
            .Part("The record map was changed.", digest => digest.Add(snapshot.Map.Fingerprint))
            .Part("The match rule was changed.", digest =>
            {
                foreach (var (field, rule) in (snapshot.Rule?.Survivorship ?? new Dictionary<string, SurvivorshipRule>()).OrderBy(pair => pair.Key, StringComparer.Ordinal))
                    digest.Add(field).Add(EnumName.Of(rule));
            })
            .Part("The columns of the table were changed.", digest =>
            {
                foreach (var column in snapshot.Table.Columns)
                    digest.Add(column.Name).Add(column.DeclaredType);
            });
        for (var index = 0; index < records.Count; index++)
        {
            var row = snapshot.Records[index].Row;
            builder.Part(ChangedRecord(snapshot.Type, records[index]), digest =>
            {
                foreach (var value in row)
                    digest.Add(value);
            });
        }

        foreach (var reference in snapshot.References)
        {
            var total = reference.Related.Sum(related => related.Count);
            builder.Part($"{reference.Reference.Title}: a related row was added, changed or removed (there are {total} now).", digest =>
            {
                foreach (var related in reference.Related)
                    digest.Add(related.Count).Add(related.Digest);
                foreach (var (key, parent) in (reference.Parents ?? new Dictionary<RecordKey, RecordKey?>()).OrderBy(pair => pair.Key.ToString(), StringComparer.Ordinal))
                    digest.Add(key).Add(parent ?? new RecordKey(ColumnValue.Null));
            });
        }

        builder.Part("Rows of which one record at most may have any were added, changed or removed.", digest =>
        {
            foreach (var count in snapshot.Active.SelectMany(active => active.Counts))
                digest.Add(count);
            foreach (var ended in snapshot.Ended)
                digest.Add(ended.Rule.Name).Add(ended.Key);
        });
        return builder.Build();
    }

    private static string ChangedRecord(RecordType type, PlannedRecord record) =>
        $"{type.Title} {record.Key} ({record.Label}) was changed"
        + (record.Changed.IsBlank ? "." : $"; its last change is now of {record.Changed}.");

    private static void AddChoices(Sha256Digest digest, MergeChoices choices)
    {
        digest.Add("merge").Add(choices.RecordType).Add(choices.Duplicates.Count);
        foreach (var key in choices.Keys)
            digest.Add(key);
        foreach (var (name, choice) in choices.Fields.OrderBy(pair => pair.Key, StringComparer.Ordinal))
        {
            digest.Add(name);
            if (choice is FieldChoice.FromRecord(var key))
                digest.Add("from").Add(key);
            else if (choice is FieldChoice.Typed(var text))
                digest.Add("typed").Add(text);
            else if (choice is FieldChoice.ByRule(var rule))
                digest.Add("by rule").Add(EnumName.Of(rule));
        }

        if (choices.Rule is not null)
            digest.Add("rule").Add(choices.Rule);
        foreach (var name in choices.Exclude.Order(StringComparer.Ordinal))
            digest.Add("exclude").Add(name);
        foreach (var name in choices.End.Order(StringComparer.Ordinal))
            digest.Add("end").Add(name);
    }
}
