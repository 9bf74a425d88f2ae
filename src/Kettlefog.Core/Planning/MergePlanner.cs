using System.Globalization;
using Kettlefog.Core.Maps;
using Kettlefog.Core.Survivorship;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Planning;

/// <summary>Computes what a merge would do.</summary>
public static class MergePlanner
{
    /// <summary>Computes the plan.</summary>
    /// <param name="choices">What the operator chose.</param>
    /// <param name="snapshot">What was read for these choices.</param>
    /// <returns>The plan; it may have blockers.</returns>
    /// <exception cref="Refusal">A choice names no record of the merge or no field, or a typed value does not fit.</exception>
    public static MergePlan Plan(MergeChoices choices, MergeSnapshot snapshot)
    {
        ArgumentNullException.ThrowIfNull(choices);
        ArgumentNullException.ThrowIfNull(snapshot);
        choices.Check();
        foreach (var name in choices.Fields.Keys)
            snapshot.Type.RequireField(name);
        var records = snapshot.Records.Select(record => Describe(snapshot.Type, record)).ToList();
        var fields = snapshot.Type.Fields.Select(field => PlanField(field, choices, snapshot)).ToList();
        var moves = snapshot.References.Select(PlanMove).ToList();
        var figures = snapshot.Type.Figures.Select(figure => PlanFigure(figure, snapshot)).ToList();
        return new MergePlan(
            snapshot.Type,
            choices,
            records,
            fields,
            Unmapped(snapshot),
            moves,
            figures,
            [.. Blockers(snapshot, records, fields, moves)],
            [.. Warnings(records, fields, moves)],
            FingerprintOf(choices, snapshot, records));
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

    private static PlannedField PlanField(Field field, MergeChoices choices, MergeSnapshot snapshot)
    {
        var values = snapshot.Records.Select(record => record[field.Column]).ToList();
        var rule = field.Survivorship ?? snapshot.Type.Survivorship;
        switch (choices.Fields.GetValueOrDefault(field.Name))
        {
            case FieldChoice.FromRecord(var key):
                var from = snapshot.Records.ToList().FindIndex(record => record.Key.Equals(key));
                if (from < 0)
                {
                    throw new Refusal(
                        RefusalCode.InvalidChoice,
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
                        snapshot.Type.Created is { } created ? record[created] : ColumnValue.Null,
                        snapshot.Type.Changed is { } changed ? record[changed] : ColumnValue.Null))
                    .ToList();

                // Where several have the chosen value it counts as the master's, or the first duplicate's.
                var chosen = values.IndexOf(values[SurvivorshipResolver.Resolve(rule, candidates)]);
                return new PlannedField(field, values, values[chosen], chosen, ChosenBy.Rule, rule);
        }
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

    private static PlannedMove PlanMove(ReferenceSnapshot reference) => new(
        reference.Reference,
        reference.Related.Select(related => related.Count).ToList(),
        reference.Reference.Amount is null ? null : reference.Related.Skip(1).Sum(related => related.Worth ?? 0));

    private static PlannedFigure PlanFigure(Figure figure, MergeSnapshot snapshot)
    {
        var reference = snapshot.References.First(candidate => candidate.Reference.Name == figure.Reference);
        var before = reference.Related.Select(related => related.Figures[figure.Name]).ToList();
        if (reference.Reference.Policy != ReferencePolicy.Reassign)
            return new PlannedFigure(figure, before, before[0]);
        var after = figure.Operation switch
        {
            FigureOperation.Count => ColumnValue.Of(before.Sum(value => (long)value.Raw!)),
            FigureOperation.Sum => ColumnValue.Of(Sum(before).ToString(CultureInfo.InvariantCulture)),
            FigureOperation.Last => before.MaxBy(value => value, FigureOrder)!,
            _ => before.Where(value => !value.IsBlank).DefaultIfEmpty().MinBy(value => value, FigureOrder)!,
        };
        return new PlannedFigure(figure, before, after);
    }

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
        foreach (var field in fields.Where(field => type.Blockers.MustAgree.Contains(field.Field.Name) && field.Differs))
        {
            var values = records.Select((record, index) => $"{record.Key} has {Say(field.Values[index])}");
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

        foreach (var move in moves.Where(move => move.Reference.Policy == ReferencePolicy.Block && move.Count > 0))
        {
            yield return new Blocker(
                $"The duplicates have {move.Count} {move.Reference.Title.ToLowerInvariant()}, which may not be moved.",
                "End or detach them in the operational system first, or choose another master.");
        }

        foreach (var collision in snapshot.References
            .Where(reference => reference.Reference.Policy == ReferencePolicy.Reassign)
            .SelectMany(reference => reference.Collisions))
        {
            var reference = type.RequireReference(collision.Reference);
            yield return new Blocker(
                $"{reference.Title} {string.Join(" and ", collision.Rows)} cannot both belong to the master: {collision.Values} must be unique ({collision.UniqueKey}).",
                "If one of them is a copy, void or renumber it in the operational system, then plan again.");
        }

        foreach (var blocker in UniqueKeyBlockers(snapshot, records, fields))
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
                        $"{changed[0].Field.Title} must be unique, and the retired record {records[index].Key} keeps {Say(changed[0].Value)}.",
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
            yield return $"{move.Count} {move.Reference.Title.ToLowerInvariant()} stay with the retired records, as the map says.";
        foreach (var field in fields.Where(field => field.Overwrites && field.Value.IsBlank))
            yield return $"{field.Field.Title} of the master will be blank; it is {Say(field.Values[0])} now.";
    }

    private static string Say(ColumnValue value) => value.IsBlank ? "a blank" : $"'{value.ToText()}'";

    private static Fingerprint FingerprintOf(
        MergeChoices choices,
        MergeSnapshot snapshot,
        List<PlannedRecord> records)
    {
        var builder = new Fingerprint.Builder(digest => AddChoices(digest, choices))
            .Part("The record map was changed.", digest => digest.Add(snapshot.Map.Fingerprint))
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
            });
        }

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
        }
    }
}
