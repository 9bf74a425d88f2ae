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
    /// <summary>
    /// What a comparison has findings about, in the order in which <see cref="Compare"/> writes them.
    /// </summary>
    public abstract IReadOnlyList<EvidenceKind> Evidence { get; }

    /// <summary>The number of records that were counted; a frequency is a share of it.</summary>
    public int Population { get; set; } = 1;

    /// <summary>Prepares a record's values.</summary>
    /// <param name="row">The record's values, by the place of their field.</param>
    /// <param name="words">A buffer of the calling thread.</param>
    /// <param name="into">Where the slice is appended; nothing is appended if all values are missing.</param>
    public abstract void Prepare(IReadOnlyList<string?> row, WordBuffer words, List<int> into);

    /// <summary>Counts the values of a slice, or takes them from the count again.</summary>
    public abstract void Count(ReadOnlySpan<int> slice, int records);

    /// <summary>Called when all records are counted and before they are compared.</summary>
    public virtual void Settle() { }

    /// <summary>Compares two slices, either of which may be empty.</summary>
    public abstract void Compare(ReadOnlySpan<int> a, ReadOnlySpan<int> b, Span<Finding> into);

    /// <summary>Adds what a record can be found by.</summary>
    public abstract void AddParts(ReadOnlySpan<int> slice, KeyParts parts);

    /// <summary>The values that lose weight when many different names carry them.</summary>
    public virtual void Shared(ReadOnlySpan<int> slice, List<Token> into) { }

    /// <summary>Something that tells parties from one another by name; 0 if the feature is not about names.</summary>
    public virtual ulong NameOf(ReadOnlySpan<int> slice) => 0;

    /// <summary>Minus the binary logarithm of how often a value is met that occurs in so many records.</summary>
    protected float Rarity(int count) =>
        Math.Clamp(MathF.Log2((float)Math.Max(Population, 2) / Math.Max(count, 1)), 0, MaxRareTokens);

    /// <summary>
    /// The same, for a value that different names may carry: each doubling of their number takes two bits.
    /// </summary>
    protected float Rarity(Token token)
    {
        var rarity = Rarity(token.Count);
        return token.Bearers > 2 ? Math.Max(0, rarity - (2 * MathF.Log2(token.Bearers / 2f))) : rarity;
    }

    /// <summary>
    /// The same, for a value that only one party or two seem to have: among few records it would look common, although
    /// it is known to be rare by its kind. A name may be another's too; a phone or mailbox that few names carry is
    /// hardly anybody else's, however many records there are of the one.
    /// </summary>
    /// <param name="token">The value.</param>
    /// <param name="least">What is known of values of its kind, in bits.</param>
    protected float Rarity(Token token, float least)
    {
        var rarity = Rarity(token);
        return token.Count <= (least >= OwnValue ? 8 : 2) && token.Bearers <= 2 ? Math.Max(rarity, least) : rarity;
    }

    /// <summary>The rarity of values that are alike: that of the commoner one.</summary>
    protected float Rarity(Token a, Token b, float least = 0) => Math.Min(Rarity(a, least), Rarity(b, least));

    /// <summary>
    /// One phone, mailbox, number or date of birth among so many (two to that power) is met by chance, at least.
    /// </summary>
    protected const float OwnValue = 9;

    /// <summary>One name among so many is met by chance, at least.</summary>
    protected const float OwnName = 5;

    /// <summary>No agreement on one value is worth more: beyond it stand errors of the data, not chance.</summary>
    private const float MaxRareTokens = 20;
}
