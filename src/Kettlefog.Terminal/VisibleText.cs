using System.Globalization;

namespace Kettlefog.Terminal;

/// <summary>
/// Text from records and from others' programs, as a terminal may show it: what would control the terminal (ECMA-48's
/// control characters) or turn the direction of what follows (the explicit formatting characters of Unicode's annex 9)
/// is shown as U+FFFD.
/// </summary>
public static class VisibleText
{
    private const char Instead = '\uFFFD';

    /// <summary>A text of one or more lines; line feeds and tabs remain.</summary>
    public static string Of(string text)
    {
        ArgumentNullException.ThrowIfNull(text);
        return text.Any(Disturbs) ? string.Concat(text.Select(letter => Disturbs(letter) ? Instead : letter)) : text;
    }

    /// <summary>A text within a line: line feeds and tabs are spaces. Null is empty.</summary>
    public static string InLine(string? text) =>
        text is null ? "" : Of(text.ReplaceLineEndings(" ").Replace('\t', ' '));

    /// <summary>JSON of the same meaning; its writer escapes control characters itself.</summary>
    public static string OfJson(string json)
    {
        ArgumentNullException.ThrowIfNull(json);
        return json.Any(TurnsDirection)
            ? string.Concat(
                json.Select(letter =>
                    TurnsDirection(letter)
                        ? string.Create(CultureInfo.InvariantCulture, $"\\u{(int)letter:x4}")
                        : letter.ToString()
                )
            )
            : json;
    }

    private static bool Disturbs(char letter) =>
        (char.IsControl(letter) && letter is not ('\n' or '\t')) || TurnsDirection(letter);

    private static bool TurnsDirection(char letter) =>
        letter is (>= '\u202A' and <= '\u202E') or (>= '\u2066' and <= '\u2069');
}
