namespace Kettlefog.Core.Matching;

/// <summary>One piece of evidence about a pair, in words.</summary>
/// <param name="Name">What it is about, such as <c>phone</c>.</param>
/// <param name="Title">The same, for people.</param>
/// <param name="Words">What was found, as in <c>same phone</c>.</param>
/// <param name="Weight">What it adds to the binary logarithm of the odds; negative if it speaks against.</param>
public sealed record EvidenceItem(string Name, string Title, string Words, double Weight)
{
    /// <summary>
    /// How strongly it speaks: <c>strongly for</c>, <c>for</c>, <c>slightly for</c>, <c>says little</c>, and likewise
    /// against.
    /// </summary>
    public string Strength =>
        Math.Abs(Weight) switch
        {
            < 0.5 => "says little",
            < 2 => Weight > 0 ? "slightly for" : "slightly against",
            < 5 => Weight > 0 ? "for" : "against",
            _ => Weight > 0 ? "strongly for" : "strongly against",
        };
}

/// <summary>The score of two records, explained.</summary>
/// <param name="Score">The probability that both are one party, from 0 to 1.</param>
/// <param name="Rule">The rule that gives the score, or null if no rule looks at the pair.</param>
/// <param name="Proposed">True if the rule proposes the pair.</param>
/// <param name="Evidence">The evidence, strongest first.</param>
/// <param name="PriorWeight">What the binary logarithm of the odds was before anything was compared.</param>
/// <param name="Missing">What could not be compared, because a value is missing.</param>
/// <param name="ComparedByScan">True if blocking brings the two together, so that a scan would compare them.</param>
/// <param name="Notes">What else decides, one sentence each.</param>
public sealed record PairExplanation(
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

    /// <summary>The strongest evidence, in few words.</summary>
    public string InShort => Shorten(Evidence);

    /// <summary>The strongest of some evidence, in few words.</summary>
    /// <param name="evidence">The evidence, strongest first.</param>
    internal static string Shorten(IEnumerable<EvidenceItem> evidence) =>
        string.Join(
            ", ",
            evidence.Take(MaxFindingsInSummary).Select(each => each.Weight < -0.5 ? $"but {each.Words}" : each.Words)
        );
}
