using System.Text;
using System.Text.RegularExpressions;
using AnyAscii;

namespace Kettlefog.Core.Text;

/// <summary>How a word of a name is read in Latin letters, whatever script it is written in.</summary>
/// <remarks>
/// Letters and syllables are read as the AnyAscii tables have them. What those cannot know is in lists of our own:
/// Japanese readings of Chinese characters, and family names that people write in a way of their own.
/// </remarks>
internal sealed partial class Reading
{
    private const int LongestListed = 4;

    /// <summary>Letters of Arabic and Hebrew that stand before a vowel, or for a half vowel.</summary>
    private const string BeforeVowels = "اأإآٱعيىאעי";

    /// <summary>First letters that stand for one sound.</summary>
    private static readonly string[] AlikeAtStart = ["kcqg", "fvw", "sxz", "jy", "td", "pb"];

    private static readonly Dictionary<string, string[]> Han = Lists("han-readings.txt");
    private static readonly Dictionary<string, string[]> Hangul = Lists("hangul-readings.txt");

    private IReadOnlyList<string> _parts = [];

    private Reading(Script script, IEnumerable<Spoken> spellings, bool beginsWithVowel)
    {
        Script = script;
        Spellings = [.. spellings];
        BeginsWithVowel = beginsWithVowel;
    }

    /// <summary>The script in which the word is written.</summary>
    public Script Script { get; }

    /// <summary>The ways to write it in Latin letters, the likeliest first; none if it has no letter.</summary>
    public IReadOnlyList<Spoken> Spellings { get; }

    /// <summary>
    /// True if the word begins with a vowel or a half vowel, for which Arabic and Hebrew have a letter without sound.
    /// </summary>
    public bool BeginsWithVowel { get; }

    /// <summary>
    /// The words in Latin letters by which another record may have the word: all readings, those of its parts, and with
    /// the other letters by which its first sound is written.
    /// </summary>
    public IEnumerable<string> Searched
    {
        get
        {
            foreach (var letters in Spellings.Select(spoken => spoken.Letters).Concat(_parts))
            {
                if (Script == Script.Abjad && BeginsWithVowel)
                {
                    foreach (var vowel in "aeiou")
                        yield return vowel + letters;
                }

                yield return letters;
                foreach (var other in AlikeAtStart.FirstOrDefault(each => each.Contains(letters[0])) ?? "")
                {
                    if (other != letters[0])
                        yield return other + letters[1..];
                }
            }
        }
    }

    /// <summary>Reads a word.</summary>
    /// <param name="word">The word, as <see cref="WordBuffer"/> splits it off.</param>
    public static Reading Of(string word)
    {
        if (word.Length == 0)
            return new Reading(Script.Latin, [], false);
        var script = Scripts.Of(word);

        // The article is written with the name, and is left out as in "al Hassan".
        if (word.StartsWith("ال", StringComparison.Ordinal) && word.Length > 4)
            word = word[2..];
        var spellings = script switch
        {
            Script.Latin => [Spoken.Of(word), .. Chinese(word)],
            Script.Han => OfHan(word),
            Script.Hangul => [.. Listed(Hangul, word), Spoken.Of(Latin(word))],
            Script.Kana => [Spoken.Of(string.Concat(PartsOf(word) ?? [OfKana(word)]))],
            Script.Abjad => OfAbjad(word),
            Script.Abugida => [Spoken.Of(Latin(WithoutSilent(word)), Romanisation.ByLetter)],
            _ => [Spoken.Of(Latin(word))],
        };
        var beginsWithVowel = script == Script.Abjad ? BeforeVowels.Contains(word[0]) : "aeiouy".Contains(word[0]);
        return new Reading(script, spellings.Where(spoken => spoken.Letters.Length > 0), beginsWithVowel)
        {
            _parts = script is Script.Han or Script.Kana ? PartsOf(word) ?? [] : [],
        };
    }

    /// <summary>True if a list has the word whole: family names and given names of Japan and China.</summary>
    public static bool IsListed(ReadOnlySpan<char> word) =>
        Han.GetAlternateLookup<ReadOnlySpan<char>>().ContainsKey(word)
        || Hangul.GetAlternateLookup<ReadOnlySpan<char>>().ContainsKey(word);

    /// <summary>
    /// True if a word in Latin letters can be a Chinese name in Hanyu Pinyin, and cannot be a Japanese one.
    /// </summary>
    public static bool IsPinyin(string word) => PinyinOnly().IsMatch(word) && Pinyin().IsMatch(word);

    private static IEnumerable<Spoken> Chinese(string word) =>
        word.AsSpan().ContainsAny("qxcz") ? [Spoken.Of(word, Romanisation.Pinyin)] : [];

