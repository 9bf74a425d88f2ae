using System.Buffers.Binary;
using System.Security.Cryptography;
using System.Text;

namespace Kettlefog.Core.Values;

/// <summary>An incremental SHA-256 (FIPS 180-4) whose parts are length-prefixed, so that no two part lists collide.</summary>
public sealed class Sha256Digest : IDigestSink, IDisposable
{
    private readonly IncrementalHash _hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);

    /// <summary>The SHA-256 of a text's UTF-8 bytes, in lower-case hexadecimal digits.</summary>
    /// <param name="text">The text.</param>
    public static string OfText(string text) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)));

    /// <inheritdoc/>
    public void Append(ReadOnlySpan<byte> bytes) => _hash.AppendData(bytes);

    /// <summary>Adds a text part.</summary>
    /// <param name="text">The text; null differs from empty.</param>
    public Sha256Digest Add(string? text)
    {
        ColumnValue.Of(text).AppendTo(this);
        return this;
    }

    /// <summary>Adds a number.</summary>
    /// <param name="number">The number.</param>
    public Sha256Digest Add(long number)
    {
        Span<byte> bytes = stackalloc byte[8];
        BinaryPrimitives.WriteInt64LittleEndian(bytes, number);
        _hash.AppendData(bytes);
        return this;
    }

    /// <summary>Adds a column value.</summary>
    /// <param name="value">The value.</param>
    public Sha256Digest Add(ColumnValue value)
    {
        value.AppendTo(this);
        return this;
    }

    /// <summary>Adds every part of a key.</summary>
    /// <param name="key">The key.</param>
    public Sha256Digest Add(RecordKey key)
    {
        ArgumentNullException.ThrowIfNull(key);
        Add(key.Parts.Count);
        foreach (var part in key.Parts)
            part.AppendTo(this);
        return this;
    }

    /// <summary>The 32 bytes of the digest; the instance starts anew.</summary>
    public byte[] Finish() => _hash.GetHashAndReset();

    /// <inheritdoc/>
    public void Dispose() => _hash.Dispose();
}
