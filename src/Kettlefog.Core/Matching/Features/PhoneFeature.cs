using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Scoring;
using Kettlefog.Core.Matching.Similarity;
using Kettlefog.Core.Matching.Text;

namespace Kettlefog.Core.Matching.Features;

/// <summary>All phone numbers of a record: the best agreement of any two counts.</summary>
/// <param name="columns">Where the numbers stand.</param>
/// <param name="country">Where the country stands, or -1.</param>
/// <param name="defaultCountry">The country of records that name none, or null.</param>
/// <param name="kind">The evidence.</param>
internal sealed class PhoneFeature(int[] columns, int country, string? defaultCountry, EvidenceKind kind) : Feature
{
    private const int Subscriber = 7;
    private readonly TokenTable _numbers = new();

    public override IReadOnlyList<EvidenceKind> Evidence { get; } = [kind];

    public override void Prepare(IReadOnlyList<string?> row, WordBuffer words, List<int> into)
    {
        Span<char> digits = stackalloc char[40];
        Span<char> extension = stackalloc char[8];
        var start = into.Count;
        foreach (var column in columns)
        {
            if (row[column] is not { Length: > 5 } text)
                continue;
            var (length, beyond) = PhoneReader.Read(text, country >= 0 ? Countries.CodeOf(row[country]) ?? defaultCountry : defaultCountry, digits, extension);
            if (length == 0)
                continue;
            if (beyond > 0)
            {
                digits[length++] = 'x';
                extension[..beyond].CopyTo(digits[length..]);
                length += beyond;
            }

            var id = _numbers.Intern(digits[..length]).Id;
            if (into.IndexOf(id, start) < 0)
                into.Add(id);
        }
    }

    public override void Count(ReadOnlySpan<int> slice, int records)
    {
        foreach (var id in slice)
            _numbers[id].Add(records);
    }

    public override void Compare(ReadOnlySpan<int> a, ReadOnlySpan<int> b, Span<Finding> into)
    {
        into[0] = a.IsEmpty || b.IsEmpty ? Finding.None : new Finding(2);
        foreach (var x in a)
        {
            foreach (var y in b)
            {
                var (left, right) = (_numbers[x], _numbers[y]);
                if (x == y || IsSame(left.Text, right.Text))
                {
                    var common = left.Count > right.Count ? left : right;
                    var finding = new Finding(0, Rarity(common));
                    if (into[0].Level != 0 || finding.Rarity > into[0].Rarity)
                        into[0] = finding;
                }
                else if (into[0].Level == 2 && left.Text.Length == right.Text.Length && DamerauLevenshtein.Distance(left.Text, right.Text, 1) <= 1)
                {
                    into[0] = new Finding(1);
                }
            }
        }
    }

    public override void AddParts(ReadOnlySpan<int> slice, KeyParts parts)
    {
        foreach (var id in slice)
        {
            var text = Digits(_numbers[id].Text);
            ulong last = 0;
            foreach (var digit in text[^Math.Min(Subscriber, text.Length)..])
                last = (last * 10) + (ulong)(digit - '0');
            parts.AddStrong(KeySlot.Digits, last);
        }
    }

    public override void Shared(ReadOnlySpan<int> slice, List<Token> into)
    {
        foreach (var id in slice)
            into.Add(_numbers[id]);
    }

    /// <summary>Equal, or equal but for what stands before the number within its country or town.</summary>
    private static bool IsSame(string a, string b)
    {
        var x = Digits(a);
        var y = Digits(b);

        // Two extensions of one switchboard are two people's.
        if (x.Length != a.Length && y.Length != b.Length && !a.AsSpan(x.Length).SequenceEqual(b.AsSpan(y.Length)))
            return false;
        return Math.Min(x.Length, y.Length) >= Subscriber && (x.EndsWith(y) || y.EndsWith(x));
    }

    private static ReadOnlySpan<char> Digits(string number) =>
        number.IndexOf('x', StringComparison.Ordinal) is >= 0 and var end ? number.AsSpan(0, end) : number;
}
