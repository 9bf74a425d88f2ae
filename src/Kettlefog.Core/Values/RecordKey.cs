using System.Text;
using Kettlefog.Core.Schema;

namespace Kettlefog.Core.Values;

/// <summary>
/// The primary key of a record: one value, or several for a composite key. Its text form joins the parts with
/// <c>|</c>; a <c>|</c> or <c>\</c> inside a part is preceded by <c>\</c>.
/// </summary>
public sealed class RecordKey : IEquatable<RecordKey>
{
    private readonly ColumnValue[] _parts;

    /// <summary>Creates a key.</summary>
    /// <param name="parts">Its parts, in the order of the key columns; at least one.</param>
    /// <exception cref="ArgumentException">There is no part.</exception>
    public RecordKey(params IReadOnlyList<ColumnValue> parts)
    {
        ArgumentNullException.ThrowIfNull(parts);
        if (parts.Count == 0)
            throw new ArgumentException("A key has at least one part.", nameof(parts));
        _parts = [.. parts];
    }

    /// <summary>The parts, in the order of the key columns.</summary>
    public IReadOnlyList<ColumnValue> Parts => _parts;

    /// <summary>Reads a key from its text form.</summary>
    /// <param name="text">The text form.</param>
    /// <param name="columns">The key columns, which say how each part is stored.</param>
    /// <exception cref="KettlefogException">The number of parts is wrong, or a part does not fit its column.</exception>
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
                + string.Join(", ", columns.Select(column => column.Name)) + ".",
                "Join the parts of a composite key with '|'.");
        }

        return new RecordKey(parts.Select((part, index) => ParsePart(text, part, columns[index])).ToList());
    }

    /// <summary>The text form, as <see cref="Parse"/> reads it.</summary>
    public override string ToString()
    {
        if (_parts.Length == 1)
            return Escape(_parts[0]);
        return string.Join('|', _parts.Select(Escape));
    }

    /// <inheritdoc/>
    public bool Equals(RecordKey? other) => other is not null && _parts.AsSpan().SequenceEqual(other._parts);

    /// <inheritdoc/>
    public override bool Equals(object? obj) => Equals(obj as RecordKey);

    /// <inheritdoc/>
    public override int GetHashCode()
    {
        var hash = new HashCode();
        foreach (var part in _parts)
            hash.Add(part);
        return hash.ToHashCode();
    }

    private static string Escape(ColumnValue part)
    {
        var text = part.ToText() ?? "";
        return text.AsSpan().IndexOfAny('|', '\\') < 0 ? text : text.Replace("\\", "\\\\").Replace("|", "\\|");
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
        column.TryRead(part) ?? throw new KettlefogException(
            ErrorCode.InvalidKey,
            $"The key '{text}' is not what the column {column.Name} ({column.DeclaredType}) holds.",
            "Take the key from a search or from the record's page.");
}
