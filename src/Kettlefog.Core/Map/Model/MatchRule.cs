namespace Kettlefog.Core.Map.Model;

/// <summary>A condition on the value of a field that a record must meet to be in scope.</summary>
/// <param name="Field">The name of the field.</param>
/// <param name="In">The texts of which the value must be one; empty for any.</param>
/// <param name="NotIn">The texts that the value must not be.</param>
public sealed record ScopeCondition(string Field, IReadOnlyList<string> In, IReadOnlyList<string> NotIn);

/// <summary>A rule that finds suspected duplicates among the records of a type.</summary>
/// <param name="Name">Its name in commands and addresses.</param>
/// <param name="Title">Its title, for people.</param>
/// <param name="AnyOf">
/// Groups of comparisons: a pair is proposed if all comparisons of any group hold. Empty if the score alone decides.
/// </param>
/// <param name="Never">Comparisons that must not hold for any two records of a cluster.</param>
/// <param name="Scope">Conditions that a record must meet to be in scope.</param>
/// <param name="CrossPartitions">True if records of different partitions are compared too.</param>
/// <param name="Compare">
/// The names of the fields that the score uses; empty for all fields whose kind identifies a record.
/// </param>
/// <param name="Review">The score from which a pair is proposed, in percent.</param>
/// <param name="Automatic">
/// The score from which a cluster may be merged without review, in percent; null for never.
/// </param>
/// <param name="Master">
/// The preferences for the master, most important first; empty for those of the record type.
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
    /// <summary>
    /// The default score from which a rule proposes a pair, in percent. F1 is best at half of the best F1 that can be
    /// had, where scores are probabilities that hold (Lipton, Elkan and Naryanaswamy 2014, "Optimal Thresholding of
    /// Classifiers to Maximize F1 Measure"): a little below 50 for the 0.96 to 0.98 of made-up records.
    /// </summary>
    public const double DefaultReview = 50;

    /// <summary>
    /// The default score from which a cluster counts as certain, in percent: of the pairs from here up, at least 999 in
    /// 1,000 are to be right.
    /// </summary>
    public const double DefaultAutomatic = 99;

    /// <summary>The built-in rule, for record types without rules of their own: the score alone decides.</summary>
    public static MatchRule Ready { get; } =
        new(
            "ready",
            "Ready rule",
            [],
            [],
            [],
            false,
            [],
            DefaultReview,
            DefaultAutomatic,
            [],
            new Dictionary<string, SurvivorshipRule>()
        );
}
