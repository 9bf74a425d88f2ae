using System.Diagnostics;
using Kettlefog.Core.Map.Model;
using Kettlefog.Database.Duplicates.Clusters;
using Kettlefog.Database.Duplicates.Finding;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;

namespace Kettlefog.Database.Duplicates.Scans;

/// <summary>
/// Writes what a scan found in steps, each a transaction of its own, between which others write. A scan that is stopped
/// between two steps repeats them when it continues.
/// </summary>
internal sealed class ScanWriter(DatabaseContext context, Scan scan)
{
    private const int RowsAtOnce = 20_000;
    private const int ClustersAtOnce = 5_000;

    /// <summary>
    /// A writer that waits in SQLite looks every 0.1 s whether it is its turn: after a step of about that length it
    /// is given the time to look.
    /// </summary>
    private static readonly TimeSpan Turn = TimeSpan.FromMilliseconds(100);

    private readonly RecordType _type = context.Map.Map.Require(scan.RecordType);
    private TimeSpan _lastStep;

    /// <summary>Begins to compare, with pairs that are known already.</summary>
    public async Task BeginAsync(IReadOnlyList<StoredPair> standing, string digest, CancellationToken cancellationToken)
    {
        await StepAsync(
            session => new PairStore(session).ForgetAsync(_type.Name, scan.Id, cancellationToken),
            cancellationToken
        );
        foreach (var some in standing.Chunk(RowsAtOnce))
            await StepAsync(
                session => new PairStore(session).AddAsync(_type.Name, scan.Id, some, cancellationToken),
                cancellationToken
            );
        await StepAsync(
            session => new ScanStore(session).BeginAsync(scan.Id, digest, cancellationToken),
            cancellationToken
        );
    }

    /// <summary>Writes the clusters of the scan.</summary>
    /// <param name="found">The clusters.</param>
    /// <param name="since">The number of the last history entry that they take into account.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>False if the scan was stopped or cancelled.</returns>
    public async Task<bool> WriteClustersAsync(
        IReadOnlyList<NewCluster> found,
        long since,
        CancellationToken cancellationToken
    )
    {
        ClusterChanges changes;
        await using (var session = await context.OpenReadAsync(cancellationToken))
            changes = await new ScannedClusterWriter(session).CompareAsync(_type, found, cancellationToken);
        foreach (var some in changes.Gone.Chunk(ClustersAtOnce))
        {
            if (!await RunningAsync(writer => writer.RemoveAsync(some, cancellationToken), cancellationToken))
                return false;
        }

        var next = 0L;
        var count = changes.Added.Count;
        if (
            count > 0
            && !await RunningAsync(
                async writer => next = await writer.TakeNumbersAsync(count, cancellationToken),
                cancellationToken
            )
        )
            return false;
        var at = context.Clock.GetUtcNow();
        var added = changes.Added.Select((cluster, index) => (next + index, cluster));
        foreach (var some in changes.Changed.Concat(added).Chunk(ClustersAtOnce))
        {
            if (
                !await RunningAsync(
                    writer => writer.WriteAsync(_type, some, since, at, cancellationToken),
                    cancellationToken
                )
            )
                return false;
        }

        return true;
    }

    /// <summary>
    /// Stores the digests of the records, from which the next scan of changed records starts. Until the scan has ended,
    /// no rules are valid: whatever happens in between, the next scan compares all records.
    /// </summary>
    /// <returns>False if the scan was stopped or cancelled.</returns>
    public async Task<bool> WriteContentHashesAsync(
        LoadedFinder loaded,
        bool[] changed,
        Dictionary<string, long> before,
        CancellationToken cancellationToken
    )
    {
        if (
            !await WhileRunningAsync(
                session => new ScanStore(session).ForgetRulesAsync(_type.Name, cancellationToken),
                cancellationToken
            )
        )
            return false;
        var gone = before.Keys.Where(key => loaded.NumberOf(key) < 0);
        foreach (var some in gone.Chunk(RowsAtOnce))
        {
            if (
                !await WhileRunningAsync(
                    session => new PairStore(session).ForgetContentHashesAsync(_type.Name, some, cancellationToken),
                    cancellationToken
                )
            )
                return false;
        }

        var hashes = Enumerable
            .Range(0, loaded.Keys.Count)
            .Where(number => changed[number])
            .Select(number => (loaded.Keys[number], loaded.ContentHashes[number]));
        foreach (var some in hashes.Chunk(RowsAtOnce))
        {
            if (
                !await WhileRunningAsync(
                    session => new PairStore(session).StoreContentHashesAsync(_type.Name, some, cancellationToken),
                    cancellationToken
                )
            )
                return false;
        }

        return true;
    }

