using System.Globalization;
using System.Text;

namespace Kettlefog.Core.Text;

/// <summary>How full stops separate words.</summary>
internal enum FullStops
{
    /// <summary>A full stop separates words: <c>J.R.</c> is two initials.</summary>
    Part,

    /// <summary>Single letters with full stops are one word: <c>S.A.R.L.</c> is <c>sarl</c>.</summary>
    JoinLetters,
}

/// <summary>
/// Splits text into plain words: no case, no accents, Latin letters for Cyrillic and Greek ones, and nothing but
/// letters and digits. Reused from text to text, by one thread.
/// </summary>
internal sealed class WordBuffer
{
    private const int MaxCharacters = 400;
    private const int MaxWords = 40;

    private readonly char[] _letters = new char[MaxCharacters * 3];
    private readonly (int Start, int Length)[] _words = new (int, int)[MaxWords];
    private int _end;

    public int Count { get; private set; }

    public ReadOnlySpan<char> this[int word] => _letters.AsSpan(_words[word].Start, _words[word].Length);

    /// <summary>Splits a text, replacing the previous words. At most 400 characters and 40 words are used.</summary>
    public void Split(ReadOnlySpan<char> text, FullStops stops)
    {
        Count = 0;
        _end = 0;
        text = text[..Math.Min(text.Length, MaxCharacters)];
        var plain = MendedText.MayBeBroken(text) ? PlainLetters.Of(MendedText.Of(text.ToString())) : text;
        plain = plain[..Math.Min(plain.Length, _letters.Length - MaxWords)];
        var start = _end;
        for (var at = 0; at < plain.Length && Count < MaxWords; at++)
        {
            var letter = plain[at];
            if (char.IsAsciiLetterUpper(letter))
                _letters[_end++] = (char)(letter | 0x20);
            else if (char.IsAsciiLetterOrDigit(letter) || (letter > 127 && Scripts.IsPartOfWord(letter)))
                _letters[_end++] = letter;
            else if (
                letter is '\'' or '’' or '`' or '‘' or 'ʼ'
                || CharUnicodeInfo.GetUnicodeCategory(letter) == UnicodeCategory.Format
            )
                continue;
            else if (letter == '.' && stops == FullStops.JoinLetters && IsLettersWithStops(plain, at))
                continue;
            else
                start = Close(start, letter, plain, at);
        }

        Close(start, ' ', plain, plain.Length);
    }

    /// <summary>Adds a word at the end, as if it had been split off.</summary>
    public void Append(ReadOnlySpan<char> word)
    {
        if (Count == MaxWords || _end + word.Length > _letters.Length)
            return;
        word.CopyTo(_letters.AsSpan(_end));
        _words[Count++] = (_end, word.Length);
        _end += word.Length;
    }

    /// <summary>Cuts letters off a word, at its beginning and at its end.</summary>
    public void Cut(int word, int fromStart, int fromEnd)
    {
        var (start, length) = _words[word];
        _words[word] = (start + fromStart, length - fromStart - fromEnd);
    }

    private int Close(int start, char letter, ReadOnlySpan<char> plain, int at)
    {
        if (_end > start && Count < MaxWords)
            _words[Count++] = (start, _end - start);
        if (letter is '&' or '+' && at + 1 < plain.Length)
            Append("and");
        return _end;
    }

    /// <summary>
    /// True for the full stop in <c>s.a</c>, <c>d.o.o</c>: single letters around it, or before it and an end after it.
    /// </summary>
    private static bool IsLettersWithStops(ReadOnlySpan<char> text, int at)
    {
        var single = at > 0 && char.IsAsciiLetter(text[at - 1]) && (at == 1 || !char.IsLetterOrDigit(text[at - 2]));
        return single
            && at + 1 < text.Length
            && char.IsAsciiLetter(text[at + 1])
            && (at + 2 == text.Length || !char.IsLetterOrDigit(text[at + 2]));
    }
}

