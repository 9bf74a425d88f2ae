using Kettlefog.Core.Matching.Evidence;

namespace Kettlefog.Core.Matching.Scoring;

/// <summary>A pair that an operator decided.</summary>
/// <param name="Findings">The findings about it.</param>
/// <param name="Match">True if both were the same entity.</param>
internal sealed record DecidedPair(Finding[] Findings, bool Match);

/// <summary>What decisions teach.</summary>
/// <param name="Calibration">Turns the model's odds into those that hold.</param>
/// <param name="Weights">
/// For each evidence and each of its levels the bits that it adds to the odds that hold, beside what the model says.
/// </param>
/// <param name="Doubts">For each decision the probability, from 0 to 1, that it was a mistake.</param>
internal sealed record Taught(Calibration Calibration, double[][] Weights, double[] Doubts)
{
    /// <summary>What holds before anybody decided anything.</summary>
    public static Taught Nothing(Calibration calibration, EvidenceKind[] evidence) =>
        new(calibration, [.. evidence.Select(kind => new double[kind.Levels.Length])], []);
}

/// <summary>
/// Learns from what operators decided how much each finding weighs: logistic regression on the model's odds and the
/// findings, with the model as the normal prior, so that a few decisions move it a little (Chelba and Acero 2004,
/// "Adaptation of Maximum Entropy Capitalizer: Little Data Can Help a Lot"; solved one coordinate after the other:
/// Genkin, Lewis and Madigan 2007, "Large-Scale Bayesian Logistic Regression for Text Categorization"). That
/// operators see likely pairs rather than any does not matter: what was found about a pair decides whether they do.
/// <para>
/// Operators err. A decision is therefore taken as one that may be a mistake, the more so the surer all other evidence
/// is (Bootkrajang and Kabán 2012, "Label-Noise Robust Logistic Regression and Its Applications").
/// </para>
/// </summary>
internal static class DecisionLearner
{
    /// <summary>The share of decisions that are mistakes.</summary>
    private const double Mistakes = 0.02;

    /// <summary>
    /// The share that learning allows for. It is higher than the true one, because a single mistake does more harm than
    /// a single decision that is right does good.
    /// </summary>
    private const double MistakesAllowedFor = 0.1;

    /// <summary>
    /// No evidence makes a decision more doubtful than so many bits: otherwise nobody could teach the model what it has
    /// wrong and is sure of.
    /// </summary>
    private const double MaxSurety = 6;

    /// <summary>How far decisions move the model: standard deviations of the prior, in bits.</summary>
    private const double DeviationOfWeight = 0.8,
        DeviationOfSlope = 0.05,
        DeviationOfOffset = 0.5;

    /// <summary>The most bits that decisions add to a finding, or take from it.</summary>
    public const double MaxWeight = 6;

    private const int Rounds = 10,
        Sweeps = 4;

    /// <summary>Learns.</summary>
    /// <param name="calibration">What holds before anybody decided anything.</param>
    /// <param name="evidence">The evidence.</param>
    /// <param name="decided">The decisions.</param>
    /// <param name="logOdds">The binary logarithm of the model's odds of each decided pair.</param>
    public static Taught Fit(
        Calibration calibration,
        EvidenceKind[] evidence,
        IReadOnlyList<DecidedPair> decided,
        IReadOnlyList<double> logOdds
    )
    {
        var taught = Taught.Nothing(calibration, evidence);
        if (decided.Count == 0)
            return taught;
        var fit = new Fitting(calibration, evidence, decided, logOdds);
        for (var round = 0; round < Rounds; round++)
        {
            fit.WeighDecisions(MistakesAllowedFor);
            for (var sweep = 0; sweep < Sweeps; sweep++)
                fit.Sweep();
        }

        fit.WeighDecisions(Mistakes);
        return fit.Taught;
    }

    /// <summary>The state of a fit.</summary>
    private sealed class Fitting
    {
        private readonly IReadOnlyList<DecidedPair> _decided;
        private readonly double[] _odds;

