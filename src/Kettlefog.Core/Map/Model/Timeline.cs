using System.Text.RegularExpressions;

namespace Kettlefog.Core.Map.Model;

/// <summary>
/// A row that a merge adds for the master, where the operational system shows what happened to a record.
/// </summary>
/// <param name="Table">The table it is added to.</param>
/// <param name="Values">
/// The text of each column, with the words of <see cref="Words"/> in braces for what they stand for.
/// </param>
public sealed partial record Timeline(string Table, IReadOnlyDictionary<string, string> Values)
{
    /// <summary>
    /// What can stand in braces: the master's key and label, the duplicates' keys, who merged, why, the number in the
    /// history, and when in UTC, as a moment or a date.
    /// </summary>
    public static IReadOnlyList<string> Words { get; } =
    ["key", "label", "duplicates", "actor", "reason", "number", "at", "date"];

    /// <summary>The words in braces of a text, known or not.</summary>
    /// <param name="text">The text.</param>
    public static IEnumerable<string> WordsIn(string text) =>
        BracePattern().Matches(text).Select(match => match.Groups[1].Value);

    /// <summary>A text with its words filled in.</summary>
    /// <param name="text">The text.</param>
    /// <param name="words">What each of <see cref="Words"/> stands for.</param>
    public static string Fill(string text, IReadOnlyDictionary<string, string> words) =>
        BracePattern().Replace(text, match => words[match.Groups[1].Value]);

    [GeneratedRegex(@"\{([^{}]*)\}")]
    private static partial Regex BracePattern();
}
