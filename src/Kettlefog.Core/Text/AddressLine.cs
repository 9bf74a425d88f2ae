using System.Text.RegularExpressions;

namespace Kettlefog.Core.Text;

/// <summary>
/// The parts of a one-line address, such as <c>12 Fish Street, Saltmarrow, SX 10115</c>. European, American, Chinese,
/// Japanese and Korean formats are recognised, with the smallest part first or last.
/// </summary>
/// <param name="Street">Street, number and unit.</param>
/// <param name="Town">The town; empty if none is found.</param>
/// <param name="Region">State, province or prefecture; empty if none is found.</param>
/// <param name="Postcode">The postcode; empty if none is found.</param>
internal sealed partial record AddressLine(string Street, string Town, string Region, string Postcode)
{
    /// <summary>Longer lines are notes, and are left as they are.</summary>
    private const int Longest = 200;

    private static readonly HashSet<string> UnitWords =
    [
        "suite",
        "ste",
        "unit",
        "floor",
        "fl",
        "room",
        "rm",
        "flat",
        "apt",
        "apartment",
        "building",
        "bldg",
        "block",
        "level",
        "lot",
        "box",
    ];

    private static readonly HashSet<string> States =
    [
        .. WordLists.Listed("states.txt").SelectMany(line => line.Listed).Select(PlainLetters.Of),
    ];

    /// <summary>Splits a line into its parts; a line without parts is the street.</summary>
    /// <param name="line">The line as typed.</param>
    public static AddressLine Read(string line)
    {
        if (line.Length > Longest)
            return new AddressLine(line, "", "", "");
        var parts = line.Split(
                [',', ';', '\n', '，', '、'],
                StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries
            )
            .ToList();
        if (parts.Count == 0)
            return new AddressLine(line, "", "", "");
        return parts.Count == 1 ? InOwnScript(parts[0]) : BySmallestFirst(parts);
    }

    private static AddressLine BySmallestFirst(List<string> parts)
    {
        string town = "",
            region = "",
            postcode = "";
        var hasCountry = false;
        while (parts.Count > 1)
        {
            var part = parts[^1];
            if (part.Split(' ').Any(word => UnitWords.Contains(word.Trim('.').ToLowerInvariant())))
                break;
            if (postcode.Length == 0 && Code().Match(part) is { Success: true } code)
            {
                postcode = code.Groups["code"].Value;
                part = (part[..code.Index] + part[(code.Index + code.Length)..]).Trim(' ', '-');
                if (part.Length > 0)
                {
                    parts[^1] = part;
                    continue;
                }
            }
            else if (!hasCountry && town.Length == 0 && part.Length > 2 && Countries.CodeOf(part) is not null)
            {
                hasCountry = true;
            }
            else if (region.Length == 0 && (RegionName().IsMatch(part) || States.Contains(PlainLetters.Of(part))))
            {
                region = part;
            }
            else if (DistrictName().IsMatch(part))
            {
                // Some write the district and others do not.
            }
            else if (town.Length == 0 && !part.Any(char.IsDigit) && !EndsInStreet(part))
            {
                if (region.Length == 0 && StateBehind().Match(part) is { Success: true } state)
                {
                    region = state.Groups["state"].Value;
                    part = part[..state.Index];
                }

                town = TownWord().Replace(part, "");
            }
            else
            {
                break;
            }

            parts.RemoveAt(parts.Count - 1);
        }

        return new AddressLine(string.Join(", ", parts), town, region, postcode);
    }

    private static bool EndsInStreet(string part)
    {
        var last = PlainLetters.Of(part).TrimEnd('.').Split(' ')[^1];
        return StreetReader.IsKind(WordLists.StreetWords.GetValueOrDefault(last, last));
    }

    /// <summary>From the largest to the smallest, without commas, as in China, Japan and Korea.</summary>
    private static AddressLine InOwnScript(string line)
    {
        var plain = PlainLetters.Of(line);
        var match = Scripts.Of(plain) switch
        {
            Script.Han or Script.Kana => Han().Match(plain),
            Script.Hangul => Hangul().Match(plain),
            _ => null,
        };
        if (match is not { Success: true } || match.Groups["street"].Length == 0)
            return new AddressLine(line, "", "", "");
        var (region, town) = (match.Groups["region"].Value, match.Groups["town"].Value);
        return new AddressLine(
            Digits().Replace(match.Groups["street"].Value, " $1 ").Trim(),
            (town.Length > 0 ? town : region).TrimEnd('市', '都', '시'),
            region,
            match.Groups["code"].Value
        );
    }

    private const string Codes =
        @"\d{5}-\d{4}|\d{4}-\d{3}|\d{3}-\d{4}|\d{2}-\d{3}|\d{4} ?[A-Z]{2}|[A-Z]{1,2}\d[A-Z\d]? ?\d[A-Z]{2}"
        + @"|[A-Z]\d[A-Z] ?\d[A-Z]\d|\d{3} \d{2}|\d{4,7}";

    /// <summary>A postcode before a town, behind it, or by itself.</summary>
    [GeneratedRegex(
        $"^(?:[A-Z]{{1,2}}-)?(?<code>{Codes})(?=$|\\s)|(?<=\\s)(?<code>{Codes})$",
        RegexOptions.CultureInvariant
    )]
    private static partial Regex Code();

    [GeneratedRegex(
        "^[A-Z]{2}$|(?:[- ](?:do|ken|sheng)|\\b(?:province|prefecture|state|oblast|region))$",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    )]
    private static partial Regex RegionName();

    [GeneratedRegex(
        "(?:[- ](?:gu|gun|ku|dong|qu)|\\b(?:district|new area|county|ward))$",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    )]
    private static partial Regex DistrictName();

    [GeneratedRegex("(?:[- ](?:si|shi)|\\scity)$", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant)]
    private static partial Regex TownWord();

    [GeneratedRegex("\\s(?<state>[A-Z]{2})$", RegexOptions.CultureInvariant)]
    private static partial Regex StateBehind();

    /// <summary>A number, and the word for number behind it.</summary>
    [GeneratedRegex(@"\s*(\d+(?:-\d+)*)(?:号|番地|番|丁目|번지)?\s*", RegexOptions.CultureInvariant)]
    private static partial Regex Digits();

    [GeneratedRegex(
        "^〒?(?<code>\\d{3}-?\\d{3,4})?\\s*(?:中国|日本)?"
            + "(?<region>东京都|北海道|大阪府|京都府|[^\\s市区]{2,3}(?:省|县)|"
            + "[^\\s市区]{2,6}自治区)?\\s*"
            + "(?<town>[^\\s省市区县]{1,8}市)?\\s*(?:[^\\s市区县\\d]{1,8}(?:区|县|郡))?\\s*(?<street>.*)$",
        RegexOptions.CultureInvariant
    )]
    private static partial Regex Han();

    [GeneratedRegex(
        "^(?<code>\\d{5})?\\s*(?:대한민국\\s+)?(?:(?<region>\\S{1,5}도)\\s+)?"
            + "(?:(?<town>\\S{1,6}?)(?:특별시|광역시|시)\\s+)?(?:\\S{1,6}[구군]\\s+)*(?<street>.*)$",
        RegexOptions.CultureInvariant
    )]
    private static partial Regex Hangul();
}
