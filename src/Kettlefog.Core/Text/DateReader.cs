using System.Globalization;

namespace Kettlefog.Core.Text;

/// <summary>Reads dates, as found in databases.</summary>
internal static class DateReader
{
    private static readonly string[] Formats =
    [
        "yyyy-MM-dd",
        "yyyyMMdd",
        "yyyy/MM/dd",
        "yyyy.MM.dd",
        "dd.MM.yyyy",
        "d.M.yyyy",
        "dd/MM/yyyy",
        "d/M/yyyy",
        "MM/dd/yyyy",
        "M/d/yyyy",
        "dd-MM-yyyy",
        "d-M-yyyy",
        "d MMM yyyy",
        "dd MMM yyyy",
        "d MMMM yyyy",
        "MMM d, yyyy",
        "MMMM d, yyyy",
        "d-MMM-yyyy",
    ];

    /// <summary>The date, or null if the text is not a date. In 03/04/2026 the day comes first.</summary>
    public static DateOnly? Read(string? text)
    {
        if (string.IsNullOrEmpty(text))
            return null;
        var span = text.AsSpan().Trim();
        if (span.Length >= 10 && span[4] == '-' && span[7] == '-')
            span = span[..10];
        if (
            span.Length == 10
            && DateOnly.TryParseExact(
                span,
                "yyyy-MM-dd",
                CultureInfo.InvariantCulture,
                DateTimeStyles.None,
                out var date
            )
        )
            return date;
        if (span.Length is 0 or > 32)
            return null;
        if (span.IndexOfAny(' ', 'T') is > 7 and var space && char.IsAsciiDigit(span[0]) && span[space..].Contains(':'))
            span = span[..space];
        return DateOnly.TryParseExact(span, Formats, CultureInfo.InvariantCulture, DateTimeStyles.None, out date)
            ? date
            : null;
    }
}
