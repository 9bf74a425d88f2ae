using Kettlefog.Core.Matching.Evidence;

namespace Kettlefog.Core.Matching.Scoring;

/// <summary>
/// The outcome of learning: evidence and relations with new probabilities, and the number of duplicates.
/// </summary>
/// <param name="Evidence">The evidence.</param>
/// <param name="Relations">The relations.</param>
/// <param name="Duplicates">The number of matching pairs per record.</param>
/// <param name="Rounds">The number of rounds.</param>
/// <param name="Taught">What decisions taught.</param>
internal sealed record LearnedScores(
    EvidenceKind[] Evidence,
    Relation[] Relations,
    double Duplicates,
    int Rounds,
    Taught Taught
);

/// <summary>
/// Learns probabilities from the data by expectation and maximisation (Dempster, Laird and Rubin 1977; for record
/// linkage Winkler 1988), held to the defaults: they count like so many pairs seen before (a Dirichlet prior), no
/// probability drifts from its default by more than a factor, and a stronger agreement never weighs less than a weaker
/// one. Otherwise "same household" explains the data better than "same person".
/// </summary>
internal static class ScoreLearner
{
    /// <summary>The defaults count like so many matching pairs.</summary>
    private const double PriorPairs = 400;

    /// <summary>A probability is at most so many times, and at least so much part of, its default.</summary>
    private const double MaxShift = 2.5;

    private const double MaxShiftOfDifference = 1.4;

    private const double MaxShiftOfOdds = 2;

    private const int MaxRounds = 12;

    /// <summary>The minimum change of a probability that is worth another round.</summary>
    private const double Settled = 0.002;

    /// <summary>Sets the u-probabilities from pairs that were drawn at random, which almost never match.</summary>
    /// <param name="evidence">The evidence with its defaults.</param>
    /// <param name="random">The findings about each pair.</param>
    public static EvidenceKind[] WithRandomPairs(EvidenceKind[] evidence, IReadOnlyList<Finding[]> random)
    {
        return
        [
            .. evidence.Select(
                (kind, index) =>
                {
                    var seen = new double[kind.Levels.Length];
                    foreach (var pair in random)
                    {
                        if (pair[index].Level < 0)
                            continue;
                        seen[pair[index].Level]++;
                    }

                    var all = seen.Sum();
                    if (all < 100)
                        return kind;
                    return kind with
                    {
                        // How often equal values occur by chance is known exactly from their frequencies; how much more
                        // often similar values occur is estimated from the pairs.
                        Levels =
                        [
                            .. kind.Levels.Select(
                                (level, at) =>
                                    level.ByFrequency
                                        ? at == 0 || seen[0] < 30
                                            ? level
                                            : level with
                                            {
                                                Random = Near(level.Random, (seen[at] + 5) / (seen[0] + 5), 4),
                                            }
                                        : level with
                                        {
                                            Random = Near(
                                                level.Random,
                                                (seen[at] + (level.Random * 200)) / (all + 200),
                                                8
                                            ),
                                        }
                            ),
                        ],
                    };
                }
            ),
        ];
    }

    /// <summary>Learns from pairs that blocking brought together.</summary>
    /// <param name="evidence">The evidence with its defaults.</param>
    /// <param name="relations">The relations with their defaults.</param>
    /// <param name="population">The number of records.</param>
    /// <param name="duplicates">The default number of matching pairs per record.</param>
    /// <param name="pairs">The findings about a sample of the pairs.</param>
    /// <param name="share">The share of the records whose pairs are in the sample.</param>
    public static LearnedScores Learn(
        EvidenceKind[] evidence,
        Relation[] relations,
        int population,
        double duplicates,
        IReadOnlyList<Finding[]> pairs,
        double share
    )
    {
        evidence = [.. evidence.Select(kind => kind with { Levels = Monotone(kind.Levels) })];
        var learned = new LearnedScores(evidence, relations, duplicates, 0, Taught.Nothing(Calibration.None, evidence));
        if (pairs.Count == 0)
            return learned;
        for (var round = 1; round <= MaxRounds; round++)
        {
            var next = Round(learned);
            var change = learned
                .Evidence.Zip(next.Evidence)
                .Max(pair =>
                    pair.First.Levels.Zip(pair.Second.Levels)
                        .Max(level => Math.Abs(level.First.Match - level.Second.Match))
                );
            learned = next with { Rounds = round };
            if (change < Settled)
                break;
        }

        return learned;

        LearnedScores Round(LearnedScores now)
        {
            var scorer = new PairScorer(now.Evidence, now.Relations, population, now.Duplicates);
            var shares = new double[2 + relations.Length];
            var counts = new Counts(evidence, relations.Length);
            foreach (var pair in pairs)
            {
                scorer.Shares(pair, shares);
                counts.Add(pair, shares);
            }

            var (matches, related) = (counts.All[0], counts.All[1..]);

            // Each pair was reached from one record of the sample.
            var perRecord = matches / Math.Max(1, share * population);
            return new LearnedScores(
                counts.Maximise(now.Evidence),
                [
                    .. relations.Select(
                        (relation, index) =>
                            relation with
                            {
                                Odds = Near(
                                    relation.Odds,
                                    (matches + 50) / (related[1 + index] + (50 / relation.Odds)),
                                    MaxShiftOfOdds
                                ),
                            }
                    ),
                ],
                Near(duplicates, Math.Max(perRecord, 1e-6), 20),
                0,
                now.Taught
            );
        }
    }

