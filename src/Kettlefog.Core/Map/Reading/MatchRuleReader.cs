using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Map.Reading;

/// <summary>Reads match rules from YAML, of which JSON is a part.</summary>
public static class MatchRuleReader
{
    internal static readonly string[] RuleKeys =
    [
        "title",
        "any_of",
        "never",
        "scope",
        "cross_partitions",
        "compare",
        "review",
        "automatic",
        "master",
        "survivorship",
    ];

    internal static readonly string[] ComparisonKeys = ["field", "is", "differs", "at_least", "within", "digits"];

    internal static readonly string[] ConditionKeys = ["field", "in", "not_in"];

    private const int DefaultSimilarity = 85;

    /// <summary>Reads a single rule.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="text">The rule, as under its name in a map; YAML or JSON.</param>
    /// <param name="type">The record type.</param>
    /// <exception cref="KettlefogException">
    /// The rule is wrong; every mistake is in the details with its line.
    /// </exception>
    public static MatchRule Read(string name, string text, RecordType type)
    {
        ArgumentNullException.ThrowIfNull(type);
        if (
            name.Length == 0
            || !char.IsAsciiLetterLower(name[0])
            || !name.All(letter => char.IsAsciiLetterLower(letter) || char.IsAsciiDigit(letter) || letter == '_')
        )
            throw new KettlefogException(
                ErrorCode.InvalidRule,
                $"'{name}' is not a valid name for a rule.",
                "Use lower-case letters, digits and '_', starting with a letter."
            );
        try
        {
            var problems = new MapProblems("rule");
            var yaml = string.IsNullOrWhiteSpace(text) ? [] : MapReader.Load(text, problems);
            var rule = Read(
                name,
                new MapNode(yaml, "", problems, []),
                type.Fields,
                [.. type.References.Select(reference => reference.Name)],
                type.Source is not null,
                problems
            );
            problems.ThrowIfAny();
            return rule;
        }
        catch (KettlefogException refusal) when (refusal.Code == ErrorCode.InvalidMap)
        {
            throw new KettlefogException(
                ErrorCode.InvalidRule,
                $"The rule '{name}' has "
                    + $"{(refusal.Details.Count == 1 ? "a mistake" : $"{refusal.Details.Count} mistakes")}.",
                "Correct it and send it again.",
                refusal.Details,
                refusal
            );
        }
    }

    internal static MatchRule Read(
        string name,
        MapNode node,
        IReadOnlyList<Field> fields,
        IReadOnlyList<string> references,
        bool hasSource,
        MapProblems problems
    )
    {
        node.Only(RuleKeys);
        var review = Percent(node, "review", problems);
        var automatic = Percent(node, "automatic", problems);
        var anyOf = node.Groups("any_of")
            .Select(group =>
                (IReadOnlyList<Comparison>)[.. group.Select(each => ReadComparison(each, fields, problems))]
            )
            .ToList();
        var from = review ?? (anyOf.Count > 0 ? 0 : MatchRule.DefaultReview);
        if (automatic < from)
            problems.Add(
                node.Line,
                $"The rule '{name}' has 'automatic' {automatic} %, below its 'review' {from} %.",
                "Set 'automatic' to at least 'review'."
            );
        foreach (var empty in anyOf.Where(group => group.Count == 0))
            problems.Add(
                node.Line,
                $"The rule '{name}' has an empty group under 'any_of'.",
                "Add at least one comparison, or remove the group."
            );
        var compare = node.Texts("compare");
        foreach (var unknown in compare.Where(each => fields.IndexOf(each) < 0))
            Unknown(unknown, node, fields, problems);
        var survivorship = new Dictionary<string, SurvivorshipRule>();
        if (node.Child("survivorship") is { } overrides)
        {
            foreach (var field in overrides.Keys)
            {
                if (fields.IndexOf(field) < 0)
                    Unknown(field, overrides, fields, problems);
                else if (overrides.Word<SurvivorshipRule>(field) is { } rule)
                    survivorship[field] = rule;
            }
        }

        return new MatchRule(
            name,
            node.Text("title") ?? Title.Of(name),
            anyOf,
            [.. node.Items("never").Select(each => ReadComparison(each, fields, problems))],
            [.. node.Items("scope").Select(each => ReadCondition(each, fields, problems))],
            node.Flag("cross_partitions"),
            compare,
            (double)from,
            automatic is { } certain ? (double)certain : MatchRule.DefaultAutomatic,
            MasterPreferenceReader.Read(node, references, hasSource, problems),
            survivorship
        );
    }

