using System.Text.Json;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Matching.Clustering;
using Kettlefog.Core.Matching.Scoring;
using Kettlefog.Core.Naming;
using Kettlefog.Database.Duplicates.Finding;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.Scans;

/// <summary>The scope of a scan.</summary>
public enum ScanScope
{
    /// <summary>All records.</summary>
    Whole,

    /// <summary>The pairs with a record that changed since the last scan.</summary>
    Changed,
}

/// <summary>The state of a scan.</summary>
public enum ScanState
{
    /// <summary>It is waiting for its turn.</summary>
    Waiting,

    /// <summary>It is running.</summary>
    Running,

    /// <summary>It was stopped by a user, and can be resumed.</summary>
    Stopped,

    /// <summary>It is done.</summary>
    Finished,

    /// <summary>It was cancelled.</summary>
    Cancelled,

    /// <summary>It failed with an error.</summary>
    Failed,
}

/// <summary>The outcome of a scan.</summary>
/// <param name="Records">The number of records.</param>
/// <param name="Changed">The number of new or changed records.</param>
/// <param name="Compared">The number of pairs compared.</param>
/// <param name="ComparedShare">The share of all pairs that this is.</param>
/// <param name="Pairs">The number of pairs proposed.</param>
/// <param name="Clusters">The number of clusters.</param>
/// <param name="Seconds">The time it took.</param>
/// <param name="UnreadableCount">The number of values that could not be read, and counted as missing.</param>
/// <param name="Unreadable">The first hundred of them, one sentence each; null for none.</param>
/// <param name="Sample">Records that were compared with all others; null for scans of what changed.</param>
/// <param name="CrowdedKeys">
/// The number of keys that too many records share: they are compared with those next to them in order only.
/// </param>
/// <param name="CrowdedRecords">The number of records that have such a key.</param>
/// <param name="CutClusters">The number of clusters that would have more records, but for the limit.</param>
/// <param name="Entity">What the records are taken for; null for scans of earlier versions.</param>
/// <param name="ComparedBy">What is compared between them; null for scans of earlier versions.</param>
/// <param name="Learning">What it learned from decisions; null for scans of earlier versions.</param>
public sealed record ScanReport(
    long Records,
    long Changed,
    long Compared,
    double ComparedShare,
    long Pairs,
    long Clusters,
    double Seconds,
    long UnreadableCount = 0,
    IReadOnlyList<string>? Unreadable = null,
    RecallSample? Sample = null,
    long CrowdedKeys = 0,
    long CrowdedRecords = 0,
    int CutClusters = 0,
    EntityKind? Entity = null,
    IReadOnlyList<string>? ComparedBy = null,
    ScanLearning? Learning = null
)
{
    /// <summary>Reports the outcome of a finder.</summary>
    internal static ScanReport Of(
        LoadedFinder loaded,
        long changed,
        long compared,
        long proposed,
        FoundClusters clusters,
        RecallSample? sample,
        TimeSpan took
    )
    {
        double records = loaded.Keys.Count;
        return new ScanReport(
            loaded.Keys.Count,
            changed,
            compared,
            records < 2 ? 0 : compared / (records / 2 * (records - 1)),
            proposed,
            clusters.Clusters.Count,
            Math.Round(took.TotalSeconds, 2),
            loaded.Finder.UnreadableCount,
            loaded.Finder.UnreadableCount == 0
                ? null
                :
                [
                    .. loaded.Finder.Unreadable.Select(value =>
                        $"{value.What} of {loaded.Keys[value.Record]}"
                        + (value.Other is { } other ? $" with {loaded.Keys[other]} failed" : " cannot be read")
                        + $": {value.Reason}"
                    ),
                ],
            sample,
            loaded.Finder.Report?.Crowded ?? 0,
            loaded.Finder.Report?.CrowdedRecords ?? 0,
            clusters.Cut,
            loaded.Finder.Entity,
            loaded.Finder.Compared
        );
    }
}

/// <summary>A scan.</summary>
/// <param name="Id">Its number.</param>
/// <param name="RecordType">The name of the record type.</param>
/// <param name="Scope">Its scope.</param>
/// <param name="State">Its state.</param>
/// <param name="Phase">The current phase, in one word.</param>
/// <param name="Done">How much of the phase is done.</param>
/// <param name="Total">The size of the phase; 0 if unknown.</param>
/// <param name="Report">The outcome, once it is finished.</param>
/// <param name="Message">What went wrong, if it failed.</param>
/// <param name="Actor">Who asked for it.</param>
/// <param name="At">When.</param>
/// <param name="EndedAt">When it ended.</param>
public sealed record Scan(
    long Id,
    string RecordType,
    ScanScope Scope,
    ScanState State,
    string Phase,
    long Done,
    long Total,
    ScanReport? Report,
    string? Message,
    string Actor,
    DateTimeOffset At,
    DateTimeOffset? EndedAt
);

