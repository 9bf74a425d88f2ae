using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Text;
using Kettlefog.Core.Text.Similarity;

namespace Kettlefog.Core.Matching.Features;

/// <summary>An identifying number: a tax number, a registration, a hull number.</summary>
/// <param name="column">Its column.</param>
/// <param name="withCountry">True if two letters before the digits are only a country code, as in tax numbers.</param>
/// <param name="kind">The evidence.</param>
internal sealed class IdentifierFeature(int column, bool withCountry, EvidenceKind kind) : Feature
{
    private const int MinLength = 4;
    private readonly TokenTable _numbers = new();

    public override IReadOnlyList<EvidenceKind> Evidence { get; } = [kind];

    public override void Prepare(IReadOnlyList<string?> row, WordBuffer words, List<int> into)
    {
        if (row[column] is not { Length: >= MinLength } text || Junk.IsJunk(text))
            return;
        Span<char> plain = stackalloc char[40];
        var length = 0;
        foreach (var letter in text)
        {
            if (char.IsAsciiLetterOrDigit(letter) && length < plain.Length)
                plain[length++] = char.ToUpperInvariant(letter);
        }

        ReadOnlySpan<char> number = plain[..length];
        if (
            withCountry
            && number.Length > 6
            && char.IsAsciiLetter(number[0])
            && char.IsAsciiLetter(number[1])
            && number[2..].ContainsAnyInRange('0', '9')
        )
            number = number[2..];
        if (number.Length >= MinLength && !Junk.IsFiller(number))
            into.AddRange([_numbers.Intern(number).Id, DigitCounts(number)]);
    }

    public override void Count(ReadOnlySpan<int> slice, int records)
    {
        if (!slice.IsEmpty)
            _numbers[slice[0]].Add(records);
    }

    public override void Compare(ReadOnlySpan<int> a, ReadOnlySpan<int> b, Span<Finding> into)
    {
        if (a.IsEmpty || b.IsEmpty)
        {
            into[0] = Finding.None;
            return;
        }

        if (a[0] == b[0])
            into[0] = new Finding(0, Rarity(_numbers[a[0]], RarityOf(_numbers[a[0]].Text.Length)));
        else
            into[0] = new Finding(
                MayBeTypingError(a[1], b[1]) && IsTypingError(_numbers[a[0]].Text, _numbers[b[0]].Text) ? 1 : 2
            );
    }

    public override void AddParts(ReadOnlySpan<int> slice, KeyParts parts)
    {
        if (slice.IsEmpty)
            return;
        var token = _numbers[slice[0]];
        parts.AddStrong(KeySlot.Value, token.Hash + (ulong)column);
        if (token.Text.Length >= 7)
        {
            // One typing error leaves one of the halves unchanged.
            var half = token.Text.Length / 2;
            parts.AddStrong(KeySlot.Digits, Hashing.Of(token.Text.AsSpan(0, half), (ulong)column + 100));
            parts.AddStrong(KeySlot.Digits, Hashing.Of(token.Text.AsSpan(half), (ulong)column + 200));
        }
    }

    /// <summary>
    /// Numbers are given out once: how rarely one is met by chance follows from its length, not from how many records
    /// there are. Two and a half bits a place leave room for places that all numbers share.
    /// </summary>
    private static float RarityOf(int length) => Math.Clamp(2.5f * length, OwnValue, 18);

    private static bool IsTypingError(string a, string b) =>
        Math.Min(a.Length, b.Length) > 5 && DamerauLevenshtein.Distance(a, b, 1) <= 1;

    /// <summary>How many of each digit a number has, three bits a digit, in one whole number.</summary>
    private static int DigitCounts(ReadOnlySpan<char> number)
    {
        var counts = 0;
        foreach (var letter in number)
        {
            var shift = 3 * (letter % 10);
            if (((counts >> shift) & 7) < 7)
                counts += 1 << shift;
        }

        return counts;
    }

    /// <summary>One edit changes the count of at most two digits by one.</summary>
    private static bool MayBeTypingError(int a, int b)
    {
        var difference = 0;
        for (var shift = 0; shift < 30; shift += 3)
            difference += Math.Abs(((a >> shift) & 7) - ((b >> shift) & 7));
        return difference <= 2;
    }

    public override void Shared(ReadOnlySpan<int> slice, List<Token> into)
    {
        if (!slice.IsEmpty)
            into.Add(_numbers[slice[0]]);
    }
}
