using Kettlefog.Core.Matching;
using Kettlefog.Database.Duplicates.Finding;

namespace Kettlefog.Database.Duplicates.Scans;

/// <summary>A pair that had best be decided next.</summary>
/// <param name="A">The key of one record.</param>
/// <param name="B">The key of the other.</param>
/// <param name="Score">The probability that both are the same entity, from 0 to 1.</param>
/// <param name="Evidence">The strongest evidence, in a few words.</param>
/// <param name="Proposed">True if a rule proposes the pair.</param>
public sealed record HelpfulPair(string A, string B, double Score, string Evidence, bool Proposed);

/// <summary>A merge or decision that all others contradict.</summary>
/// <param name="Number">The number of its history entry.</param>
/// <param name="Score">
/// The probability that the two records of it that contradict most are the same entity, from 0 to 1.
/// </param>
/// <param name="Doubt">The probability that it was a mistake, from 0 to 1.</param>
public sealed record DoubtfulEntry(long Number, double Score, double Doubt);

/// <summary>What a scan learned from decisions, and which it would learn most from.</summary>
/// <param name="Matches">The number of pairs that were merged.</param>
/// <param name="NonMatches">The number of pairs marked as not duplicates.</param>
/// <param name="Weights">The findings that weigh differently since, most changed first.</param>
/// <param name="Doubtful">The merges and decisions that all others contradict, most doubtful first.</param>
/// <param name="ToDecide">The pairs whose decision would teach most, most helpful first.</param>
public sealed record ScanLearning(
    int Matches,
    int NonMatches,
    IReadOnlyList<TaughtWeight> Weights,
    IReadOnlyList<DoubtfulEntry> Doubtful,
    IReadOnlyList<HelpfulPair> ToDecide
)
{
    private const int MaxDoubtful = 50,
        MaxToDecide = 60;

    /// <summary>Reports what a finder learned.</summary>
    internal static ScanLearning Of(
        LoadedFinder loaded,
        IEnumerable<FoundPair> pairs,
        CancellationToken cancellationToken
    )
    {
        var learned = loaded.Finder.Learned!;
        return new ScanLearning(
            learned.Matches,
            learned.NonMatches,
            learned.Weights,
            [
                .. learned
                    .Doubtful.Select(each => new DoubtfulEntry(
                        loaded.DecisionNumbers[each.Index],
                        Math.Round(each.Score, StoredPair.Decimals),
                        Math.Round(each.Doubt, 4)
                    ))
                    .DistinctBy(each => each.Number)
                    .Take(MaxDoubtful),
            ],
            [
                .. loaded
                    .Finder.MostHelpful(pairs, MaxToDecide, cancellationToken)
                    .Select(pair => new HelpfulPair(
                        loaded.Keys[pair.A],
                        loaded.Keys[pair.B],
                        Math.Round(pair.Score, StoredPair.Decimals),
                        loaded.Finder.SummaryOf(pair.A, pair.B),
                        pair.Proposed
                    )),
            ]
        );
    }
}
