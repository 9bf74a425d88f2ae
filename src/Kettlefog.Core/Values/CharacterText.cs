using System.Globalization;

namespace Kettlefog.Core.Values;

/// <summary>
/// Texts measured in characters as databases count them: Unicode code points, of which some take two places in a
/// .NET string.
/// </summary>
public static class CharacterText
{
    /// <summary>The number of characters.</summary>
    /// <param name="text">The text.</param>
    public static int Count(string text)
    {
        ArgumentNullException.ThrowIfNull(text);
        var count = 0;
        foreach (var _ in text.EnumerateRunes())
            count++;
        return count;
    }

    /// <summary>
    /// The text, cut with an ellipsis at its end if it has more characters than allowed; never within what people see
    /// as one character.
    /// </summary>
    /// <param name="text">The text.</param>
    /// <param name="max">The most characters allowed, the ellipsis among them; at least 1.</param>
    public static string Shorten(string text, int max)
    {
        ArgumentNullException.ThrowIfNull(text);
        ArgumentOutOfRangeException.ThrowIfLessThan(max, 1);
        if (Count(text) <= max)
            return text;
        var (length, used) = (0, 0);
        foreach (var start in StringInfo.ParseCombiningCharacters(text))
        {
            var element = StringInfo.GetNextTextElement(text, start);
            used += Count(element);
            if (used > max - 1)
                break;
            length = start + element.Length;
        }

        return $"{text[..length]}…";
    }
}
