using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;
using Kettlefog.Database.Duplicates.Finding;
using Kettlefog.Database.Duplicates.LiveIndex;
using Kettlefog.Database.Own;

namespace Kettlefog.Database.Duplicates.Scans;

/// <summary>Requests, runs, stops, resumes and cancels scans, and reads the pairs that they find.</summary>
public sealed class ScanService
{
    private readonly DatabaseContext _context;
    private readonly LiveIndexes _live;
    private readonly ConcurrentDictionary<long, bool> _pausing = new();
    private readonly ConcurrentDictionary<long, (long Done, long Total)> _reading = new();

    /// <summary>After how many records what a scan found is stored, so that it can continue from there.</summary>
    public int CheckpointInterval { get; set; } = 20_000;

    internal ScanService(DatabaseContext context, LiveIndexes live) => (_context, _live) = (context, live);

    /// <summary>Asks for a scan.</summary>
    /// <exception cref="KettlefogException">The record type is being scanned.</exception>
    public async Task<Scan> AddAsync(
        RecordType type,
        ScanScope scope,
        string actor,
        CancellationToken cancellationToken
    )
    {
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        var scan = await new ScanStore(session).AddAsync(
            type,
            scope,
            actor,
            _context.Clock.GetUtcNow(),
            cancellationToken
        );
        await session.CommitAsync(cancellationToken);
        return scan;
    }

    /// <summary>Scans, latest first.</summary>
    public async Task<IReadOnlyList<Scan>> ListAsync(
        string? recordType,
        bool openOnly,
        CancellationToken cancellationToken
    )
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new ScanStore(session).ListAsync(recordType, openOnly, 200, cancellationToken);
    }

    /// <summary>One scan.</summary>
    public async Task<Scan> ReadAsync(long id, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        var scan = await new ScanStore(session).RequireAsync(id, cancellationToken);
        return scan.State == ScanState.Running && scan.Phase == "reading" && _reading.TryGetValue(id, out var now)
            ? scan with
            {
                Done = now.Done,
                Total = now.Total,
            }
            : scan;
    }

    /// <summary>Stops, resumes or cancels a scan.</summary>
    /// <exception cref="KettlefogException">The state of the scan does not allow it.</exception>
    public async Task<Scan> MoveAsync(long id, ScanState to, CancellationToken cancellationToken)
    {
        ScanState[] from = to switch
        {
            ScanState.Stopped => [ScanState.Waiting, ScanState.Running],
            ScanState.Waiting => [ScanState.Stopped],
            ScanState.Running => [ScanState.Waiting, ScanState.Running],
            _ => [ScanState.Waiting, ScanState.Running, ScanState.Stopped],
        };
        // A scan that writes repeatedly would starve other writers: it is asked to pause first.
        if (to is ScanState.Stopped or ScanState.Cancelled)
            _pausing[id] = true;
        else if (to == ScanState.Waiting)
            _pausing.TryRemove(id, out _);
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        var scans = new ScanStore(session);
        var scan = await scans.RequireAsync(id, cancellationToken);
        if (!await scans.MoveAsync(id, from, to, cancellationToken))
            throw new KettlefogException(
                ErrorCode.ScanRunning,
                $"Scan {id} is {EnumName.Of(scan.State)}, so it cannot be {EnumName.Of(to)}.",
                "Show the scan to see its state."
            );
        if (to == ScanState.Cancelled)
        {
            await new PairStore(session).ForgetAsync(scan.RecordType, id, cancellationToken);
            await scans.EndAsync(id, ScanState.Cancelled, null, null, _context.Clock.GetUtcNow(), cancellationToken);
        }

        await session.CommitAsync(cancellationToken);
        return scan with { State = to };
    }

    /// <summary>Carries out a scan, or continues it.</summary>
    /// <returns>False if another program is carrying it out.</returns>
    public async Task<bool> RunAsync(Scan scan, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(scan);
        await using var held = await _context.Engine.TryAcquireLockAsync(scan.Id, cancellationToken);
        if (held is null)
            return false;
        try
        {
            await new ScanRun(_context, scan, (_, done, total) => _reading[scan.Id] = (done, total))
            {
                RecordsAtOnce = CheckpointInterval,
                IsToPause = () => _pausing.ContainsKey(scan.Id),
            }.RunAsync(cancellationToken);
        }
        finally
        {
            _reading.TryRemove(scan.Id, out _);
        }

        // A scan of all records learns new weights; one of changed records uses the known ones.
        if (scan.Scope == ScanScope.Whole)
            _live.Forget(scan.RecordType);
        return true;
    }

    /// <summary>Records that a scan failed.</summary>
    public async Task FailAsync(long id, string message, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        await new ScanStore(session).EndAsync(
            id,
            ScanState.Failed,
            null,
            message,
            _context.Clock.GetUtcNow(),
            cancellationToken
        );
        await session.CommitAsync(cancellationToken);
    }

    /// <summary>
    /// What the last finished scan of a record type learned from decisions. Pairs that were decided since are left out
    /// of those to decide.
    /// </summary>
    /// <returns>The scan, and what it learned; null if none has learned yet.</returns>
    public async Task<(Scan Scan, ScanLearning Learning)?> ReadLearningAsync(
        RecordType type,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(type);
        await using var session = await _context.OpenReadAsync(cancellationToken);
        if (session.Engine.IsUninitialised)
            return null;
        var scan = await new ScanStore(session).LastFinishedAsync(type.Name, cancellationToken);
        if (scan?.Report?.Learning is not { } learning)
            return null;
        var open = await new PairStore(session).UndecidedAsync(
            type.Name,
            [.. learning.ToDecide.Select(pair => (pair.A, pair.B))],
            cancellationToken
        );
        return (
            scan,
            learning with
            {
                ToDecide = [.. learning.ToDecide.Where(pair => open.Contains((pair.A, pair.B)))],
            }
        );
    }

    /// <summary>The pairs of the last finished scan, likeliest first.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="minScore">The minimum score, from 0 to 1.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async IAsyncEnumerable<StoredPair> ReadPairsAsync(
        RecordType type,
        double minScore,
        [EnumeratorCancellation] CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(type);
        await using var session = await _context.OpenReadAsync(cancellationToken);
        await foreach (var pair in new PairStore(session).ReadAsync(type.Name, null, minScore, cancellationToken))
            yield return pair;
    }
}
