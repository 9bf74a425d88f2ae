using System.Collections.Concurrent;
using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Maps;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Matching.Rules;
using Kettlefog.Core.Planning;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;

namespace Kettlefog.Database.Matching;

/// <summary>A record that may be the same party as one that was asked about.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Label">Its label.</param>
/// <param name="Explanation">Why.</param>
public sealed record SimilarDuplicate(string Key, string Label, PairExplanation Explanation);

/// <summary>Finding duplicates in an operational database, and deciding about them.</summary>
public sealed class Duplicates : IDisposable
{
    private readonly DatabaseEngine _engine;
    private readonly CheckedMap _map;
    private readonly TimeProvider _clock;
    private readonly LiveIndexes _live;
    private readonly ConcurrentDictionary<long, bool> _pausing = new();
    private readonly ConcurrentDictionary<long, (long Done, long Total)> _reading = new();

    internal Duplicates(DatabaseEngine engine, CheckedMap map, TimeProvider clock)
    {
        (_engine, _map, _clock) = (engine, map, clock);
        _live = new LiveIndexes(engine, map, clock);
    }

    /// <summary>After so many records what a scan found is kept, so that it can go on from there.</summary>
    public int RecordsAtOnce { get; set; } = 20_000;

    /// <summary>The rules of a record type that are in force.</summary>
    public async Task<IReadOnlyList<RuleInForce>> RulesAsync(RecordType type, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new RuleStore(session).InForceAsync(type, cancellationToken);
    }

    /// <summary>All saved versions of a rule, latest first.</summary>
    public async Task<IReadOnlyList<RuleVersion>> RuleVersionsAsync(RecordType type, string name, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new RuleStore(session).VersionsAsync(type, name, cancellationToken);
    }

    /// <summary>Saves a rule, or removes it.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="name">The rule's name.</param>
    /// <param name="body">The rule in YAML or JSON; null to remove it.</param>
    /// <param name="audit">Who, and why.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The rule is wrong, or there is none to remove.</exception>
    public async Task<RuleVersion> SaveRuleAsync(RecordType type, string name, string? body, AuditContext audit, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(audit);
        if (body is not null)
            MatchRuleReader.Read(name, body, type);
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var saved = await new RuleStore(session).SaveAsync(type, name, body, audit.Reason, audit.Actor, _clock.GetUtcNow(), cancellationToken);
        await session.CommitAsync(cancellationToken);
        _live.Forget(type.Name);
        return saved;
    }

    /// <summary>Tries a rule on today's records, without saving it.</summary>
    public async Task<RuleTrial> TryRuleAsync(RecordType type, MatchRule rule, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new RuleTrials(session, _map).TryAsync(type, rule, cancellationToken);
    }

    /// <summary>Measures a rule against pairs whose truth is known.</summary>
    public async Task<RuleEvaluation> EvaluateAsync(RecordType type, MatchRule? rule, IReadOnlyList<LabelledPair> pairs, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new RuleTrials(session, _map).EvaluateAsync(type, rule, pairs, cancellationToken);
    }

    /// <summary>Asks for a scan.</summary>
    /// <exception cref="KettlefogException">The record type is being scanned.</exception>
    public async Task<Scan> AddScanAsync(RecordType type, ScanScope scope, string actor, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var scan = await new ScanStore(session).AddAsync(type, scope, actor, _clock.GetUtcNow(), cancellationToken);
        await session.CommitAsync(cancellationToken);
        return scan;
    }

    /// <summary>Scans, latest first.</summary>
    public async Task<IReadOnlyList<Scan>> ScansAsync(string? recordType, bool openOnly, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new ScanStore(session).ListAsync(recordType, openOnly, 200, cancellationToken);
    }

    /// <summary>One scan.</summary>
    public async Task<Scan> ScanAsync(long id, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        var scan = await new ScanStore(session).RequireAsync(id, cancellationToken);
        return scan.State == ScanState.Running && scan.Phase == "reading" && _reading.TryGetValue(id, out var now)
            ? scan with { Done = now.Done, Total = now.Total }
            : scan;
    }

