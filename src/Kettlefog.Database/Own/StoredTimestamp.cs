using System.Globalization;

namespace Kettlefog.Database.Own;

/// <summary>Timestamps as Kettlefog's tables store them: UTC, ISO 8601, to the microsecond.</summary>
internal static class StoredTimestamp
{
    private const string Format = "yyyy-MM-ddTHH:mm:ss.ffffffZ";

    public static string Write(DateTimeOffset at) => at.UtcDateTime.ToString(Format, CultureInfo.InvariantCulture);

    public static DateTimeOffset Read(string text) =>
        DateTimeOffset.Parse(text, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal);

    public static DateTimeOffset? ReadOptional(string? text) => text is null ? null : Read(text);
}
