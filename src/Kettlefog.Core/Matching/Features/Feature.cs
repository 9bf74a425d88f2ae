using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Text;

namespace Kettlefog.Core.Matching.Features;

/// <summary>
/// Something that is compared between records: made of one or more columns, such as a person's name from given and
/// family name. A record's values are prepared once, as a slice of whole numbers, and then compared many times.
/// </summary>
internal abstract class Feature
{
    /// <summary>The evidence of a comparison, in the order in which <see cref="Compare"/> writes it.</summary>
    public abstract IReadOnlyList<EvidenceKind> Evidence { get; }

    /// <summary>The number of records that were counted; a frequency is a share of it.</summary>
    public int Population { get; set; } = 1;

    /// <summary>Prepares a record's values.</summary>
    /// <param name="row">The record's values, by the place of their field.</param>
    /// <param name="words">A buffer of the calling thread.</param>
    /// <param name="into">Where the slice is appended; nothing is appended if all values are missing.</param>
    public abstract void Prepare(IReadOnlyList<string?> row, WordBuffer words, List<int> into);

    /// <summary>Counts the values of a slice, or removes them from the count.</summary>
    public abstract void Count(ReadOnlySpan<int> slice, int records);

    /// <summary>Called after all records are counted and before they are compared.</summary>
    public virtual void Settle() { }

    /// <summary>Compares two slices, either of which may be empty.</summary>
    public abstract void Compare(ReadOnlySpan<int> a, ReadOnlySpan<int> b, Span<Finding> into);

    /// <summary>Adds the blocking key parts of a record.</summary>
    public abstract void AddParts(ReadOnlySpan<int> slice, KeyParts parts);

    /// <summary>The values that lose weight when many different names share them.</summary>
    public virtual void Shared(ReadOnlySpan<int> slice, List<Token> into) { }

    /// <summary>A hash that distinguishes entities by name; 0 if the feature is not about names.</summary>
    public virtual ulong NameOf(ReadOnlySpan<int> slice) => 0;

    /// <summary>Minus the binary logarithm of the frequency of a value that occurs in so many records.</summary>
    protected float Rarity(int count) =>
        Math.Clamp(MathF.Log2((float)Math.Max(Population, 2) / Math.Max(count, 1)), 0, MaxRareTokens);

    /// <summary>
    /// The same, for a value that different names may share: each doubling of their number takes two bits.
    /// </summary>
    protected float Rarity(Token token)
    {
        var rarity = Rarity(token.Count);
        return token.DistinctNames > 2 ? Math.Max(0, rarity - (2 * MathF.Log2(token.DistinctNames / 2f))) : rarity;
    }

    /// <summary>
    /// The same, for a value that only one or two entities seem to have: among few records it would look common,
    /// although it is known to be rare by its kind. A name may belong to others too; a phone or mailbox that few names
    /// share hardly ever does, however many records have it.
    /// </summary>
    /// <param name="token">The value.</param>
    /// <param name="minRarity">The minimum rarity of values of its kind, in bits.</param>
    protected float Rarity(Token token, float minRarity)
    {
        var rarity = Rarity(token);
        return token.Count <= (minRarity >= OwnValue ? 8 : 2) && token.DistinctNames <= 2
            ? Math.Max(rarity, minRarity)
            : rarity;
    }

    /// <summary>The rarity of similar values: that of the commoner one.</summary>
    protected float Rarity(Token a, Token b, float minRarity = 0) =>
        Math.Min(Rarity(a, minRarity), Rarity(b, minRarity));

    /// <summary>
    /// The minimum rarity of a phone, mailbox, number or date of birth that occurs by chance, in bits.
    /// </summary>
    protected const float OwnValue = 9;

    /// <summary>The minimum rarity of a name that occurs by chance, in bits.</summary>
    protected const float OwnName = 5;

    /// <summary>
    /// No agreement on one value counts for more: beyond this, errors of the data matter, not chance.
    /// </summary>
    private const float MaxRareTokens = 20;
}
