using System.Globalization;

namespace Kettlefog.Testing;

/// <summary>How many cases a random test tries: ten times as many in the long run of the tests.</summary>
public static class RandomCases
{
    private static readonly int Factor = int.TryParse(
        Environment.GetEnvironmentVariable("KETTLEFOG_TEST_FACTOR"),
        CultureInfo.InvariantCulture,
        out var factor
    )
        ? Math.Max(1, factor)
        : 1;

    /// <summary>True in the long run of the tests.</summary>
    public static bool IsLongRun => Factor > 1;

    /// <summary>The number of cases.</summary>
    /// <param name="cases">How many there are in a usual run.</param>
    public static int Of(int cases) => cases * Factor;
}
