using System.Globalization;
using System.Text.RegularExpressions;

namespace Kettlefog.Core.Values;

/// <summary>Reads dates and points in time, as found in databases: ISO 8601, or PostgreSQL's text form.</summary>
public static partial class TimestampText
{
    /// <summary>
    /// Reads a point in time. Without a time zone it is taken to be in UTC; a date alone is its first moment.
    /// </summary>
    /// <param name="text">The text.</param>
    /// <param name="moment">The point in time, to 100 nanoseconds.</param>
    /// <returns>False if the text is not a point in time.</returns>
    public static bool TryRead(string? text, out DateTimeOffset moment)
    {
        moment = default;
        if (text is null || Pattern().Match(text) is not { Success: true } match)
            return false;
        var zone = match.Groups["zone"].Value;
        string Group(string name, string missing) =>
            match.Groups[name] is { Length: > 0 } group ? group.Value : missing;
        var time = $"{Group("time", "00:00")}{Group("seconds", ":00")}";
        var offset = zone is "" or "Z" or "z" ? "+00:00" : $"{zone[..3]}:{(zone.Length > 3 ? zone[^2..] : "00")}";
        var written = $"{match.Groups["date"].Value}T{time}{offset}";
        return DateTimeOffset.TryParse(written, CultureInfo.InvariantCulture, DateTimeStyles.None, out moment);
    }

    [GeneratedRegex(
        @"^\s*(?<date>\d{4}-\d{2}-\d{2})([T ](?<time>\d{2}:\d{2})((?<seconds>:\d{2}(\.\d{1,7})?)\d*)?"
            + @" ?(?<zone>[Zz]|[+-]\d{2}(:?\d{2})?)?)?\s*$",
        RegexOptions.CultureInvariant | RegexOptions.ExplicitCapture
    )]
    private static partial Regex Pattern();
}
