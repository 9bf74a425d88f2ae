using System.Text;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Schema;

/// <summary>Reads keys from their text form, in the types of the key columns.</summary>
public static class RecordKeyParser
{
    /// <summary>Reads a key from its text form.</summary>
    /// <param name="text">The text form.</param>
    /// <param name="columns">The key columns, which determine how each part is stored.</param>
    /// <exception cref="KettlefogException">
    /// The number of parts is wrong, or a part does not fit its column.
    /// </exception>
    public static RecordKey Parse(string text, IReadOnlyList<ColumnSchema> columns)
    {
        ArgumentNullException.ThrowIfNull(text);
        ArgumentNullException.ThrowIfNull(columns);
        var parts = Split(text);
        if (parts.Count != columns.Count)
        {
            throw new KettlefogException(
                ErrorCode.InvalidKey,
                $"The key '{text}' has {parts.Count} part(s), but {columns.Count} are needed: "
                    + string.Join(", ", columns.Select(column => column.Name))
                    + ".",
                "Join the parts of a composite key with '|'."
            );
        }

        return new RecordKey(parts.Select((part, index) => ParsePart(text, part, columns[index])).ToList());
    }

    private static List<string> Split(string text)
    {
        var parts = new List<string>();
        var part = new StringBuilder();
        for (var index = 0; index < text.Length; index++)
        {
            if (text[index] == '\\' && index + 1 < text.Length)
            {
                part.Append(text[++index]);
            }
            else if (text[index] == '|')
            {
                parts.Add(part.ToString());
                part.Clear();
            }
            else
            {
                part.Append(text[index]);
            }
        }

        parts.Add(part.ToString());
        return parts;
    }

    private static ColumnValue ParsePart(string text, string part, ColumnSchema column) =>
        column.TryRead(part)
        ?? throw new KettlefogException(
            ErrorCode.InvalidKey,
            $"The key '{text}' does not fit the column {column.Name} ({column.DeclaredType}).",
            "Take the key from a search or from the record's page."
        );
}
