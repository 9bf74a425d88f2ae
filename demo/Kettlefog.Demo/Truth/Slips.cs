using System.Globalization;
using System.Text;

namespace Kettlefog.Demo.Truth;

/// <summary>Errors that values get from typing, scanners and web forms.</summary>
internal sealed class Slips(Random random)
{
    private const string Neighbours =
        "qwsa wqeasd ewrsdf retdfg trfygh ytughj uyihjk iuojkl oipkl polk aqwsz sawedxz dserfcx fdrtgvc "
        + "gftyhbv hgyujnb jhuikmn kjiolm lkop zasx xzsdc cxdfv vcfgb bvghn nbhjm mnjk";
    private static readonly (string From, string To)[] Sounds =
    [
        ("ph", "f"),
        ("f", "ph"),
        ("ck", "k"),
        ("k", "ck"),
        ("c", "k"),
        ("ee", "ea"),
        ("ie", "ei"),
        ("y", "i"),
        ("i", "y"),
        ("z", "s"),
        ("s", "z"),
        ("tt", "t"),
        ("ll", "l"),
        ("mm", "m"),
        ("nn", "n"),
        ("sh", "sch"),
        ("ch", "tch"),
        ("ow", "au"),
        ("er", "ar"),
        ("gh", "g"),
    ];

    private static readonly (string From, string To)[] Shapes =
    [
        ("o", "0"),
        ("l", "1"),
        ("i", "1"),
        ("s", "5"),
        ("b", "8"),
        ("rn", "m"),
        ("m", "rn"),
        ("cl", "d"),
        ("e", "c"),
        ("u", "v"),
        ("g", "q"),
        ("h", "b"),
        ("vv", "w"),
        ("nn", "m"),
    ];

    private static readonly Dictionary<char, string> Near = Neighbours
        .Split(' ')
        .ToDictionary(keys => keys[0], keys => keys[1..]);

    private static readonly Encoding Windows1252 = CodePagesEncodingProvider.Instance.GetEncoding(1252)!;

    public bool Chance(double share) => random.NextDouble() < share;

    public T Pick<T>(IReadOnlyList<T> items) => items[random.Next(items.Count)];

    /// <summary>One of several, by their shares, which add up to 1.</summary>
    public T Share<T>(IReadOnlyList<(double Share, T Item)> items)
    {
        var drawn = random.NextDouble();
        foreach (var (share, item) in items)
        {
            drawn -= share;
            if (drawn < 0)
                return item;
        }

        return items[^1].Item;
    }

    /// <summary>What becomes of letters beyond ASCII on their way through the wrong encoding.</summary>
    public string Misread(string text)
    {
        if (Ascii.IsValid(text))
            return text;
        return random.Next(4) switch
        {
            0 => string.Concat(text.Select(letter => letter > 127 ? '?' : letter)),
            1 => string.Concat(text.Select(letter => letter > 127 ? $"&#{(int)letter};" : $"{letter}")),
            _ => Windows1252.GetString(Encoding.UTF8.GetBytes(text)),
        };
    }

    public string Typo(string text)
    {
        if (text.Length < 3)
            return text;
        var at = random.Next(1, text.Length);
        return random.Next(3) switch
        {
            0 => text.Remove(at, 1),
            1 => text.Insert(at, text[at].ToString()),
            _ => text[..at] + NearTo(text[at]) + text[(at + 1)..],
        };
    }

    public string Transposition(string text)
    {
        if (text.Length < 4)
            return text;
        var at = random.Next(1, text.Length - 1);
        return $"{text[..at]}{text[at + 1]}{text[at]}{text[(at + 2)..]}";
    }

    public string Phonetic(string text) => Replace(text, Sounds);

    public string Scanned(string text) => Replace(text, Shapes);

    public static string WithoutAccents(string text)
    {
        var plain = new StringBuilder();
        foreach (var letter in text.Normalize(NormalizationForm.FormD))
        {
            if (CharUnicodeInfo.GetUnicodeCategory(letter) != UnicodeCategory.NonSpacingMark)
                plain.Append(
                    letter switch
                    {
                        'ø' => 'o',
                        'Ø' => 'O',
                        'æ' => 'a',
                        'ß' => 's',
                        _ => letter,
                    }
                );
        }

        return plain.ToString();
    }

    /// <summary>One wrong digit.</summary>
    public string Digit(string text)
    {
        var places = Enumerable.Range(0, text.Length).Where(at => char.IsAsciiDigit(text[at])).ToList();
        if (places.Count == 0)
            return text;
        var chosen = Pick(places);
        return text[..chosen] + (char)('0' + random.Next(10)) + text[(chosen + 1)..];
    }

    private string Replace(string text, (string From, string To)[] pairs)
    {
        if (text.Length < 2)
            return text;
        var start = random.Next(pairs.Length);
        for (var step = 0; step < pairs.Length; step++)
        {
            var (from, to) = pairs[(start + step) % pairs.Length];
            var at = text.IndexOf(from, 1, StringComparison.OrdinalIgnoreCase);
            if (at > 0)
                return text[..at] + to + text[(at + from.Length)..];
        }

        return Typo(text);
    }

    private char NearTo(char letter) =>
        Near.TryGetValue(char.ToLowerInvariant(letter), out var near) ? Pick(near.ToCharArray()) : letter;
}
