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

    /// <summary>The text form, as <c>RecordKeyParser</c> reads it.</summary>
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
}
