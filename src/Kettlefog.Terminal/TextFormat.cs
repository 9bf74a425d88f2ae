using System.Globalization;

namespace Kettlefog.Terminal;

/// <summary>How every command writes numbers, dates and counts: independent of the locale, times in UTC.</summary>
public static class TextFormat
{
    /// <summary>
    /// A percentage: the nearer to 100 the more decimals, so that it does not look like certainty.
    /// </summary>
    /// <param name="percent">From 0 to 100.</param>
    public static string Percent(double percent)
    {
        var decimals =
            percent >= 100 || 100 - percent > 0.1 ? 1
            : 100 - percent > 0.01 ? 2
            : 100 - percent > 0.001 ? 3
            : 4;
        return percent.ToString($"F{decimals}", CultureInfo.InvariantCulture) + " %";
    }

    /// <summary>A share as a percentage.</summary>
    /// <param name="share">From 0 to 1.</param>
    /// <param name="decimals">The number of decimals, for shares of many.</param>
    public static string Share(double share, int decimals = 1) =>
        (share * 100).ToString($"F{decimals}", CultureInfo.InvariantCulture) + " %";

    /// <summary>A number with at most two decimals, such as a threshold in percent.</summary>
    public static string Number(double value) => value.ToString("0.##", CultureInfo.InvariantCulture);

    /// <summary>An amount with thousands separators and at least two decimals; null for null.</summary>
    /// <param name="value">The exact decimal, as the API writes it.</param>
    public static string? Amount(string? value) =>
        decimal.TryParse(value, NumberStyles.Float, CultureInfo.InvariantCulture, out var amount)
            ? amount.ToString("#,##0.00######", CultureInfo.InvariantCulture)
            : value;

    /// <summary>A duration in seconds.</summary>
    public static string Seconds(double seconds) => seconds.ToString("0.0", CultureInfo.InvariantCulture);

    /// <summary>A date.</summary>
    public static string Date(DateOnly date) => date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);

    /// <summary>The date of a point in time.</summary>
    public static string Date(DateTimeOffset at) => Written(at, "yyyy-MM-dd");

    /// <summary>A point in time to the minute, for lists.</summary>
    public static string Minute(DateTimeOffset at) => Written(at, "yyyy-MM-dd HH:mm");

    /// <summary>A point in time to the second, for people.</summary>
    public static string Second(DateTimeOffset at) => Written(at, "yyyy-MM-dd HH:mm:ss");

    /// <summary>A point in time to the second, for programs (ISO 8601).</summary>
    public static string Timestamp(DateTimeOffset at) => Written(at, "yyyy-MM-ddTHH:mm:ssZ");

    /// <summary>A count with the noun that agrees.</summary>
    /// <param name="count">The count.</param>
    /// <param name="one">The singular.</param>
    /// <param name="many">The plural.</param>
    public static string Counted(long count, string one, string many) =>
        $"{count.ToString(CultureInfo.InvariantCulture)} {(count == 1 ? one : many)}";

    private static string Written(DateTimeOffset at, string format) =>
        at.UtcDateTime.ToString(format, CultureInfo.InvariantCulture);
}
