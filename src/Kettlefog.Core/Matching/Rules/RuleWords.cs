using System.Globalization;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Matching.Rules;

/// <summary>Describes a rule in words.</summary>
public static class RuleWords
{
    /// <summary>The rule, one line each.</summary>
    /// <param name="rule">The rule.</param>
    public static IReadOnlyList<string> Of(MatchRule rule)
    {
        ArgumentNullException.ThrowIfNull(rule);
        var lines = new List<string>();
        if (rule.AnyOf.Count == 0)
            lines.Add($"Proposes pairs that score {Percent(rule.Review)} or more.");
        else
            lines.Add(
                rule.Review > 0
                    ? $"Proposes pairs that score {Percent(rule.Review)} or more and of which"
                    : "Proposes pairs of which"
            );
        for (var group = 0; group < rule.AnyOf.Count; group++)
            lines.Add($"{(group == 0 ? "  " : "  or ")}{string.Join(" and ", rule.AnyOf[group].Select(Of))}");
        lines.AddRange(rule.Never.Select(never => $"Never: {Of(never)}."));
        lines.AddRange(
            rule.Scope.Select(condition =>
                condition.In.Count > 0
                    ? $"Only records whose {condition.Field} is {string.Join(" or ", condition.In)}."
                    : $"Not records whose {condition.Field} is {string.Join(" or ", condition.NotIn)}."
            )
        );
        if (rule.Compare.Count > 0)
            lines.Add($"Only {string.Join(", ", rule.Compare)} count for the score.");
        if (rule.CrossPartitions)
            lines.Add("Records of different partitions are compared too.");
        if (rule.Automatic is { } automatic)
            lines.Add($"A cluster counts as certain from {Percent(automatic)}.");
        return lines;
    }

    /// <summary>The condition of a comparator in words, such as "have the same digits".</summary>
    /// <param name="comparator">The comparator.</param>
    /// <param name="differs">True for the opposite condition.</param>
    public static string Of(Comparator comparator, bool differs) =>
        comparator switch
        {
            Comparator.Exact => differs ? "differ" : "are exactly the same",
            Comparator.IgnoringCase => differs
                ? "differ, ignoring case, accents and punctuation"
                : "are the same, ignoring case, accents and punctuation",
            Comparator.SameDigits => differs ? "have different digits" : "have the same digits",
            Comparator.SameMailbox => differs ? "are different e-mail addresses" : "are the same e-mail address",
            Comparator.SamePhone => differs ? "are different numbers" : "are the same number",
            Comparator.SoundsAlike => differs ? "sound different" : "sound alike",
            Comparator.SameDate => differs ? "are different dates" : "are the same date",
            Comparator.NearNumber => differs ? "differ by more than" : "differ by at most",
            _ => $"are {(differs ? "not " : "")}similar ({EnumName.Of(comparator)})",
        };

    private static string Of(Comparison comparison)
    {
        var words = Of(comparison.Comparator, comparison.Differs);
        return $"the values of {comparison.Field} "
            + comparison.Comparator switch
            {
                Comparator.SamePhone when comparison.Digits is { } digits => $"{words} in the last {digits} digits",
                Comparator.SameDate when comparison.Within > 0 => $"{words} within {comparison.Within} days",
                Comparator.NearNumber => $"{words} {comparison.Within.ToString(CultureInfo.InvariantCulture)}",
                var other when Comparators.TakesSimilarity(other) =>
                    $"are {(comparison.Differs ? "less than" : "at least")} {comparison.AtLeast} % similar "
                        + $"({EnumName.Of(other)})",
                _ => words,
            };
    }

    private static string Percent(double value) => value.ToString("0.##", CultureInfo.InvariantCulture) + " %";
}
