using Kettlefog.Core.Matching.Evidence;

namespace Kettlefog.Core.Matching.Scoring;

/// <summary>
/// Decides while a pair is compared, feature by feature, whether the remaining features could raise it to the minimum
/// score that is kept: branch and bound (Land and Doig 1960, "An Automatic Method of Solving Discrete Programming
/// Problems"). The odds against all alternatives together are never better than those against one relation alone, and
/// no finding weighs more than the best level of its evidence, so no pair is dropped that would have been kept.
/// </summary>
internal sealed class EarlyStop
{
    // Rounding must not decide about a pair.
    private const double Slack = 0.01;

    private readonly PairScorer _scorer;

    // The index of each feature's first evidence, and the end.
    private readonly int[] _offsets;
    private readonly double[] _maxWeights;
    private readonly double _minLogOdds;

    /// <summary>Creates it.</summary>
    /// <param name="scorer">Scores the pairs.</param>
    /// <param name="offsets">The index of each feature's first evidence.</param>
    /// <param name="minScore">
    /// The minimum score that is kept, from 0 to 1; with 0 every pair is compared to the end.
    /// </param>
    public EarlyStop(PairScorer scorer, int[] offsets, double minScore)
    {
        _scorer = scorer;
        _minLogOdds = minScore > 0 ? scorer.RawLogOddsOf(minScore) - Slack : double.NegativeInfinity;
        _offsets = [.. offsets, scorer.Findings];
        _maxWeights = new double[offsets.Length * Relations];
        for (var feature = 0; feature < offsets.Length; feature++)
        {
            for (var evidence = offsets[feature]; evidence < _offsets[feature + 1]; evidence++)
            {
                for (var relation = 0; relation < Relations; relation++)
                    _maxWeights[(feature * Relations) + relation] += scorer.MaxWeight(evidence, relation);
            }
        }
    }

    /// <summary>The number of odds that are tracked.</summary>
    public int Relations => _scorer.Relations;

    /// <summary>Starts a pair, before any comparison.</summary>
    /// <param name="odds">The upper bounds of the odds, one for each relation.</param>
    public void Begin(Span<double> odds)
    {
        for (var relation = 0; relation < odds.Length; relation++)
            odds[relation] = _scorer.Prior(relation);
    }

    /// <summary>Adds a feature that will be compared.</summary>
    public void Expect(int feature, Span<double> odds)
    {
        for (var relation = 0; relation < odds.Length; relation++)
            odds[relation] += _maxWeights[(feature * odds.Length) + relation];
    }

    /// <summary>Replaces the bound of a feature by its findings.</summary>
    /// <returns>True if the pair may still be kept.</returns>
    public bool MayGoOn(int feature, ReadOnlySpan<Finding> findings, Span<double> odds)
    {
        for (var relation = 0; relation < odds.Length; relation++)
        {
            var now = odds[relation] - _maxWeights[(feature * odds.Length) + relation];
            for (var evidence = _offsets[feature]; evidence < _offsets[feature + 1]; evidence++)
                now += _scorer.Against(relation, evidence, findings[evidence]);
            if (now < _minLogOdds)
                return false;
            odds[relation] = now;
        }

        return true;
    }
}
