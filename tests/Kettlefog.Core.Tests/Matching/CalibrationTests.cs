using CsCheck;
using Kettlefog.Core.Matching.Scoring;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>Odds that hold.</summary>
public class CalibrationTests
{
    [Fact]
    public void Likelier_stays_likelier_and_the_way_back_is_exact() =>
        Gen.Select(Gen.Double[0.1, 5], Gen.Double[-6, 6], Gen.Double[-30, 30], Gen.Double[0.001, 5])
            .Sample(
                (slope, offset, odds, step) =>
                {
                    var calibration = new Calibration(slope, offset);
                    calibration.Of(odds + step).ShouldBeGreaterThan(calibration.Of(odds));
                    calibration.Back(calibration.Of(odds)).ShouldBe(odds, 1e-6);
                }
            );
}
