using System.Buffers;
using System.Buffers.Binary;
using System.Security.Cryptography;
using System.Text;

namespace Kettlefog.Core.Values;

/// <summary>
/// An incremental SHA-256 (FIPS 180-4) whose parts are length-prefixed, so that no two part lists collide.
/// </summary>
public sealed class Sha256Digest : IDigestSink, IDisposable
{
    private const int BufferLength = 16 * 1024;

    private readonly byte[] _buffer = ArrayPool<byte>.Shared.Rent(BufferLength);
    private int _filled;
    private IncrementalHash? _hash;

    /// <summary>The SHA-256 of a text's UTF-8 bytes, in lower-case hexadecimal digits.</summary>
    /// <param name="text">The text.</param>
    public static string OfText(string text) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)));

    /// <inheritdoc/>
    public void Append(ReadOnlySpan<byte> bytes)
    {
        // A digest consists of many small parts, and each call of the system's SHA-256 is expensive.
        if (bytes.Length > _buffer.Length - _filled)
            Flush();
        if (bytes.Length > _buffer.Length)
        {
            _hash!.AppendData(bytes);
            return;
        }

        bytes.CopyTo(_buffer.AsSpan(_filled));
        _filled += bytes.Length;
    }

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
        Append(bytes);
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

    /// <summary>The 32 bytes of the digest; the instance is then reset.</summary>
    public byte[] Finish()
    {
        byte[] digest;
        if (_hash is null)
        {
            digest = SHA256.HashData(_buffer.AsSpan(0, _filled));
        }
        else
        {
            Flush();
            digest = _hash.GetHashAndReset();
        }

        _filled = 0;
        return digest;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        ArrayPool<byte>.Shared.Return(_buffer);
        _hash?.Dispose();
    }

    private void Flush()
    {
        _hash ??= IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        _hash.AppendData(_buffer.AsSpan(0, _filled));
        _filled = 0;
    }
}
