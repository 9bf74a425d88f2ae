using System.Runtime.CompilerServices;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Database.Duplicates.Rules;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;
using Kettlefog.Database.Records;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.Clusters;

/// <summary>The queue of clusters: listed, assigned, postponed and counted.</summary>
public sealed class ClusterService
{
    /// <summary>How long a claim lasts without a sign of life.</summary>
    public static readonly TimeSpan ClaimLasts = TimeSpan.FromMinutes(10);

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
        await foreach (var member in ClusterStore.MembersAsync(session, type.Name, cancellationToken))
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
        return await Store(session).ListAsync(filter, page, size, cancellationToken);
    }

    /// <summary>Where a cluster is in the queue, also if it was decided since.</summary>
    /// <param name="id">The cluster.</param>
    /// <param name="filter">The filter and order of the queue.</param>
    /// <param name="caller">Who asks: clusters that are assigned to others are no neighbours.</param>
    /// <param name="skipped">The numbers of clusters that are no neighbours either.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">There is no such cluster.</exception>
    public async Task<ClusterPlace> FindPlaceAsync(
        long id,
        ClusterFilter filter,
        string caller,
        IReadOnlyList<long> skipped,
        CancellationToken cancellationToken
    )
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await Store(session).FindPlaceAsync(id, filter, caller, skipped, cancellationToken);
    }

    /// <summary>The number of the last history entry that decided about records of a cluster; null for none.</summary>
    public async Task<long?> FindDecisionAsync(long id, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await Store(session).FindDecisionAsync(id, cancellationToken);
    }

    /// <summary>One cluster.</summary>
    public async Task<Cluster> ReadAsync(long id, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await Store(session).RequireAsync(id, cancellationToken);
    }

    /// <summary>Assigns a cluster to a user, or to nobody.</summary>
    /// <param name="id">The cluster.</param>
    /// <param name="user">The assignee; null for nobody.</param>
    /// <param name="caller">The user who asks, who may reassign a cluster of their own.</param>
    /// <param name="force">True to reassign a cluster of another user.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The cluster, and who had it before.</returns>
    /// <exception cref="KettlefogException">It is assigned to another user, or was decided.</exception>
    public async Task<Assignment> AssignAsync(
        long id,
        string? user,
        string caller,
        bool force,
        CancellationToken cancellationToken
    )
    {
        string? before = null;
        var cluster = await ChangeAsync(
            id,
            async store =>
            {
                before = (await store.RequireAsync(id, cancellationToken)).Assignee;
                await store.AssignAsync(id, user, caller, force, cancellationToken);
            },
            cancellationToken
        );
        return new Assignment(cluster, before);
    }

    /// <summary>
    /// Assigns a cluster to a user who looks at it; that lapses after <see cref="ClaimLasts"/> unless it is renewed.
    /// </summary>
    /// <param name="id">The cluster.</param>
    /// <param name="user">The user.</param>
    /// <param name="force">True to take it over from another user.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">It is assigned to another user, or was decided.</exception>
    public Task<Cluster> ClaimAsync(long id, string user, bool force, CancellationToken cancellationToken) =>
        ChangeAsync(
            id,
            store => store.ClaimAsync(id, user, _context.Clock.GetUtcNow() + ClaimLasts, force, cancellationToken),
            cancellationToken
        );

    /// <summary>Ends a user's claim of a cluster, if it is one; an assignment stays.</summary>
    public Task<Cluster> ReleaseAsync(long id, string user, CancellationToken cancellationToken) =>
        ChangeAsync(id, store => store.ReleaseAsync(user, id, cancellationToken), cancellationToken);

    /// <summary>Ends all claims of a user, who signs out.</summary>
    public async Task ReleaseAllAsync(string user, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        await Store(session).ReleaseAsync(user, null, cancellationToken);
        await session.CommitAsync(cancellationToken);
    }

    /// <summary>Postpone a cluster until a date.</summary>
    /// <param name="id">The cluster.</param>
    /// <param name="postponement">Until when, by whom, and why.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">
    /// The date is not in the future, or the cluster is assigned to another user, or was decided.
    /// </exception>
    public Task<Cluster> PostponeAsync(long id, Postponement postponement, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(postponement);
        return postponement.Until <= DateOnly.FromDateTime(_context.Clock.GetUtcNow().UtcDateTime)
            ? throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"{postponement.Until:yyyy-MM-dd} is not in the future.",
                "Postpone the cluster until a later date."
            )
            : ChangeAsync(id, store => store.PostponeAsync(id, postponement, cancellationToken), cancellationToken);
    }

    /// <summary>Resume a postponed cluster.</summary>
    public Task<Cluster> ResumeAsync(long id, CancellationToken cancellationToken) =>
        ChangeAsync(id, store => store.ResumeAsync(id, cancellationToken), cancellationToken);

    /// <summary>Counts the clusters by record type, state and confidence.</summary>
    /// <param name="certain">
    /// The confidence, from 0 to 1, from which a cluster counts as certain, by the names of record types.
    /// </param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<IReadOnlyList<ClusterCount>> CountAsync(
        IReadOnlyDictionary<string, double> certain,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(certain);
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await Store(session).CountAsync(certain, cancellationToken);
    }

    /// <summary>Counts the clusters by the days on which they were found and decided.</summary>
    public async Task<IReadOnlyList<ClusterAge>> CountByAgeAsync(CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await Store(session).CountByAgeAsync(cancellationToken);
    }

    /// <summary>The comments on a cluster, the oldest first.</summary>
    public async Task<IReadOnlyList<Comment>> ListCommentsAsync(long id, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new CommentStore(session).ListAsync(id, cancellationToken);
    }

    /// <summary>Adds a comment on a cluster; it stays with the records, whatever becomes of the cluster.</summary>
    /// <param name="id">The cluster.</param>
    /// <param name="author">Who says it.</param>
    /// <param name="text">What is said.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>All comments on the cluster, the oldest first.</returns>
    /// <exception cref="KettlefogException">There is no such cluster.</exception>
    public async Task<IReadOnlyList<Comment>> CommentAsync(
        long id,
        string author,
        string text,
        CancellationToken cancellationToken
    )
    {
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        var cluster = await Store(session).RequireAsync(id, cancellationToken);
        var comments = new CommentStore(session);
        await comments.AddAsync(cluster, author, text, _context.Clock.GetUtcNow(), cancellationToken);
        var all = await comments.ListAsync(id, cancellationToken);
        await session.CommitAsync(cancellationToken);
        return all;
    }

    /// <summary>Removes a comment.</summary>
    /// <param name="comment">Its number.</param>
    /// <param name="author">Who must have written it, or null for anyone.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">There is no such comment.</exception>
    public async Task RemoveCommentAsync(long comment, string? author, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        await new CommentStore(session).RemoveAsync(comment, author, cancellationToken);
        await session.CommitAsync(cancellationToken);
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

    private ClusterStore Store(Session session) => new(session, _context.Clock.GetUtcNow());

    private async Task<Cluster> ChangeAsync(
        long id,
        Func<ClusterStore, Task> change,
        CancellationToken cancellationToken
    )
    {
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        var store = Store(session);
        await store.RequireAsync(id, cancellationToken);
        await change(store);
        var cluster = await store.RequireAsync(id, cancellationToken);
        await session.CommitAsync(cancellationToken);
        return cluster;
    }
}