    /// <summary>
    /// Evidence that is weaker by its meaning never weighs more against a relation than the one before it: a misspelt
    /// name cannot distinguish two people better than the same name. And a difference never supports a match.
    /// </summary>
    private static EvidenceLevel[] Monotone(EvidenceLevel[] levels)
    {
        var held = levels.ToArray();
        for (var at = 1; at < held.Length; at++)
        {
            var before = held[at - 1];
            var level = held[at];
            held[at] = level with
            {
                Related =
                [
                    .. level.Related.Select(
                        (share, relation) => Math.Max(share, level.Match * before.Related[relation] / before.Match)
                    ),
                ],
            };
        }

        // Related entities may share what one entity changes, such as an address: then a difference is no evidence.
        var last = held[^1];
        held[^1] = last with
        {
            Match = last.ByFrequency ? last.Match : Math.Min(last.Match, last.Random),
            Related = [.. last.Related.Select(share => Math.Max(share, last.Match))],
        };
        return held;
    }

    private static double Near(double origin, double value, double factor) =>
        Math.Clamp(value, origin / factor, origin * factor);

    /// <summary>How often each level occurred in each class.</summary>
    private sealed class Counts(EvidenceKind[] defaults, int relations)
    {
        private readonly double[][,] _met = [.. defaults.Select(kind => new double[kind.Levels.Length, 2 + relations])];

        public double[] All { get; } = new double[2 + relations];

        public void Add(Finding[] pair, double[] shares)
        {
            for (var klass = 0; klass < shares.Length; klass++)
                All[klass] += shares[klass];
            for (var index = 0; index < pair.Length; index++)
            {
                if (pair[index].Level < 0)
                    continue;
                for (var klass = 0; klass < shares.Length; klass++)
                    _met[index][pair[index].Level, klass] += shares[klass];
            }
        }

        public EvidenceKind[] Maximise(EvidenceKind[] now) =>
            [
                .. defaults.Select(
                    (kind, index) =>
                        kind with
                        {
                            Levels = Monotone([
                                .. kind.Levels.Select(
                                    (level, at) =>
                                        now[index].Levels[at] with
                                        {
                                            Match = Estimate(
                                                index,
                                                at,
                                                0,
                                                level.Match,
                                                kind.Levels.Sum(other => other.Match)
                                            ),
                                            Related =
                                            [
                                                .. level.Related.Select(
                                                    (origin, relation) => Estimate(index, at, 2 + relation, origin, 1)
                                                ),
                                            ],
                                        }
                                ),
                            ]),
                        }
                ),
            ];

        private double Estimate(int index, int level, int klass, double origin, double whole)
        {
            double all = 0;
            for (var other = 0; other < _met[index].GetLength(0); other++)
                all += _met[index][other, klass];
            var estimate = (_met[index][level, klass] + (PriorPairs * origin / whole)) / (all + PriorPairs);

            // The default for differences within one entity is better than an estimate: the data are full of records
            // that only look similar.
            var isDifference = klass == 0 && defaults[index].Levels[level].IsDifference;
            return Near(origin, estimate, isDifference ? MaxShiftOfDifference : MaxShift);
        }
    }
}