    /// <summary>
    /// Adds up the related rows of the clusters, each table in a session of its own, and ends the scan.
    /// </summary>
    /// <param name="report">The outcome.</param>
    /// <param name="rules">The digest of the rules.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>False if the scan was stopped or cancelled.</returns>
    public async Task<bool> EndAsync(
        ScanReport report,
        Func<CheckedMap, string> rules,
        CancellationToken cancellationToken
    )
    {
        var weights = new ClusterWeights();
        foreach (var reference in _type.References)
        {
            await using var session = await context.OpenReadAsync(cancellationToken);
            session.ExpectLongStatements();
            await new ScannedClusterWriter(session).WeighAsync(_type, reference, weights, cancellationToken);
        }

        return await WhileRunningAsync(
            async session =>
            {
                var scans = new ScanStore(session);
                await new ScannedClusterWriter(session).StoreWeightsAsync(_type, weights, cancellationToken);
                await scans.StoreRulesAsync(scan.Id, rules(session.Map), cancellationToken);
                await scans.ForgetEarlierLearningAsync(_type.Name, scan.Id, cancellationToken);
                await scans.EndAsync(
                    scan.Id,
                    ScanState.Finished,
                    report,
                    null,
                    context.Clock.GetUtcNow(),
                    cancellationToken
                );
            },
            cancellationToken
        );
    }

    /// <summary>Deletes the pairs of earlier scans, until another scan of the record type is begun.</summary>
    public async Task ForgetEarlierPairsAsync(CancellationToken cancellationToken)
    {
        var more = true;
        while (
            more
            && await StepAsync(
                async session =>
                {
                    var scans = new ScanStore(session);
                    if ((await scans.ListAsync(_type.Name, openOnly: false, 1, cancellationToken))[0].Id != scan.Id)
                        return false;
                    more = await new PairStore(session).ForgetOthersAsync(
                        _type.Name,
                        scan.Id,
                        RowsAtOnce,
                        cancellationToken
                    );
                    return true;
                },
                cancellationToken
            )
        ) { }
    }

    private Task<bool> RunningAsync(Func<ScannedClusterWriter, Task> write, CancellationToken cancellationToken) =>
        WhileRunningAsync(session => write(new ScannedClusterWriter(session)), cancellationToken);

    /// <summary>Writes in a step, unless the scan was stopped or cancelled by a request.</summary>
    private Task<bool> WhileRunningAsync(Func<Session, Task> write, CancellationToken cancellationToken) =>
        StepAsync(
            async session =>
            {
                if ((await new ScanStore(session).RequireAsync(scan.Id, cancellationToken)).State != ScanState.Running)
                    return false;
                await write(session);
                return true;
            },
            cancellationToken
        );

    private Task<bool> StepAsync(Func<Session, Task> write, CancellationToken cancellationToken) =>
        StepAsync(
            async session =>
            {
                await write(session);
                return true;
            },
            cancellationToken
        );

    /// <summary>Writes in a transaction of its own, unless it turns out that there is nothing to write.</summary>
    private async Task<bool> StepAsync(Func<Session, Task<bool>> write, CancellationToken cancellationToken)
    {
        if (context.Engine.ReadersBlockWriters && _lastStep >= Turn)
            await Task.Delay(Turn, cancellationToken);
        var clock = Stopwatch.StartNew();
        await using (var session = await context.OpenWriteAsync(cancellationToken))
        {
            session.ExpectLongStatements();
            if (!await write(session))
                return false;
            await session.CommitAsync(cancellationToken);
        }

        _lastStep = clock.Elapsed;
        return true;
    }
}
