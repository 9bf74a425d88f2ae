namespace Kettlefog.Core.Map.Model;

/// <summary>A condition on the value of a field, that a record must meet to be looked at.</summary>
/// <param name="Field">The name of the field.</param>
/// <param name="In">The texts of which the value must be one; empty for any.</param>
/// <param name="NotIn">The texts of which the value must be none.</param>
public sealed record ScopeCondition(string Field, IReadOnlyList<string> In, IReadOnlyList<string> NotIn);

/// <summary>A rule that finds suspected duplicates among the records of a type.</summary>
/// <param name="Name">Its name in commands and addresses.</param>
/// <param name="Title">What it is called.</param>
/// <param name="AnyOf">
/// Groups of comparisons: a pair is proposed if all comparisons of any group hold. Empty: the score alone decides.
/// </param>
/// <param name="Never">Comparisons of which none may hold for two records of one cluster.</param>
/// <param name="Scope">Conditions that a record must meet to be looked at.</param>
/// <param name="CrossPartitions">True if records of different partitions are compared too.</param>
/// <param name="Compare">
/// The names of the fields that the score looks at; empty for all whose kind says who a party is.
/// </param>
/// <param name="Review">The score from which a pair is proposed, in percent.</param>
/// <param name="Automatic">
/// The score from which a cluster may be merged without a look, in percent; null for never.
/// </param>
/// <param name="Master">
/// What speaks for a record as the master, first things first; empty for what the record type says.
/// </param>
/// <param name="Survivorship">Survivorship rules of single fields that replace the map's.</param>
public sealed record MatchRule(
    string Name,
    string Title,
    IReadOnlyList<IReadOnlyList<Comparison>> AnyOf,
    IReadOnlyList<Comparison> Never,
    IReadOnlyList<ScopeCondition> Scope,
    bool CrossPartitions,
    IReadOnlyList<string> Compare,
    double Review,
    double? Automatic,
    IReadOnlyList<MasterPreference> Master,
    IReadOnlyDictionary<string, SurvivorshipRule> Survivorship
)
{
    /// <summary>The score from which a pair is proposed by a rule that does not say, in percent.</summary>
    public const double UsualReview = 70;

    /// <summary>The score from which a cluster counts as certain by a rule that does not say, in percent.</summary>
    public const double UsualAutomatic = 99;

    /// <summary>The rule of record types that have none of their own: the score alone decides.</summary>
    public static MatchRule Ready { get; } =
        new(
            "ready",
            "Ready rule",
            [],
            [],
            [],
            false,
            [],
            UsualReview,
            UsualAutomatic,
            [],
            new Dictionary<string, SurvivorshipRule>()
        );
}
