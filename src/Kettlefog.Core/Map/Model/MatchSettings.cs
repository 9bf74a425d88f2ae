namespace Kettlefog.Core.Map.Model;

/// <summary>How duplicates among the records of a type are found.</summary>
/// <param name="Country">The default country of records, as two letters of ISO 3166-1, or null.</param>
/// <param name="Partition">
/// The fields whose values must agree, such as the legal entity, unless a rule crosses them.
/// </param>
/// <param name="Nicknames">Groups of given names that are forms of one name, beyond those that are built in.</param>
/// <param name="Rules">The rules, in the order of the file; empty for the built-in rule.</param>
public sealed record MatchSettings(
    string? Country,
    IReadOnlyList<string> Partition,
    IReadOnlyList<IReadOnlyList<string>> Nicknames,
    IReadOnlyList<MatchRule> Rules
)
{
    /// <summary>The default: only the built-in rule.</summary>
    public static MatchSettings None { get; } = new(null, [], [], []);

    /// <summary>The rules that apply: those of the map, or the built-in one.</summary>
    public IReadOnlyList<MatchRule> RulesOrReady => Rules.Count > 0 ? Rules : [MatchRule.Ready];
}