        // The odds as they are said now, and how likely each pair is one entity after all that is known, the decision
        // included.
        private readonly double[] _said;
        private readonly double[] _truth;
        private readonly double[] _doubts;

        // For each evidence and level the decisions in which it was found.
        private readonly int[][][] _found;
        private readonly double[][] _weights;
        private readonly Calibration _prior;
        private double _slope,
            _offset;

        public Fitting(
            Calibration prior,
            EvidenceKind[] evidence,
            IReadOnlyList<DecidedPair> decided,
            IReadOnlyList<double> logOdds
        )
        {
            (_prior, _decided) = (prior, decided);
            (_slope, _offset) = (prior.Slope, prior.Offset);
            _odds = [.. logOdds.Select(odds => Math.Clamp(odds, -30, 30))];
            _said = [.. _odds.Select(prior.Of)];
            (_truth, _doubts) = (new double[decided.Count], new double[decided.Count]);
            _weights = [.. evidence.Select(kind => new double[kind.Levels.Length])];
            _found =
            [
                .. evidence.Select(
                    (kind, index) =>
                        Enumerable
                            .Range(0, kind.Levels.Length)
                            .Select(level =>
                                Enumerable
                                    .Range(0, decided.Count)
                                    .Where(pair => decided[pair].Findings[index].Level == level)
                                    .ToArray()
                            )
                            .ToArray()
                ),
            ];
        }

        public Taught Taught => new(new Calibration(_slope, _offset), _weights, _doubts);

        public void WeighDecisions(double mistakes)
        {
            for (var pair = 0; pair < _said.Length; pair++)
            {
                var same = PairScorer.Probability(Math.Clamp(_said[pair], -MaxSurety, MaxSurety));
                var (right, wrong) = _decided[pair].Match ? (same, 1 - same) : (1 - same, same);
                _doubts[pair] = mistakes * wrong / ((mistakes * wrong) + ((1 - mistakes) * right));
                _truth[pair] = _decided[pair].Match ? 1 - _doubts[pair] : _doubts[pair];
            }
        }

        public void Sweep()
        {
            var all = Enumerable.Range(0, _said.Length).ToArray();
            var slope = Step(all, _odds, _slope - _prior.Slope, DeviationOfSlope);
            slope = Math.Clamp(_slope + slope, _prior.Slope / 3, _prior.Slope * 3) - _slope;
            _slope += slope;
            for (var pair = 0; pair < _said.Length; pair++)
                _said[pair] += slope * _odds[pair];
            _offset += Move(all, _offset - _prior.Offset, DeviationOfOffset);
            for (var index = 0; index < _weights.Length; index++)
            {
                for (var level = 0; level < _weights[index].Length; level++)
                    _weights[index][level] += Move(_found[index][level], _weights[index][level], DeviationOfWeight);
            }
        }

        private double Move(int[] pairs, double now, double deviation)
        {
            if (pairs.Length == 0)
                return 0;
            var step = Math.Clamp(now + Step(pairs, null, now, deviation), -MaxWeight, MaxWeight) - now;
            foreach (var pair in pairs)
                _said[pair] += step;
            return step;
        }

        /// <summary>One step of Newton's method for one coordinate, no longer than two bits.</summary>
        private double Step(int[] pairs, double[]? factors, double moved, double deviation)
        {
            // Of natural logarithms the derivatives have no factors; everything here is in bits.
            const double Bit = 0.69314718055994531;
            var (gradient, curvature) = (-moved / (deviation * deviation), 1 / (deviation * deviation));
            foreach (var pair in pairs)
            {
                var factor = factors is null ? 1 : factors[pair];
                var said = PairScorer.Probability(_said[pair]);
                gradient += Bit * factor * (_truth[pair] - said);
                curvature += Bit * Bit * factor * factor * said * (1 - said);
            }

            return Math.Clamp(gradient / curvature, -2, 2);
        }
    }
}
