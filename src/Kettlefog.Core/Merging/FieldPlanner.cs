using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging.Survivorship;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Text;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>Chooses the surviving value of a field: by rule, from a record, or as typed.</summary>
internal static class FieldPlanner
{
    /// <summary>Plans one field; what blocks the merge is added to the blockers.</summary>
    public static PlannedField Plan(Field field, MergeChoices choices, MergeSnapshot snapshot, List<Blocker> blockers)
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
                        $"The value for {field.Title} is to come from {key}, which is not one of the records "
                            + "to be merged.",
                        "Take it from the master or from one of the duplicates."
                    );
                }

                return new PlannedField(field, values, values[from], from, ChosenBy.Operator, rule);
            case FieldChoice.Typed(var text):
                var typed = TypedValue.Read(
                    field,
                    snapshot.Table.Find(field.Column)!,
                    text,
                    values,
                    CountryOf(choices, snapshot)
                );
                return new PlannedField(field, values, typed, null, ChosenBy.Typed, rule);
            default:
                var candidates = snapshot
                    .Records.Select(
                        (record, index) =>
                            new Candidate(
                                values[index],
                                snapshot.Of(index, snapshot.Type.Created),
                                snapshot.Of(index, snapshot.Type.Changed),
                                snapshot.Type.IsBlank(field, values[index]),
                                snapshot.SourceRank(index),
                                string.Join(
                                    ", ",
                                    new[]
                                    {
                                        record.Key.ToString(),
                                        snapshot.Of(index, snapshot.Type.Source).ToText(),
                                    }.OfType<string>()
                                )
                            )
                    )
                    .ToList();
                if (SurvivorshipResolver.Decide(rule, candidates, field.Separator) is not { } survivor)
                {
                    blockers.Add(
                        new Blocker(
                            $"{field.Title} cannot be added up: {string.Join(", ", values.Select(ValueText.Of))}.",
                            $"Choose or type the {field.Title.ToLowerInvariant()} yourself."
                        )
                    );
                    survivor = new Survivor(values[0], 0);
                }

                return new PlannedField(
                    field,
                    values,
                    FitToColumn(field, survivor, snapshot.Table, blockers),
                    survivor.From,
                    choice is null ? ChosenBy.Rule : ChosenBy.Operator,
                    rule
                );
        }
    }

    /// <summary>The country that the master will have, as chosen or as it is; null if it is unknown.</summary>
    private static string? CountryOf(MergeChoices choices, MergeSnapshot snapshot)
    {
        if (snapshot.Type.Fields.FirstOrDefault(each => each.Kind == FieldKind.Country) is not { } field)
            return null;
        var text = choices.Fields.GetValueOrDefault(field.Name) switch
        {
            FieldChoice.Typed(var typed) => typed,
            FieldChoice.FromRecord(var key) => snapshot
                .Records.FirstOrDefault(record => record.Key.Equals(key))
                ?[field.Column].ToText(),
            _ => snapshot.Records[0][field.Column].ToText(),
        };
        return Countries.CodeOf(text);
    }

    /// <summary>A value combined from several, as the column holds it.</summary>
    private static ColumnValue FitToColumn(Field field, Survivor survivor, TableSchema table, List<Blocker> blockers)
    {
        if (survivor.From is not null)
            return survivor.Value;
        var column = table.Find(field.Column)!;
        var text = survivor.Value.ToText()!;
        if (column.MaxLength is { } limit && !column.HasRoomFor(text))
        {
            blockers.Add(
                new Blocker(
                    $"{field.Title} would have {CharacterText.Count(text)} characters, "
                        + $"but the column {column.Name} allows {limit}.",
                    $"Choose or type the {field.Title.ToLowerInvariant()} yourself."
                )
            );
        }

        if (column.TryRead(text) is { } value)
            return value;
        blockers.Add(
            new Blocker(
                $"{field.Title} would be '{text}', which the column {column.Name} ({column.DeclaredType}) cannot hold.",
                $"Choose or type the {field.Title.ToLowerInvariant()} yourself."
            )
        );
        return survivor.Value;
    }
}
