using System.Globalization;
using Kettlefog.Core.Maps;

namespace Kettlefog.Core.Matching.Rules;

/// <summary>Says in words what a rule does.</summary>
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
            lines.Add(rule.Review > 0 ? $"Proposes pairs that score {Percent(rule.Review)} or more and of which" : "Proposes pairs of which");
        for (var group = 0; group < rule.AnyOf.Count; group++)
            lines.Add($"{(group == 0 ? "  " : "  or ")}{string.Join(" and ", rule.AnyOf[group].Select(Of))}");
        lines.AddRange(rule.Never.Select(never => $"Never: {Of(never)}."));
        lines.AddRange(rule.Scope.Select(condition => condition.In.Count > 0
            ? $"Only records whose {condition.Field} is {string.Join(" or ", condition.In)}."
            : $"Not records whose {condition.Field} is {string.Join(" or ", condition.NotIn)}."));
        if (rule.Compare.Count > 0)
            lines.Add($"The score looks at {string.Join(", ", rule.Compare)} only.");
        if (rule.CrossPartitions)
            lines.Add("Compares records of different partitions too.");
        if (rule.Automatic is { } automatic)
            lines.Add($"A cluster counts as certain from {Percent(automatic)}.");
        return lines;
    }

    private static string Of(Comparison comparison)
    {
        var name = WrittenName.Of(comparison.Comparator);
        var words = comparison.Comparator switch
        {
            Comparator.Exact => comparison.Differs ? "differ" : "are exactly the same",
            Comparator.IgnoringCase => comparison.Differs ? "differ, ignoring case, accents and punctuation" : "are the same, ignoring case, accents and punctuation",
            Comparator.SameDigits => comparison.Differs ? "have different digits" : "have the same digits",
            Comparator.SameMailbox => comparison.Differs ? "lead to different mailboxes" : "lead to the same mailbox",
            Comparator.SamePhone => (comparison.Differs ? "are different numbers" : "are the same number") + (comparison.Digits is { } digits ? $" in the last {digits} digits" : ""),
            Comparator.SoundsAlike => comparison.Differs ? "sound different" : "sound alike",
            Comparator.SameDate => (comparison.Differs ? "are different dates" : "are the same date") + (comparison.Within > 0 ? $" within {comparison.Within} days" : ""),
            Comparator.NearNumber => $"differ by {(comparison.Differs ? "more than" : "at most")} {comparison.Within.ToString(CultureInfo.InvariantCulture)}",
            _ => $"are {(comparison.Differs ? "less than" : "at least")} {comparison.AtLeast} % alike ({name})",
        };
        return $"the values of {comparison.Field} {words}";
    }

    private static string Percent(double value) => value.ToString("0.##", CultureInfo.InvariantCulture) + " %";
}
