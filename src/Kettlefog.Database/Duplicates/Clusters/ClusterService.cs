using System.Runtime.CompilerServices;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Database.Duplicates.Rules;
using Kettlefog.Database.Own;
using Kettlefog.Database.Records;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.Clusters;

/// <summary>The queue of clusters: listed, assigned, postponed and counted.</summary>
public sealed class ClusterService
{
    private readonly DatabaseContext _context;

    internal ClusterService(DatabaseContext context) => _context = context;

    /// <summary>Every record of the open clusters, with its cluster's number.</summary>
    public async IAsyncEnumerable<(string Key, long Cluster)> ReadMembersAsync(
        RecordType type,
        [EnumeratorCancellation] CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(type);
        await using var session = await _context.OpenReadAsync(cancellationToken);
        await foreach (var member in new ClusterStore(session).MembersAsync(type.Name, cancellationToken))
            yield return member;
    }

    /// <summary>A page of clusters.</summary>
    public async Task<Page<Cluster>> ListAsync(
        ClusterFilter filter,
        int page,
        int size,
        CancellationToken cancellationToken
    )
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new ClusterStore(session).ListAsync(filter, Today, page, size, cancellationToken);
    }

    /// <summary>One cluster.</summary>
    public async Task<Cluster> ReadAsync(long id, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new ClusterStore(session).RequireAsync(id, cancellationToken);
    }

    /// <summary>Assigns a cluster to a user, or to nobody.</summary>
    /// <param name="id">The cluster.</param>
    /// <param name="user">The assignee; null for nobody.</param>
    /// <param name="caller">The user who asks, who may reassign a cluster of their own.</param>
    /// <param name="force">True to reassign a cluster of another user.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">It is assigned to another user, or was decided.</exception>
    public Task<Cluster> AssignAsync(
        long id,
        string? user,
        string caller,
        bool force,
        CancellationToken cancellationToken
    ) =>
        ChangeAsync(
            id,
            store => store.AssignAsync(id, user, caller, force, _context.Clock.GetUtcNow(), cancellationToken),
            cancellationToken
        );

    /// <summary>Postpone a cluster until a date.</summary>
    public Task<Cluster> PostponeAsync(long id, DateOnly until, CancellationToken cancellationToken) =>
        until <= Today
            ? throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"{until:yyyy-MM-dd} is not in the future.",
                "Postpone the cluster until a later date."
            )
            : ChangeAsync(
                id,
                store => store.PostponeAsync(id, until, _context.Clock.GetUtcNow(), cancellationToken),
                cancellationToken
            );

    /// <summary>Resume a postponed cluster.</summary>
    public Task<Cluster> ResumeAsync(long id, CancellationToken cancellationToken) =>
        ChangeAsync(
            id,
            store => store.ResumeAsync(id, _context.Clock.GetUtcNow(), cancellationToken),
            cancellationToken
        );

    /// <summary>Counts the clusters by record type, state and confidence.</summary>
    public async Task<IReadOnlyList<ClusterCount>> CountAsync(CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new ClusterStore(session).CountAsync(Today, cancellationToken);
    }

    /// <summary>The record that is suggested as the master.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="keys">The keys of two records or more.</param>
    /// <param name="rule">
    /// The rule that found them, whose preferences apply while it is in force; null for the map's.
    /// </param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">A record does not exist or is retired.</exception>
    public async Task<SuggestedMaster> SuggestMasterAsync(
        RecordType type,
        IReadOnlyList<string> keys,
        string? rule,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(keys);
        await using var session = await _context.OpenReadAsync(cancellationToken);
        var inForce = (await new RuleStore(session).InForceAsync(type, cancellationToken)).FirstOrDefault(each =>
            each.Rule.Name == rule
        );
        var schema = _context.Map.Catalog.Require(type.Table).Require(type.Key);
        var read = keys.Select(key => RecordKeyParser.Parse(key, schema)).ToList();
        var choices = new MergeChoices(
            type.Name,
            read[0],
            read[1..],
            new Dictionary<string, FieldChoice>(),
            inForce?.Rule.Name
        );
        return MasterSuggester.Suggest(
            await new SnapshotReader(session, session.Map).ReadAsync(choices, inForce?.Rule, cancellationToken)
        );
    }

    private DateOnly Today => DateOnly.FromDateTime(_context.Clock.GetUtcNow().UtcDateTime);

    private async Task<Cluster> ChangeAsync(
        long id,
        Func<ClusterStore, Task> change,
        CancellationToken cancellationToken
    )
    {
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        var store = new ClusterStore(session);
        await store.RequireAsync(id, cancellationToken);
        await change(store);
        var cluster = await store.RequireAsync(id, cancellationToken);
        await session.CommitAsync(cancellationToken);
        return cluster;
    }
}
