using System.Net;
using System.Text;

namespace Kettlefog.Core.Text;

/// <summary>Text as it was before a program read it in the wrong encoding.</summary>
/// <remarks>
/// Mended are UTF-8 that was read as Windows-1252 (WHATWG Encoding Standard), character references (HTML Living
/// Standard, 13.5), and question marks between letters, which stand for a letter that an encoding did not have.
/// </remarks>
internal static class MendedText
{
    /// <summary>What Windows-1252 has for the bytes from 0x80 to 0x9F; 0 where it has nothing.</summary>
    private const string HighControls = "€\0‚ƒ„…†‡ˆ‰Š‹Œ\0Ž\0\0‘’“”•–—˜™š›œ\0žŸ";

    private static readonly UTF8Encoding Strict = new(false, throwOnInvalidBytes: true);

    /// <summary>True if a text may be broken.</summary>
    public static bool MayBeBroken(ReadOnlySpan<char> text)
    {
        if (!Ascii.IsValid(text))
            return true;
        for (var at = text.IndexOfAny('&', '?'); at >= 0 && at + 1 < text.Length; at++)
        {
            var isLetterNext = char.IsAsciiLetter(text[at + 1]);
            if (text[at] == '&' && (text[at + 1] == '#' || (isLetterNext && text[at..].Contains(';'))))
                return true;
            if (text[at] == '?' && at > 0 && isLetterNext && char.IsAsciiLetter(text[at - 1]))
                return true;
        }

        return false;
    }

    /// <summary>Mends a text; one that is not broken stays as it is.</summary>
    public static string Of(string text)
    {
        if (!MayBeBroken(text))
            return text;
        if (text.Contains('&', StringComparison.Ordinal))
            text = WebUtility.HtmlDecode(text);
        var mended = new StringBuilder(text.Length);
        for (var at = 0; at < text.Length; )
        {
            if (text[at] < 0x80)
            {
                var isLost =
                    text[at] is '?'
                    && at > 0
                    && at + 1 < text.Length
                    && char.IsLetter(text[at - 1])
                    && char.IsLetter(text[at + 1]);
                if (!isLost)
                    mended.Append(text[at]);
                at++;
                continue;
            }

            var end = at;
            while (end < text.Length && text[end] >= 0x80)
                end++;
            mended.Append(Decoded(text.AsSpan(at, end - at)) ?? text[at..end]);
            at = end;
        }

        return mended.ToString();
    }

    /// <summary>The text whose bytes these letters show, if they are those of valid UTF-8.</summary>
    private static string? Decoded(ReadOnlySpan<char> letters)
    {
        if (letters.Length < 2)
            return null;
        Span<byte> bytes = letters.Length <= 256 ? stackalloc byte[letters.Length] : new byte[letters.Length];
        for (var at = 0; at < letters.Length; at++)
        {
            var letter = letters[at];
            var high = HighControls.IndexOf(letter, StringComparison.Ordinal);
            if (letter is >= (char)0x80 and <= (char)0xFF)
                bytes[at] = (byte)letter;
            else if (high >= 0)
                bytes[at] = (byte)(0x80 + high);
            else
                return null;
        }

        try
        {
            var decoded = Strict.GetString(bytes);
            return IsLikelier(decoded, letters) ? decoded : null;
        }
        catch (DecoderFallbackException)
        {
            return null;
        }
    }

    /// <summary>
    /// Two letters may be valid UTF-8 by chance. What is decoded is likelier if it is Latin, or if what stood there is
    /// no word of any language, because it has signs among its letters.
    /// </summary>
    private static bool IsLikelier(string decoded, ReadOnlySpan<char> letters)
    {
        if (decoded.All(letter => letter is >= '\u00A0' and < '\u0250' or >= '\u2010' and < '\u2070'))
            return true;
        foreach (var letter in letters)
        {
            if (!char.IsLetter(letter))
                return true;
        }

        // Of what is left, letters of Greek and Cyrillic are likelier than a Spanish Ñ or Danish Ø before a Czech Ž.
        return decoded.All(letter => letter is >= '\u0370' and < '\u0500');
    }
}