/// <summary>Stores scans, so that they survive a restart of the service.</summary>
internal sealed class ScanStore(Session session)
{
    /// <summary>The phase in which pairs are scored.</summary>
    public const string Comparing = "comparing";

    private readonly Sql _scans = session.Dialect.Own("scan");

    /// <summary>Adds a scan.</summary>
    /// <exception cref="KettlefogException">The record type is being scanned.</exception>
    public async Task<Scan> AddAsync(
        RecordType type,
        ScanScope scope,
        string actor,
        DateTimeOffset at,
        CancellationToken cancellationToken
    )
    {
        if ((await ListAsync(type.Name, openOnly: true, 1, cancellationToken)).FirstOrDefault() is { } open)
        {
            throw new KettlefogException(
                ErrorCode.ScanRunning,
                $"{type.Plural} are being scanned: scan {open.Id} of {open.Actor} is {EnumName.Of(open.State)}.",
                open.State == ScanState.Stopped
                    ? $"Resume scan {open.Id}, or cancel it."
                    : $"Wait for scan {open.Id}, or stop it."
            );
        }

        var id =
            1 + await session.QueryLongAsync(Sql.Of($"SELECT COALESCE(MAX(id), 0) FROM {_scans}"), cancellationToken);
        await session.ExecuteAsync(
            Sql.Of(
                $"INSERT INTO {_scans} (id, record_type, scope, state, phase, done, total, actor, at) VALUES "
                    + $"({id}, {type.Name}, {EnumName.Of(scope)}, {EnumName.Of(ScanState.Waiting)}, 'waiting', 0, 0, "
                    + $"{actor}, {StoredTimestamp.Write(at)})"
            ),
            cancellationToken
        );
        return await RequireAsync(id, cancellationToken);
    }

    /// <summary>One scan.</summary>
    /// <exception cref="KettlefogException">There is none of that number.</exception>
    public async Task<Scan> RequireAsync(long id, CancellationToken cancellationToken) =>
        (await session.QueryAsync(Select(Sql.Of($"WHERE id = {id}")), Read, cancellationToken)).SingleOrDefault()
        ?? throw new KettlefogException(
            ErrorCode.UnknownScan,
            $"There is no scan {id}.",
            "List the scans to see their numbers."
        );

    /// <summary>Scans, latest first.</summary>
    public Task<List<Scan>> ListAsync(string? recordType, bool openOnly, int limit, CancellationToken cancellationToken)
    {
        var ofType = recordType is null ? Sql.Of($"1 = 1") : Sql.Of($"record_type = {recordType}");
        var open = openOnly ? Sql.Of($"state IN ('waiting', 'running', 'stopped')") : Sql.Of($"1 = 1");
        return session.QueryAsync(
            Select(Sql.Of($"WHERE {ofType} AND {open} ORDER BY id DESC LIMIT {(long)limit}")),
            Read,
            cancellationToken
        );
    }

    /// <summary>Sets the state of a scan.</summary>
    /// <returns>False if it is not in one of the expected states.</returns>
    public async Task<bool> MoveAsync(
        long id,
        IReadOnlyList<ScanState> from,
        ScanState to,
        CancellationToken cancellationToken
    ) =>
        await session.ExecuteAsync(
            Sql.Of(
                $"UPDATE {_scans} SET state = {EnumName.Of(to)} WHERE id = {id} AND state IN "
                    + $"({Sql.Join(", ", from.Select(state => Sql.Of($"{EnumName.Of(state)}")))})"
            ),
            cancellationToken
        ) == 1;

    /// <summary>Stores the progress of a scan, and reads its requested state.</summary>
    public async Task<ScanState> ProgressAsync(
        long id,
        string phase,
        long done,
        long total,
        CancellationToken cancellationToken
    )
    {
        // The number of records compared is also where to continue, and is kept through the other phases.
        var compared = phase == Comparing ? Sql.Of($"{done}") : Sql.Of($"compared");
        await session.ExecuteAsync(
            Sql.Of(
                $"UPDATE {_scans} SET phase = {phase}, done = {done}, total = {total}, compared = {compared} "
                    + $"WHERE id = {id}"
            ),
            cancellationToken
        );
        return (await RequireAsync(id, cancellationToken)).State;
    }

