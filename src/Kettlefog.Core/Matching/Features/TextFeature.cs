using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Text;
using Kettlefog.Core.Text.Similarity;

namespace Kettlefog.Core.Matching.Features;

/// <summary>
/// Any text: its words compared with rare ones weighing more, misspelt ones counting in part (soft TF-IDF: Cohen,
/// Ravikumar and Fienberg 2003, "A Comparison of String Distance Metrics for Name-Matching Tasks").
/// </summary>
/// <param name="column">Its column.</param>
/// <param name="kind">The evidence.</param>
/// <param name="fillers">Words without meaning for the comparison.</param>
/// <param name="isName">True if the text is the record's name.</param>
internal sealed class TextFeature(int column, EvidenceKind kind, IReadOnlySet<string> fillers, bool isName) : Feature
{
    private const int MaxWords = 24;

    private readonly TokenTable _words = new();
    private readonly TokenTable _wholes = new();

    public override IReadOnlyList<EvidenceKind> Evidence { get; } = [kind];

    public override void Prepare(IReadOnlyList<string?> row, WordBuffer words, List<int> into)
    {
        if (row[column] is not { Length: > 0 } text || Junk.IsJunk(text))
            return;
        words.Split(text, FullStops.JoinLetters);
        if (words.Count == 0)
            return;
        var start = into.Count;
        var whole = "";
        into.Add(0);
        for (var at = 0; at < words.Count && into.Count - start <= MaxWords; at++)
        {
            var word = words[at].ToString();
            if (fillers.Contains(word) && words.Count > 1)
                continue;
            whole += word;
            var id = _words.Intern(word).Id;
            if (into.IndexOf(id, start + 1) < 0)
                into.Add(id);
        }

        into[start] = _wholes.Intern(whole).Id;
    }

    public override void Count(ReadOnlySpan<int> slice, int records)
    {
        if (slice.IsEmpty)
            return;
        _wholes[slice[0]].Add(records);
        foreach (var word in slice[1..])
            _words[word].Add(records);
    }

    public override void Compare(ReadOnlySpan<int> a, ReadOnlySpan<int> b, Span<Finding> into)
    {
        if (a.IsEmpty || b.IsEmpty)
        {
            into[0] = Finding.None;
            return;
        }

        var (wholeA, wholeB) = (_wholes[a[0]], _wholes[b[0]]);
        var rarity = Rarity(Math.Max(wholeA.Count, wholeB.Count));
        if (a[0] == b[0])
        {
            into[0] = new Finding(0, rarity);
            return;
        }

        var similarity = Similarity(a[1..], b[1..]);
        var shorter = Math.Min(wholeA.Text.Length, wholeB.Text.Length);
        var maxEdits =
            shorter >= 12 ? 2
            : shorter >= 5 ? 1
            : 0;
        if (
            similarity < 0.9
            && maxEdits > 0
            && DamerauLevenshtein.Distance(wholeA.Text, wholeB.Text, maxEdits) <= maxEdits
        )
            similarity = 0.9;
        into[0] = similarity >= 0.85 ? new Finding(1, rarity) : new Finding(similarity >= 0.5 ? 2 : 3);
    }

    public override void AddParts(ReadOnlySpan<int> slice, KeyParts parts)
    {
        if (slice.IsEmpty)
            return;
        parts.AddStrong(KeySlot.Value, _wholes[slice[0]].Hash + (ulong)column);
        var rarest = new List<Token>(MaxWords);
        foreach (var word in slice[1..])
            rarest.Add(_words[word]);
        rarest.Sort((x, y) => x.Count != y.Count ? x.Count.CompareTo(y.Count) : x.Hash.CompareTo(y.Hash));
        foreach (var token in rarest.Take(isName ? 4 : 2))
            parts.AddWeak(KeySlot.Name, token.Sound);
        foreach (var token in rarest.Take(1).Where(token => token.Text.Length >= 6))
        {
            var half = token.Text.Length / 2;
            parts.AddWeak(KeySlot.Piece, Hashing.Of(token.Text.AsSpan(0, half), (ulong)column + 1));
            parts.AddWeak(KeySlot.Piece, Hashing.Of(token.Text.AsSpan(half), (ulong)column + 2));
        }
    }

    public override ulong NameOf(ReadOnlySpan<int> slice) => isName && !slice.IsEmpty ? _wholes[slice[0]].Sound : 0;

    private double Similarity(ReadOnlySpan<int> a, ReadOnlySpan<int> b)
    {
        double matched = 0,
            squareA = 0,
            squareB = 0;
        foreach (var word in b)
            squareB += Square(_words[word]);
        foreach (var x in a)
        {
            var left = _words[x];
            squareA += Square(left);
            double best = 0;
            foreach (var y in b)
            {
                var right = _words[y];
                var score =
                    x == y ? 1
                    : WordRelations.IsMisspelling(left, right) ? 0.9
                    : WordRelations.IsShortened(left.Text, right.Text) ? 0.8
                    : 0;
                best = Math.Max(best, score * Weight(left) * Weight(right));
            }

            matched += best;
        }

        return squareA == 0 || squareB == 0 ? 0 : Math.Min(1, matched / Math.Sqrt(squareA * squareB));
    }

    private double Weight(Token word) => Math.Max(0.5, Rarity(word.Count));

    private double Square(Token word) => Weight(word) * Weight(word);
}
