using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Clustering;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Features;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Matching.Rules;
using Kettlefog.Core.Matching.Scoring;
using Kettlefog.Core.Text;

namespace Kettlefog.Core.Matching;

/// <summary>A pair that an operator decided.</summary>
/// <param name="A">The values of one record, in the order of the type's fields.</param>
/// <param name="B">Those of the other.</param>
/// <param name="Match">True if they were the same entity.</param>
public sealed record Decision(IReadOnlyList<string?> A, IReadOnlyList<string?> B, bool Match);

/// <summary>A record that may be the same entity as the one asked about.</summary>
/// <param name="Number">Its number.</param>
/// <param name="Score">The probability, from 0 to 1.</param>
/// <param name="Proposed">True if a rule would propose the pair.</param>
public readonly record struct SimilarRecord(int Number, float Score, bool Proposed);

/// <summary>A pair that a rule proposes, or would with a lower threshold.</summary>
/// <param name="A">The number of one record, the smaller one.</param>
/// <param name="B">The number of the other.</param>
/// <param name="Score">The probability that both are the same entity, from 0 to 1.</param>
/// <param name="Rule">The index of the rule that gives the score.</param>
/// <param name="Proposed">True if the rule proposes the pair.</param>
public readonly record struct FoundPair(int A, int B, float Score, int Rule, bool Proposed);

/// <summary>The outcome of preparing a finder.</summary>
/// <param name="Records">The number of records.</param>
/// <param name="Keys">The number of blocks of records that are compared with each other.</param>
/// <param name="Crowded">
/// The number of keys that too many records share: they are compared with those next to them in order only.
/// </param>
/// <param name="CrowdedRecords">The number of records that have such a key.</param>
/// <param name="Duplicates">The learned number of matching pairs per record.</param>
/// <param name="Rounds">The number of rounds of learning.</param>
public sealed record FinderReport(
    int Records,
    long Keys,
    long Crowded,
    long CrowdedRecords,
    double Duplicates,
    int Rounds
);

/// <summary>Records compared with all others, to see what blocking leaves out.</summary>
/// <param name="Records">The number of records drawn.</param>
/// <param name="Pairs">The number of pairs with them that a rule proposes.</param>
/// <param name="Found">The number of those that blocking or a cluster brings together.</param>
public sealed record RecallSample(int Records, long Pairs, long Found);

/// <summary>
/// Finds duplicates among records of one type, in memory: add the records, prepare, then score ranges of them, in any
/// order. Records have numbers from 0 in the order in which they were added.
/// </summary>
public sealed partial class DuplicateFinder : IDisposable
{
    /// <summary>Pairs below this score are not worth keeping.</summary>
    public const float Floor = 0.2f;

    /// <summary>No cluster has more records: one merge takes no more.</summary>
    public const int MaxClusterSize = 500;

    private const int SampleRecords = 12_000;
    private const int RandomPairs = 200_000;
    private const double DefaultDuplicates = 0.25;
    private const int MaxDistinctNames = 64;

    private readonly MatchModel _model;
    private readonly FinderOptions _options;
    private readonly List<int[]> _records = [];
    private readonly HashSet<(int, int)> _nonDuplicates = [];
    private readonly RuleSet _rules;
    private readonly UnreadableValues _unreadable = new();

    // Records that are equal to an earlier one: they say nothing about how common a value is.
    private readonly HashSet<int> _copies = [];
    private BlockIndex? _blocks;
    private PairScorer _scorer;
    private EarlyStop _stop;