    /// <summary>Stops a scan, lets it go on, or gives it up.</summary>
    /// <exception cref="KettlefogException">The scan does not stand so that this can be done.</exception>
    public async Task<Scan> MoveScanAsync(long id, ScanState to, CancellationToken cancellationToken)
    {
        ScanState[] from = to switch
        {
            ScanState.Stopped => [ScanState.Waiting, ScanState.Running],
            ScanState.Waiting => [ScanState.Stopped],
            ScanState.Running => [ScanState.Waiting, ScanState.Running],
            _ => [ScanState.Waiting, ScanState.Running, ScanState.Stopped],
        };
        // A scan that writes again and again would hardly let another writer in: it is asked to pause first.
        if (to is ScanState.Stopped or ScanState.Cancelled)
            _pausing[id] = true;
        else if (to == ScanState.Waiting)
            _pausing.TryRemove(id, out _);
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var scans = new ScanStore(session);
        var scan = await scans.RequireAsync(id, cancellationToken);
        if (!await scans.MoveAsync(id, from, to, cancellationToken))
            throw new KettlefogException(ErrorCode.ScanRunning, $"Scan {id} is {EnumName.Of(scan.State)}, so that it cannot be {EnumName.Of(to)}.", "Look at the scan to see how it stands.");
        if (to == ScanState.Cancelled)
        {
            await new PairStore(session).ForgetAsync(scan.RecordType, id, cancellationToken);
            await scans.EndAsync(id, ScanState.Cancelled, null, null, _clock.GetUtcNow(), cancellationToken);
        }

        await session.CommitAsync(cancellationToken);
        return scan with { State = to };
    }

    /// <summary>Carries out a scan, or goes on with it.</summary>
    /// <returns>False if another program is at it.</returns>
    public async Task<bool> RunScanAsync(Scan scan, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(scan);
        await using var held = await _engine.TryAcquireLockAsync(scan.Id, cancellationToken);
        if (held is null)
            return false;
        try
        {
            await new ScanRun(_engine, _map, _clock, scan, (_, done, total) => _reading[scan.Id] = (done, total)) { RecordsAtOnce = RecordsAtOnce, IsToPause = () => _pausing.ContainsKey(scan.Id) }.RunAsync(cancellationToken);
        }
        finally
        {
            _reading.TryRemove(scan.Id, out _);
        }

        // A scan of everything has learned anew; one of what changed uses the weights that are known.
        if (scan.Scope == ScanScope.Whole)
            _live.Forget(scan.RecordType);
        return true;
    }

    /// <summary>Says that a scan broke off.</summary>
    public async Task FailScanAsync(long id, string message, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        await new ScanStore(session).EndAsync(id, ScanState.Failed, null, message, _clock.GetUtcNow(), cancellationToken);
        await session.CommitAsync(cancellationToken);
    }

