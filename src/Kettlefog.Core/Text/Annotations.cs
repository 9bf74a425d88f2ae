using System.Buffers;

namespace Kettlefog.Core.Text;

/// <summary>
/// What clerks write beside a name because there is no other place for it: <c>(do not use)</c>, <c>- OLD</c>,
/// <c>*** BLOCKED ***</c>, <c>c/o parents</c>. It is about the record, not part of the name.
/// </summary>
internal static class Annotations
{
    private static readonly SearchValues<char> Marks = SearchValues.Create("([{*#-–—/");

    private static readonly HashSet<string> Words = WordLists.Set("annotations.txt");

    /// <summary>What no name ends in, even without a mark before it.</summary>
    private static readonly HashSet<string> Plain =
    [
        "deceased",
        "duplicate",
        "inactive",
        "obsolete",
        "verstorben",
        "doublon",
        "duplicado",
        "overleden",
        "inaktiv",
    ];

    /// <summary>The name without annotations; all of it if nothing else would be left.</summary>
    public static string WithoutThem(string name)
    {
        var rest = name.AsSpan().Trim();
        if (rest.IndexOfAny(Marks) < 0 && !EndsInPlain(rest))
            return name;
        var kept = rest.ToString();
        kept = WithoutBracketed(kept, '(', ')');
        kept = WithoutBracketed(kept, '[', ']');
        kept = WithoutBracketed(kept, '*', '*');
        if (kept.IndexOf("c/o", StringComparison.OrdinalIgnoreCase) is > 0 and var careOf)
            kept = kept[..careOf];
        foreach (var separator in (string[])[" - ", " – ", " — ", "*", "#", " / "])
        {
            var at = kept.LastIndexOf(separator, StringComparison.Ordinal);
            if (at > 0 && IsAnnotation(kept[(at + separator.Length)..]))
                kept = kept[..at];
        }

        while (EndsInPlain(kept))
            kept = kept[..kept.TrimEnd().LastIndexOf(' ')];
        kept = kept.Trim();
        return kept.Any(char.IsLetterOrDigit) ? kept : name;
    }

    private static bool EndsInPlain(ReadOnlySpan<char> name)
    {
        name = name.TrimEnd();
        var space = name.LastIndexOf(' ');
        if (space <= 0)
            return false;
        Span<char> last = stackalloc char[16];
        var word = name[(space + 1)..];
        return word.Length <= last.Length
            && word.ToLowerInvariant(last) > 0
            && Plain.GetAlternateLookup<ReadOnlySpan<char>>().Contains(last[..word.Length]);
    }

    private static string WithoutBracketed(string name, char open, char close)
    {
        var start = name.IndexOf(open, StringComparison.Ordinal);
        while (start >= 0)
        {
            var end = name.IndexOf(close, start + 1);
            while (close == '*' && end >= 0 && end == start + 1)
                (start, end) = (end, name.IndexOf(close, end + 1));
            var inner = end < 0 ? name[(start + 1)..] : name[(start + 1)..end];
            if (IsAnnotation(inner) || string.IsNullOrWhiteSpace(inner.Trim(open, close)))
            {
                name = (name[..start].TrimEnd(open) + (end < 0 ? "" : " " + name[(end + 1)..].TrimStart(close))).Trim();
                start = name.IndexOf(open, StringComparison.Ordinal);
                continue;
            }

            start = end < 0 ? -1 : name.IndexOf(open, Math.Min(end + 1, name.Length - 1));
            if (start == end)
                break;
        }

        return name;
    }

    private static bool IsAnnotation(string text)
    {
        var words = PlainLetters
            .Of(text)
            .Split([' ', '-', '*', '.', ',', '!', ':', '\'', '’'], StringSplitOptions.RemoveEmptyEntries);
        return words.Length > 0 && words.All(word => Words.Contains(word) || word.All(char.IsAsciiDigit));
    }
}
