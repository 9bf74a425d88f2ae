using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Text;
using Kettlefog.Core.Text.Similarity;

namespace Kettlefog.Core.Matching.Features;

/// <summary>All e-mail addresses of a record: the best agreement of any two counts.</summary>
/// <param name="columns">The columns of the addresses.</param>
/// <param name="names">The columns of a person's name; empty if the records are no people.</param>
/// <param name="kind">The evidence; of people with a level for addresses that are made of the name.</param>
internal sealed class EmailFeature(int[] columns, int[] names, EvidenceKind kind) : Feature
{
    // A mailbox within a slice: itself, its local part and host, the letters of the local part if it is a person's,
    // otherwise 0, and 1 if the local part is made of the record's own name.
    private const int OfName = 4,
        Stride = 5;

    private int SameHost => names.Length > 0 ? 4 : 3;

    private int Different => SameHost + 1;

    private const int MinLocalPartLength = 5;

    /// <summary>
    /// A host shared by more than one record in two to this power is a mail provider, and is no evidence.
    /// </summary>
    private const float MinHostRarity = 6;

    private readonly TokenTable _mailboxes = new();
    private readonly TokenTable _locals = new();
    private readonly TokenTable _hosts = new();

    public override IReadOnlyList<EvidenceKind> Evidence { get; } = [kind];

    public override void Prepare(IReadOnlyList<string?> row, WordBuffer words, List<int> into)
    {
        var start = into.Count;
        foreach (var column in columns)
        {
            if (row[column] is not { Length: > 3 } text || EmailReader.Read(text) is not var (local, host))
                continue;
            var mailbox = _mailboxes.Intern($"{local}@{host}").Id;
            var known = false;
            for (var at = start; at < into.Count; at += Stride)
                known |= into[at] == mailbox;
            if (!known)
                AddMailbox(mailbox, _locals.Intern(local), host, IsOfName(local, row, words), into);
        }
    }

    private void AddMailbox(int mailbox, Token local, string host, bool isOfName, List<int> into) =>
        into.AddRange([
            mailbox,
            local.Id,
            _hosts.Intern(host).Id,
            IsPersonal(local) ? local.Mask : 0,
            isOfName ? 1 : 0,
        ]);

    /// <summary>
    /// True if the letters of a local part are those of the name: <c>j.smith</c>, <c>smithjohn84</c>.
    /// </summary>
    private bool IsOfName(string local, IReadOnlyList<string?> row, WordBuffer words)
    {
        if (names.Length == 0)
            return false;
        var rest = string.Concat(local.Where(char.IsAsciiLetter));
        var (initials, isPart) = ("", false);
        foreach (var column in names)
        {
            if (row[column] is not { Length: > 0 } text)
                continue;
            words.Split(text, FullStops.Part);
            for (var at = 0; at < words.Count; at++)
            {
                var word = words[at].ToString();
                initials += word[0];
                if (word.Length < 3 || rest.IndexOf(word, StringComparison.Ordinal) is not (>= 0 and var start))
                    continue;
                rest = rest.Remove(start, word.Length);
                isPart = true;
            }
        }

        // The record may lack the given name of which the mailbox has the initial.
        return isPart && (rest.Length <= 1 || (rest.Length <= 3 && rest.All(initials.Contains)));
    }

    public override void Count(ReadOnlySpan<int> slice, int records)
    {
        for (var at = 0; at < slice.Length; at += Stride)
        {
            _mailboxes[slice[at]].Add(records);
            _locals[slice[at + 1]].Add(records);
            _hosts[slice[at + 2]].Add(records);
        }
    }

    public override void Compare(ReadOnlySpan<int> a, ReadOnlySpan<int> b, Span<Finding> into)
    {
        if (a.IsEmpty || b.IsEmpty)
        {
            into[0] = Finding.None;
            return;
        }

        var best = new Finding(Different);
        for (var i = 0; i < a.Length; i += Stride)
        {
            for (var j = 0; j < b.Length; j += Stride)
            {
                var finding = CompareOne(a.Slice(i, Stride), b.Slice(j, Stride));
                if (finding.Level < best.Level || (finding.Level == best.Level && finding.Rarity > best.Rarity))
                    best = finding;
            }
        }

        into[0] = best;
    }

