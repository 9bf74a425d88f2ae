using System.Globalization;
using System.Text;

namespace Kettlefog.Core.Text;

/// <summary>Text as a search compares it: without case and without accents.</summary>
public static class FoldedText
{
    /// <summary>Folds a text: compatibility decomposition (Unicode NFKD), no combining marks, lower case.</summary>
    /// <param name="text">The text; a lone surrogate stays as it is.</param>
    public static string Of(string text)
    {
        ArgumentNullException.ThrowIfNull(text);
        if (Ascii.IsValid(text))
            return text.ToLowerInvariant();
        var folded = new StringBuilder(text.Length);
        foreach (var letter in Decompose(text))
        {
            if (CharUnicodeInfo.GetUnicodeCategory(letter) != UnicodeCategory.NonSpacingMark)
                folded.Append(Plain(char.ToLowerInvariant(letter)));
        }

        return folded.ToString();
    }

    private static string Decompose(string text)
    {
        try
        {
            return text.Normalize(NormalizationForm.FormKD);
        }
        catch (ArgumentException)
        {
            return text;
        }
    }

    /// <summary>
    /// Letters with a stroke and ligatures have no decomposition, but people type them as plain letters.
    /// </summary>
    private static string Plain(char letter) =>
        letter switch
        {
            'ø' => "o",
            'ł' => "l",
            'đ' or 'ð' => "d",
            'þ' => "th",
            'æ' => "ae",
            'œ' => "oe",
            'ß' => "ss",
            'ı' => "i",
            _ => letter.ToString(),
        };
}
