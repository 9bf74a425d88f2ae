using System.Diagnostics;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Database.Duplicates.Clusters;
using Kettlefog.Database.Duplicates.Finding;
using Kettlefog.Database.Duplicates.Rules;
using Kettlefog.Database.History;
using Kettlefog.Database.Own;

namespace Kettlefog.Database.Duplicates.Scans;

/// <summary>Carries out a scan in stored steps, so that it can be stopped, and continues after a restart.</summary>
/// <param name="context">The database with its map.</param>
/// <param name="scan">The scan.</param>
/// <param name="reportProgress">Called with the progress of a phase that cannot store it.</param>
internal sealed class ScanRun(DatabaseContext context, Scan scan, Action<string, long, long> reportProgress)
{
    /// <summary>The number of records after which the findings are stored.</summary>
    public int RecordsAtOnce { get; init; } = 20_000;

    /// <summary>True if a request to stop the scan is waiting to be stored.</summary>
    public Func<bool> IsToPause { get; init; } = () => false;

    private readonly ScanWriter _writer = new(context, scan);
    private readonly RecordType _type = context.Map.Map.Require(scan.RecordType);
    private readonly Stopwatch _clock = Stopwatch.StartNew();

    /// <summary>Runs until the scan is done, or its state is changed by a request.</summary>
    /// <exception cref="KettlefogException">The database fails; the state of the scan is not changed.</exception>
    public async Task RunAsync(CancellationToken cancellationToken)
    {
        if (await ReportAsync("reading", 0, 0, cancellationToken) != ScanState.Running)
            return;
        using var loaded = await LoadAsync(cancellationToken);
        if (loaded is null)
            return;
        var (before, areValid) = await ReadLastAsync(loaded, cancellationToken);
        var changed = ChangedSince(areValid ? before : [], loaded);
        loaded.Finder.Prepare(loaded.Decisions, live: false, cancellationToken);
        var from = await BeginAsync(changed, loaded, cancellationToken);
        long compared = 0;
        for (var next = from; next < loaded.Keys.Count; next += RecordsAtOnce)
        {
            if (IsToPause())
                return;
            var to = Math.Min(loaded.Keys.Count, next + RecordsAtOnce);
            var (pairs, count) = loaded.Finder.Score(
                next,
                to,
                scan.Scope == ScanScope.Changed ? changed : null,
                cancellationToken
            );
            compared += count;
            var stored = pairs.Select(pair => Stored(pair, loaded)).ToList();
            if (await StorePairsAsync(stored, to, loaded.Keys.Count, cancellationToken) != ScanState.Running)
                return;
        }

        await FinishAsync(loaded, changed, before, compared, cancellationToken);
    }

    /// <summary>
    /// The digests of the records at the last scan, and whether its pairs are valid: it had the same rules.
    /// </summary>
    private async Task<(Dictionary<string, long> Hashes, bool AreValid)> ReadLastAsync(
        LoadedFinder loaded,
        CancellationToken cancellationToken
    )
    {
        await using var session = await context.OpenReadAsync(cancellationToken);
        return (
            await new PairStore(session).ReadContentHashesAsync(_type.Name, cancellationToken),
            await new ScanStore(session).LastRulesAsync(_type.Name, cancellationToken)
                == loaded.RulesDigest(session.Map)
        );
    }

    /// <summary>Stores the pairs of some records, and how far the scan is.</summary>
    private async Task<ScanState> StorePairsAsync(
        IReadOnlyList<StoredPair> pairs,
        int done,
        int total,
        CancellationToken cancellationToken
    )
    {
        await using var session = await context.OpenWriteAsync(cancellationToken);
        session.ExpectLongStatements();
        await new PairStore(session).AddAsync(_type.Name, scan.Id, pairs, cancellationToken);
        var state = await new ScanStore(session).ProgressAsync(
            scan.Id,
            ScanStore.Comparing,
            done,
            total,
            cancellationToken
        );
        await session.CommitAsync(cancellationToken);
        return state;
    }

    private async Task<LoadedFinder?> LoadAsync(CancellationToken cancellationToken)
    {
        // With a rollback journal, writing would wait for reading: the progress of reading is kept in memory only.
        var loaded = await LoadedFinder.LoadAsync(
            context.OpenReadAsync,
            _type,
            session => new RuleStore(session).MatchRulesAsync(_type, cancellationToken),
            hasOwn: true,
            (read, total) => reportProgress("reading", read, total),
            cancellationToken
        );
        if (await ReportAsync("learning", 0, 0, cancellationToken) == ScanState.Running)
            return loaded;
        loaded.Dispose();
        return null;
    }

    /// <summary>Starts comparing, or continues where it was stopped if nothing has changed since.</summary>
    private async Task<int> BeginAsync(bool[] changed, LoadedFinder loaded, CancellationToken cancellationToken)
    {
        string digest;
        var standing = new List<StoredPair>();
        await using (var session = await context.OpenReadAsync(cancellationToken))
        {
            digest = loaded.Digest(session.Map);
            var (kept, done) = await new ScanStore(session).CheckpointAsync(scan.Id, cancellationToken);
            if (kept == digest)
                return (int)done;
            if (scan.Scope == ScanScope.Changed)
                standing = await UnchangedPairsAsync(new PairStore(session), changed, loaded, cancellationToken);
        }

        await _writer.BeginAsync(standing, digest, cancellationToken);
        return 0;
    }

