using System.Globalization;

namespace Kettlefog.Core.Text;

/// <summary>The writing systems of names, as far as they are read in different ways.</summary>
internal enum Script
{
    /// <summary>Latin letters, and what is written in them: Cyrillic and Greek.</summary>
    Latin,

    /// <summary>Chinese characters, in China, Japan and Korea.</summary>
    Han,

    /// <summary>Katakana, in which hiragana is compared as well.</summary>
    Kana,

    /// <summary>Korean syllables.</summary>
    Hangul,

    /// <summary>Arabic and Hebrew: short vowels are not written.</summary>
    Abjad,

    /// <summary>Thai, Devanagari and their relatives: some vowels are not written, and some are not spoken.</summary>
    Abugida,

    /// <summary>Georgian, Armenian and others that write each sound.</summary>
    Alphabet,
}

/// <summary>Tells writing systems apart, by the blocks of the Unicode Standard.</summary>
internal static class Scripts
{
    /// <summary>The writing system of a word: that of its first letter that is not Latin.</summary>
    public static Script Of(ReadOnlySpan<char> word)
    {
        foreach (var letter in word)
        {
            if (letter >= 0x0500 && char.IsLetter(letter) && Of(letter) is not Script.Latin and var script)
                return script;
        }

        return Script.Latin;
    }

    /// <summary>True for a letter or mark of a writing system whose marks are no accents, but sounds.</summary>
    public static bool HasSoundingMarks(char letter) =>
        letter is >= '\u0900' and < '\u10A0' or >= '\u1100' and < '\u1200' or >= '\u1780' and < '\u1800'
        || letter is >= '\u3040' and < '\uA4D0' or >= '\uAC00' and < '\uD800' or >= '\uF900' and < '\uFB00';

    /// <summary>True for what is part of a word: letters, digits, and marks that are sounds.</summary>
    public static bool IsPartOfWord(char letter) =>
        char.IsLetterOrDigit(letter)
        || char.IsSurrogate(letter)
        || (
            HasSoundingMarks(letter)
            && CharUnicodeInfo.GetUnicodeCategory(letter)
                is UnicodeCategory.NonSpacingMark
                    or UnicodeCategory.SpacingCombiningMark
        );

    /// <summary>True for a word of letters that are written without spaces between words.</summary>
    public static bool HasNoSpaces(Script script) => script is Script.Han or Script.Kana or Script.Hangul;

    private static Script Of(char letter) =>
        letter switch
        {
            >= '\u0530' and < '\u0590' or >= '\u10A0' and < '\u1100' or >= '\u1200' and < '\u1400' => Script.Alphabet,
            >= '\u0590' and < '\u0900' or >= '\uFB1D' and < '\uFE00' or >= '\uFE70' and < '\uFF00' => Script.Abjad,
            >= '\u0900' and < '\u10A0' or >= '\u1780' and < '\u1800' => Script.Abugida,
            >= '\u1100' and < '\u1200' or >= '\uAC00' and < '\uD7B0' => Script.Hangul,
            >= '\u3040' and < '\u3100' or >= '\uFF66' and < '\uFFA0' => Script.Kana,
            '々' or >= '\u3400' and < '\uA000' or >= '\uF900' and < '\uFB00' or >= '\uD840' and < '\uD8C0' =>
                Script.Han,
            _ => Script.Latin,
        };
}
