using System.Globalization;
using System.Text;

namespace Kettlefog.Core.Drafting;

/// <summary>
/// The words of a table's or column's name: <c>CustomerEMail2</c>, <c>cust_email_2</c> and <c>KUNDEN-NR</c> were named
/// by people.
/// </summary>
internal static class NameWords
{
    /// <summary>The words in order, in lower case, without accents; digits form words of their own.</summary>
    /// <param name="name">The name.</param>
    public static IReadOnlyList<string> Of(string name)
    {
        var words = new List<string>();
        var word = new StringBuilder();
        void End()
        {
            if (word.Length > 0)
                words.Add(word.ToString());
            word.Clear();
        }

        for (var at = 0; at < name.Length; at++)
        {
            var letter = name[at];
            if (!char.IsLetterOrDigit(letter))
            {
                End();
                continue;
            }

            var before = at > 0 ? name[at - 1] : ' ';

            // A capital begins a word after a small letter, or before one at the end of an abbreviation: VATNumber.
            var begins =
                char.IsUpper(letter)
                && (
                    char.IsLower(before) || (char.IsUpper(before) && at + 1 < name.Length && char.IsLower(name[at + 1]))
                );
            if (begins || (char.IsDigit(letter) != char.IsDigit(before) && char.IsLetterOrDigit(before)))
                End();
            word.Append(Plain(char.ToLowerInvariant(letter)));
        }

        End();
        return words;
    }

    /// <summary>A name for the map: lower-case letters, digits and underscores, starting with a letter.</summary>
    /// <param name="name">The name.</param>
    public static string ForMap(string name)
    {
        var text = string.Join('_', Of(name))
            .Where(letter => char.IsAsciiLetterOrDigit(letter) || letter == '_')
            .ToArray();
        var plain = new string(text).Trim('_');
        return plain.Length == 0 || !char.IsAsciiLetter(plain[0]) ? $"x_{plain}".TrimEnd('_') : plain;
    }

    /// <summary>A word in the singular, judged by its ending.</summary>
    /// <param name="word">The word.</param>
    public static string Singular(string word)
    {
        if (word.EndsWith("ies", StringComparison.Ordinal) && word.Length > 4)
            return word[..^3] + "y";
        if (
            word.EndsWith("sses", StringComparison.Ordinal)
            || word.EndsWith("xes", StringComparison.Ordinal)
            || word.EndsWith("ches", StringComparison.Ordinal)
        )
            return word[..^2];
        return
            word.EndsWith('s')
            && word.Length > 3
            && !word.EndsWith("ss", StringComparison.Ordinal)
            && !word.EndsWith("us", StringComparison.Ordinal)
            ? word[..^1]
            : word;
    }

    private static string Plain(char letter) =>
        letter switch
        {
            'ä' => "ae",
            'ö' => "oe",
            'ü' => "ue",
            'ß' => "ss",
            'ø' => "o",
            'æ' => "ae",
            'å' => "a",
            < '\u0080' => letter.ToString(),
            _ => new string([
                .. letter
                    .ToString()
                    .Normalize(NormalizationForm.FormD)
                    .Where(each => CharUnicodeInfo.GetUnicodeCategory(each) != UnicodeCategory.NonSpacingMark),
            ]),
        };
}