    /// <summary>The pairs of the last scan whose records are unchanged.</summary>
    private async Task<List<StoredPair>> UnchangedPairsAsync(
        PairStore pairs,
        bool[] changed,
        LoadedFinder loaded,
        CancellationToken cancellationToken
    )
    {
        var standing = new List<StoredPair>();
        await foreach (var pair in pairs.ReadAsync(_type.Name, null, 0, cancellationToken))
        {
            var (a, b) = (loaded.NumberOf(pair.A), loaded.NumberOf(pair.B));
            if (a >= 0 && b >= 0 && !changed[a] && !changed[b] && !loaded.Finder.AreNonDuplicates(a, b))
                standing.Add(pair);
        }

        return standing;
    }

    private async Task FinishAsync(
        LoadedFinder loaded,
        bool[] changed,
        Dictionary<string, long> before,
        long compared,
        CancellationToken cancellationToken
    )
    {
        if (await ReportAsync("clustering", 0, 0, cancellationToken) != ScanState.Running)
            return;
        var rules = loaded
            .Rules.Select((rule, index) => (rule.Name, index))
            .ToDictionary(pair => pair.Name, pair => pair.index);
        var (undecided, since) = await UndecidedAsync(loaded, rules, cancellationToken);
        var pairs = undecided.Where(pair => pair.Proposed).ToList();
        var clusters = loaded.Finder.Cluster(pairs, cancellationToken);
        var ruleOf = new Dictionary<int, int>();
        foreach (var pair in pairs)
            ruleOf.TryAdd(pair.A, pair.Rule);
        var found = clusters
            .Clusters.Select(cluster => new NewCluster(
                [.. cluster.Members.Select(member => loaded.Keys[member])],
                loaded
                    .Rules[
                        cluster
                            .Members.Select(member => ruleOf.GetValueOrDefault(member, -1))
                            .FirstOrDefault(rule => rule >= 0)
                    ]
                    .Name,
                cluster.Confidence,
                cluster.Weakest,
                loaded.Finder.SummaryOf(cluster.Members[0], cluster.Members[1])
            ))
            .ToList();

        // What a scan of everything leaves out does not change with a few records.
        RecallSample? sample = null;
        if (scan.Scope == ScanScope.Whole)
        {
            if (await ReportAsync("checking", 0, 0, cancellationToken) != ScanState.Running)
                return;
            sample = loaded.Finder.MeasureRecall(clusters.Clusters, cancellationToken);
        }

        var report = ScanReport.Of(
            loaded,
            changed.Count(each => each),
            compared,
            pairs.Count,
            clusters,
            sample,
            _clock.Elapsed
        ) with
        {
            Learning = ScanLearning.Of(loaded, undecided, cancellationToken),
        };
        if (
            await _writer.WriteClustersAsync(found, since, cancellationToken)
            && await _writer.WriteContentHashesAsync(loaded, changed, before, cancellationToken)
            && await _writer.EndAsync(report, loaded.RulesDigest, cancellationToken)
        )
            await _writer.ForgetEarlierPairsAsync(cancellationToken);
    }

    private async Task<ScanState> ReportAsync(string phase, long done, long total, CancellationToken cancellationToken)
    {
        await using var session = await context.OpenWriteAsync(cancellationToken);
        var state = await new ScanStore(session).ProgressAsync(scan.Id, phase, done, total, cancellationToken);
        await session.CommitAsync(cancellationToken);
        return state;
    }

    private static bool[] ChangedSince(Dictionary<string, long> before, LoadedFinder loaded) =>
        [
            .. Enumerable
                .Range(0, loaded.Keys.Count)
                .Select(number =>
                    !before.TryGetValue(loaded.Keys[number], out var print) || print != loaded.ContentHashes[number]
                ),
        ];

    /// <summary>
    /// The stored pairs, by the numbers of their records and rules, without those about which something was decided
    /// since they were compared; and the last history entry that this takes into account.
    /// </summary>
    private async Task<(List<FoundPair> Pairs, long Since)> UndecidedAsync(
        LoadedFinder loaded,
        Dictionary<string, int> rules,
        CancellationToken cancellationToken
    )
    {
        var pairs = new List<FoundPair>();
        await using var session = await context.OpenReadAsync(cancellationToken);
        await loaded.ReadNonDuplicatesAsync(session, cancellationToken);
        await foreach (var pair in new PairStore(session).ReadAsync(_type.Name, scan.Id, 0, cancellationToken))
        {
            var (a, b) = (loaded.NumberOf(pair.A), loaded.NumberOf(pair.B));
            if (rules.TryGetValue(pair.Rule, out var rule) && !loaded.Finder.AreNonDuplicates(a, b))
                pairs.Add(new FoundPair(a, b, (float)pair.Score, rule, pair.Proposed));
        }

        return (pairs, (await new HistoryStore(session).NextAsync(cancellationToken)).Number - 1);
    }

    private static StoredPair Stored(FoundPair pair, LoadedFinder loaded) =>
        new(
            loaded.Keys[pair.A],
            loaded.Keys[pair.B],
            Math.Round(pair.Score, StoredPair.Decimals),
            loaded.Rules[pair.Rule].Name,
            pair.Proposed
        );
}
