using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Map.Reading;

/// <summary>Checks that the names used within a record type exist.</summary>
internal static class NameCheck
{
    /// <summary>Reports every unknown name.</summary>
    public static void Run(RecordType type, MapNode node, MapProblems problems, Dictionary<string, int> lines)
    {
        var known = type.Fields.Select(field => field.Name).ToList();
        var used = type
            .Blockers.MustAgree.Select(name => (name, path: node.Join("blockers.must_agree")))
            .Concat(type.Blockers.Forbid.Keys.Select(name => (name, path: node.Join($"blockers.forbid.{name}"))))
            .Concat(
                type.Fields.SelectMany(field =>
                    (field.Overflow ?? []).Select(name => (name, path: node.Join($"fields.{field.Name}.overflow")))
                )
            )
            .Concat(
                type.Fields.Where(field => field.Currency is not null)
                    .Select(field => (name: field.Currency!, path: node.Join($"fields.{field.Name}.currency")))
            )
            .Concat(Braces(type.Label).Select(name => (name, path: node.Join("label"))));
        foreach (var (name, path) in used.Where(pair => !known.Contains(pair.name)))
            problems.Add(
                lines.GetValueOrDefault(path, node.Line),
                $"'{path}' names the field '{name}', which the record type does not have.",
                Spelling.Instead(name, known)
            );
        foreach (var field in type.Fields.Where(field => (field.Overflow ?? []).Contains(field.Name)))
            problems.Add(
                lines.GetValueOrDefault(node.Join($"fields.{field.Name}.overflow"), node.Line),
                $"The field '{field.Name}' overflows into itself.",
                "Name the further fields, such as phone_2."
            );
        foreach (var field in type.Fields.Where(field => field.Currency is not null && field.Kind != FieldKind.Money))
            problems.Add(
                lines.GetValueOrDefault(node.Join($"fields.{field.Name}.currency"), node.Line),
                $"The field '{field.Name}' has a currency, but is not of the kind money.",
                "Add 'kind: money', or remove 'currency'."
            );
        CheckRules(type, node, problems, lines);
        foreach (
            var (field, reference) in type
                .Fields.Where(field => field.OverflowRows is not null)
                .Select(field => (field.Name, field.OverflowRows!.Reference))
                .Where(pair =>
                    pair.Reference.Length > 0
                    && type.References.All(reference =>
                        reference.Name != pair.Reference || reference.Policy != ReferencePolicy.Reassign
                    )
                )
        )
            problems.Add(
                lines.GetValueOrDefault(node.Join($"fields.{field}.overflow_rows"), node.Line),
                $"'{node.Join($"fields.{field}.overflow_rows")}' names the reference '{reference}', which "
                    + "the record type does not have, or does not reassign.",
                Spelling.Instead(reference, type.References.Select(each => each.Name))
            );
        foreach (
            var name in type
                .Blockers.AtMostOne.Select(rule => rule.Reference)
                .Where(name => type.References.All(reference => reference.Name != name))
        )
            problems.Add(
                lines.GetValueOrDefault(node.Join("blockers.at_most_one"), node.Line),
                $"'{node.Join("blockers.at_most_one")}' names the reference '{name}', which the record "
                    + "type does not have.",
                Spelling.Instead(name, type.References.Select(reference => reference.Name))
            );
        foreach (
            var twice in type
                .Fields.GroupBy(field => field.Column, StringComparer.OrdinalIgnoreCase)
                .Where(group => group.Count() > 1)
        )
        {
            var path = node.Join($"fields.{twice.Last().Name}");
            problems.Add(
                lines.GetValueOrDefault(path, node.Line),
                $"'{path}' has the same column as '{twice.First().Name}'.",
                "Keep only one field for the column."
            );
        }
    }

    /// <summary>A rule that needs what the map does not provide would choose at random.</summary>
    private static void CheckRules(RecordType type, MapNode node, MapProblems problems, Dictionary<string, int> lines)
    {
        var used = type
            .Fields.Where(field => field.Survivorship is not null)
            .Select(field => (Rule: field.Survivorship!.Value, Path: node.Join($"fields.{field.Name}.survivorship")))
            .Append((type.Survivorship, node.Join("survivorship")));
        foreach (var (rule, path) in used)
        {
            var missing = rule switch
            {
                SurvivorshipRule.Newest when type.Changed is null => "changed",
                SurvivorshipRule.Oldest when type.Created is null => "created",
                SurvivorshipRule.SourceOrder when type.Source is null => "source",
                SurvivorshipRule.SourceOrder when type.SourceOrder.Count == 0 => "source_order",
                _ => null,
            };
            if (missing is not null)
                problems.Add(
                    lines.GetValueOrDefault(path, node.Line),
                    $"The rule '{EnumName.Of(rule)}' needs '{missing}', which '{node.Path}' does not give.",
                    missing == "source_order"
                        ? "Write 'source_order: [ledger, import]'."
                        : $"Write '{missing}: column'."
                );
        }
    }

    private static IEnumerable<string> Braces(string label)
    {
        for (var open = label.IndexOf('{'); open >= 0; open = label.IndexOf('{', open + 1))
        {
            var close = label.IndexOf('}', open);
            if (close < 0)
                yield break;
            yield return label[(open + 1)..close];
        }
    }
}
