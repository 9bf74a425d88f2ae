using System.Globalization;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Map.Reading;

/// <summary>Writes match rules as <see cref="MatchRuleReader"/> reads them.</summary>
public static class MatchRuleWriter
{
    /// <summary>Writes a rule.</summary>
    /// <param name="rule">The rule.</param>
    /// <returns>YAML without the rule's name; read again, it is the same rule.</returns>
    public static string Write(MatchRule rule)
    {
        ArgumentNullException.ThrowIfNull(rule);
        var lines = new List<string> { $"title: {YamlScalar.Of(rule.Title)}" };
        Sequence(lines, "any_of", rule.AnyOf.Select(group => Flow(group.Select(Of))));
        Sequence(lines, "never", rule.Never.Select(Of));
        Sequence(lines, "scope", rule.Scope.Select(Of));
        if (rule.CrossPartitions)
            lines.Add("cross_partitions: true");
        if (rule.Compare.Count > 0)
            lines.Add($"compare: {Flow(rule.Compare.Select(YamlScalar.Of))}");
        if (rule.Review > 0)
            lines.Add($"review: {Number(rule.Review)}");
        if (rule.Automatic is { } automatic)
            lines.Add($"automatic: {Number(automatic)}");
        if (rule.Master.Count > 0)
            lines.Add($"master: {Flow(rule.Master.Select(Of))}");
        if (rule.Survivorship.Count > 0)
            lines.Add(
                $"survivorship: {Mapping(rule.Survivorship.Select(each => (each.Key, EnumName.Of(each.Value))))}"
            );
        return string.Join('\n', lines) + "\n";
    }

    private static void Sequence(List<string> lines, string key, IEnumerable<string> items)
    {
        var written = items.Select(item => $"  - {item}").ToList();
        if (written.Count == 0)
            return;
        lines.Add($"{key}:");
        lines.AddRange(written);
    }

    private static string Of(Comparison comparison)
    {
        var parts = new List<(string, string)>
        {
            ("field", YamlScalar.Of(comparison.Field)),
            (comparison.Differs ? "differs" : "is", EnumName.Of(comparison.Comparator)),
        };
        if (Comparators.TakesSimilarity(comparison.Comparator))
            parts.Add(("at_least", Number(comparison.AtLeast)));
        if (comparison.Within > 0)
            parts.Add(("within", comparison.Within.ToString(CultureInfo.InvariantCulture)));
        if (comparison.Digits is { } digits)
            parts.Add(("digits", Number(digits)));
        return Mapping(parts);
    }

    private static string Of(ScopeCondition condition)
    {
        var parts = new List<(string, string)> { ("field", YamlScalar.Of(condition.Field)) };
        if (condition.In.Count > 0)
            parts.Add(("in", Flow(condition.In.Select(YamlScalar.Of))));
        if (condition.NotIn.Count > 0)
            parts.Add(("not_in", Flow(condition.NotIn.Select(YamlScalar.Of))));
        return Mapping(parts);
    }

    private static string Of(MasterPreference preference) =>
        preference.Criterion switch
        {
            MasterCriterion.Source => Mapping([("source", Flow(preference.Sources.Select(YamlScalar.Of)))]),
            MasterCriterion.Has => Mapping([("has", YamlScalar.Of(preference.Reference!))]),
            var word => EnumName.Of(word),
        };

    private static string Mapping(IEnumerable<(string Key, string Value)> parts) =>
        $"{{ {string.Join(", ", parts.Select(part => $"{part.Key}: {part.Value}"))} }}";

    private static string Flow(IEnumerable<string> items) => $"[{string.Join(", ", items)}]";

    private static string Number(double value) => value.ToString("0.####", CultureInfo.InvariantCulture);
}
