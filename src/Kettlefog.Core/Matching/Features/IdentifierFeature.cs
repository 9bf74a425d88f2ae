using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Scoring;
using Kettlefog.Core.Matching.Similarity;
using Kettlefog.Core.Matching.Text;

namespace Kettlefog.Core.Matching.Features;

/// <summary>A number that one party has and no other: a tax number, a registration, a hull number.</summary>
/// <param name="column">Where it stands.</param>
/// <param name="withCountry">True if two letters before the digits are but a country, as in tax numbers.</param>
/// <param name="kind">The evidence.</param>
internal sealed class IdentifierFeature(int column, bool withCountry, EvidenceKind kind) : Feature
{
    private const int Least = 4;
    private readonly TokenTable _numbers = new();

    public override IReadOnlyList<EvidenceKind> Evidence { get; } = [kind];

    public override void Prepare(IReadOnlyList<string?> row, WordBuffer words, List<int> into)
    {
        if (row[column] is not { Length: >= Least } text || Junk.IsJunk(text))
            return;
        Span<char> plain = stackalloc char[40];
        var length = 0;
        foreach (var letter in text)
        {
            if (char.IsAsciiLetterOrDigit(letter) && length < plain.Length)
                plain[length++] = char.ToUpperInvariant(letter);
        }

        ReadOnlySpan<char> number = plain[..length];
        if (withCountry && number.Length > 6 && char.IsAsciiLetter(number[0]) && char.IsAsciiLetter(number[1]) && number[2..].ContainsAnyInRange('0', '9'))
            number = number[2..];
        if (number.Length >= Least && !Junk.IsFiller(number))
            into.Add(_numbers.Intern(number).Id);
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

        var (left, right) = (_numbers[a[0]], _numbers[b[0]]);
        if (a[0] == b[0])
            into[0] = new Finding(0, Rarity(left));
        else
            into[0] = new Finding(Math.Min(left.Text.Length, right.Text.Length) > 5 && DamerauLevenshtein.Distance(left.Text, right.Text, 1) <= 1 ? 1 : 2);
    }

    public override void AddParts(ReadOnlySpan<int> slice, KeyParts parts)
    {
        if (slice.IsEmpty)
            return;
        var token = _numbers[slice[0]];
        parts.AddStrong(KeySlot.Value, token.Hash + (ulong)column);
        if (token.Text.Length >= 7)
        {
            // One slip leaves one of the halves whole.
            var half = token.Text.Length / 2;
            parts.AddStrong(KeySlot.Digits, Hashing.Of(token.Text.AsSpan(0, half), (ulong)column + 100));
            parts.AddStrong(KeySlot.Digits, Hashing.Of(token.Text.AsSpan(half), (ulong)column + 200));
        }
    }

    public override void Shared(ReadOnlySpan<int> slice, List<Token> into)
    {
        if (!slice.IsEmpty)
            into.Add(_numbers[slice[0]]);
    }
}
