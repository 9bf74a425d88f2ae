namespace Kettlefog.Core.Text;

/// <summary>International bank account numbers (IBAN, ISO 13616), with check digits by ISO 7064 MOD 97-10.</summary>
internal static class BankAccounts
{
    /// <summary>The number of characters by country, as registered under ISO 13616.</summary>
    private static readonly Dictionary<string, int> Lengths = (
        "AD24 AE23 AL28 AT20 AZ28 BA20 BE16 BG22 BH22 BR29 BY28 CH21 CR22 CY28 CZ24 DE22 DK18 DO28 EE20 EG29 ES24 "
        + "FI18 FO18 FR27 GB22 GE22 GI23 GL18 GR27 GT28 HR21 HU28 IE22 IL23 IQ23 IS26 IT27 JO30 KW30 KZ20 LB28 LC32 "
        + "LI21 LT20 LU20 LV21 LY25 MC27 MD24 ME22 MK19 MR27 MT31 MU30 NL18 NO15 PK24 PL28 PS29 PT25 QA29 RO24 RS22 "
        + "SA24 SC31 SE24 SI19 SK24 SM27 ST25 SV28 TL23 TN24 TR26 UA29 VA22 VG24 XK20"
    )
        .Split(' ')
        .ToDictionary(
            each => each[..2],
            each => int.Parse(each[2..], System.Globalization.CultureInfo.InvariantCulture)
        );

    /// <summary>What is wrong with a bank account number, as the rest of a sentence; null if nothing is.</summary>
    /// <param name="text">
    /// The number as typed. One that does not begin as an IBAN does is taken for a national one, of which only the
    /// characters are checked.
    /// </param>
    public static string? Mistake(string text)
    {
        var number = Compact.Of(text);
        if (number.Length is < 4 or > 34 || !number.All(char.IsAsciiLetterOrDigit) || !number.Any(char.IsAsciiDigit))
            return "is not a bank account number";
        if (number.Length < 5 || !char.IsAsciiLetter(number[0]) || !char.IsAsciiLetter(number[1]))
            return null;
        if (!Lengths.TryGetValue(number[..2], out var length))
            return $"is not a bank account number: no IBAN begins with {number[..2]}";
        if (number.Length != length)
            return $"is not a bank account number: an IBAN of {number[..2]} has {length} characters, not "
                + $"{number.Length}";
        return Remainder(number[4..] + number[..4]) == 1
            ? null
            : "is not a bank account number: its check digits do not fit";
    }

    /// <summary>The remainder by 97 of a number in which A to Z stand for 10 to 35.</summary>
    private static int Remainder(string text) =>
        text.Aggregate(0, (rest, letter) =>
            char.IsAsciiDigit(letter) ? (rest * 10 + letter - '0') % 97 : (rest * 100 + letter - 'A' + 10) % 97
        );
}
