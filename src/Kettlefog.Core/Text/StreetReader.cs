namespace Kettlefog.Core.Text;

/// <summary>The parts of an address line.</summary>
internal sealed class StreetParts
{
    /// <summary>The words of the street's name, without its type.</summary>
    public List<string> Street { get; } = [];

    /// <summary>The street type, such as <c>road</c>; empty if there is none.</summary>
    public string Kind { get; set; } = "";

    /// <summary>The house number with its letter, such as <c>12b</c>; empty if there is none.</summary>
    public string Number { get; set; } = "";

    /// <summary>Flat, unit or floor; empty if there is none.</summary>
    public string Unit { get; set; } = "";
}

/// <summary>Splits address lines into their parts, with the house number before or after the street.</summary>
internal static class StreetReader
{
    private static readonly HashSet<string> Kinds =
    [
        "alley",
        "avenue",
        "boulevard",
        "circle",
        "close",
        "court",
        "crescent",
        "drive",
        "estate",
        "gardens",
        "grove",
        "heights",
        "highway",
        "lane",
        "mount",
        "parade",
        "park",
        "parkway",
        "passage",
        "place",
        "quay",
        "ridge",
        "road",
        "rue",
        "square",
        "street",
        "terrace",
        "trail",
        "turnpike",
        "view",
        "walk",
        "way",
        "wharf",
        "yard",
        "row",
        "mews",
        "hill",
        "green",
        "loop",
        "calle",
        "via",
        "allee",
        "weg",
        "platz",
        "ring",
        "gasse",
        "straat",
        "laan",
        "plein",
        "vej",
        "gade",
        "gata",
        "gatan",
        "vag",
        "veien",
        "vei",
        "katu",
        "ulica",
        "ul",
    ];

    private static readonly string[] KindEndings =
    [
        "strasse",
        "straat",
        "gasse",
        "weg",
        "platz",
        "allee",
        "laan",
        "plein",
        "gata",
        "gatan",
        "gade",
        "vej",
        "veien",
        "vagen",
        "katu",
    ];

    /// <summary>True for the type of a street, such as <c>road</c>.</summary>
    public static bool IsKind(string word) =>
        Kinds.Contains(word) || KindEndings.Any(ending => word.EndsWith(ending, StringComparison.Ordinal));

    /// <summary>Adds an address line.</summary>
    public static void Read(string line, WordBuffer words, StreetParts parts)
    {
        words.Split(line, FullStops.JoinLetters);
        var expanded = new string[words.Count];
        for (var at = 0; at < expanded.Length; at++)
        {
            var word = words[at].ToString();
            expanded[at] = WordLists.StreetWords.TryGetValue(word, out var full) ? full : word;
        }

        for (var at = 0; at < expanded.Length; at++)
        {
            var word = expanded[at];
            var next = at + 1 < expanded.Length ? expanded[at + 1] : "";
            if (word is "apartment" or "floor" && at + 1 < expanded.Length && (IsNumber(next) || next.Length == 1))
            {
                parts.Unit += next;
                at++;
            }
            else if (word is "po" && next is "box")
            {
                parts.Street.Add("pobox");
                at++;
            }
            else if (IsNumber(word))
            {
                at += ReadNumber(word, next, at, parts);
            }
            else if (
                word is "street" && at == 0
                || (
                    word is "street"
                    && expanded.Length > at + 2
                    && parts.Street.Count == 0
                    && words[at].SequenceEqual("st")
                )
            )
            {
                // "St Anne's Road": a saint, not a street.
                parts.Street.Add("saint");
            }
            else if (Kinds.Contains(word) && parts.Kind.Length == 0 && (parts.Street.Count > 0 || next.Length > 0))
            {
                parts.Kind = word;
            }
            else if (word is not ("the" or "number" or "apartment" or "floor" or "of" or "and" or "a" or "an" or "in"))
            {
                parts.Street.Add(Stem(word, parts));
            }
        }

        if (parts.Street.Count == 0 && parts.Kind.Length > 0)
        {
            parts.Street.Add(parts.Kind);
            parts.Kind = "";
        }
    }

    /// <summary>A house number from a field of its own.</summary>
    public static string Number(string? text, WordBuffer words)
    {
        if (string.IsNullOrWhiteSpace(text) || Junk.IsJunk(text))
            return "";
        words.Split(text, FullStops.JoinLetters);
        var number = "";
        for (var at = 0; at < words.Count; at++)
            number += words[at].ToString();
        return number.TrimStart('0');
    }

    private static int ReadNumber(string word, string next, int at, StreetParts parts)
    {
        if (parts.Number.Length == 0)
        {
            parts.Number = word.TrimStart('0');

            // "12 b" is 12b, but the letter alone may also be part of the street: "12 E Street".
            if (next.Length == 1 && char.IsAsciiLetter(next[0]) && parts.Street.Count > 0)
            {
                parts.Number += next;
                return 1;
            }

            return 0;
        }

        if (parts.Street.Count == 0 && at == 1)
        {
            // "4/12 Fish Street": the unit comes first.
            parts.Unit += parts.Number;
            parts.Number = word.TrimStart('0');
        }
        else if (parts.Street.Count == 0)
        {
            parts.Street.Add(word);
        }
        else
        {
            parts.Unit += word;
        }

        return 0;
    }

    /// <summary>"Hafenstrasse" and "Hafenstr." are "hafen" of type street.</summary>
    private static string Stem(string word, StreetParts parts)
    {
        if (word.Length > 6 && word.EndsWith("str", StringComparison.Ordinal))
        {
            parts.Kind = "street";
            return word[..^3];
        }

        foreach (var ending in KindEndings)
        {
            if (word.Length > ending.Length + 2 && word.EndsWith(ending, StringComparison.Ordinal))
            {
                parts.Kind = WordLists.StreetWords.GetValueOrDefault(ending, ending);
                return word[..^ending.Length];
            }
        }

        return word;
    }

    private static bool IsNumber(string word) => word.Length > 0 && char.IsAsciiDigit(word[0]) && !IsOrdinal(word);

    private static bool IsOrdinal(string word) =>
        word.Length > 2
        && (
            word.EndsWith("th", StringComparison.Ordinal)
            || word.EndsWith("st", StringComparison.Ordinal)
            || word.EndsWith("nd", StringComparison.Ordinal)
            || word.EndsWith("rd", StringComparison.Ordinal)
        );
}
