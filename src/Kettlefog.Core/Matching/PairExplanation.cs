using Kettlefog.Core.Matching.Scoring;

namespace Kettlefog.Core.Matching;

/// <summary>One piece of evidence about a pair, in words.</summary>
/// <param name="Name">The name of the feature, such as <c>phone</c>.</param>
/// <param name="Title">The title of the feature, for people.</param>
/// <param name="Words">What was found, as in <c>same phone</c>.</param>
/// <param name="Weight">What it adds to the binary logarithm of the odds; negative if it contradicts a match.</param>
public sealed record EvidenceItem(string Name, string Title, string Words, double Weight)
{
    private const double ClearWeight = 2;

    /// <summary>
    /// True if it clearly contradicts a match. What contradicts slightly may be a sameness that many have who are not
    /// the same, as an address within a household.
    /// </summary>
    internal bool Contradicts => Weight <= -ClearWeight;

    /// <summary>
    /// Its strength: <c>supports strongly</c>, <c>supports</c>, <c>supports slightly</c>, <c>neutral</c>, and likewise
    /// <c>contradicts</c>.
    /// </summary>
    public string Strength =>
        Math.Abs(Weight) switch
        {
            < 0.5 => "neutral",
            < ClearWeight => Weight > 0 ? "supports slightly" : "contradicts slightly",
            < 5 => Weight > 0 ? "supports" : "contradicts",
            _ => Weight > 0 ? "supports strongly" : "contradicts strongly",
        };
}

/// <summary>The score of two records, explained.</summary>
/// <param name="Entity">What the records are taken for, which decides what is compared.</param>
/// <param name="Score">The probability that both are the same entity, from 0 to 1.</param>
/// <param name="Rule">The rule that gives the score, or null if no rule applies to the pair.</param>
/// <param name="Proposed">True if the rule proposes the pair.</param>
/// <param name="Evidence">The evidence, strongest first.</param>
/// <param name="PriorWeight">The binary logarithm of the odds before anything was compared.</param>
/// <param name="Missing">The features that could not be compared, because a value is missing.</param>
/// <param name="ComparedByScan">True if the two share a blocking key, so that a scan would compare them.</param>
/// <param name="Notes">Other facts that decide whether the pair is proposed, one sentence each.</param>
public sealed record PairExplanation(
    EntityKind Entity,
    double Score,
    string? Rule,
    bool Proposed,
    IReadOnlyList<EvidenceItem> Evidence,
    double PriorWeight,
    IReadOnlyList<string> Missing,
    bool ComparedByScan,
    IReadOnlyList<string> Notes
)
{
    private const int MaxFindingsInSummary = 3;

    /// <summary>The strongest evidence, in a few words.</summary>
    public string InShort => Shorten(Evidence);

    /// <summary>The strongest of some evidence, in a few words.</summary>
    /// <param name="evidence">The evidence, strongest first.</param>
    internal static string Shorten(IEnumerable<EvidenceItem> evidence) =>
        string.Join(
            ", but ",
            evidence
                .Take(MaxFindingsInSummary)
                .GroupBy(each => each.Contradicts, each => each.Words)
                .OrderBy(group => group.Key)
                .Select(group => string.Join(", ", group))
        );
}
