namespace Kettlefog.Core.Matching.Blocking;

/// <summary>What a part of a key is about; two parts about one thing do not make a key together.</summary>
internal enum KeySlot
{
    /// <summary>The sound of a name, or a word of one.</summary>
    Name,

    /// <summary>A piece of a rare word, which a typing error elsewhere in the word leaves unchanged.</summary>
    Piece,

    /// <summary>A date of birth.</summary>
    Birth,

    /// <summary>A building.</summary>
    Building,

    /// <summary>A postcode.</summary>
    Postcode,

    /// <summary>A town.</summary>
    Town,

    /// <summary>A piece of a number that identifies.</summary>
    Digits,

    /// <summary>A value of any other field.</summary>
    Value,
}

/// <summary>
/// The parts of a record's blocking keys: a strong part is a key by itself, two weak parts make one together.
/// </summary>
internal sealed class KeyParts
{
    /// <summary>Parts that are keys by themselves.</summary>
    public List<ulong> Strong { get; } = [];

    /// <summary>Parts that make a key together with another part.</summary>
    public List<(KeySlot Slot, ulong Hash)> Weak { get; } = [];

    public void Clear()
    {
        Strong.Clear();
        Weak.Clear();
    }

    public void AddStrong(KeySlot slot, ulong hash) => Strong.Add(Mix(hash + (ulong)slot));

    public void AddWeak(KeySlot slot, ulong hash)
    {
        var part = (slot, Mix(hash + (ulong)slot));
        if (!Weak.Contains(part))
            Weak.Add(part);
    }

    /// <summary>Spreads a number over all bits (the finaliser of SplitMix64: Steele, Lea and Flood 2014).</summary>
    public static ulong Mix(ulong value)
    {
        value = (value ^ (value >> 30)) * 0xBF58476D1CE4E5B9;
        value = (value ^ (value >> 27)) * 0x94D049BB133111EB;
        return value ^ (value >> 31);
    }
}
