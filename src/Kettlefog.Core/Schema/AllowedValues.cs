using System.Text.RegularExpressions;

namespace Kettlefog.Core.Schema;

/// <summary>Reads the allowed values of a column from a check constraint.</summary>
public static partial class AllowedValues
{
    /// <summary>Reads a condition that lists a column's values.</summary>
    /// <param name="condition">
    /// The condition in SQL, as written: <c>status IN ('open', 'closed')</c>; or as PostgreSQL gives it back:
    /// <c>(status)::text = ANY (ARRAY['open'::text, 'closed'::text])</c>.
    /// </param>
    /// <returns>The column and its values; null if the condition has any other form.</returns>
    public static (string Column, IReadOnlyList<string> Values)? Of(string condition)
    {
        ArgumentNullException.ThrowIfNull(condition);
        var match = ListPattern().Match(condition);
        return match.Success
            ? (
                match.Groups["column"].Value.Trim('"', '`', '[', ']'),
                [
                    .. match
                        .Groups["value"]
                        .Captures.Select(value => value.Value.Replace("''", "'", StringComparison.Ordinal)),
                ]
            )
            : null;
    }

    /// <summary>The conditions of the check constraints in a <c>CREATE TABLE</c> statement.</summary>
    /// <param name="definition">The statement, as SQLite stores it.</param>
    public static IEnumerable<string> Conditions(string definition)
    {
        ArgumentNullException.ThrowIfNull(definition);
        foreach (Match check in CheckPattern().Matches(definition))
        {
            var (depth, quoted) = (1, false);
            var from = check.Index + check.Length;
            for (var place = from; place < definition.Length; place++)
            {
                quoted ^= definition[place] == '\'';
                depth += quoted
                    ? 0
                    : definition[place] switch
                    {
                        '(' => 1,
                        ')' => -1,
                        _ => 0,
                    };
                if (depth > 0)
                    continue;
                yield return definition[from..place];
                break;
            }
        }
    }

    [GeneratedRegex(@"\bCHECK\s*\(", RegexOptions.IgnoreCase)]
    private static partial Regex CheckPattern();

    // A quoted text is taken as a whole (?>…), so that an apostrophe within it has one reading only: otherwise a list
    // with many of them is tried in exponentially many ways.
    [GeneratedRegex(
        """^[\s(]*(?<column>"[^"]+"|`[^`]+`|\[[^\]]+\]|\w+)\)?(?:::[\w ]+)?"""
            + """\s*(?:=\s*ANY\s*\(+ARRAY\[|IN\s*\(|=)"""
            + """\s*(?:'(?<value>(?>(?:[^']|'')*))'(?:::[\w ]+(?:\(\d+\))?)?\s*,?\s*)+"""
            + """[\]\)]*(?:::[\w ]+(?:\[\])?)?[\s)]*$""",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex ListPattern();
}
