using CsCheck;
using Kettlefog.Core.Matching.Scoring;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>What is said holds, and follows what people decide.</summary>
public class CalibrationTests
{
    private static readonly Calibration Default = Calibration.Default(EntityKind.Person);

    [Fact]
    public void Without_decisions_the_default_holds() => Default.Fit([]).ShouldBe(Default);

    [Theory]
    [InlineData(0.6, -1)]
    [InlineData(2.5, 2)]
    public void Many_decisions_find_what_is_true(double slope, double offset)
    {
        var random = new Random(4);
        var fitted = Default.Fit([
            .. Enumerable
                .Range(0, 20_000)
                .Select(_ => (random.NextDouble() * 12) - 6)
                .Select(odds => (odds, random.NextDouble() < PairScorer.Probability((slope * odds) + offset))),
        ]);
        fitted.Slope.ShouldBe(slope, 0.12);
        fitted.Offset.ShouldBe(offset, 0.25);
    }

    [Fact]
    public void Few_decisions_move_it_a_little()
    {
        // Five times an operator said no where the model said 95 %.
        var fitted = Default.Fit([.. Enumerable.Repeat((4.2, false), 5)]);
        fitted.Of(4.2).ShouldBeLessThan(Default.Of(4.2));
        fitted.Of(4.2).ShouldBeGreaterThan(0);
    }

    [Fact]
    public void Likelier_stays_likelier_and_the_way_back_is_exact() =>
        Gen.Select(Gen.Select(Gen.Double[-40, 40], Gen.Bool).Array[0, 60], Gen.Double[-30, 30], Gen.Double[0.001, 5])
            .Sample(
                (decided, odds, step) =>
                {
                    var fitted = Default.Fit([.. decided]);
                    fitted.Of(odds + step).ShouldBeGreaterThan(fitted.Of(odds));
                    fitted.Back(fitted.Of(odds)).ShouldBe(odds, 1e-6);
                }
            );
}
