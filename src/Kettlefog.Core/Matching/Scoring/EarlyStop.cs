using Kettlefog.Core.Matching.Evidence;

namespace Kettlefog.Core.Matching.Scoring;

/// <summary>
/// Says while a pair is compared, feature by feature, whether what is still to come could lift it to the least score
/// that is kept: branch and bound (Land and Doig 1960, "An Automatic Method of Solving Discrete Programming Problems").
/// The odds against all alternatives together are never better than those against one relation alone, and no finding
/// says more than the best level of its evidence, so that no pair is given up that would have been kept.
/// </summary>
internal sealed class EarlyStop
{
    // Rounding must not decide about a pair.
    private const double Slack = 0.01;

    private readonly PairScorer _scorer;

    // The place of each feature's first evidence, and the end.
    private readonly int[] _offsets;
    private readonly double[] _most;
    private readonly double _least;

    /// <summary>Creates it.</summary>
    /// <param name="scorer">Scores the pairs.</param>
    /// <param name="offsets">The place of each feature's first evidence.</param>
    /// <param name="least">The least score that is kept, from 0 to 1; with 0 every pair is compared to the end.</param>
    public EarlyStop(PairScorer scorer, int[] offsets, double least)
    {
        _scorer = scorer;
        _least = least > 0 ? PairScorer.LogOddsOf(least) - Slack : double.NegativeInfinity;
        _offsets = [.. offsets, scorer.Findings];
        _most = new double[offsets.Length * Relations];
        for (var feature = 0; feature < offsets.Length; feature++)
        {
            for (var evidence = offsets[feature]; evidence < _offsets[feature + 1]; evidence++)
            {
                for (var relation = 0; relation < Relations; relation++)
                    _most[(feature * Relations) + relation] += scorer.Most(evidence, relation);
            }
        }
    }

    /// <summary>The number of odds that are followed.</summary>
    public int Relations => _scorer.Relations;

    /// <summary>Begins with a pair of which nothing is known.</summary>
    /// <param name="odds">The most that the odds can come to, one for each relation.</param>
    public void Begin(Span<double> odds)
    {
        for (var relation = 0; relation < odds.Length; relation++)
            odds[relation] = _scorer.Prior(relation);
    }

    /// <summary>Says that a feature will be compared.</summary>
    public void Expect(int feature, Span<double> odds)
    {
        for (var relation = 0; relation < odds.Length; relation++)
            odds[relation] += _most[(feature * odds.Length) + relation];
    }

    /// <summary>Says what an expected feature came to.</summary>
    /// <returns>True if the pair may still be kept.</returns>
    public bool MayGoOn(int feature, ReadOnlySpan<Finding> findings, Span<double> odds)
    {
        for (var relation = 0; relation < odds.Length; relation++)
        {
            var now = odds[relation] - _most[(feature * odds.Length) + relation];
            for (var evidence = _offsets[feature]; evidence < _offsets[feature + 1]; evidence++)
                now += _scorer.Against(relation, evidence, findings[evidence]);
            if (now < _least)
                return false;
            odds[relation] = now;
        }

        return true;
    }
}
