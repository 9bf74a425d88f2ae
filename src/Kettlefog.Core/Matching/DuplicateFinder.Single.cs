using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Clustering;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Rules;

namespace Kettlefog.Core.Matching;

/// <content>Queries about single records: which records are similar, and how a pair is scored.</content>
public sealed partial class DuplicateFinder
{
    // Records added after the index was made, by key, and removed ones.
    private readonly Dictionary<ulong, List<int>> _fresh = [];
    private readonly HashSet<int> _gone = [];
    private readonly ReaderWriterLockSlim _changing = new();

    /// <summary>Adds a record to a finder that was prepared for single records.</summary>
    /// <param name="values">Its values.</param>
    /// <returns>Its number.</returns>
    public int AddFresh(IReadOnlyList<string?> values)
    {
        _changing.EnterWriteLock();
        try
        {
            Append([values]);
            var number = Count - 1;
            foreach (var key in KeysOf(_records[number], _rules.Of(number)))
            {
                if (!_fresh.TryGetValue(key, out var numbers))
                    _fresh[key] = numbers = [];
                numbers.Add(number);
            }

            return number;
        }
        finally
        {
            _changing.ExitWriteLock();
        }
    }

    /// <summary>Removes a record: it is no longer found.</summary>
    public void Remove(int number)
    {
        _changing.EnterWriteLock();
        try
        {
            _gone.Add(number);
        }
        finally
        {
            _changing.ExitWriteLock();
        }
    }

    /// <summary>
    /// Values that somebody asks about, compared with a record: where they do not say the partition, it is the
    /// record's.
    /// </summary>
    /// <param name="values">The values.</param>
    /// <param name="record">The values of the record.</param>
    public PairExplanation ExplainAsked(IReadOnlyList<string?> values, IReadOnlyList<string?> record)
    {
        ArgumentNullException.ThrowIfNull(values);
        ArgumentNullException.ThrowIfNull(record);
        return Explain(_rules.LacksPartition(values) ? _rules.InPartitionOf(values, record) : values, record);
    }

    /// <summary>Finds the records that are likely the same entity: equal ones, then the most likely first.</summary>
    /// <param name="values">
    /// The values to find, in the order of the type's fields; null where unknown. Without a partition they are compared
    /// with the records of all.
    /// </param>
    /// <param name="limit">Largest number of results.</param>
    /// <param name="minScore">The minimum score, from 0 to 1.</param>
    /// <remarks>May be called by several threads at once, and while records are added.</remarks>
    public IReadOnlyList<SimilarRecord> FindSimilar(IReadOnlyList<string?> values, int limit, double minScore)
    {
        ArgumentNullException.ThrowIfNull(values);
        var blocks = _blocks ?? throw new InvalidOperationException("Prepare first.");
        var record = Prepare(values, new Scratch(_model));
        var rules = _rules.OfAsked(values);
        var findings = new Finding[_scorer.Findings];
        var found = new List<(bool IsEqual, double Score, SimilarRecord Similar)>();
        ulong[]? place = null;
        bool IsBefore(int number) =>
            PlaceOf(number).AsSpan().SequenceCompareTo(place ??= PlaceOf(record, rules.Partition)) < 0;
        _changing.EnterReadLock();
        try
        {
            var seen = new HashSet<int>();
            foreach (var key in KeysOf(record, rules))
            {
                foreach (var number in blocks.Find(key, IsBefore))
                    seen.Add(number);
                if (_fresh.TryGetValue(key, out var numbers))
                    seen.UnionWith(numbers);
            }

            seen.ExceptWith(_gone);
            foreach (var number in seen)
            {
                Compare(record, _records[number], findings);
                if (
                    _rules.Judge(rules, _rules.Of(number), findings, _scorer) is { } judgement
                    && (judgement.Score >= minScore || judgement.Proposed)
                )
                    found.Add(
                        (
                            record.AsSpan().SequenceEqual(_records[number]),
                            judgement.Score,
                            new SimilarRecord(number, (float)judgement.Score, judgement.Proposed)
                        )
                    );
            }
        }
        finally
        {
            _changing.ExitReadLock();
        }

        // Among many copies that are as certain as can be, equal ones come first.
        return
        [
            .. found
                .OrderByDescending(each => each.IsEqual)
                .ThenByDescending(each => each.Score)
                .ThenBy(each => each.Similar.Number)
                .Take(limit)
                .Select(each => each.Similar),
        ];
    }

    /// <summary>Scores two records that were added, whether or not blocking brings them together.</summary>
    public (double Score, bool Together) Compare(int a, int b)
    {
        var findings = new Finding[_scorer.Findings];
        var (left, right) = (_rules.Of(a), _rules.Of(b));
        Compare(_records[a], _records[b], findings);
        return (
            _rules.Judge(left, right, findings, _scorer)?.Score ?? 0,
            KeysOf(_records[a], left).Overlaps(KeysOf(_records[b], right))
        );
    }