    private static IEnumerable<Spoken> OfHan(string word)
    {
        foreach (var listed in Listed(Han, word))
            yield return listed;
        if (!Han.ContainsKey(word) && PartsOf(word) is { } parts)
            yield return Spoken.Of(string.Concat(parts));
        yield return Spoken.Of(Latin(word), Romanisation.Pinyin);
    }

    /// <summary>The readings of the parts of a word, if all of it is listed or in kana.</summary>
    private static List<string>? PartsOf(string word)
    {
        var lookup = Han.GetAlternateLookup<ReadOnlySpan<char>>();
        var parts = new List<string>();
        for (var at = 0; at < word.Length; )
        {
            var kana = at;
            while (kana < word.Length && Scripts.Of(word.AsSpan(kana, 1)) == Script.Kana)
                kana++;
            var length = kana > at ? kana - at : Math.Min(LongestListed, word.Length - at);
            while (kana == at && length > 0 && !lookup.ContainsKey(word.AsSpan(at, length)))
                length--;
            if (length == 0)
                return null;
            parts.Add(kana > at ? OfKana(word[at..kana]) : lookup[word.AsSpan(at, length)][0]);
            at += length;
        }

        return parts.TrueForAll(part => part.Length > 0) ? parts : null;
    }

    private static IEnumerable<Spoken> OfAbjad(string word)
    {
        var letters = Latin(word);
        var spellings = new List<string> { letters };
        if (word.Contains('ח', StringComparison.Ordinal))
            spellings.Add(letters.Replace("h", "ch", StringComparison.Ordinal));

        // Vav is a consonant or a vowel, and so is waw, which is a v in Persian.
        if (word.AsSpan(1).Contains('ו'))
            spellings.Add(letters[..1] + letters[1..].Replace('v', 'w'));
        if (word.AsSpan(1).Contains('و'))
            spellings.Add(letters[..1] + letters[1..].Replace('w', 'v'));
        if (letters.Contains("ll", StringComparison.Ordinal))
            spellings.Add(letters.Replace("ll", "l", StringComparison.Ordinal));
        if (word.Contains('ض', StringComparison.Ordinal))
            spellings.Add(Latin(word.Replace('ض', 'ز')));
        return spellings.Select(each => Spoken.Of(each, Romanisation.ByLetter));
    }

    /// <summary>Thai writes the letters of other languages that nobody speaks, with a mark above them.</summary>
    private static string WithoutSilent(string word)
    {
        var kept = new StringBuilder(word.Length);
        foreach (var letter in word)
        {
            if (letter != '\u0E4C')
                kept.Append(letter);
            else if (kept.Length > 0)
                kept.Length--;
        }

        return kept.ToString();
    }

    private static string OfKana(string word)
    {
        var read = new StringBuilder(word.Length * 2);
        var isDouble = false;
        foreach (var letter in word)
        {
            if (letter is 'ッ')
            {
                isDouble = true;
                continue;
            }

            var latin = Latin(letter.ToString());
            if (letter is 'ャ' or 'ュ' or 'ョ' && read.Length > 1 && read[^1] == 'i')
            {
                read.Length--;
                if (read[^1] is 'h' or 'j')
                    latin = latin[1..];
            }
            else if (letter is 'ァ' or 'ィ' or 'ゥ' or 'ェ' or 'ォ' && read.Length > 1)
            {
                read.Length--;
            }

            if (isDouble && latin.Length > 0)
                read.Append(latin[0]);
            isDouble = false;
            read.Append(latin);
        }

        return read.ToString();
    }

    private static string Latin(string word)
    {
        var latin = new StringBuilder(word.Length * 2);
        foreach (var letter in word.Transliterate())
        {
            if (char.IsAsciiLetter(letter))
                latin.Append(char.ToLowerInvariant(letter));
        }

        return latin.ToString();
    }

    private static IEnumerable<Spoken> Listed(Dictionary<string, string[]> list, string word) =>
        list.TryGetValue(word, out var readings) ? readings.Select(reading => Spoken.Of(reading)) : [];

    private static Dictionary<string, string[]> Lists(string file)
    {
        var lists = new Dictionary<string, string[]>();
        foreach (var (name, listed) in WordLists.Listed(file))
        {
            var readings = listed.SelectMany(each => each.Split(' ')).ToArray();
            var word = PlainLetters.Of(name);
            lists[word] = lists.TryGetValue(word, out var before) ? [.. before.Union(readings)] : readings;
        }

        return lists;
    }

    [GeneratedRegex("^(?:(?:zh|ch|sh|[bpmfdtnlgkhjqxzcsrwy])?[aeiouv]{1,3}(?:ng|n|r)?){1,3}$")]
    private static partial Regex Pinyin();

    [GeneratedRegex("zh|x|q|ng|l|v|ao|ia|ie|iu|ua|ui|uo|w[eiou]|f[aeio]|y[ei]|zi|si|ti|tu|du|di")]
    private static partial Regex PinyinOnly();
}
