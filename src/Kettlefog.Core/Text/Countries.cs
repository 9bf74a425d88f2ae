using System.Globalization;

namespace Kettlefog.Core.Text;

/// <summary>Countries, as found in databases.</summary>
internal static class Countries
{
    private static readonly Dictionary<string, string> Codes = Read();

    /// <summary>
    /// Two letters of ISO 3166-1 for a code of two or three letters or an English or native name; null if unknown.
    /// </summary>
    public static string? CodeOf(string? country)
    {
        if (string.IsNullOrWhiteSpace(country))
            return null;
        return Codes.GetValueOrDefault(country.Trim());
    }

    private static Dictionary<string, string> Read()
    {
        var codes = new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase)
        {
            ["UK"] = "GB",
            ["England"] = "GB",
            ["USA"] = "US",
            ["United States of America"] = "US",
        };
        foreach (var culture in CultureInfo.GetCultures(CultureTypes.SpecificCultures))
        {
            if (culture.Name.Length == 0 || culture.LCID == 0x7F)
                continue;
            var region = new RegionInfo(culture.Name);
            if (region.TwoLetterISORegionName.Length != 2 || !char.IsAsciiLetter(region.TwoLetterISORegionName[0]))
                continue;
            foreach (
                var name in new[]
                {
                    region.TwoLetterISORegionName,
                    region.ThreeLetterISORegionName,
                    region.EnglishName,
                    region.NativeName,
                }
            )
                codes.TryAdd(name, region.TwoLetterISORegionName);
        }

        return codes;
    }
}