    private static double? Percent(MapNode node, string key, MapProblems problems)
    {
        var number = node.Number(key);
        if (number is not (< 1 or > 100))
            return (double?)number;
        problems.Add(
            node.Line,
            $"'{key}' is {number}, which is not a percentage from 1 to 100.",
            "Write a percentage from 1 to 100."
        );
        return null;
    }

    private static Comparison ReadComparison(MapNode node, IReadOnlyList<Field> fields, MapProblems problems)
    {
        node.Only(ComparisonKeys);
        var name = node.RequiredText("field", fields[0].Name);
        var field = fields.FirstOrDefault(each => each.Name == name);
        if (field is null && name.Length > 0)
            Unknown(name, node, fields, problems);
        if (node.Has("is") == node.Has("differs"))
            problems.Add(
                node.Line,
                $"The comparison of '{name}' must have either 'is' or 'differs'.",
                "Write 'is: exact' or 'differs: exact'."
            );
        var differs = node.Has("differs");
        var comparator = node.Word<Comparator>(differs ? "differs" : "is") ?? Comparator.Exact;
        if (field is not null && !Comparators.Fits(comparator, field.Kind))
            problems.Add(
                node.Line,
                $"'{EnumName.Of(comparator)}' does not fit '{name}', which is of the kind {EnumName.Of(field.Kind)}.",
                $"Fitting are: {string.Join(", ", Comparators.Fitting(field.Kind).Select(EnumName.Of))}."
            );
        var atLeast = node.Number("at_least");
        if (atLeast is not null && (atLeast is < 1 or > 100 || !Comparators.TakesSimilarity(comparator)))
        {
            problems.Add(
                node.Line,
                !Comparators.TakesSimilarity(comparator)
                    ? $"'{EnumName.Of(comparator)}' gives only yes or no, so 'at_least' does not apply."
                    : $"'at_least' is {atLeast}, which is not a percentage from 1 to 100.",
                !Comparators.TakesSimilarity(comparator)
                    ? "Remove 'at_least', or use a similarity such as jaro-winkler."
                    : "Write a percentage from 1 to 100."
            );
        }

        var within = node.Number("within") ?? 0;
        if (within < 0 || (within > 0 && comparator is not (Comparator.SameDate or Comparator.NearNumber)))
            problems.Add(
                node.Line,
                $"'within: {within}' does not fit '{EnumName.Of(comparator)}'.",
                "Use it with 'same-date' (days) or 'near-number', and not below 0."
            );
        var digits = node.Number("digits");
        if (digits is not null && (digits is < 4 or > 15 || comparator != Comparator.SamePhone))
            problems.Add(
                node.Line,
                $"'digits: {digits}' does not fit '{EnumName.Of(comparator)}'.",
                "Use it with 'same-phone', from 4 to 15."
            );
        return new Comparison(name, comparator, differs, (int)(atLeast ?? DefaultSimilarity), within, (int?)digits);
    }

    private static ScopeCondition ReadCondition(MapNode node, IReadOnlyList<Field> fields, MapProblems problems)
    {
        node.Only(ConditionKeys);
        var name = node.RequiredText("field", fields[0].Name);
        if (name.Length > 0 && fields.IndexOf(name) < 0)
            Unknown(name, node, fields, problems);
        var condition = new ScopeCondition(name, node.Texts("in"), node.Texts("not_in"));
        if (condition.In.Count + condition.NotIn.Count == 0)
            problems.Add(node.Line, $"The condition on '{name}' is empty.", "Write 'in: [...]' or 'not_in: [...]'.");
        return condition;
    }

    private static void Unknown(string name, MapNode node, IReadOnlyList<Field> fields, MapProblems problems) =>
        problems.Add(
            node.Line,
            $"The record type has no field '{name}'.",
            Spelling.Instead(name, fields.Select(field => field.Name))
        );
}
