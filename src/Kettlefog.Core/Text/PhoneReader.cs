using System.Collections.Concurrent;
using PhoneNumbers;

namespace Kettlefog.Core.Text;

/// <summary>
/// Normalises phone numbers: the digits of E.164 where the country is known, otherwise the digits without the
/// national prefix. Calling codes and prefixes come from libphonenumber's tables; the numbers
/// themselves are not validated there, which would take longer than everything else.
/// </summary>
internal static class PhoneReader
{
    /// <summary>What follows a calling code has at least as many digits.</summary>
    private const int MinNational = 7;

    private const int MaxDigits = 20;
    private static readonly ConcurrentDictionary<string, (string CallingCode, string Trunk)> Countries = new(
        StringComparer.OrdinalIgnoreCase
    );

    /// <summary>
    /// True if a number in international form could be one of its country: the calling code is one, and as many digits
    /// follow as the country's numbers have.
    /// </summary>
    /// <param name="text">The number, from its "+" on, without an extension.</param>
    public static bool IsPossible(string text)
    {
        var numbers = PhoneNumberUtil.GetInstance();
        try
        {
            return numbers.IsPossibleNumber(numbers.Parse(text, null));
        }
        catch (NumberParseException)
        {
            return false;
        }
    }

    /// <summary>The main country of a calling code, in two letters of ISO 3166-1; null if it is none.</summary>
    public static string? CountryOf(int callingCode) =>
        PhoneNumberUtil.GetInstance().GetRegionCodeForCountryCode(callingCode) is { Length: 2 } region and not "ZZ"
            ? region
            : null;

    /// <summary>The calling code of a country in digits; empty if there is none.</summary>
    /// <param name="country">Two letters of ISO 3166-1.</param>
    public static string CallingCodeOf(string country) => Of(country).CallingCode;

    /// <summary>Reads a number.</summary>
    /// <param name="text">The number as typed.</param>
    /// <param name="country">Two letters of ISO 3166-1, or null if unknown.</param>
    /// <param name="into">Receives the digits; 40 characters.</param>
    /// <param name="extension">Receives the digits of the extension; 8 characters.</param>
    /// <returns>The number of digits; 0 if the text is not a phone number.</returns>
    public static (int Digits, int Extension) Read(string text, string? country, Span<char> into, Span<char> extension)
    {
        Span<char> raw = stackalloc char[MaxDigits];
        int count = 0,
            extensionCount = 0;
        var plus = false;
        var beyond = false;
        var hasTrunk = false;
        var read = text.AsSpan(0, Math.Min(text.Length, 60));
        for (var at = 0; at < read.Length; at++)
        {
            var letter = read[at];

            // "+44 (0)1632 ...": the 0 is dialled only within the country.
            if (plus && !beyond && !hasTrunk && read[at..].StartsWith("(0)"))
            {
                hasTrunk = true;
                at += 2;
                continue;
            }

            var digit =
                char.IsAsciiDigit(letter) ? letter
                : char.IsDigit(letter) ? (char)('0' + (int)char.GetNumericValue(letter))
                : '\0';
            if (digit != '\0')
            {
                if (beyond && extensionCount < extension.Length)
                    extension[extensionCount++] = digit;
                else if (!beyond && count < MaxDigits)
                    raw[count++] = digit;
            }
            else if (letter == '+' && count == 0)
            {
                plus = true;
            }
            else if (count >= 6 && letter is 'x' or 'X' or '#' or 'e' or 'E')
            {
                beyond = true;
            }
            else if (letter is '/' or ';' && count >= 8)
            {
                // A second number follows.
                break;
            }
        }

        var digits = raw[..count];

        if (!plus && digits.StartsWith("00") && digits.Length > 9)
        {
            plus = true;
            digits = digits[2..];
        }

        if (digits.Length < 6 || Junk.IsFiller(digits) || Junk.IsFiller(digits[^Math.Min(7, digits.Length)..]))
            return default;
        var length = 0;
        if (!plus)
        {
            var (callingCode, trunk) = country is { Length: 2 } ? Of(country) : ("", "0");
            if (trunk.Length > 0 && digits.StartsWith(trunk) && digits.Length > trunk.Length + 5)
                digits = digits[trunk.Length..];
            else if (
                callingCode.Length > 0
                && digits.StartsWith(callingCode)
                && digits.Length >= callingCode.Length + 9
            )
                callingCode = "";
            callingCode.CopyTo(into);
            length = callingCode.Length;
        }

        digits.CopyTo(into[length..]);
        return (length + digits.Length, extensionCount);
    }

    /// <summary>
    /// Takes the calling code of the default country off. Of a number without a country it is only assumed that it is
    /// of the default one: without the calling code it is the same as the number of any country that ends in it.
    /// </summary>
    /// <param name="digits">The digits of a number, which move to the beginning.</param>
    /// <param name="callingCode">The calling code of the default country; empty if there is none.</param>
    /// <returns>The number of digits that are left.</returns>
    public static int WithoutCode(Span<char> digits, string callingCode)
    {
        if (callingCode.Length == 0 || digits.Length <= callingCode.Length + MinNational)
            return digits.Length;
        if (!digits.StartsWith(callingCode))
            return digits.Length;
        digits[callingCode.Length..].CopyTo(digits);
        return digits.Length - callingCode.Length;
    }

    private static (string CallingCode, string Trunk) Of(string country) => Countries.GetOrAdd(country, static name =>
        {
            var region = name.ToUpperInvariant();
            var code = PhoneNumberUtil.GetInstance().GetCountryCodeForRegion(region);
            return code == 0
                ? ("", "0")
                : (
                    code.ToString(System.Globalization.CultureInfo.InvariantCulture),
                    PhoneNumberUtil.GetInstance().GetNddPrefixForRegion(region, true) ?? ""
                );
        });
}
