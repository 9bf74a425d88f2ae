using System.Buffers.Binary;
using System.Globalization;

namespace Kettlefog.Core.Values;

/// <summary>The storage class of a <see cref="ColumnValue"/>: how the database stores it, not what it means.</summary>
public enum StorageClass
{
    /// <summary>SQL NULL.</summary>
    Null,

    /// <summary>A 64-bit signed integer.</summary>
    Integer,

    /// <summary>An IEEE 754 double.</summary>
    Real,

    /// <summary>Text.</summary>
    Text,

    /// <summary>Bytes.</summary>
    Blob,
}

/// <summary>
/// One value of one column, exactly as the operational database stores it. Two values are equal when storage class
/// and content are: the integer 1, the real 1.0 and the text "1" are three different values.
/// </summary>
public readonly struct ColumnValue : IEquatable<ColumnValue>
{
    private readonly object? _raw;

    private ColumnValue(object? raw) => _raw = raw;

    /// <summary>SQL NULL.</summary>
    public static ColumnValue Null => default;

    /// <summary>The value as the driver represents it: null, long, double, string or byte[].</summary>
    public object? Raw => _raw;

    /// <summary>The storage class of the value.</summary>
    public StorageClass Storage =>
        _raw switch
        {
            null => StorageClass.Null,
            long => StorageClass.Integer,
            double => StorageClass.Real,
            string => StorageClass.Text,
            _ => StorageClass.Blob,
        };

    /// <summary>True for SQL NULL.</summary>
    public bool IsNull => _raw is null;

    /// <summary>True if the value counts as blank: null, empty text, or white space only.</summary>
    public bool IsBlank => _raw is null || (_raw is string text && string.IsNullOrWhiteSpace(text));

    /// <summary>An integer.</summary>
    /// <param name="value">Its value.</param>
    public static ColumnValue Of(long value) => new(value);

    /// <summary>A real.</summary>
    /// <param name="value">Its value.</param>
    public static ColumnValue Of(double value) => new(value);

    /// <summary>Text, or SQL NULL for null.</summary>
    /// <param name="value">Its value.</param>
    public static ColumnValue Of(string? value) => new(value);

    /// <summary>Bytes; the array must not be changed afterwards.</summary>
    /// <param name="value">Its value.</param>
    public static ColumnValue Of(byte[] value) => new(value);

    /// <summary>Creates a value from what a database driver returns.</summary>
    /// <param name="raw">
    /// null, <see cref="DBNull"/>, an integer, a real, a decimal, a boolean, a string or bytes.
    /// </param>
    /// <exception cref="ArgumentException">The type is not supported.</exception>
    public static ColumnValue FromDriver(object? raw) =>
        raw switch
        {
            null or DBNull => Null,
            long or double or string or byte[] => new ColumnValue(raw),
            int value => Of((long)value),
            short value => Of((long)value),
            bool value => Of(value ? 1L : 0L),
            float value => Of((double)value),
            decimal value => Of(value.ToString(CultureInfo.InvariantCulture)),
            _ => throw new ArgumentException(
                $"A value of type {raw.GetType().Name} has no storage class.",
                nameof(raw)
            ),
        };

    /// <summary>
    /// The value for a person or a text format: null for SQL NULL, shortest round-trip form for a real,
    /// <c>x'…'</c> with hexadecimal digits for bytes.
    /// </summary>
    public string? ToText() =>
        _raw switch
        {
            null => null,
            long value => value.ToString(CultureInfo.InvariantCulture),
            double value => value.ToString("R", CultureInfo.InvariantCulture),
            string value => value,
            byte[] value => $"x'{Convert.ToHexStringLower(value)}'",
            _ => throw new InvalidOperationException("unreachable storage class"),
        };

    /// <summary>
    /// The value as an exact decimal. A real is taken at its shortest round-trip form, so that 0.1 is 0.1.
    /// </summary>
    /// <param name="value">The number; 0 if there is none.</param>
    /// <returns>True if the value is a number within the range of <see cref="decimal"/>.</returns>
    public bool TryGetDecimal(out decimal value)
    {
        switch (_raw)
        {
            case long integer:
                value = integer;
                return true;
            case double real:
                return TryGetDecimal(real, out value);
            case string text:
                return decimal.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out value);
            default:
                value = 0;
                return false;
        }
    }

    /// <summary>The exact decimal number that a real represents: that of its shortest round-trip form.</summary>
    /// <param name="real">The real.</param>
    /// <param name="value">The number.</param>
    /// <returns>False if it is outside the range of a decimal.</returns>
    public static bool TryGetDecimal(double real, out decimal value)
    {
        // Conversion keeps 15 digits, and no two numbers of 15 digits have the same double: it is the shortest form.
        if (Math.Abs(real) < 1e15 && (double)(value = (decimal)real) == real)
            return true;
        return decimal.TryParse(Of(real).ToText(), NumberStyles.Float, CultureInfo.InvariantCulture, out value);
    }

    /// <summary>
    /// Appends an unambiguous encoding: one byte of storage class, then the content, length-prefixed where its
    /// length varies. Equal values, and only they, have equal encodings.
    /// </summary>
    /// <param name="sink">Where to append.</param>
    public void AppendTo(IDigestSink sink)
    {
        ArgumentNullException.ThrowIfNull(sink);
        Span<byte> head = stackalloc byte[9];
        head[0] = (byte)Storage;
        switch (_raw)
        {
            case null:
                sink.Append(head[..1]);
                break;
            case long value:
                BinaryPrimitives.WriteInt64LittleEndian(head[1..], value);
                sink.Append(head);
                break;
            case double value:
                BinaryPrimitives.WriteInt64LittleEndian(head[1..], BitConverter.DoubleToInt64Bits(value));
                sink.Append(head);
                break;
            case string value:
                // UTF-16 code units: a lone surrogate must not be folded into its replacement character.
                var units = System.Runtime.InteropServices.MemoryMarshal.AsBytes(value.AsSpan());
                BinaryPrimitives.WriteInt64LittleEndian(head[1..], units.Length);
                sink.Append(head);
                sink.Append(units);
                break;
            case byte[] value:
                BinaryPrimitives.WriteInt64LittleEndian(head[1..], value.Length);
                sink.Append(head);
                sink.Append(value);
                break;
        }
    }

    /// <inheritdoc/>
    public bool Equals(ColumnValue other) =>
        (_raw, other._raw) switch
        {
            (null, null) => true,
            (double a, double b) => BitConverter.DoubleToInt64Bits(a) == BitConverter.DoubleToInt64Bits(b),
            (byte[] a, byte[] b) => a.AsSpan().SequenceEqual(b),
            (string a, string b) => string.Equals(a, b, StringComparison.Ordinal),
            (long a, long b) => a == b,
            _ => false,
        };

    /// <inheritdoc/>
    public override bool Equals(object? obj) => obj is ColumnValue other && Equals(other);

    /// <inheritdoc/>
    public override int GetHashCode()
    {
        if (_raw is byte[] bytes)
        {
            var hash = new HashCode();
            hash.AddBytes(bytes);
            return hash.ToHashCode();
        }

        return _raw?.GetHashCode() ?? 0;
    }

    /// <summary>True if both are the same value of the same storage class.</summary>
    /// <param name="left">One value.</param>
    /// <param name="right">The other.</param>
    public static bool operator ==(ColumnValue left, ColumnValue right) => left.Equals(right);

    /// <summary>True unless both are the same value of the same storage class.</summary>
    /// <param name="left">One value.</param>
    /// <param name="right">The other.</param>
    public static bool operator !=(ColumnValue left, ColumnValue right) => !left.Equals(right);

    /// <inheritdoc/>
    public override string ToString() => ToText() ?? "NULL";
}

/// <summary>Receives the bytes of a digest's input, in order.</summary>
public interface IDigestSink
{
    /// <summary>Appends bytes.</summary>
    /// <param name="bytes">The bytes; not kept.</param>
    void Append(ReadOnlySpan<byte> bytes);
}
