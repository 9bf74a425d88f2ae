using System.Text.RegularExpressions;

namespace Kettlefog.Core.Map.Model;

/// <summary>
/// A row that a merge adds for the master, where the operational system shows what happened to a record.
/// </summary>
/// <param name="Table">The table it is added to.</param>
/// <param name="Values">The text of each column, with placeholders from <see cref="Words"/> in braces.</param>
public sealed partial record Timeline(string Table, IReadOnlyDictionary<string, string> Values)
{
    /// <summary>
    /// The placeholders: the master's key and label, the duplicates' keys, the actor, the reason, the number in the
    /// history, and the time in UTC, as a timestamp or a date.
    /// </summary>
    public static IReadOnlyList<string> Words { get; } =
    ["key", "label", "duplicates", "actor", "reason", "number", "at", "date"];

    /// <summary>The placeholders of a text, known or not.</summary>
    /// <param name="text">The text.</param>
    public static IEnumerable<string> WordsIn(string text) =>
        BracePattern().Matches(text).Select(match => match.Groups[1].Value);

    /// <summary>A text with its placeholders filled in.</summary>
    /// <param name="text">The text.</param>
    /// <param name="words">The value of each placeholder.</param>
    public static string Fill(string text, IReadOnlyDictionary<string, string> words) =>
        BracePattern().Replace(text, match => words[match.Groups[1].Value]);

    [GeneratedRegex(@"\{([^{}]*)\}")]
    private static partial Regex BracePattern();
}
