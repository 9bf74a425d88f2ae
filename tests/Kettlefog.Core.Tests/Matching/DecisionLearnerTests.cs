using CsCheck;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Scoring;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>Weights follow what people decide, a little at first, and not what they decide by mistake.</summary>
public class DecisionLearnerTests
{
    private static readonly Calibration Default = Calibration.Default(EntityKind.Person);

    private static readonly EvidenceKind[] Evidence =
    [
        Kind("name", "same", "similar", "different"),
        Kind("phone", "same", "different"),
        Kind("town", "same", "different"),
    ];

    private static readonly Gen<Finding[]> Findings = Gen.Select(
        Gen.Int[-1, 2],
        Gen.Int[-1, 1],
        Gen.Int[-1, 1],
        (name, phone, town) => new Finding[] { new(name), new(phone), new(town) }
    );

    private static readonly Gen<(DecidedPair Pair, double Odds)> Decided = Gen.Select(
        Findings,
        Gen.Bool,
        Gen.Double[-40, 40],
        (findings, match, odds) => (new DecidedPair(findings, match), odds)
    );

    [Fact]
    public void Without_decisions_the_default_holds()
    {
        var taught = Fit([]);
        taught.Calibration.ShouldBe(Default);
        taught.Weights.SelectMany(weights => weights).ShouldAllBe(weight => weight == 0);
    }

    [Fact]
    public void Many_decisions_find_what_a_finding_is_worth()
    {
        // What the model says holds, but for three bits that it gives to the same phone and takes for another town.
        // Three decisions in a hundred are wrong.
        var random = new Random(4);
        var taught = Fit([
            .. Enumerable
                .Range(0, 8_000)
                .Select(_ =>
                {
                    Finding[] findings = [new(random.Next(3)), new(random.Next(2)), new(random.Next(2))];
                    var odds = (random.NextDouble() * 8) - 4;
                    var truth = Default.Of(odds) - (findings[1].Level == 0 ? 3 : 0) + (findings[2].Level == 1 ? 3 : 0);
                    var isMatch = random.NextDouble() < PairScorer.Probability(truth);
                    return (new DecidedPair(findings, isMatch != random.NextDouble() < 0.03), odds);
                }),
        ]);
        double Says(int name, int phone, int town) =>
            taught.Calibration.Of(0) + taught.Weights[0][name] + taught.Weights[1][phone] + taught.Weights[2][town];
        (Says(0, 0, 0) - Says(0, 1, 0)).ShouldBe(-3, 0.5);
        (Says(0, 0, 1) - Says(0, 0, 0)).ShouldBe(3, 0.5);
        (Says(1, 0, 0) - Says(2, 0, 0)).ShouldBe(0, 0.5);
    }

    [Fact]
    public void Few_decisions_move_it_a_little()
    {
        // An operator said no where the model said about 95 %: once, then twenty times.
        var decision = (new DecidedPair([new(0), new(0), Finding.None], false), Default.Back(4.2));
        Said(Fit([decision]), decision).ShouldBeInRange(1, 4);
        Said(Fit([.. Enumerable.Repeat(decision, 20)]), decision).ShouldBeInRange(-4, 1);
    }

    [Fact]
    public void A_mistake_among_many_decisions_is_found_and_changes_little()
    {
        var random = new Random(8);
        var decided = Enumerable
            .Range(0, 300)
            .Select(_ =>
            {
                var odds = (random.NextDouble() * 16) - 6;
                var findings = new Finding[] { new(random.Next(3)), new(random.Next(2)), new(random.Next(2)) };
                return (
                    new DecidedPair(findings, random.NextDouble() < PairScorer.Probability(Default.Of(odds))),
                    odds
                );
            })
            .ToList();
        var pair = new DecidedPair([new(0), new(0), new(0)], false);
        var taught = Fit([.. decided, (pair, 20)]);
        taught.Doubts[^1].ShouldBeGreaterThan(0.5);
        taught.Doubts.Count(doubt => doubt > 0.5).ShouldBeLessThan(6);
        var without = Fit(decided);
        Said(taught, (pair, 6)).ShouldBe(Said(without, (pair, 6)), 0.5);
    }

    [Fact]
    public void What_is_decided_again_and_again_is_no_mistake()
    {
        // A hundred pairs of twins, of which the model is sure.
        var twins = Enumerable
            .Repeat((new DecidedPair([new(1), new(0), new(0)], false), Default.Back(12)), 100)
            .ToList();
        Said(Fit(twins), twins[0]).ShouldBeLessThan(4);
    }

    [Fact]
    public void Any_decisions_give_finite_weights_within_bounds_whatever_their_order() =>
        Decided
            .Array[0, 60]
            .Sample(decided =>
            {
                var taught = Fit([.. decided]);
                taught.Calibration.Slope.ShouldBeInRange(Default.Slope / 3, Default.Slope * 3);
                double.IsFinite(taught.Calibration.Offset).ShouldBeTrue();
                taught
                    .Weights.SelectMany(weights => weights)
                    .ShouldAllBe(weight => Math.Abs(weight) <= DecisionLearner.MaxWeight);
                taught.Doubts.Length.ShouldBe(decided.Length);
                taught.Doubts.ShouldAllBe(doubt => doubt >= 0 && doubt <= 1);
                var reversed = Fit([.. decided.Reverse()]);
                reversed.Calibration.Offset.ShouldBe(taught.Calibration.Offset, 1e-6);
            });

    private static double Said(Taught taught, (DecidedPair Pair, double Odds) of) =>
        taught.Calibration.Of(of.Odds)
        + of.Pair.Findings.Select((finding, index) => finding.Level < 0 ? 0 : taught.Weights[index][finding.Level])
            .Sum();

    private static Taught Fit(IReadOnlyList<(DecidedPair Pair, double Odds)> decided) =>
        DecisionLearner.Fit(
            Default,
            Evidence,
            [.. decided.Select(each => each.Pair)],
            [.. decided.Select(each => each.Odds)]
        );

    private static EvidenceKind Kind(string name, params string[] levels) =>
        new(name, name, [.. levels.Select(words => new EvidenceLevel(words, 0.5, 0.5, []))]);
}
