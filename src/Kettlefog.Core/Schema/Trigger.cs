using System.Text.RegularExpressions;

namespace Kettlefog.Core.Schema;

/// <summary>The changes of a row on which a trigger runs.</summary>
[Flags]
public enum RowChanges
{
    /// <summary>None.</summary>
    None = 0,

    /// <summary>A row is inserted.</summary>
    Insert = 1,

    /// <summary>Values of a row change.</summary>
    Update = 2,

    /// <summary>A row is deleted.</summary>
    Delete = 4,
}

/// <summary>A trigger: statements that the database runs when rows of a table change.</summary>
/// <param name="Name">Its name.</param>
/// <param name="On">The changes on which it runs.</param>
/// <param name="Body">The statements it runs; null if they cannot be read, as those of a function in C.</param>
public sealed partial record Trigger(string Name, RowChanges On, string? Body)
{
    /// <summary>
    /// The tables that its statements write to, as they name them, each once; null if unknown. They are read
    /// from the text, so tables written by dynamic SQL or by functions it calls are missed.
    /// </summary>
    public IReadOnlyList<string>? Writes { get; } = Body is null ? null : WrittenBy(Body);

    /// <summary>True if it changes the row itself before it is written, as PostgreSQL lets triggers do.</summary>
    public bool ChangesItsRow { get; } = Body is not null && AssignmentPattern().IsMatch(Plain(Body));

    private static List<string> WrittenBy(string body) =>
        [
            .. WritePattern()
                .Matches(Plain(body))
                .Select(match => Unquoted(match.Groups["name"].Value))
                .Where(name => !string.Equals(name, "set", StringComparison.OrdinalIgnoreCase))
                .Distinct(StringComparer.OrdinalIgnoreCase),
        ];

    /// <summary>The statements without comments and string literals.</summary>
    private static string Plain(string body) => NoisePattern().Replace(body, " ");

    private static string Unquoted(string name) =>
        name.Replace("\"", "", StringComparison.Ordinal).Replace("`", "", StringComparison.Ordinal).Trim('[', ']');

    [GeneratedRegex(@"--[^\n]*|/\*.*?\*/|'(?:[^']|'')*'", RegexOptions.Singleline)]
    private static partial Regex NoisePattern();

    [GeneratedRegex(
        """(?:\b(?:insert(?:\s+or\s+\w+)?|merge|replace)\s+into\s+|"""
            + """(?<!\bfor\s+|\bdo\s+)\bupdate(?:\s+or\s+\w+)?(?:\s+only)?\s+|\bdelete\s+from(?:\s+only)?\s+)"""
            + """(?<name>(?:"[^"]+"|`[^`]+`|\[[^\]]+\]|[\w$]+)(?:\.(?:"[^"]+"|[\w$]+))?)""",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex WritePattern();

    [GeneratedRegex(@"\bnew\.\w+\s*:?=(?!=)(?<=(?:begin|then|else|loop|;)\s*new\.\w+\s*:?=)", RegexOptions.IgnoreCase)]
    private static partial Regex AssignmentPattern();
}
