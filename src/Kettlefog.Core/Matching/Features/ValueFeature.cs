using System.Globalization;
using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Text;

namespace Kettlefog.Core.Matching.Features;

/// <summary>How the values of a <see cref="ValueFeature"/> are read.</summary>
internal enum ValueForm
{
    Code,
    Number,
    Date,
    Host,
}

/// <summary>
/// A code, number, date or web address: equal, near (numbers within two in a hundred, dates within 31 days), or
/// different.
/// </summary>
/// <param name="column">The column of the value.</param>
/// <param name="mails">The columns of e-mail addresses whose host is used if the web address is missing.</param>
/// <param name="form">How the value is read.</param>
/// <param name="kind">The evidence.</param>
internal sealed class ValueFeature(int column, int[] mails, ValueForm form, EvidenceKind kind) : Feature
{
    private readonly TokenTable _values = new();

    public override IReadOnlyList<EvidenceKind> Evidence { get; } = [kind];

    public override void Prepare(IReadOnlyList<string?> row, WordBuffer words, List<int> into)
    {
        if (row[column] is not { Length: > 0 } text || Junk.IsJunk(text))
        {
            if (HostOfMail(row) is { } host)
                into.Add(_values.Intern(host).Id);
            return;
        }

        var value = form switch
        {
            ValueForm.Number => decimal.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var number)
                ? number.ToString("0.#########", CultureInfo.InvariantCulture)
                : null,
            ValueForm.Date => DateReader.Read(text)?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
            ValueForm.Host => HostOf(text),
            _ => PlainLetters.Of(text.Trim()),
        };
        if (value is { Length: > 0 and < 200 })
            into.Add(_values.Intern(value).Id);
    }

    public override void Count(ReadOnlySpan<int> slice, int records)
    {
        if (!slice.IsEmpty)
            _values[slice[0]].Add(records);
    }

    public override void Compare(ReadOnlySpan<int> a, ReadOnlySpan<int> b, Span<Finding> into)
    {
        if (a.IsEmpty || b.IsEmpty)
            into[0] = Finding.None;
        else if (a[0] == b[0])
            into[0] = new Finding(0, Rarity(_values[a[0]]));
        else
            into[0] = new Finding(IsNear(_values[a[0]].Text, _values[b[0]].Text) ? 1 : 2);
    }

    public override void AddParts(ReadOnlySpan<int> slice, KeyParts parts)
    {
        if (slice.IsEmpty || _values[slice[0]].Count >= 200)
            return;
        if (form == ValueForm.Host)
            parts.AddStrong(KeySlot.Value, _values[slice[0]].Hash + (ulong)column);
        else
            parts.AddWeak(KeySlot.Value, _values[slice[0]].Hash + (ulong)column);
    }

    public override void Shared(ReadOnlySpan<int> slice, List<Token> into)
    {
        if (form == ValueForm.Host && !slice.IsEmpty)
            into.Add(_values[slice[0]]);
    }

    private bool IsNear(string a, string b)
    {
        switch (form)
        {
            case ValueForm.Number:
                var (x, y) = (
                    double.Parse(a, CultureInfo.InvariantCulture),
                    double.Parse(b, CultureInfo.InvariantCulture)
                );
                return Math.Abs(x - y) <= 0.02 * Math.Max(Math.Abs(x), Math.Abs(y));
            case ValueForm.Date:
                return Math.Abs(
                        DateOnly.Parse(a, CultureInfo.InvariantCulture).DayNumber
                            - DateOnly.Parse(b, CultureInfo.InvariantCulture).DayNumber
                    ) <= 31;
            default:
                return false;
        }
    }

    private string? HostOfMail(IReadOnlyList<string?> row)
    {
        foreach (var mail in mails)
        {
            if (
                row[mail] is { Length: > 3 } text
                && EmailReader.Read(text) is var (_, host)
                && !WordLists.PublicMailHosts.Contains(host)
            )
                return host;
        }

        return null;
    }

    /// <summary>The host of a web address, without "www".</summary>
    private static string? HostOf(string text)
    {
        var span = text.AsSpan().Trim();
        if (span.IndexOf("://", StringComparison.Ordinal) is >= 0 and var scheme)
            span = span[(scheme + 3)..];
        if (span.IndexOfAny('/', '?', ':') is >= 0 and var end)
            span = span[..end];
        if (span.StartsWith("www.", StringComparison.OrdinalIgnoreCase))
            span = span[4..];
        return span.Length > 3 && span.Contains('.') ? span.ToString().ToLowerInvariant() : null;
    }
}
