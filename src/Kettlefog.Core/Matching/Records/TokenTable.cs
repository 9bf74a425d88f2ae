using System.IO.Hashing;
using System.Runtime.InteropServices;
using Kettlefog.Core.Text;
using Kettlefog.Core.Text.Similarity;

namespace Kettlefog.Core.Matching.Records;

/// <summary>A word or value that occurs in records, stored once.</summary>
internal sealed class Token(int id, string text)
{
    private int _count;
    private Reading? _reading;

    // One more than the sex, or 0 before it was looked up: of one byte no thread can see a half.
    private byte _sex;

    /// <summary>Its number in its table; depends on the order of reading, so only equality has a meaning.</summary>
    public int Id => id;

    public string Text => text;

    /// <summary>Depends on the text only, so that an order by it is the same in every run.</summary>
    public ulong Hash { get; } = HashOf(text);

    /// <summary>How it is read in Latin letters.</summary>
    public Reading Reading => _reading ??= Reading.Of(text);

    /// <summary>Whose given name it is: a woman's, a man's, or of neither alone.</summary>
    public Sex Sex
    {
        get
        {
            if (_sex == 0)
                _sex = (byte)(1 + Sexes.Of(text));
            return (Sex)(_sex - 1);
        }
    }

    /// <summary>True if it is written in another script than the Latin.</summary>
    public bool IsOfOtherScript => LetterMask.HasOthers(Mask);

    /// <summary>
    /// The hash of the Soundex code of the word as it is read in Latin letters, or of the word itself if it has none.
    /// </summary>
    public ulong Sound { get; } = SoundOf(text);

    /// <summary>Its letters and digits; see <see cref="LetterMask"/>.</summary>
    public int Mask { get; } = LetterMask.Of(text);

    /// <summary>The number of records in which it occurs.</summary>
    public int Count => Volatile.Read(ref _count);

    /// <summary>The number of different names that share the value; 1 until it was counted.</summary>
    public int DistinctNames { get; set; } = 1;

    public static ulong HashOf(ReadOnlySpan<char> text) => XxHash64.HashToUInt64(MemoryMarshal.AsBytes(text));

    public void Add(int records) => Interlocked.Add(ref _count, records);

    /// <summary>The same for all readings of a word of another script; none for others.</summary>
    public IEnumerable<ulong> OtherSounds => IsOfOtherScript ? Reading.Searched.Select(SoundOf).Distinct() : [];

    private static ulong SoundOf(string text)
    {
        var sound = Soundex.Of(text);
        return XxHash64.HashToUInt64(MemoryMarshal.AsBytes(sound.Length == 0 ? text.AsSpan() : sound.AsSpan()), 1);
    }
}

/// <summary>
/// The letters of a word, in 28 bits: enough to rule out similarity without comparing the words. Each edit
/// changes at most two bits.
/// </summary>
internal static class LetterMask
{
    private const int Digits = 1 << 26,
        Others = 1 << 27;

    public static int Of(ReadOnlySpan<char> word)
    {
        var mask = 0;
        foreach (var letter in word)
            mask |=
                letter is >= 'a' and <= 'z' ? 1 << (letter - 'a')
                : char.IsAsciiDigit(letter) ? Digits
                : Others;
        return mask;
    }

    /// <summary>True if there are letters that are not from a to z.</summary>
    public static bool HasOthers(int mask) => (mask & Others) != 0;

    /// <summary>The minimum number of letters in which two words differ.</summary>
    public static int Difference(int a, int b) => System.Numerics.BitOperations.PopCount((uint)(a ^ b));

    /// <summary>The minimum number of letters of one word that the other does not have.</summary>
    public static int Missing(int of, int other) => System.Numerics.BitOperations.PopCount((uint)(of & ~other));

    /// <summary>True if one word may be part of the other.</summary>
    public static bool MayContain(int a, int b) => (a & ~b) == 0 || (b & ~a) == 0;
}

/// <summary>The tokens of one feature. May be used by several threads at once.</summary>
/// <remarks>
/// A hash table with open addressing and linear probing (Knuth 1998, The Art of Computer Programming 3, 6.4, algorithm
/// L), in parts that grow independently. It holds numbers and no references: the garbage collector, which runs often
/// while millions of tokens are added, need not scan it.
/// </remarks>
internal sealed class TokenTable
{
    private const int ChunkSize = 1 << 14;
    private const int Parts = 64;

    private readonly Part[] _parts = [.. Enumerable.Range(0, Parts).Select(_ => new Part())];
    private readonly Lock _growing = new();
    private Token[][] _chunks = [new Token[ChunkSize]];
    private int _size;

    public Token this[int id] => Volatile.Read(ref _chunks)[id / ChunkSize][id % ChunkSize];

    /// <summary>The rarity of each token by its number, as it was when all were counted; null before.</summary>
    public float[]? Rarities { get; private set; }

    /// <summary>Copies the rarities to one array, for fast access.</summary>
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
        var hash = Token.HashOf(text);
        var part = _parts[hash % Parts];
        if (Find(Volatile.Read(ref part.Slots), text, hash) is { } known)
            return known;
        lock (part.Growing)
        {
            if (Find(part.Slots, text, hash) is { } since)
                return since;
            var token = Append(text.ToString());
            if (++part.Count > part.Slots.Length / 2)
                Volatile.Write(ref part.Slots, Grown(part.Slots));
            Put(part.Slots, SlotOf(hash, token.Id));
            return token;
        }
    }

    private Token? Find(ulong[] slots, ReadOnlySpan<char> text, ulong hash)
    {
        var (mask, tag) = ((uint)slots.Length - 1, (uint)(hash >> 32));
        for (var at = tag & mask; ; at = (at + 1) & mask)
        {
            var slot = Volatile.Read(ref slots[at]);
            if (slot == 0)
                return null;
            if (
                (uint)(slot >> 32) == tag
                && this[(int)(uint)slot - 1] is var token
                && token.Hash == hash
                && text.SequenceEqual(token.Text)
            )
                return token;
        }
    }

    private Token Append(string text)
    {
        lock (_growing)
        {
            var token = new Token(_size, text);
            if (_size / ChunkSize == _chunks.Length)
                Volatile.Write(ref _chunks, [.. _chunks, new Token[ChunkSize]]);
            _chunks[_size / ChunkSize][_size % ChunkSize] = token;
            _size++;
            return token;
        }
    }

    /// <summary>The upper half of the hash, and the number counted from 1: a slot that is 0 is free.</summary>
    private static ulong SlotOf(ulong hash, int id) => (hash & 0xFFFF_FFFF_0000_0000) | ((uint)id + 1);

    private static void Put(ulong[] slots, ulong slot)
    {
        var mask = (uint)slots.Length - 1;
        var at = (uint)(slot >> 32) & mask;
        while (slots[at] != 0)
            at = (at + 1) & mask;
        Volatile.Write(ref slots[at], slot);
    }

    private static ulong[] Grown(ulong[] slots)
    {
        var grown = new ulong[slots.Length * 2];
        foreach (var slot in slots)
        {
            if (slot != 0)
                Put(grown, slot);
        }

        return grown;
    }

    private sealed class Part
    {
        public ulong[] Slots = new ulong[16];
        public int Count;

        public Lock Growing { get; } = new();
    }
}
