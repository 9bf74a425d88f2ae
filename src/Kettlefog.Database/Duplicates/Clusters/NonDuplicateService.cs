using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Duplicates.Decisions;
using Kettlefog.Database.Duplicates.Finding;
using Kettlefog.Database.Engines;
using Kettlefog.Database.History;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Own;
using Kettlefog.Database.Records;

namespace Kettlefog.Database.Duplicates.Clusters;

/// <summary>Decisions that records are not duplicates of one another, and their reopening.</summary>
public sealed class NonDuplicateService
{
    private readonly DatabaseContext _context;

    internal NonDuplicateService(DatabaseContext context) => _context = context;

    /// <summary>Marks records of a cluster as not duplicates: all of one another, or some of the others.</summary>
    /// <param name="id">The cluster.</param>
    /// <param name="records">The keys of the records that differ from the others; null for all.</param>
    /// <param name="audit">Who, and why.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<HistoryEntry> MarkAsync(
        long id,
        IReadOnlyList<string>? records,
        AuditContext audit,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(audit);
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        var clusters = new ClusterStore(session, _context.Clock.GetUtcNow());
        var cluster = await clusters.RequireAsync(id, cancellationToken);
        if (
            cluster.State is ClusterState.Merged or ClusterState.NonDuplicates
            || (cluster.Assignee is { } other && other != audit.Actor)
        )
            throw ClusterStore.Taken(cluster);
        foreach (var unknown in (records ?? []).Where(key => !cluster.Members.Contains(key)))
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"Record {unknown} is not in cluster {id}.",
                $"The cluster has: {string.Join(", ", cluster.Members)}."
            );
        var type = _context.Map.Map.Require(cluster.RecordType);
        var leaving = records ?? cluster.Members;
        var staying = cluster.Members.Except(leaving).ToList();
        var pairs = (
            records is null
                ? cluster.Members.SelectMany((a, index) => cluster.Members.Skip(index + 1).Select(b => (a, b)))
                : leaving.SelectMany(a => staying.Select(b => (a, b)))
        ).ToList();
        if (pairs.Count == 0)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"No records would be left in cluster {id}.",
                "Mark the whole cluster as not duplicates instead."
            );
        var entry = await DecideAsync(session, type, EntryKind.NonDuplicates, pairs, id, audit, cancellationToken);
        await clusters.LeaveAsync(type.Name, leaving, id, ClusterState.NonDuplicates, entry.Number, cancellationToken);
        await session.CommitAsync(cancellationToken);
        return entry;
    }

    /// <summary>Marks two records as not duplicates, whether or not they are in a cluster.</summary>
    public async Task<HistoryEntry> MarkAsync(
        RecordType type,
        RecordKey a,
        RecordKey b,
        AuditContext audit,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(a);
        ArgumentNullException.ThrowIfNull(b);
        if (a.Equals(b))
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                "A record cannot be marked as not a duplicate of itself.",
                "Name two records."
            );
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        var entry = await DecideAsync(
            session,
            type,
            EntryKind.NonDuplicates,
            [(a.ToString(), b.ToString())],
            null,
            audit,
            cancellationToken
        );
        await session.CommitAsync(cancellationToken);
        return entry;
    }

    /// <summary>The pairs marked as not duplicates, latest first, by their current keys.</summary>
    public async Task<IReadOnlyList<NonDuplicatePair>> ListAsync(RecordType type, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(type);
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new NonDuplicateStore(session).ListAsync(type.Name, cancellationToken);
    }

    /// <summary>Reopen a decision that two records are not duplicates.</summary>
    /// <exception cref="KettlefogException">They are not marked as not duplicates.</exception>
    public async Task<HistoryEntry> ReopenAsync(
        RecordType type,
        RecordKey a,
        RecordKey b,
        AuditContext audit,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(a);
        ArgumentNullException.ThrowIfNull(b);
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        var reopened = await new NonDuplicateStore(session).RemoveAsync(
            type.Name,
            a.ToString(),
            b.ToString(),
            cancellationToken
        );
        if (reopened.Count == 0)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"{a} and {b} are not marked as not duplicates.",
                "List the non-duplicates to see the pairs."
            );
        return await ReopenAsync(session, type, [(a.ToString(), b.ToString())], reopened, audit, cancellationToken);
    }

    /// <summary>Reopens what a history entry decided: that records are not duplicates.</summary>
    /// <param name="number">The number of the entry.</param>
    /// <param name="audit">Who, and why.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">
    /// There is no such entry, it is another kind of entry, or all of it is reopened already.
    /// </exception>
    public async Task<HistoryEntry> ReopenAsync(long number, AuditContext audit, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(audit);
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        var decision = (await new HistoryStore(session).RequireAsync(number, cancellationToken)).Entry;
        if (decision.Kind != EntryKind.NonDuplicates)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"Entry {number} of the history did not mark records as not duplicates.",
                decision.Kind == EntryKind.Merge ? "Reverse a merge instead." : "Choose the entry that did."
            );
        var type = _context.Map.Map.Require(decision.RecordType);
        var reopened = await new NonDuplicateStore(session).RemoveAsync(type.Name, number, cancellationToken);
        if (reopened.Count == 0)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"What entry {number} of the history decided is reopened already.",
                "See the history of the records for who reopened it."
            );
        return await ReopenAsync(
            session,
            type,
            [.. reopened.Select(pair => (pair.A, pair.B)).Distinct()],
            reopened,
            audit,
            cancellationToken
        );
    }

    /// <summary>Reopens the decision about the records of a cluster that is marked as not duplicates.</summary>
    /// <exception cref="KettlefogException">There is no such cluster, or it is not marked.</exception>
    public async Task<HistoryEntry> ReopenClusterAsync(long id, AuditContext audit, CancellationToken cancellationToken)
    {
        await using (var session = await _context.OpenReadAsync(cancellationToken))
        {
            var clusters = new ClusterStore(session, _context.Clock.GetUtcNow());
            var cluster = await clusters.RequireAsync(id, cancellationToken);
            if (
                cluster.State == ClusterState.NonDuplicates
                && await clusters.FindDecisionAsync(id, cancellationToken) is { } number
            )
                id = number;
            else
                throw new KettlefogException(
                    ErrorCode.InvalidChoice,
                    $"Cluster {id} is not marked as not duplicates, so that there is nothing to reopen.",
                    "List the clusters with the state 'non-duplicates'."
                );
        }

        return await ReopenAsync(id, audit, cancellationToken);
    }

    /// <summary>
    /// Records that pairs are reopened. They are back in the queue at once, and compared by the next scan, although
    /// none of the records changed.
    /// </summary>
    private async Task<HistoryEntry> ReopenAsync(
        Session session,
        RecordType type,
        IReadOnlyList<(string A, string B)> pairs,
        IReadOnlyList<NonDuplicatePair> reopened,
        AuditContext audit,
        CancellationToken cancellationToken
    )
    {
        var entry = await DecideAsync(session, type, EntryKind.Reopened, pairs, null, audit, cancellationToken);
        var keys = pairs.SelectMany(pair => new[] { pair.A, pair.B }).Distinct().ToList();
        foreach (var number in reopened.Select(pair => pair.Number).Distinct())
            await new ClusterStore(session, entry.At).ReturnAsync(number, keys, cancellationToken);
        await new PairStore(session).ForgetContentHashesAsync(type.Name, keys, cancellationToken);
        await session.CommitAsync(cancellationToken);
        return entry;
    }

    /// <summary>Writes a decision about pairs to the history, and what it changes.</summary>
    private async Task<HistoryEntry> DecideAsync(
        Session session,
        RecordType type,
        EntryKind kind,
        IReadOnlyList<(string A, string B)> pairs,
        long? cluster,
        AuditContext audit,
        CancellationToken cancellationToken
    )
    {
        var keys = pairs.SelectMany(pair => new[] { pair.A, pair.B }).Distinct().ToList();
        var schema = _context.Map.Catalog.Require(type.Table).Require(type.Key);
        var records = await new SnapshotReader(session, session.Map).ReadRecordsAsync(
            type,
            [.. keys.Select(key => RecordKeyParser.Parse(key, schema))],
            cancellationToken
        );
        var history = new HistoryStore(session);
        var journal = JournalIdentifier.Create();
        var (number, previousHash) = await history.NextAsync(cancellationToken);
        var details = new DecisionDetails(
            [.. records.Select(record => MergeDetails.Of(MergePlanner.Describe(type, record)))],
            cluster
        );
        var entry = new HistoryEntry(
            number,
            kind,
            type.Name,
            keys[0],
            HistoryStore.Truncate(_context.Clock.GetUtcNow()),
            audit.Actor,
            audit.Reason,
            audit.Rule,
            audit.ApprovedBy,
            null,
            DetailsJson.Write(details),
            await new JournalDigest(session).ComputeAsync(journal, cancellationToken),
            previousHash
        );
        history.Append(entry, journal, keys.Skip(1));
        if (kind != EntryKind.NonDuplicates)
            return entry;
        var nonDuplicates = new NonDuplicateStore(session);
        foreach (var (a, b) in pairs)
            await nonDuplicates.AddAsync(type.Name, a, b, number, cancellationToken);
        var values = keys.Zip(records)
            .ToDictionary(
                pair => pair.First,
                pair => type.Fields.Select(field => pair.Second[field.Column].ToText()).ToArray()
            );
        nonDuplicates.KeepDecision(
            number,
            type,
            [.. pairs.Select(pair => (values[pair.A], values[pair.B]))],
            match: false
        );
        return entry;
    }
}
