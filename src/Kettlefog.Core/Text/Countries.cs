using System.Collections.Concurrent;
using System.Globalization;

namespace Kettlefog.Core.Text;

/// <summary>Countries, as found in databases.</summary>
internal static class Countries
{
    /// <summary>As many spellings are remembered; a column of countries has fewer.</summary>
    private const int MaxRemembered = 10_000;

    private static readonly Dictionary<string, string> Codes = Read();
    private static readonly ConcurrentDictionary<string, string?> Remembered = new();

    /// <summary>
    /// Two letters of ISO 3166-1 for a code of two or three letters, a name in any of the languages that the Unicode
    /// CLDR has it in, or a calling code after "+" or "00"; null if unknown.
    /// </summary>
    public static string? CodeOf(string? country)
    {
        if (string.IsNullOrWhiteSpace(country))
            return null;
        if (Remembered.TryGetValue(country, out var known))
            return known;
        var found = Codes.GetValueOrDefault(Plain(country)) ?? ByCallingCode(country);
        if (Remembered.Count < MaxRemembered)
            Remembered[country] = found;
        return found;
    }

    private static string? ByCallingCode(string text)
    {
        var digits = text.Trim();
        digits =
            digits.StartsWith('+') ? digits[1..]
            : digits.StartsWith("00", StringComparison.Ordinal) ? digits[2..]
            : "";
        return digits.Length is > 0 and <= 3 && digits.All(char.IsAsciiDigit)
            ? PhoneReader.CountryOf(int.Parse(digits, CultureInfo.InvariantCulture))
            : null;
    }

    /// <summary>Without case, accents, points and article.</summary>
    private static string Plain(string name)
    {
        var folded = FoldedText.Of(name).Replace(".", "", StringComparison.Ordinal).Trim();
        return folded.StartsWith("the ", StringComparison.Ordinal) ? folded[4..].TrimStart() : folded;
    }

    private static Dictionary<string, string> Read()
    {
        var codes = new Dictionary<string, string>();
        foreach (var culture in CultureInfo.GetCultures(CultureTypes.SpecificCultures))
        {
            if (culture.Name.Length == 0 || culture.LCID == 0x7F)
                continue;
            var region = new RegionInfo(culture.Name);
            if (region.TwoLetterISORegionName.Length != 2 || !char.IsAsciiLetter(region.TwoLetterISORegionName[0]))
                continue;
            codes.TryAdd(Plain(region.TwoLetterISORegionName), region.TwoLetterISORegionName);
            codes.TryAdd(Plain(region.ThreeLetterISORegionName), region.TwoLetterISORegionName);
            codes.TryAdd(Plain(region.NativeName), region.TwoLetterISORegionName);
        }

        // The first name is what people mean: "Georgia" in one language is no other country in another one.
        foreach (var file in (string[])["country-aliases.txt", "country-names.txt"])
        {
            var names = WordLists.Listed(file).ToList();
            foreach (var (code, listed) in names)
            {
                codes.TryAdd(Plain(code), code);
                codes.TryAdd(Plain(listed[0]), code);
            }

            foreach (var (code, listed) in names)
            {
                foreach (var name in listed)
                    codes.TryAdd(Plain(name), code);
            }
        }

        return codes;
    }
}
