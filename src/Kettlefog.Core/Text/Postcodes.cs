using System.Text.RegularExpressions;

namespace Kettlefog.Core.Text;

/// <summary>The forms of postcodes, as the postal services of the countries publish them.</summary>
internal static class Postcodes
{
    private static readonly Dictionary<string, (string Pattern, string Example)> Formats = new(StringComparer.Ordinal)
    {
        ["AT"] = (@"\d{4}", "1010"),
        ["AU"] = (@"\d{4}", "2000"),
        ["BE"] = (@"\d{4}", "1000"),
        ["BG"] = (@"\d{4}", "1000"),
        ["CA"] = (@"[A-Z]\d[A-Z] ?\d[A-Z]\d", "K1A 0B1"),
        ["CH"] = (@"\d{4}", "3003"),
        ["CZ"] = (@"\d{3} ?\d{2}", "110 00"),
        ["DE"] = (@"\d{5}", "10115"),
        ["DK"] = (@"\d{4}", "1050"),
        ["EE"] = (@"\d{5}", "10111"),
        ["ES"] = (@"\d{5}", "28013"),
        ["FI"] = (@"\d{5}", "00100"),
        ["FR"] = (@"\d{5}", "75001"),
        ["GB"] = (@"[A-Z]{1,2}\d[A-Z\d]? ?\d[A-Z]{2}", "SW1A 1AA"),
        ["GR"] = (@"\d{3} ?\d{2}", "104 31"),
        ["HR"] = (@"\d{5}", "10000"),
        ["HU"] = (@"\d{4}", "1011"),
        ["IE"] = (@"([AC-FHKNPRTV-Y]\d{2}|D6W) ?[0-9AC-FHKNPRTV-Y]{4}", "D02 X285"),
        ["IS"] = (@"\d{3}", "101"),
        ["IT"] = (@"\d{5}", "00184"),
        ["LI"] = (@"\d{4}", "9490"),
        ["LT"] = (@"(LT-)?\d{5}", "LT-01100"),
        ["LU"] = (@"(L-)?\d{4}", "1111"),
        ["LV"] = (@"(LV-)?\d{4}", "LV-1050"),
        ["NL"] = (@"[1-9]\d{3} ?[A-Z]{2}", "1012 JS"),
        ["NO"] = (@"\d{4}", "0150"),
        ["NZ"] = (@"\d{4}", "6011"),
        ["PL"] = (@"\d{2}-\d{3}", "00-001"),
        ["PT"] = (@"\d{4}-\d{3}", "1100-148"),
        ["RO"] = (@"\d{6}", "010011"),
        ["SE"] = (@"\d{3} ?\d{2}", "111 20"),
        ["SI"] = (@"\d{4}", "1000"),
        ["SK"] = (@"\d{3} ?\d{2}", "811 01"),
        ["US"] = (@"\d{5}(-\d{4})?", "20500"),
    };

    /// <summary>How a postcode of a country is written, if this one is not; otherwise null.</summary>
    /// <param name="text">The postcode as typed.</param>
    /// <param name="country">
    /// Two letters of ISO 3166-1; null or one that is not listed: only the characters are checked.
    /// </param>
    public static string? ExampleInstead(string text, string? country)
    {
        if (country is not null && Formats.TryGetValue(country, out var format))
            return Regex.IsMatch(text, $"^{format.Pattern}$", RegexOptions.CultureInvariant | RegexOptions.IgnoreCase)
                ? null
                : format.Example;
        return text.Length <= 12 && text.All(letter => char.IsLetterOrDigit(letter) || letter is ' ' or '-')
            ? null
            : "SW1A 1AA or 10115";
    }
}
