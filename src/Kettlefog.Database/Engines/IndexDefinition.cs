using System.Text;
using System.Text.RegularExpressions;

namespace Kettlefog.Database.Engines;

/// <summary>
/// Parses a <c>CREATE INDEX</c> statement, the only place where SQLite shows the expressions of an index.
/// </summary>
internal static partial class IndexDefinition
{
    /// <summary>The indexed columns and expressions in SQL, in order, without collation and direction.</summary>
    /// <param name="definition">The statement, as SQLite stores it.</param>
    public static IReadOnlyList<string> Parts(string definition) =>
        [.. Split(definition).Parts.Select(part => TailPattern().Replace(part, "").Trim())];

    /// <summary>The condition of a partial index in SQL, or null if it has none.</summary>
    /// <param name="definition">The statement, as SQLite stores it.</param>
    public static string? Filter(string definition)
    {
        var match = WherePattern().Match(Split(definition).After);
        return match.Success ? match.Groups[1].Value : null;
    }

    /// <summary>The texts between the commas of the outermost parentheses, and what follows them.</summary>
    private static (IReadOnlyList<string> Parts, string After) Split(string definition)
    {
        var parts = new List<string>();
        var part = new StringBuilder();
        var depth = 0;
        for (var place = 0; place < definition.Length; place++)
        {
            var sign = definition[place];
            if (sign is '\'' or '"' or '`' or '[')
            {
                var end = definition.IndexOf(sign == '[' ? ']' : sign, place + 1);
                part.Append(definition, place, end - place + 1);
                place = end;
                continue;
            }

            depth +=
                sign == '(' ? 1
                : sign == ')' ? -1
                : 0;
            if (depth == 0 && sign == ')')
            {
                parts.Add(part.ToString());
                return (parts, definition[(place + 1)..]);
            }

            if (depth == 1 && sign == ',')
                parts.Add(part.ToString());
            if (depth == 0 || (depth == 1 && sign is ',' || (sign == '(' && depth == 1)))
                part.Clear();
            else
                part.Append(sign);
        }

        throw new InvalidOperationException($"The definition of an index has no end: {definition}");
    }

    [GeneratedRegex(@"^\s*WHERE\b(.*)$", RegexOptions.IgnoreCase | RegexOptions.Singleline)]
    private static partial Regex WherePattern();

    [GeneratedRegex(@"(\s+COLLATE\s+(\w+|""[^""]*""|'[^']*'))?(\s+(ASC|DESC))?\s*$", RegexOptions.IgnoreCase)]
    private static partial Regex TailPattern();
}