    /// <summary>The digest of what the stored pairs of a scan were made from, and its progress.</summary>
    public async Task<(string? Digest, long Done)> CheckpointAsync(long id, CancellationToken cancellationToken) =>
        (
            await session.QueryAsync(
                Sql.Of($"SELECT digest, compared FROM {_scans} WHERE id = {id}"),
                row => (row.OptionalText(), row.Long()),
                cancellationToken
            )
        ).Single();

    /// <summary>Stores the digest of what the next pairs are made from.</summary>
    public Task BeginAsync(long id, string digest, CancellationToken cancellationToken) =>
        session.ExecuteAsync(
            Sql.Of(
                $"UPDATE {_scans} SET digest = {digest}, phase = {Comparing}, done = 0, compared = 0 WHERE id = {id}"
            ),
            cancellationToken
        );

    /// <summary>
    /// Forgets the rules of the finished scans of a record type: what the next one starts from is being replaced.
    /// </summary>
    public Task ForgetRulesAsync(string recordType, CancellationToken cancellationToken) =>
        session.ExecuteAsync(
            Sql.Of($"UPDATE {_scans} SET rules = NULL WHERE record_type = {recordType} AND state = 'finished'"),
            cancellationToken
        );

    /// <summary>Stores the digest of the rules of a scan, when all that the next one starts from is stored.</summary>
    public Task StoreRulesAsync(long id, string rules, CancellationToken cancellationToken) =>
        session.ExecuteAsync(Sql.Of($"UPDATE {_scans} SET rules = {rules} WHERE id = {id}"), cancellationToken);

    /// <summary>The rules of the last finished scan of a record type, as a digest; null if there is none.</summary>
    public async Task<string?> LastRulesAsync(string recordType, CancellationToken cancellationToken) =>
        (
            await session.QueryAsync(
                Sql.Of(
                    $"SELECT rules FROM {_scans} WHERE record_type = {recordType} AND state = 'finished' ORDER "
                        + $"BY id DESC LIMIT 1"
                ),
                row => row.OptionalText(),
                cancellationToken
            )
        ).FirstOrDefault();

    /// <summary>
    /// Removes from the reports of earlier scans what they learned: the last one says it, and reports are listed.
    /// </summary>
    public async Task ForgetEarlierLearningAsync(string recordType, long scan, CancellationToken cancellationToken)
    {
        var earlier = await session.QueryAsync(
            Select(Sql.Of($"WHERE record_type = {recordType} AND id <> {scan} AND report LIKE {"%\"Learning\":{%"}")),
            Read,
            cancellationToken
        );
        foreach (var each in earlier)
        {
            var report = JsonSerializer.Serialize(each.Report! with { Learning = null });
            await session.ExecuteAsync(
                Sql.Of($"UPDATE {_scans} SET report = {report} WHERE id = {each.Id}"),
                cancellationToken
            );
        }
    }

    /// <summary>The last finished scan of a record type, or null.</summary>
    public async Task<Scan?> LastFinishedAsync(string recordType, CancellationToken cancellationToken) =>
        (
            await session.QueryAsync(
                Select(Sql.Of($"WHERE record_type = {recordType} AND state = 'finished' ORDER BY id DESC LIMIT 1")),
                Read,
                cancellationToken
            )
        ).FirstOrDefault();

    /// <summary>Ends a scan.</summary>
    public Task EndAsync(
        long id,
        ScanState state,
        ScanReport? report,
        string? message,
        DateTimeOffset at,
        CancellationToken cancellationToken
    ) =>
        session.ExecuteAsync(
            Sql.Of(
                $"UPDATE {_scans} SET state = {EnumName.Of(state)}, phase = {EnumName.Of(state)}, report = "
                    + $"{(report is null ? null : JsonSerializer.Serialize(report))}, message = {message}, ended_at "
                    + $"= {StoredTimestamp.Write(at)} WHERE id = {id}"
            ),
            cancellationToken
        );

    private Sql Select(Sql rest) =>
        Sql.Of(
            $"SELECT id, record_type, scope, state, phase, done, total, report, message, actor, at, ended_at "
                + $"FROM {_scans} {rest}"
        );

    private static Scan Read(RowReader row) =>
        new(
            row.Long(),
            row.Text(),
            EnumName.TryRead<ScanScope>(row.Text(), out var scope) ? scope : ScanScope.Whole,
            EnumName.TryRead<ScanState>(row.Text(), out var state) ? state : ScanState.Failed,
            row.Text(),
            row.Long(),
            row.Long(),
            row.OptionalText() is { } report ? JsonSerializer.Deserialize<ScanReport>(report) : null,
            row.OptionalText(),
            row.Text(),
            StoredTimestamp.Read(row.Text()),
            StoredTimestamp.ReadOptional(row.OptionalText())
        );
}