    /// <summary>Creates a finder.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="rules">The rules; at least one.</param>
    /// <param name="options">The options.</param>
    /// <exception cref="KettlefogException">A rule does not fit the type, or no field can be compared.</exception>
    public DuplicateFinder(RecordType type, IReadOnlyList<MatchRule> rules, FinderOptions options)
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(rules);
        ArgumentNullException.ThrowIfNull(options);
        _options = options;
        var nicknames = new Nicknames(options.Nicknames);
        var named = rules.Any(rule => rule.Compare.Count == 0)
            ? []
            : rules.SelectMany(rule => rule.Compare).Distinct().ToList();
        _model = MatchModel.For(type.Fields, named, options.Country, nicknames);
        _rules = new RuleSet(type, rules, _model, options, nicknames);
        _scorer = Scorer(Unlearned);
        _stop = Stop();
    }

    /// <inheritdoc/>
    public void Dispose() => _changing.Dispose();

    /// <summary>What the records are taken for.</summary>
    public EntityKind Entity => _model.Entity;

    /// <summary>What is compared between them, as people call it.</summary>
    public IReadOnlyList<string> Compared => [.. _model.Evidence.Select(kind => kind.Title)];

    /// <summary>The number of records.</summary>
    public int Count => _records.Count;

    /// <summary>Adds records; their numbers go on from those before.</summary>
    /// <param name="rows">For each record the values of the type's fields, in the order of the map.</param>
    public void Add(IReadOnlyList<IReadOnlyList<string?>> rows)
    {
        ArgumentNullException.ThrowIfNull(rows);
        Append(rows);
        _blocks = null;
    }

    private void Append(IReadOnlyList<IReadOnlyList<string?>> rows)
    {
        var prepared = new int[rows.Count][];
        var first = _records.Count;
        var slices = Math.Min(Environment.ProcessorCount, Math.Max(1, rows.Count / 64));
        Parallel.For(0, slices, slice =>
        {
            var scratch = new Scratch(_model);
            for (var at = rows.Count * slice / slices; at < rows.Count * (slice + 1) / slices; at++)
            {
                prepared[at] = Prepare(rows[at], scratch, first + at);
                CountValues(prepared[at], 1);
            }
        });
        _rules.Add(rows);
        _records.AddRange(prepared);
    }

    /// <summary>How many values could not be read, and count as missing.</summary>
    public long UnreadableCount => _unreadable.Count;

    /// <summary>The first hundred of them.</summary>
    public IReadOnlyList<UnreadableValue> Unreadable => _unreadable.Listed;

    /// <summary>Forbids two records to be in one cluster.</summary>
    public void AddNonDuplicates(int a, int b) => _nonDuplicates.Add((Math.Min(a, b), Math.Max(a, b)));

    /// <summary>True if two records must not be in one cluster.</summary>
    public bool AreNonDuplicates(int a, int b) => _nonDuplicates.Contains((Math.Min(a, b), Math.Max(a, b)));

    /// <summary>What was learned when the finder was prepared; null before.</summary>
    public FinderReport? Report { get; private set; }

    /// <summary>Counts values, makes the keys and learns the weights. Records may be scored afterwards.</summary>
    /// <param name="decided">The decisions of operators about pairs.</param>
    /// <param name="live">True to query single records afterwards with <see cref="FindSimilar"/>.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public FinderReport Prepare(IReadOnlyList<Decision> decided, bool live, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(decided);
        CountCopiesOnce();
        foreach (var feature in _model.Features)
            feature.Population = Math.Max(2, Count - _copies.Count);
        foreach (var feature in _model.Features)
            feature.Settle();
        CountDistinctNames();
        _blocks = BlockIndex.Build(
            new BlockedRecords(Count, AddParts, record => TwinOf(_records[record]), PlaceOf),
            live,
            cancellationToken
        );
        _decided = [.. decided.Select(Decided)];
        var learned = _options.Learn ? Learn(cancellationToken) : Unlearned;
        _scorer = Scorer(learned);
        _stop = Stop();
        Learned = Describe(learned.Taught);
        var report = _blocks.Report;
        return Report = new FinderReport(
            Count,
            report.Keys,
            report.Crowded,
            report.CrowdedRecords,
            learned.Duplicates,
            learned.Rounds
        );
    }

    /// <summary>Scores the candidates of a range of records, each pair once over all ranges.</summary>
    /// <param name="from">The first record.</param>
    /// <param name="to">The record after the last one.</param>
    /// <param name="changed">True for each record of whose pairs are to be scored; null for all.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The pairs from <see cref="Floor"/> up, by A and B, and how many were compared.</returns>
    public (IReadOnlyList<FoundPair> Pairs, long Compared) Score(
        int from,
        int to,
        bool[]? changed,
        CancellationToken cancellationToken
    )
    {
        var blocks = _blocks ?? throw new InvalidOperationException("Prepare first.");
        var slices = Math.Max(1, Math.Min(Environment.ProcessorCount * 8, (to - from) / 256));
        var found = new List<FoundPair>[slices];
        long compared = 0;
        Parallel.For(
            0,
            slices,
            new ParallelOptions { CancellationToken = cancellationToken },
            () => (Seen: new int[Count], Findings: new Finding[_scorer.Findings]),
            (slice, _, own) =>
            {
                var pairs = new List<FoundPair>();
                long here = 0;
                var (first, last) = (
                    from + (int)((long)(to - from) * slice / slices),
                    from + (int)((long)(to - from) * (slice + 1) / slices)
                );
                for (var record = first; record < last; record++)
                {
                    if (changed is not null && !changed[record])
                        continue;
                    var start = pairs.Count;
                    foreach (var block in blocks.BlocksOf(record))
                    {
                        var members = blocks.Members(block);
                        for (
                            var at = members.Length - 1;
                            at >= 0 && (changed is not null || members[at] > record);
                            at--
                        )
                        {
                            // Of two records that both changed, the first one brings the pair.
                            var other = members[at];
                            if (own.Seen[other] == record + 1 || other == record || (other < record && changed![other]))
                                continue;
                            own.Seen[other] = record + 1;
                            here++;
                            if (ScorePair(Math.Min(record, other), Math.Max(record, other), own.Findings) is { } pair)
                                pairs.Add(pair);
                        }
                    }

                    pairs.Sort(start, pairs.Count - start, ByNumber);
                }

                found[slice] = pairs;
                Interlocked.Add(ref compared, here);
                return own;
            },
            _ => { }
        );
        return ([.. found.SelectMany(pairs => pairs)], compared);
    }

    /// <summary>Makes clusters of proposed pairs.</summary>
    /// <param name="pairs">The pairs.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public FoundClusters Cluster(IEnumerable<FoundPair> pairs, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(pairs);
        var findings = new Finding[_scorer.Findings];
        return ClusterBuilder.Build(
            [.. pairs.Where(pair => pair.Proposed).Select(pair => new ScoredPair(pair.A, pair.B, pair.Score))],
            (a, b) => ScorePair(a, b, findings)?.Score ?? 0,
            IsNever,
            Link,
            MaxClusterSize,
            cancellationToken
        );
    }

    /// <summary>The minimum mean score at which two clusters are joined.</summary>
    private const double Link = 0.6;

    private static readonly Comparer<FoundPair> ByNumber = Comparer<FoundPair>.Create(
        (x, y) => x.A != y.A ? x.A.CompareTo(y.A) : x.B.CompareTo(y.B)
    );

    private bool IsNever(int a, int b) =>
        _nonDuplicates.Contains((Math.Min(a, b), Math.Max(a, b))) || _rules.IsNever(_rules.Of(a), _rules.Of(b));

    /// <summary>Scores a pair; one that cannot be compared is not kept.</summary>
    private FoundPair? ScorePair(int a, int b, Finding[] findings)
    {
        try
        {
            return ScoreComparablePair(a, b, findings);
        }
        catch (Exception error) when (error is not OutOfMemoryException)
        {
            _unreadable.Add(a, "The comparison", error, b);
            return null;
        }
    }

    private FoundPair? ScoreComparablePair(int a, int b, Finding[] findings)
    {
        if (!_rules.MayMeet(a, b))
            return null;
        if (!CompareWhileHopeful(_records[a], _records[b], findings))
            return null;
        if (
            _rules.Judge(_rules.Of(a), _rules.Of(b), findings, _scorer) is not var (score, rule, proposed)
            || (score < Floor && !proposed)
        )
            return null;
        if (_nonDuplicates.Count > 0 && _nonDuplicates.Contains((a, b)))
            return null;
        return new FoundPair(a, b, (float)score, rule, proposed);
    }

    private LearnedScores Unlearned =>
        new(
            _model.Evidence,
            _model.Relations,
            DefaultDuplicates,
            0,
            Taught.Nothing(Calibration.Default(_model.Entity), _model.Evidence)
        );

    private EarlyStop Stop() => new(_scorer, _model.Offsets, Math.Min(Floor, _rules.MinProposedScore));

    private PairScorer Scorer(LearnedScores learned) =>
        new(
            learned.Evidence,
            learned.Relations,
            Math.Max(2, Count - _copies.Count),
            learned.Duplicates,
            learned.Taught
        );

    private int[] Prepare(IReadOnlyList<string?> row, Scratch scratch, int number = -1)
    {
        var into = scratch.Slices;
        into.Clear();
        var features = _model.Features.Count;
        for (var index = 0; index <= features; index++)
            into.Add(0);
        for (var index = 0; index < features; index++)
        {
            into[index] = into.Count;
            _unreadable.Prepare(_model.Features[index], number, row, scratch.Words, into);
        }

        into[features] = into.Count;
        return [.. into];
    }

    private static ReadOnlySpan<int> Slice(int[] record, int feature) =>
        record.AsSpan(record[feature], record[feature + 1] - record[feature]);

    private void CountValues(int[] record, int records)
    {
        for (var index = 0; index < _model.Features.Count; index++)
            _model.Features[index].Count(Slice(record, index), records);
    }

    private void Compare(int[] a, int[] b, Finding[] findings)
    {
        for (var index = 0; index < _model.Features.Count; index++)
            _model.Features[index].Compare(Slice(a, index), Slice(b, index), findings.AsSpan(_model.Offsets[index]));
    }

    /// <summary>Compares two records until it is certain that the pair will not be kept.</summary>
    /// <returns>True if all findings are made.</returns>
    private bool CompareWhileHopeful(int[] a, int[] b, Finding[] findings)
    {
        Span<double> odds = stackalloc double[_stop.Relations];
        _stop.Begin(odds);
        for (var index = 0; index < _model.Features.Count; index++)
        {
            if (a[index] < a[index + 1] && b[index] < b[index + 1])
                _stop.Expect(index, odds);
        }

        for (var index = 0; index < _model.Features.Count; index++)
        {
            var left = Slice(a, index);
            var right = Slice(b, index);
            _model.Features[index].Compare(left, right, findings.AsSpan(_model.Offsets[index]));
            if (!left.IsEmpty && !right.IsEmpty && !_stop.MayGoOn(index, findings, odds))
                return false;
        }

        return true;
    }

    /// <summary>Of equal records the same, and of others hardly ever; 0 of those without any value.</summary>
    private ulong TwinOf(int[] record)
    {
        if (record.Length <= _model.Features.Count + 1)
            return 0;
        var hash = (ulong)record.Length;
        foreach (var each in record)
            hash = KeyParts.Mix(hash + (uint)each + 1);
        return hash;
    }

    private ulong[] PlaceOf(int record) => PlaceOf(_records[record], _rules.Of(record).Partition);

    /// <summary>By partition, then by what brings records together, one feature after the other.</summary>
    private ulong[] PlaceOf(int[] record, int partition)
    {
        var parts = new KeyParts();
        AddParts(record, parts);
        return [(ulong)partition, .. parts.Weak.Select(part => part.Hash), .. parts.Strong];
    }

    private void AddParts(int record, KeyParts parts)
    {
        AddParts(_records[record], parts);
        try
        {
            _rules.AddParts(_rules.Of(record), parts);
        }
        catch (Exception error) when (error is not OutOfMemoryException)
        {
            _unreadable.Add(record, "A key of a rule", error);
        }
    }

    private void AddParts(int[] record, KeyParts parts)
    {
        for (var index = 0; index < _model.Features.Count; index++)
            _model.Features[index].AddParts(Slice(record, index), parts);
    }

    private DecidedPair Decided(Decision decision)
    {
        var scratch = new Scratch(_model);
        var findings = new Finding[_scorer.Findings];
        Compare(Prepare(decision.A, scratch), Prepare(decision.B, scratch), findings);
        return new DecidedPair(findings, decision.Match);
    }

    private Finding[] Findings(int a, int b)
    {
        var findings = new Finding[_scorer.Findings];
        Compare(_records[a], _records[b], findings);
        return findings;
    }

    private sealed class Scratch(MatchModel model)
    {
        public WordBuffer Words { get; } = new();

        public List<int> Slices { get; } = new(16 * model.Features.Count);
    }
}
