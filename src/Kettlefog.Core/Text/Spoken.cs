using System.Text;

namespace Kettlefog.Core.Text;

/// <summary>How a word came to be written in Latin letters.</summary>
internal enum Romanisation
{
    /// <summary>As people write it.</summary>
    Usual,

    /// <summary>In Hanyu Pinyin: <c>q</c>, <c>x</c>, <c>c</c> and <c>z</c> have sounds of their own.</summary>
    Pinyin,

    /// <summary>Letter by letter from a script that leaves vowels out: between two consonants may be one.</summary>
    ByLetter,
}

/// <summary>
/// How a word in Latin letters sounds, as far as those agree who write a name of another script in them: a consonant of
/// a class, then the vowels that follow it.
/// </summary>
/// <remarks>
/// Classes of consonants are those that romanisations mix: voiced and unvoiced stops (Wade–Giles, McCune–Reischauer),
/// <c>sh</c>, <c>hs</c> and <c>x</c>; <c>zh</c>, <c>ch</c>, <c>j</c>, <c>q</c> and <c>ts</c>; <c>v</c>, <c>w</c> and
/// <c>f</c>.
/// </remarks>
internal sealed class Spoken
{
    private static readonly (string Letters, string Sound)[] Consonants =
    [
        ("shch", "S"),
        ("tsch", "C"),
        ("sch", "S"),
        ("dzh", "C"),
        ("tch", "C"),
        ("sh", "S"),
        ("zh", "C"),
        ("ch", "C"),
        ("ts", "C"),
        ("tz", "C"),
        ("dz", "C"),
        ("dj", "C"),
        ("kh", "K"),
        ("gh", "K"),
        ("ck", "K"),
        ("ph", "F"),
        ("th", "T"),
        ("dh", "T"),
        ("bh", "P"),
        ("ng", "N"),
        ("b", "P"),
        ("p", "P"),
        ("d", "T"),
        ("t", "T"),
        ("g", "K"),
        ("k", "K"),
        ("f", "F"),
        ("v", "F"),
        ("j", "C"),
        ("z", "S"),
        ("s", "S"),
        ("l", "L"),
        ("r", "R"),
        ("m", "M"),
        ("n", "N"),
    ];

    private Spoken(string letters, string sounds, (char Consonant, string Vowels)[] units)
    {
        Letters = letters;
        Sounds = sounds;
        Units = units;
    }

    /// <summary>The letters.</summary>
    public string Letters { get; }

    /// <summary>Classes of consonants in capitals and of vowels in small letters.</summary>
    public string Sounds { get; }

    /// <summary>
    /// Each consonant with the vowel letters behind it; the first has no consonant if the word begins with a vowel.
    /// </summary>
    public IReadOnlyList<(char Consonant, string Vowels)> Units { get; }

    /// <summary>How a word sounds.</summary>
    /// <param name="letters">The word, in small Latin letters; others are left out.</param>
    /// <param name="romanisation">How it came to be written in them.</param>
    public static Spoken Of(string letters, Romanisation romanisation = Romanisation.Usual)
    {
        var units = new List<(char Consonant, string Vowels)>();
        var vowels = new StringBuilder();
        var last = '\0';
        for (var at = 0; at < letters.Length; )
        {
            var (sound, length) = SoundAt(letters, at, romanisation);
            at += length;
            foreach (var letter in sound)
            {
                if (char.IsAsciiLetterLower(letter))
                {
                    vowels.Append(letter);
                    continue;
                }

                if (vowels.Length == 0 && letter == last && romanisation != Romanisation.ByLetter)
                    continue;
                if (last != '\0' || vowels.Length > 0)
                    units.Add((last, vowels.ToString()));
                vowels.Clear();
                last = letter;
            }
        }

        if (last != '\0' || vowels.Length > 0)
            units.Add((last, vowels.ToString()));

        // An h behind a vowel lengthens it, and is no sound of its own.
        var sounds = new StringBuilder();
        foreach (var (consonant, between) in units)
        {
            if (consonant != '\0' && (consonant != 'H' || sounds.Length == 0))
                sounds.Append(consonant);
            if (VowelOf(between) is not '\0' and var vowel)
                sounds.Append(vowel);
        }

        return new Spoken(letters, sounds.ToString(), [.. units]);
    }

    private static (string Sound, int Length) SoundAt(string letters, int at, Romanisation romanisation)
    {
        var isPinyin = romanisation == Romanisation.Pinyin;
        var letter = letters[at];
        var next = at + 1 < letters.Length ? letters[at + 1] : ' ';
        if (letter is 'a' or 'e' or 'i' or 'o' or 'u')
            return (letter.ToString(), 1);
        switch (letter)
        {
            case 'y':
                return ("i", 1);

            // At the beginning a sound of its own, elsewhere mostly a vowel or nothing at all.
            case 'w':
                return (at == 0 ? "F" : "u", 1);
            case 'h':
                var isOneSound = at == 0 && next == 's' && romanisation == Romanisation.Usual;
                return (isOneSound ? "S" : "H", isOneSound ? 2 : 1);
            case 'q':
                return (isPinyin ? "C" : "K", 1);
            case 'x':
                return (isPinyin || at == 0 ? "S" : "KS", 1);
            case 'c' when next is not 'h' and not 'k':
                return (
                    isPinyin ? "C"
                    : next is 'e' or 'i' or 'y' ? "S"
                    : "K",
                    1
                );
            case 'z' when isPinyin:
                return ("C", next == 'h' ? 2 : 1);
        }

        foreach (var (spelling, sound) in Consonants)
        {
            if (string.CompareOrdinal(letters, at, spelling, 0, spelling.Length) == 0)
                return (sound, spelling.Length);
        }

        return ("", 1);
    }

    /// <summary>
    /// The class of some vowels after each other: without the glide before them, <c>a</c>, <c>i</c> or <c>u</c>.
    /// </summary>
    private static char VowelOf(string vowels)
    {
        var at = 0;
        while (at + 1 < vowels.Length && vowels[at] is 'i' or 'u' && vowels[at + 1] != vowels[at])
            at++;
        if (at == vowels.Length)
            return '\0';
        var next = at + 1 < vowels.Length ? vowels[at + 1] : '\0';
        return (vowels[at], next) switch
        {
            ('a', 'i' or 'e') => 'i',
            ('a', 'o' or 'u') => 'u',
            ('a', _) => 'a',
            ('e', 'o' or 'u') => 'u',
            ('e' or 'i', _) => 'i',
            _ => 'u',
        };
    }
}
