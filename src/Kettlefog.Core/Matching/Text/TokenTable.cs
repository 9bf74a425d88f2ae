using System.Collections.Concurrent;
using System.IO.Hashing;
using System.Runtime.InteropServices;
using Kettlefog.Core.Matching.Similarity;

namespace Kettlefog.Core.Matching.Text;

/// <summary>A word or value that occurs in records, kept once.</summary>
internal sealed class Token(int id, string text)
{
    private int _count;

    /// <summary>Its number in its table; depends on the order of reading, so that nothing but equality is read from it.</summary>
    public int Id => id;

    public string Text => text;

    /// <summary>Depends on the text only: what is ordered by it is the same in every run.</summary>
    public ulong Hash { get; } = XxHash64.HashToUInt64(MemoryMarshal.AsBytes(text.AsSpan()));

    /// <summary>The hash of what the word sounds like, or of the word itself where Soundex hears nothing.</summary>
    public ulong Sound { get; } = SoundOf(text);

    /// <summary>Which letters and digits it has; see <see cref="LetterMask"/>.</summary>
    public int Mask { get; } = LetterMask.Of(text);

    /// <summary>In how many records it occurs.</summary>
    public int Count => Volatile.Read(ref _count);

    /// <summary>How many names of different parties carry the value; 1 until it was counted.</summary>
    public int Bearers { get; set; } = 1;

    public void Add(int records) => Interlocked.Add(ref _count, records);

    private static ulong SoundOf(string text)
    {
        var sound = Soundex.Of(text);
        return XxHash64.HashToUInt64(MemoryMarshal.AsBytes(sound.Length == 0 ? text.AsSpan() : sound.AsSpan()), 1);
    }
}

/// <summary>
/// Which letters a word has, in 28 bits: enough to see without looking at the words that they are not alike. Each edit
/// changes at most two bits.
/// </summary>
internal static class LetterMask
{
    private const int Digits = 1 << 26, Others = 1 << 27;

    public static int Of(ReadOnlySpan<char> word)
    {
        var mask = 0;
        foreach (var letter in word)
            mask |= letter is >= 'a' and <= 'z' ? 1 << (letter - 'a') : char.IsAsciiDigit(letter) ? Digits : Others;
        return mask;
    }

    /// <summary>In how many letters two words differ, at least.</summary>
    public static int Difference(int a, int b) => System.Numerics.BitOperations.PopCount((uint)(a ^ b));

    /// <summary>True if one word may be part of the other.</summary>
    public static bool MayContain(int a, int b) => (a & ~b) == 0 || (b & ~a) == 0;
}

/// <summary>The tokens of one feature. May be used by several threads at once.</summary>
internal sealed class TokenTable
{
    private const int ChunkSize = 1 << 14;

    private readonly ConcurrentDictionary<string, Token> _byText = new(Environment.ProcessorCount, 1024);
    private readonly ConcurrentDictionary<string, Token>.AlternateLookup<ReadOnlySpan<char>> _bySpan;
    private readonly Lock _growing = new();
    private Token[][] _chunks = [new Token[ChunkSize]];
    private int _size;

    public TokenTable() => _bySpan = _byText.GetAlternateLookup<ReadOnlySpan<char>>();

    public Token this[int id] => Volatile.Read(ref _chunks)[id / ChunkSize][id % ChunkSize];

    /// <summary>The rarity of each token by its number, as it was when all were counted; null before.</summary>
    public float[]? Rarities { get; private set; }

    /// <summary>Keeps the rarities in one place, where they are quickly found.</summary>
    public void Settle(Func<int, float> rarity)
    {
        var rarities = new float[_size];
        for (var id = 0; id < rarities.Length; id++)
            rarities[id] = rarity(this[id].Count);
        Rarities = rarities;
    }

    /// <summary>The token of a text, made if there is none yet.</summary>
    public Token Intern(ReadOnlySpan<char> text)
    {
        if (_bySpan.TryGetValue(text, out var known))
            return known;
        var whole = text.ToString();
        lock (_growing)
        {
            if (_byText.TryGetValue(whole, out known))
                return known;
            var token = new Token(_size, whole);
            if (_size / ChunkSize == _chunks.Length)
                _chunks = [.. _chunks, new Token[ChunkSize]];
            _chunks[_size / ChunkSize][_size % ChunkSize] = token;
            _size++;
            _byText[whole] = token;
            return token;
        }
    }
}
