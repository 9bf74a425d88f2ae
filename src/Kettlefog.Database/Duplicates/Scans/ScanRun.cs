using System.Diagnostics;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Database.Duplicates.Clusters;
using Kettlefog.Database.Duplicates.Decisions;
using Kettlefog.Database.Duplicates.Finding;
using Kettlefog.Database.Duplicates.Rules;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

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
        var (decisions, digest, before) = await ReadAsync(loaded, cancellationToken);
        var changed = ChangedSince(before, loaded);
        loaded.Finder.Prepare(decisions, live: false, cancellationToken);
        var from = await BeginAsync(digest, changed, loaded, cancellationToken);
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

    /// <summary>The decisions to learn from, the digest of all input, and the last scan's records.</summary>
    private async Task<(IReadOnlyList<Decision> Decisions, string Digest, Dictionary<string, long> Before)> ReadAsync(
        LoadedFinder loaded,
        CancellationToken cancellationToken
    )
    {
        await using var session = await context.OpenReadAsync(cancellationToken);
        var nonDuplicates = new NonDuplicateStore(session);
        var decisions = await nonDuplicates.DecisionsAsync(_type, cancellationToken);
        var digest = loaded.Digest(
            session.Map,
            await nonDuplicates.ListAsync(_type.Name, cancellationToken),
            decisions.Count
        );

        // Under other rules, no earlier pair is valid.
        var before =
            await new ScanStore(session).LastRulesAsync(_type.Name, cancellationToken)
            == loaded.RulesDigest(session.Map)
                ? await new PairStore(session).ReadContentHashesAsync(_type.Name, cancellationToken)
                : [];
        return (decisions, digest, before);
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
        LoadedFinder loaded;
        await using (var session = await context.OpenReadAsync(cancellationToken))
        {
            session.ExpectLongStatements();
            var rules = await new RuleStore(session).InForceAsync(_type, cancellationToken);
            var total = await session.QueryLongAsync(
                Sql.Of($"SELECT COUNT(*) FROM {session.Dialect.Table(session.Map.Catalog.Require(_type.Table))}"),
                cancellationToken
            );

            // A reader of SQLite blocks writers: the progress of reading is kept in memory only.
            loaded = await LoadedFinder.LoadAsync(
                session,
                session.Map,
                _type,
                [.. rules.Select(rule => rule.Rule)],
                hasOwn: true,
                read => reportProgress("reading", read, total),
                cancellationToken
            );
        }

        if (await ReportAsync("learning", 0, 0, cancellationToken) == ScanState.Running)
            return loaded;
        loaded.Dispose();
        return null;
    }

    /// <summary>Starts comparing, or continues where it was stopped if nothing has changed since.</summary>
    private async Task<int> BeginAsync(
        string digest,
        bool[] changed,
        LoadedFinder loaded,
        CancellationToken cancellationToken
    )
    {
        await using var session = await context.OpenWriteAsync(cancellationToken);
        var scans = new ScanStore(session);
        var pairs = new PairStore(session);
        var (kept, done) = await scans.CheckpointAsync(scan.Id, cancellationToken);
        if (kept == digest)
            return (int)done;
        await pairs.ForgetAsync(_type.Name, scan.Id, cancellationToken);
        await scans.BeginAsync(scan.Id, digest, loaded.RulesDigest(session.Map), cancellationToken);
        if (scan.Scope == ScanScope.Changed)
            await pairs.AddAsync(
                _type.Name,
                scan.Id,
                await UnchangedPairsAsync(pairs, changed, loaded, cancellationToken),
                cancellationToken
            );
        await session.CommitAsync(cancellationToken);
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
        var pairs = await ProposedAsync(loaded, rules, cancellationToken);
        var clusters = loaded.Finder.Cluster(pairs, cancellationToken);
        var ruleOf = new Dictionary<int, int>();
        foreach (var pair in pairs)
            ruleOf.TryAdd(pair.A, pair.Rule);
        var found = clusters
            .Select(cluster => new NewCluster(
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
        var report = ScanReport.Of(loaded, changed.Count(each => each), compared, pairs, found.Count, _clock.Elapsed);
        if (!await StoreAsync(loaded, changed, before, found, cancellationToken))
            return;

        // Adding up all related rows takes its time, during which others may write.
        await EndAsync(report, await WeighAsync(cancellationToken), cancellationToken);
    }

    private async Task<IReadOnlyDictionary<long, (long Rows, decimal Amount)>> WeighAsync(
        CancellationToken cancellationToken
    )
    {
        await using var session = await context.OpenReadAsync(cancellationToken);
        session.ExpectLongStatements();
        return await new ScannedClusterWriter(session).WeighAsync(_type, cancellationToken);
    }

    private async Task EndAsync(
        ScanReport report,
        IReadOnlyDictionary<long, (long Rows, decimal Amount)> weights,
        CancellationToken cancellationToken
    )
    {
        await using var last = await context.OpenWriteAsync(cancellationToken);
        if ((await new ScanStore(last).RequireAsync(scan.Id, cancellationToken)).State != ScanState.Running)
            return;
        await new ScannedClusterWriter(last).StoreWeightsAsync(_type, weights, cancellationToken);
        await new ScanStore(last).EndAsync(
            scan.Id,
            ScanState.Finished,
            report,
            null,
            context.Clock.GetUtcNow(),
            cancellationToken
        );
        await last.CommitAsync(cancellationToken);
    }

    /// <summary>Stores the pairs and clusters of the scan.</summary>
    /// <returns>False if the scan was stopped or cancelled.</returns>
    private async Task<bool> StoreAsync(
        LoadedFinder loaded,
        bool[] changed,
        Dictionary<string, long> before,
        IReadOnlyList<NewCluster> found,
        CancellationToken cancellationToken
    )
    {
        await using var last = await context.OpenWriteAsync(cancellationToken);

        // It may have been stopped or cancelled while the clusters were built.
        if ((await new ScanStore(last).RequireAsync(scan.Id, cancellationToken)).State != ScanState.Running)
            return false;
        var stored = new PairStore(last);
        await stored.KeepOnlyAsync(_type.Name, scan.Id, cancellationToken);
        await stored.StoreContentHashesAsync(
            _type.Name,
            [
                .. Enumerable
                    .Range(0, loaded.Keys.Count)
                    .Where(number => changed[number])
                    .Select(number => (loaded.Keys[number], loaded.ContentHashes[number])),
            ],
            before.Keys.Where(key => loaded.NumberOf(key) < 0),
            cancellationToken
        );
        await new ScannedClusterWriter(last).ReplaceAsync(_type, found, context.Clock.GetUtcNow(), cancellationToken);
        await last.CommitAsync(cancellationToken);
        return true;
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

    /// <summary>The stored pairs that are proposed, by the numbers of their records and rules.</summary>
    private async Task<List<FoundPair>> ProposedAsync(
        LoadedFinder loaded,
        Dictionary<string, int> rules,
        CancellationToken cancellationToken
    )
    {
        var pairs = new List<FoundPair>();
        await using var session = await context.OpenReadAsync(cancellationToken);
        await foreach (var pair in new PairStore(session).ReadAsync(_type.Name, scan.Id, 0, cancellationToken))
        {
            if (pair.Proposed && rules.TryGetValue(pair.Rule, out var rule))
                pairs.Add(
                    new FoundPair(loaded.NumberOf(pair.A), loaded.NumberOf(pair.B), (float)pair.Score, rule, true)
                );
        }

        return pairs;
    }

    private static StoredPair Stored(FoundPair pair, LoadedFinder loaded) =>
        new(
            loaded.Keys[pair.A],
            loaded.Keys[pair.B],
            Math.Round(pair.Score, 4),
            loaded.Rules[pair.Rule].Name,
            pair.Proposed
        );
}
