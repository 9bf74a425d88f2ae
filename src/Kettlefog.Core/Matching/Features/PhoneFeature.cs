using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Text;

namespace Kettlefog.Core.Matching.Features;

/// <summary>All phone numbers of a record: the best agreement of any two counts.</summary>
/// <param name="columns">The columns of the numbers.</param>
/// <param name="country">The column of the country, or -1.</param>
/// <param name="defaultCountry">The default country of records, or null.</param>
/// <param name="kind">The evidence.</param>
internal sealed class PhoneFeature(int[] columns, int country, string? defaultCountry, EvidenceKind kind) : Feature
{
    // A number within a slice: its token, its last nine digits and those before, and its extension.
    private const int Last = 1,
        Before = 2,
        Extension = 3,
        Stride = 4;
    private const int Subscriber = 10_000_000;
    private const int Billion = 1_000_000_000;

    private readonly TokenTable _numbers = new();
    private readonly string _ownCode = defaultCountry is { Length: 2 } ? PhoneReader.CallingCodeOf(defaultCountry) : "";

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
            var (length, beyond) = PhoneReader.Read(
                text,
                country >= 0 ? Countries.CodeOf(row[country]) ?? defaultCountry : defaultCountry,
                digits,
                extension
            );
            if (length == 0)
                continue;

            length = PhoneReader.WithoutCode(digits[..length], _ownCode);
            var id = _numbers.Intern(digits[..length]).Id;
            var known = false;
            for (var at = start; at < into.Count; at += Stride)
                known |= into[at] == id;
            if (known)
                continue;
            var tail = Math.Max(0, length - 9);
            var head = digits[Math.Max(0, tail - 9)..tail];
            into.AddRange([
                id,
                Number(digits[tail..length]),
                Number(head),
                beyond == 0 ? 0 : Number(extension[..beyond]) + 1,
            ]);
        }
    }

    public override void Count(ReadOnlySpan<int> slice, int records)
    {
        for (var at = 0; at < slice.Length; at += Stride)
            _numbers[slice[at]].Add(records);
    }

    public override void Compare(ReadOnlySpan<int> a, ReadOnlySpan<int> b, Span<Finding> into)
    {
        into[0] = a.IsEmpty || b.IsEmpty ? Finding.None : new Finding(2);
        for (var i = 0; i < a.Length; i += Stride)
        {
            for (var j = 0; j < b.Length; j += Stride)
            {
                var x = a.Slice(i, Stride);
                var y = b.Slice(j, Stride);
                if (IsSame(x, y))
                {
                    var (left, right) = (_numbers[x[0]], _numbers[y[0]]);
                    var finding = new Finding(0, Rarity(left, right, OwnValue));
                    if (into[0].Level != 0 || finding.Rarity > into[0].Rarity)
                        into[0] = finding;
                }
                else if (into[0].Level == 2 && IsTypingError(x, y))
                {
                    into[0] = new Finding(1);
                }
            }
        }
    }

    public override void AddParts(ReadOnlySpan<int> slice, KeyParts parts)
    {
        for (var at = 0; at < slice.Length; at += Stride)
            parts.AddStrong(KeySlot.Digits, (ulong)(slice[at + Last] % Subscriber));
    }

    public override void Shared(ReadOnlySpan<int> slice, List<Token> into)
    {
        for (var at = 0; at < slice.Length; at += Stride)
            into.Add(_numbers[slice[at]]);
    }

    /// <summary>Equal, or equal except for country and area code.</summary>
    private bool IsSame(ReadOnlySpan<int> a, ReadOnlySpan<int> b)
    {
        // Two extensions of one switchboard belong to two people.
        if (
            a[Last] % Subscriber != b[Last] % Subscriber
            || (a[Extension] != b[Extension] && a[Extension] > 0 && b[Extension] > 0)
        )
            return false;
        if (a[0] == b[0])
            return true;
        var (x, y) = (_numbers[a[0]].Text, _numbers[b[0]].Text);
        return x.EndsWith(y, StringComparison.Ordinal) || y.EndsWith(x, StringComparison.Ordinal);
    }

    /// <summary>True if one digit differs, or two neighbours changed places.</summary>
    private static bool IsTypingError(ReadOnlySpan<int> a, ReadOnlySpan<int> b)
    {
        if (a[Before] != b[Before])
            return false;
        int x = a[Last],
            y = b[Last],
            differing = 0,
            first = -1,
            at = 0;
        (int X, int Y) before = default;
        while (x != y)
        {
            var (digitX, digitY) = (x % 10, y % 10);
            if (digitX != digitY)
            {
                differing++;
                if (differing > 2 || (differing == 2 && (at != first + 1 || digitX != before.Y || digitY != before.X)))
                    return false;
                (first, before) = (at, (digitX, digitY));
            }

            (x, y, at) = (x / 10, y / 10, at + 1);
        }

        return differing == 1 || differing == 2;
    }

    private static int Number(ReadOnlySpan<char> digits)
    {
        var number = 0;
        foreach (var digit in digits)
            number = ((number * 10) + (digit - '0')) % Billion;
        return number;
    }
}