    /// <summary>The pairs of the last finished scan, likeliest first.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="least">The least score, from 0 to 1.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async IAsyncEnumerable<StoredPair> PairsAsync(RecordType type, double least, [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(type);
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        await foreach (var pair in new PairStore(session).ReadAsync(type.Name, null, least, cancellationToken))
            yield return pair;
    }

    /// <summary>Every record of the clusters that wait, with its cluster's number.</summary>
    public async IAsyncEnumerable<(string Key, long Cluster)> ClusterMembersAsync(RecordType type, [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(type);
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        await foreach (var member in new ClusterStore(session).MembersAsync(type.Name, cancellationToken))
            yield return member;
    }

    /// <summary>A page of clusters.</summary>
    public async Task<Page<Cluster>> ClustersAsync(ClusterFilter filter, int page, int size, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new ClusterStore(session).ListAsync(filter, Today, page, size, cancellationToken);
    }

    /// <summary>One cluster.</summary>
    public async Task<Cluster> ClusterAsync(long id, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new ClusterStore(session).RequireAsync(id, cancellationToken);
    }

    /// <summary>Takes a cluster in hand, hands it over, or lets go of it.</summary>
    /// <param name="id">The cluster.</param>
    /// <param name="user">Who is to have it; null for nobody.</param>
    /// <param name="caller">Who asks for it: one's own cluster can be handed over.</param>
    /// <param name="evenIfTaken">True to take it from whoever has it.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">Somebody else has it, or it was decided.</exception>
    public Task<Cluster> AssignAsync(long id, string? user, string caller, bool evenIfTaken, CancellationToken cancellationToken) =>
        ChangeAsync(id, store => store.AssignAsync(id, user, caller, evenIfTaken, _clock.GetUtcNow(), cancellationToken), cancellationToken);

    /// <summary>Puts a cluster off until a day.</summary>
    public Task<Cluster> PostponeAsync(long id, DateOnly until, CancellationToken cancellationToken) =>
        until <= Today
            ? throw new KettlefogException(ErrorCode.InvalidChoice, $"{until:yyyy-MM-dd} is not in the future.", "Put the cluster off until a later day.")
            : ChangeAsync(id, store => store.PostponeAsync(id, until, _clock.GetUtcNow(), cancellationToken), cancellationToken);

    /// <summary>Brings a cluster back that was put off.</summary>
    public Task<Cluster> ResumeAsync(long id, CancellationToken cancellationToken) =>
        ChangeAsync(id, store => store.ResumeAsync(id, _clock.GetUtcNow(), cancellationToken), cancellationToken);

    /// <summary>Counts the clusters by record type, state and confidence.</summary>
    public async Task<IReadOnlyList<ClusterCount>> CountClustersAsync(CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new ClusterStore(session).CountAsync(Today, cancellationToken);
    }

    /// <summary>Keeps records of a cluster apart: all of them from one another, or some of them from the others.</summary>
    /// <param name="id">The cluster.</param>
    /// <param name="takeOut">The keys of the records that are taken out; null to keep all apart.</param>
    /// <param name="audit">Who, and why.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<HistoryEntry> MarkNonDuplicatesAsync(long id, IReadOnlyList<string>? takeOut, AuditContext audit, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(audit);
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var clusters = new ClusterStore(session);
        var cluster = await clusters.RequireAsync(id, cancellationToken);
        if (cluster.State is ClusterState.Merged or ClusterState.NonDuplicates)
            throw new KettlefogException(ErrorCode.ClusterTaken, $"Cluster {id} is decided: {EnumName.Of(cluster.State).Replace('-', ' ')}.", "Look at the history for what was done.");
        if (cluster.Assignee is { } other && other != audit.Actor)
            throw new KettlefogException(ErrorCode.ClusterTaken, $"{other} has cluster {id} in hand.", "Take another one, or ask for it to be handed over.");
        foreach (var unknown in (takeOut ?? []).Where(key => !cluster.Members.Contains(key)))
            throw new KettlefogException(ErrorCode.InvalidChoice, $"Record {unknown} is not in cluster {id}.", $"The cluster has: {string.Join(", ", cluster.Members)}.");
        var type = _map.Map.Require(cluster.RecordType);
        var leaving = takeOut ?? cluster.Members;
        var staying = cluster.Members.Except(leaving).ToList();
        var pairs = (takeOut is null
            ? cluster.Members.SelectMany((a, index) => cluster.Members.Skip(index + 1).Select(b => (a, b)))
            : leaving.SelectMany(a => staying.Select(b => (a, b)))).ToList();
        if (pairs.Count == 0)
            throw new KettlefogException(ErrorCode.InvalidChoice, $"Nothing would be left in cluster {id} to keep the records apart from.", "Keep the whole cluster apart instead.");
        var entry = await DecideAsync(session, type, EntryKind.NonDuplicates, pairs, id, audit, cancellationToken);
        await clusters.LeaveAsync(type.Name, leaving, id, ClusterState.NonDuplicates, entry.Number, _clock.GetUtcNow(), cancellationToken);
        await session.CommitAsync(cancellationToken);
        return entry;
    }

    /// <summary>Keeps two records apart, whether or not they are in a cluster.</summary>
    public async Task<HistoryEntry> MarkNonDuplicatesAsync(RecordType type, RecordKey a, RecordKey b, AuditContext audit, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(a);
        ArgumentNullException.ThrowIfNull(b);
        if (a.Equals(b))
            throw new KettlefogException(ErrorCode.InvalidChoice, "A record cannot be kept apart from itself.", "Name two records.");
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var entry = await DecideAsync(session, type, EntryKind.NonDuplicates, [(a.ToString(), b.ToString())], null, audit, cancellationToken);
        await session.CommitAsync(cancellationToken);
        return entry;
    }

    /// <summary>The pairs that are kept apart, latest first, by today's keys.</summary>
    public async Task<IReadOnlyList<NonDuplicatePair>> ListNonDuplicatesAsync(RecordType type, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(type);
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new NonDuplicateStore(session).ListAsync(type.Name, cancellationToken);
    }

    /// <summary>Lets two records be proposed together again.</summary>
    /// <exception cref="KettlefogException">They are not kept apart.</exception>
    public async Task<HistoryEntry> ReopenAsync(RecordType type, RecordKey a, RecordKey b, AuditContext audit, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(a);
        ArgumentNullException.ThrowIfNull(b);
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var reopened = await new NonDuplicateStore(session).RemoveAsync(type.Name, a.ToString(), b.ToString(), cancellationToken);
        if (reopened.Count == 0)
            throw new KettlefogException(ErrorCode.InvalidChoice, $"{a} and {b} are not kept apart.", "List what is kept apart to see the pairs.");
        var entry = await DecideAsync(session, type, EntryKind.Reopened, [(a.ToString(), b.ToString())], null, audit, cancellationToken);

        // Back in the queue at once, and compared anew by the next scan, although neither record changed.
        foreach (var number in reopened.Select(pair => pair.Number).Distinct())
            await new ClusterStore(session).ReturnAsync(number, [a.ToString(), b.ToString()], entry.At, cancellationToken);
        await new PairStore(session).KeepPrintsAsync(type.Name, [], [a.ToString(), b.ToString()], cancellationToken);
        await session.CommitAsync(cancellationToken);
        return entry;
    }

    /// <summary>The records that are likely the same party as a record, from the live index.</summary>
    public async Task<IReadOnlyList<SimilarDuplicate>> FindSimilarToRecordAsync(RecordType type, RecordKey key, int most, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(key);
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        var record = await new RecordStream(session, _map).OneAsync(type, key, cancellationToken);
        return await _live.FindAsync(session, type, record.Values, key.ToString(), most, cancellationToken);
    }

    /// <summary>The records that are likely the same party as one with some values.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="values">Values by the name of their field.</param>
    /// <param name="most">How many to find at most.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">There is no such field.</exception>
    public async Task<IReadOnlyList<SimilarDuplicate>> FindSimilarToValuesAsync(RecordType type, IReadOnlyDictionary<string, string?> values, int most, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(values);
        foreach (var name in values.Keys)
            type.RequireField(name);
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await _live.FindAsync(session, type, [.. type.Fields.Select(field => values.GetValueOrDefault(field.Name))], null, most, cancellationToken);
    }

    /// <summary>Says why each two of some records are taken for one party, or not; records that are gone are left out.</summary>
    public async Task<IReadOnlyList<(string A, string B, PairExplanation Explanation)>> ExplainAllAsync(RecordType type, IReadOnlyList<string> keys, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        var records = new List<MatchRecord>();
        await foreach (var record in new RecordStream(session, _map).ReadAsync(type, hasForwards: true, keys, cancellationToken))
            records.Add(record);
        return await _live.ExplainAllAsync(session, type, records, cancellationToken);
    }

    /// <summary>The record that is suggested as the master of some.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="keys">The keys of two records or more.</param>
    /// <param name="rule">The rule that found them, whose preferences hold while it is in force; null for the map's.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">A record is gone or retired.</exception>
    public async Task<SuggestedMaster> SuggestMasterAsync(RecordType type, IReadOnlyList<string> keys, string? rule, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(keys);
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        var inForce = (await new RuleStore(session).InForceAsync(type, cancellationToken)).FirstOrDefault(each => each.Rule.Name == rule);
        var schema = _map.Catalog.Require(type.Table).Require(type.Key);
        var read = keys.Select(key => RecordKey.Parse(key, schema)).ToList();
        var choices = new MergeChoices(type.Name, read[0], read[1..], new Dictionary<string, FieldChoice>(), inForce?.Rule.Name);
        return MasterSuggester.Suggest(await new SnapshotReader(session, _map).ReadAsync(choices, cancellationToken));
    }

    /// <summary>Says why two records are taken for one party, or not.</summary>
    public async Task<PairExplanation> ExplainAsync(RecordType type, RecordKey a, RecordKey b, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(a);
        ArgumentNullException.ThrowIfNull(b);
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        var stream = new RecordStream(session, _map);
        var (left, right) = (await stream.OneAsync(type, a, cancellationToken), await stream.OneAsync(type, b, cancellationToken));
        return (await _live.ExplainAllAsync(session, type, [left, right], cancellationToken))[0].Explanation;
    }

    /// <inheritdoc/>
    public void Dispose() => _live.Dispose();

    private DateOnly Today => DateOnly.FromDateTime(_clock.GetUtcNow().UtcDateTime);

    private async Task<Cluster> ChangeAsync(long id, Func<ClusterStore, Task> change, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var store = new ClusterStore(session);
        await store.RequireAsync(id, cancellationToken);
        await change(store);
        var cluster = await store.RequireAsync(id, cancellationToken);
        await session.CommitAsync(cancellationToken);
        return cluster;
    }

    /// <summary>Writes a decision about pairs to the history, and what it changes.</summary>
    private async Task<HistoryEntry> DecideAsync(
        Session session,
        RecordType type,
        EntryKind kind,
        IReadOnlyList<(string A, string B)> pairs,
        long? cluster,
        AuditContext audit,
        CancellationToken cancellationToken)
    {
        var keys = pairs.SelectMany(pair => new[] { pair.A, pair.B }).Distinct().ToList();
        var schema = _map.Catalog.Require(type.Table).Require(type.Key);
        var records = await new SnapshotReader(session, _map).ReadRecordsAsync(type, [.. keys.Select(key => RecordKey.Parse(key, schema))], cancellationToken);
        var history = new HistoryStore(session);
        var (number, previousHash) = await history.NextAsync(cancellationToken);
        var details = new DecisionDetails(
            [.. records.Select(record => MergePlanner.Describe(type, record)).Select(record => new RecordDetail(
                record.Key.ToString(), record.Label, record.Created.ToText(), record.Changed.ToText(), record.Source.ToText(), record.Owner.ToText()))],
            cluster);
        var entry = new HistoryEntry(
            number,
            kind,
            type.Name,
            keys[0],
            HistoryStore.Truncate(_clock.GetUtcNow()),
            audit.Actor,
            audit.Reason,
            audit.Rule,
            audit.ApprovedBy,
            null,
            DetailsJson.Write(details),
            await new JournalStore(session).DigestAsync(number, cancellationToken),
            previousHash);
        history.Append(entry, keys.Skip(1));
        if (kind != EntryKind.NonDuplicates)
            return entry;
        var apart = new NonDuplicateStore(session);
        foreach (var (a, b) in pairs)
            await apart.AddAsync(type.Name, a, b, number, cancellationToken);
        var values = keys.Zip(records).ToDictionary(pair => pair.First, pair => type.Fields.Select(field => pair.Second[field.Column].ToText()).ToArray());
        apart.KeepDecision(number, type, [.. pairs.Select(pair => (values[pair.A], values[pair.B]))], match: false);
        return entry;
    }
}