    public override void AddParts(ReadOnlySpan<int> slice, KeyParts parts)
    {
        for (var at = 0; at < slice.Length; at += Stride)
        {
            parts.AddStrong(KeySlot.Value, _mailboxes[slice[at]].Hash);
            var local = _locals[slice[at + 1]];
            if (IsPersonal(local))
                parts.AddStrong(KeySlot.Piece, local.Hash);
            var host = _hosts[slice[at + 2]];
            if (!WordLists.PublicMailHosts.Contains(host.Text) && host.Count < 200)
                parts.AddWeak(KeySlot.Value, host.Hash);
        }
    }

    public override void Shared(ReadOnlySpan<int> slice, List<Token> into)
    {
        for (var at = 0; at < slice.Length; at += Stride)
        {
            into.Add(_mailboxes[slice[at]]);
            into.Add(_hosts[slice[at + 2]]);
        }
    }

    private Finding CompareOne(ReadOnlySpan<int> a, ReadOnlySpan<int> b)
    {
        if (a[0] == b[0])
            return new Finding(0, Rarity(_mailboxes[a[0]], OwnValue));
        if (a[OfName] == 1 && b[OfName] == 1 && a[2] != b[2])
            return CompareOfName(_locals[a[1]], _locals[b[1]], a[3], b[3]);
        if (a[1] == b[1] && a[3] != 0)
            return new Finding(1, Rarity(_locals[a[1]]));
        if (
            a[3] != 0
            && b[3] != 0
            && LetterMask.Difference(a[3], b[3]) <= 4
            && IsTypingError(_locals[a[1]].Text, _locals[b[1]].Text, a[2] == b[2])
        )
            return new Finding(2);
        if (a[2] != b[2] && a[1] != b[1])
            return new Finding(Different);
        var host = _hosts[a[2]];
        if (a[2] == b[2] && !WordLists.PublicMailHosts.Contains(host.Text))
            return Rarity(host) > MinHostRarity ? new Finding(SameHost, Rarity(host)) : new Finding(Different);
        if (a[1] == b[1] && _hosts[b[2]] is var other && DamerauLevenshtein.Distance(host.Text, other.Text, 2) <= 2)
            return new Finding(2);
        return new Finding(Different);
    }

    /// <summary>
    /// Two addresses at different hosts that are made of the names of their records: the names are compared elsewhere,
    /// and only further digits say that it is the same person.
    /// </summary>
    private Finding CompareOfName(Token a, Token b, int lettersA, int lettersB)
    {
        if (a.Id == b.Id && a.Text.Count(char.IsAsciiDigit) > 1)
            return new Finding(1, Rarity(a));
        if (LetterMask.Difference(lettersA, lettersB) > 5)
            return new Finding(Different);
        return DamerauLevenshtein.Distance(LettersOf(a.Text), LettersOf(b.Text), 1) <= 1
            ? new Finding(3)
            : new Finding(Different);
    }

    private static string LettersOf(string text) => string.Concat(text.Where(char.IsAsciiLetter));

    /// <summary>
    /// One digit more or less is another mailbox of a large host, one letter is likely a typing error.
    /// </summary>
    private static bool IsTypingError(string a, string b, bool sameHost)
    {
        var maxEdits = Math.Min(a.Length, b.Length) >= 9 ? 2 : 1;
        if (DamerauLevenshtein.Distance(a, b, maxEdits) > maxEdits)
            return false;
        return sameHost ? DigitsOf(a).SequenceEqual(DigitsOf(b)) : Math.Min(a.Length, b.Length) >= 8;
    }

    private static IEnumerable<char> DigitsOf(string text) => text.Where(char.IsAsciiDigit);

    private static bool IsPersonal(Token local) =>
        local.Text.Length >= MinLocalPartLength && !WordLists.SharedMailboxes.Contains(local.Text);
}