/// <summary>Text in plain Latin letters, where letters of other scripts have a single reading.</summary>
internal static class PlainLetters
{
    private const string Cyrillic = "абвгдеёжзийклмнопрстуфхцчшщъыьэюяіїєґ";
    private const string Greek = "αβγδεζηθικλμνξοπρσςτυφχψω";

    // ISO 9 has one letter for each; these are the letters that passports and clerks write (BGN/PCGN for Cyrillic, ELOT
    // 743 for Greek).
    private static readonly string[] CyrillicReadings =
    [
        "a",
        "b",
        "v",
        "g",
        "d",
        "e",
        "e",
        "zh",
        "z",
        "i",
        "y",
        "k",
        "l",
        "m",
        "n",
        "o",
        "p",
        "r",
        "s",
        "t",
        "u",
        "f",
        "kh",
        "ts",
        "ch",
        "sh",
        "shch",
        "",
        "y",
        "",
        "e",
        "yu",
        "ya",
        "i",
        "i",
        "e",
        "g",
    ];

    private static readonly string[] GreekReadings =
    [
        "a",
        "v",
        "g",
        "d",
        "e",
        "z",
        "i",
        "th",
        "i",
        "k",
        "l",
        "m",
        "n",
        "x",
        "o",
        "p",
        "r",
        "s",
        "s",
        "t",
        "y",
        "f",
        "ch",
        "ps",
        "o",
    ];

    private static readonly Dictionary<char, char> HanVariants = WordLists
        .Listed("han-variants.txt")
        .SelectMany(line =>
            string.Concat(line.Listed).Where(letter => letter != ' ').Select(old => (old, line.Name[0]))
        )
        .DistinctBy(pair => pair.old)
        .ToDictionary();

    public static string Of(string text)
    {
        // Transliterated before folding, which would remove the breve of a short i.
        var plain = new StringBuilder(text.Length + 8);
        foreach (var letter in text)
        {
            var small = letter is < '\u0370' or > '\u04FF' ? letter : char.ToLowerInvariant(letter);
            if (small is < '\u0370' or > '\u04FF')
                plain.Append(letter);
            else if (Cyrillic.IndexOf(small, StringComparison.Ordinal) is >= 0 and var cyrillic)
                plain.Append(CyrillicReadings[cyrillic]);
            else if (Greek.IndexOf(small, StringComparison.Ordinal) is >= 0 and var greek)
                plain.Append(GreekReadings[greek]);
            else
                plain.Append(letter);
        }

        var folded = Folded(plain.ToString());
        plain.Clear();
        foreach (var letter in folded)
        {
            if (Greek.IndexOf(letter, StringComparison.Ordinal) is >= 0 and var greek)
                plain.Append(GreekReadings[greek]);
            else
                plain.Append(letter);
        }

        return plain.ToString();
    }

    /// <summary>
    /// Without accents, but with the marks of scripts in which they are sounds; each character of Chinese in one form,
    /// and hiragana as katakana.
    /// </summary>
    private static string Folded(string text)
    {
        if (text.All(letter => letter < '\u0900'))
            return FoldedText.Of(text);
        try
        {
            text = text.Normalize(NormalizationForm.FormKC);
        }
        catch (ArgumentException)
        {
            // A lone surrogate stays as it is.
        }

        var folded = new StringBuilder(text.Length);
        for (var at = 0; at < text.Length; )
        {
            var letter = text[at];
            if (Scripts.HasSoundingMarks(letter))
            {
                folded.Append(
                    letter is >= '\u3041' and <= '\u3096' ? (char)(letter + 0x60)
                    : HanVariants.TryGetValue(letter, out var usual) ? usual
                    : letter
                );
                at++;
                continue;
            }

            var end = at;
            while (end < text.Length && !Scripts.HasSoundingMarks(text[end]))
                end++;
            folded.Append(FoldedText.Of(text[at..end]));
            at = end;
        }

        return folded.ToString();
    }
}