    /// <summary>Explain the score of two records.</summary>
    /// <param name="a">The values of one record, in the order of the type's fields.</param>
    /// <param name="b">Those of the other.</param>
    public PairExplanation Explain(IReadOnlyList<string?> a, IReadOnlyList<string?> b)
    {
        ArgumentNullException.ThrowIfNull(a);
        ArgumentNullException.ThrowIfNull(b);
        var scratch = new Scratch(_model);
        var (left, right) = (Prepare(a, scratch), Prepare(b, scratch));
        var (rulesA, rulesB) = (_rules.Of(a), _rules.Of(b));
        var findings = new Finding[_scorer.Findings];
        Compare(left, right, findings);
        var judgement = _rules.Judge(rulesA, rulesB, findings, _scorer);
        var notes = new List<string>();
        if (judgement is { } judged)
            _rules.Rules[judged.Rule].Mask([.. findings], findings);
        var weights = _scorer.Explain(findings);
        if (judgement is null)
            notes.Add("No rule applies to the pair: the records are out of scope, or in different partitions.");
        if (_rules.IsNever(rulesA, rulesB))
            notes.Add("A rule excludes such pairs.");
        else if (judgement is { Proposed: false } near && near.Score * 100 >= _rules.Rules[near.Rule].Rule.Review)
            notes.Add("The score is high enough, but none of the rule's groups of comparisons is met.");
        var together = KeysOf(left, rulesA).Overlaps(KeysOf(right, rulesB));
        if (!together)
            notes.Add("A scan would not find this pair: no shared value brings the two records together.");
        return new PairExplanation(
            Entity,
            judgement?.Score ?? _scorer.Score(findings),
            judgement is { } by ? _rules.Rules[by.Rule].Rule.Name : null,
            judgement?.Proposed ?? false,
            EvidenceOf(findings, weights),
            weights[^1],
            [.. _model.Evidence.Where((_, index) => findings[index].Level < 0).Select(kind => kind.Title)],
            together,
            notes
        );
    }

    /// <summary>The strongest evidence about two records that were added, in a few words.</summary>
    public string SummaryOf(int a, int b)
    {
        var findings = new Finding[_scorer.Findings];
        Compare(_records[a], _records[b], findings);
        return PairExplanation.Shorten(EvidenceOf(findings, _scorer.Explain(findings)));
    }

    private List<EvidenceItem> EvidenceOf(Finding[] findings, double[] weights) =>
        [
            .. _model
                .Evidence.Select((kind, index) => (kind, index))
                .Where(pair => findings[pair.index].Level >= 0)
                .Select(pair => new EvidenceItem(
                    pair.kind.Name,
                    pair.kind.Title,
                    pair.kind.Levels[findings[pair.index].Level].Words,
                    weights[pair.index]
                ))
                .OrderByDescending(each => Math.Abs(each.Weight)),
        ];

    /// <summary>
    /// Compares some records, drawn at random, with all others: so it is known, and not assumed, what share of the
    /// pairs is brought together, by blocking or by a cluster.
    /// </summary>
    /// <param name="clusters">The clusters that were found.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public RecallSample MeasureRecall(IReadOnlyList<FoundCluster> clusters, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(clusters);
        var clusterOf = new int[Count];
        for (var number = 0; number < clusters.Count; number++)
        {
            foreach (var member in clusters[number].Members)
                clusterOf[member] = number + 1;
        }

        var blocks = _blocks ?? throw new InvalidOperationException("Prepare first.");
        var numbers = Enumerable.Range(0, Count).ToArray();
        var size = (int)Math.Min(Count, Math.Max(MinSampled, SampledPairs / Math.Max(1, Count)));
        var random = new Random(_options.Seed);
        var isDrawn = new bool[Count];
        for (var at = 0; at < size; at++)
        {
            var other = random.Next(at, Count);
            (numbers[at], numbers[other]) = (numbers[other], numbers[at]);
            isDrawn[numbers[at]] = true;
        }

        long pairs = 0,
            found = 0;
        Parallel.For(
            0,
            size,
            new ParallelOptions { CancellationToken = cancellationToken },
            () => new Finding[_scorer.Findings],
            (at, _, findings) =>
            {
                var record = numbers[at];
                var met = new HashSet<int>();
                foreach (var block in blocks.BlocksOf(record))
                {
                    foreach (var member in blocks.Members(block))
                        met.Add(member);
                }

                for (var other = 0; other < Count; other++)
                {
                    if (
                        other == record
                        || (isDrawn[other] && other < record)
                        || ScorePair(Math.Min(record, other), Math.Max(record, other), findings)
                            is not { Proposed: true }
                    )
                        continue;
                    Interlocked.Increment(ref pairs);
                    if (met.Contains(other) || (clusterOf[record] != 0 && clusterOf[record] == clusterOf[other]))
                        Interlocked.Increment(ref found);
                }

                return findings;
            },
            _ => { }
        );
        return new RecallSample(size, pairs, found);
    }

    private const long SampledPairs = 2_000_000;
    private const int MinSampled = 10;

    /// <summary>The keys by which a record is found, refined where too many records share one.</summary>
    private HashSet<ulong> KeysOf(int[] record, RuleRecord rules)
    {
        var parts = PartsOf(record, rules);
        var keys = new List<ulong> { TwinOf(record) };
        BlockIndex.AddKeys(parts, keys);
        if (_blocks is { } blocks)
        {
            BlockIndex.AddRefinedKeys(parts, blocks.Refined, keys);
            keys.RemoveAll(blocks.Refined.Contains);
        }

        return [.. keys];
    }

    private KeyParts PartsOf(int[] record, RuleRecord rules)
    {
        var parts = new KeyParts();
        AddParts(record, parts);
        _rules.AddParts(rules, parts);
        return parts;
    }
}
