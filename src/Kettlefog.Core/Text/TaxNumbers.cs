using System.Globalization;
using System.Text.RegularExpressions;

namespace Kettlefog.Core.Text;

/// <summary>
/// VAT identification numbers of European countries: their formats as the European Commission lists them for VIES, with
/// the check digits of those countries that publish theirs.
/// </summary>
internal static class TaxNumbers
{
    private static readonly Dictionary<string, string> Formats = new(StringComparer.Ordinal)
    {
        ["AT"] = @"U\d{8}",
        ["BE"] = @"[01]\d{9}",
        ["BG"] = @"\d{9,10}",
        ["CHE"] = @"\d{9}(MWST|TVA|IVA)?",
        ["CY"] = @"\d{8}[A-Z]",
        ["CZ"] = @"\d{8,10}",
        ["DE"] = @"\d{9}",
        ["DK"] = @"\d{8}",
        ["EE"] = @"\d{9}",
        ["EL"] = @"\d{9}",
        ["ES"] = @"[A-Z0-9]\d{7}[A-Z0-9]",
        ["FI"] = @"\d{8}",
        ["FR"] = @"[A-HJ-NP-Z0-9]{2}\d{9}",
        ["GB"] = @"(\d{9}|\d{12}|(GD|HA)\d{3})",
        ["HR"] = @"\d{11}",
        ["HU"] = @"\d{8}",
        ["IE"] = @"(\d{7}[A-W][A-I]?|\d[A-Z+*]\d{5}[A-W])",
        ["IT"] = @"\d{11}",
        ["LT"] = @"(\d{9}|\d{12})",
        ["LU"] = @"\d{8}",
        ["LV"] = @"\d{11}",
        ["MT"] = @"\d{8}",
        ["NL"] = @"\d{9}B\d{2}",
        ["NO"] = @"\d{9}(MVA)?",
        ["PL"] = @"\d{10}",
        ["PT"] = @"\d{9}",
        ["RO"] = @"\d{2,10}",
        ["SE"] = @"\d{12}",
        ["SI"] = @"\d{8}",
        ["SK"] = @"\d{10}",
        ["XI"] = @"(\d{9}|\d{12}|(GD|HA)\d{3})",
    };

    private static readonly Dictionary<string, Func<string, bool>> Checks = new(StringComparer.Ordinal)
    {
        ["BE"] = digits => 97 - Number(digits[..8]) % 97 == Number(digits[8..]),
        ["CHE"] = text => Weighted(text[..9], 5, 4, 3, 2, 7, 6, 5, 4, 1) % 11 == 0,
        ["DE"] = IsMod11And10,
        ["DK"] = digits => Weighted(digits, 2, 7, 6, 5, 4, 3, 2, 1) % 11 == 0,
        ["FI"] = digits => Weighted(digits, 7, 9, 10, 5, 8, 4, 2, 1) % 11 == 0,
        ["FR"] = text => !text.All(char.IsAsciiDigit) || (Number(text[2..]) % 97 * 3 + 12) % 97 == Number(text[..2]),
        ["GB"] = IsBritish,
        ["IT"] = IsLuhn,
        ["LU"] = digits => Number(digits[..6]) % 89 == Number(digits[6..]),
        ["NO"] = text => Weighted(text[..9], 3, 2, 7, 6, 5, 4, 3, 2, 1) % 11 == 0,
        ["PL"] = digits => Weighted(digits, 6, 5, 7, 2, 3, 4, 5, 6, 7, -1) % 11 == 0,
        ["PT"] = digits =>
            Weighted(digits, 9, 8, 7, 6, 5, 4, 3, 2) % 11 is var rest && (rest < 2 ? 0 : 11 - rest) == digits[8] - '0',
        ["SE"] = digits => IsLuhn(digits[..10]),
        ["XI"] = IsBritish,
    };

    /// <summary>What is wrong with a tax number, as the rest of a sentence; null if nothing is.</summary>
    /// <param name="text">
    /// The number as typed. One that does not begin with the letters of a country above is taken for a national one, of
    /// which only the characters are checked.
    /// </param>
    public static string? Mistake(string text)
    {
        var number = Compact.Of(text);
        if (number.Length is < 4 or > 20 || number.Count(char.IsAsciiDigit) < 3)
            return "is not a tax number";
        var country = Formats.Keys.FirstOrDefault(each => number.StartsWith(each, StringComparison.Ordinal));
        if (country is null)
            return number.All(letter => char.IsAsciiLetterOrDigit(letter) || letter is '+' or '*')
                ? null
                : "is not a tax number";
        var rest = number[country.Length..];
        if (!Regex.IsMatch(rest, $"^{Formats[country]}$", RegexOptions.CultureInvariant))
            return $"is not a tax number: one that begins with {country} has another form";
        return Checks.TryGetValue(country, out var fits) && !fits(rest)
            ? "is not a tax number: its check digits do not fit"
            : null;
    }

    private static long Number(string digits) => long.Parse(digits, CultureInfo.InvariantCulture);

    private static int Weighted(string digits, params int[] weights) =>
        weights.Select((weight, place) => weight * (digits[place] - '0')).Sum();

    /// <summary>ISO 7064 MOD 11,10.</summary>
    private static bool IsMod11And10(string digits)
    {
        var product = digits[..^1]
            .Aggregate(10, (before, digit) =>
            {
                var sum = (before + digit - '0') % 10;
                return (sum == 0 ? 10 : sum) * 2 % 11;
            });
        return (11 - product) % 10 == digits[^1] - '0';
    }

    /// <summary>The check digit of Luhn (US patent 2950048; ISO/IEC 7812-1).</summary>
    private static bool IsLuhn(string digits) =>
        digits
            .Reverse()
            .Select((digit, place) => (digit - '0') * (1 + place % 2))
            .Sum(value => value > 9 ? value - 9 : value) % 10
        == 0;

    /// <summary>The two British ways: MOD 97, and since 2010 MOD 97 with 55 added.</summary>
    private static bool IsBritish(string text)
    {
        if (!char.IsAsciiDigit(text[0]))
            return true;
        var sum = Weighted(text, 8, 7, 6, 5, 4, 3, 2) + Number(text[7..9]);
        return sum % 97 == 0 || (sum + 55) % 97 == 0;
    }
}
