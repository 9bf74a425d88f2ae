using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Scoring;

namespace Kettlefog.Core.Matching;

/// <summary>How much decisions changed the weight of a finding.</summary>
/// <param name="Name">The name of the feature, such as <c>phone</c>.</param>
/// <param name="Title">The title of the feature, for people.</param>
/// <param name="Words">The finding, as in <c>same phone</c>.</param>
/// <param name="Change">What decisions add to its weight, in bits; negative if it says less than was thought.</param>
public sealed record TaughtWeight(string Name, string Title, string Words, double Change);

/// <summary>A decision that all others contradict.</summary>
/// <param name="Index">Its place in the list of decisions.</param>
/// <param name="Score">The probability that both are the same entity, after learning from all decisions.</param>
/// <param name="Doubt">The probability that the decision was a mistake, from 0 to 1.</param>
public sealed record DoubtfulDecision(int Index, double Score, double Doubt);

/// <summary>What was learned from decisions.</summary>
/// <param name="Matches">The number of pairs decided to be the same entity.</param>
/// <param name="NonMatches">The number of those decided not to be.</param>
/// <param name="Weights">The findings that weigh differently by half a bit or more, most changed first.</param>
/// <param name="Doubtful">The decisions that are likelier mistaken than right, most doubtful first.</param>
public sealed record LearnedFromDecisions(
    int Matches,
    int NonMatches,
    IReadOnlyList<TaughtWeight> Weights,
    IReadOnlyList<DoubtfulDecision> Doubtful
);

/// <content>What operators decide, and what they had best decide next.</content>
public sealed partial class DuplicateFinder
{
    /// <summary>Pairs from here up are as good as certain: deciding them teaches nothing.</summary>
    private const float Settled = 0.985f;

    private const int MaxConsidered = 20_000;

    private const double NotableChange = 0.5;

    // What was decided when the finder was prepared.
    private List<DecidedPair> _decided = [];

    /// <summary>What was learned from decisions when the finder was prepared; null before.</summary>
    public LearnedFromDecisions? Learned { get; private set; }

    private LearnedFromDecisions Describe(Taught taught) =>
        new(
            _decided.Count(pair => pair.Match),
            _decided.Count(pair => !pair.Match),
            [
                .. _model
                    .Evidence.SelectMany(
                        (kind, index) =>
                            kind.Levels.Select(
                                (level, at) =>
                                    new TaughtWeight(kind.Name, kind.Title, level.Words, taught.Weights[index][at])
                            )
                    )
                    .Where(weight => Math.Abs(weight.Change) >= NotableChange)
                    .OrderByDescending(weight => Math.Abs(weight.Change)),
            ],
            [
                .. taught
                    .Doubts.Select(
                        (doubt, index) => new DoubtfulDecision(index, _scorer.Score(_decided[index].Findings), doubt)
                    )
                    .Where(decision => decision.Doubt > 0.5)
                    .OrderByDescending(decision => decision.Doubt)
                    .ThenBy(decision => decision.Index),
            ]
        );

    /// <summary>
    /// The pairs whose decision would teach most: those about which the scores are least certain (Lewis and Gale 1994,
    /// "A Sequential Algorithm for Training Text Classifiers"), and of those with the same findings only a few, because
    /// the second teaches less than the first. Pairs that were decided when the finder was prepared count, too.
    /// </summary>
    /// <param name="pairs">Pairs that were found and are not decided.</param>
    /// <param name="count">The maximum number of pairs.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The pairs, the one that would teach most first.</returns>
    public IReadOnlyList<FoundPair> MostHelpful(
        IEnumerable<FoundPair> pairs,
        int count,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(pairs);
        var met = new Dictionary<ulong, int>();
        foreach (var pair in _decided)
        {
            var pattern = PatternOf(pair.Findings);
            met[pattern] = met.GetValueOrDefault(pattern) + 1;
        }

        var waiting = new PriorityQueue<(FoundPair Pair, ulong Pattern), (double, int, int)>();
        double Gain(FoundPair pair, ulong pattern) =>
            pair.Score * (1 - pair.Score) / (1 + met.GetValueOrDefault(pattern));
        void Wait(FoundPair pair, ulong pattern) =>
            waiting.Enqueue((pair, pattern), (-Gain(pair, pattern), pair.A, pair.B));

        foreach (
            var pair in pairs
                .Where(pair => pair.Score < Settled)
                .OrderBy(pair => Math.Abs(pair.Score - 0.5f))
                .ThenBy(pair => pair, ByNumber)
                .Take(MaxConsidered)
        )
        {
            cancellationToken.ThrowIfCancellationRequested();
            Wait(pair, PatternOf(Findings(pair.A, pair.B)));
        }

        var chosen = new List<FoundPair>();
        while (chosen.Count < count && waiting.TryDequeue(out var next, out var order))
        {
            if (Gain(next.Pair, next.Pattern) < -order.Item1)
            {
                Wait(next.Pair, next.Pattern);
                continue;
            }

            met[next.Pattern] = met.GetValueOrDefault(next.Pattern) + 1;
            chosen.Add(next.Pair);
        }

        return chosen;
    }

    /// <summary>The same for pairs about which the same was found, whatever their values.</summary>
    private static ulong PatternOf(Finding[] findings)
    {
        ulong pattern = 0;
        foreach (var finding in findings)
            pattern = Blocking.KeyParts.Mix((pattern * 31) + (uint)(finding.Level + 2));
        return pattern;
    }
}
