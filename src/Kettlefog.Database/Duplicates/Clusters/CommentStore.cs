using Kettlefog.Core;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.Clusters;

/// <summary>What somebody says about the records of a cluster. It decides nothing, and is not in the history.</summary>
/// <param name="Id">Its number.</param>
/// <param name="Author">The name of the user who wrote it.</param>
/// <param name="Text">What it says.</param>
/// <param name="At">When it was written.</param>
public sealed record Comment(long Id, string Author, string Text, DateTimeOffset At);

/// <summary>
/// The comments. Each is about records: a cluster has those about two of its records or more, whichever scan found it.
/// </summary>
internal sealed class CommentStore(Session session)
{
    private readonly Sql _comments = session.Dialect.Own("comment");
    private readonly Sql _about = session.Dialect.Own("comment_record");
    private readonly Sql _members = session.Dialect.Own("cluster_record");

    /// <summary>The comments on a cluster, the oldest first.</summary>
    public Task<List<Comment>> ListAsync(long cluster, CancellationToken cancellationToken) =>
        session.QueryAsync(
            Sql.Of(
                $"""
                SELECT c.id, c.author, c.body, c.at FROM {_comments} c WHERE c.id IN (
                  SELECT about.comment FROM ({OnClusters([cluster])}) about) ORDER BY c.id
                """
            ),
            row => new Comment(row.Long(), row.Text(), row.Text(), StoredTimestamp.Read(row.Text())),
            cancellationToken
        );

    /// <summary>How many comments each of some clusters has; those without are left out.</summary>
    public async Task<IReadOnlyDictionary<long, long>> CountAsync(
        IReadOnlyList<long> clusters,
        CancellationToken cancellationToken
    ) =>
        (
            await session.QueryAsync(
                Sql.Of(
                    $"""
                    SELECT about.cluster, COUNT(*) FROM ({OnClusters(clusters)}) about GROUP BY about.cluster
                    """
                ),
                row => (Cluster: row.Long(), Comments: row.Long()),
                cancellationToken
            )
        ).ToDictionary(row => row.Cluster, row => row.Comments);

    /// <summary>Adds a comment about the records of a cluster.</summary>
    public async Task AddAsync(
        Cluster cluster,
        string author,
        string text,
        DateTimeOffset at,
        CancellationToken cancellationToken
    )
    {
        var id = await session.QueryLongAsync(
            Sql.Of(
                $"""
                INSERT INTO {_comments} (record_type, author, body, at)
                VALUES ({cluster.RecordType}, {author}, {text}, {StoredTimestamp.Write(at)}) RETURNING id
                """
            ),
            cancellationToken
        );
        await session.ExecuteAsync(
            session.Dialect.Insert(
                _about,
                ["comment", "record_type", "record_key"],
                cluster.Members.Select(key => Sql.Of($"{id}, {cluster.RecordType}, {key}"))
            ),
            cancellationToken
        );
    }

    /// <summary>Removes a comment.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="author">Who must have written it, or null for anyone.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">There is no such comment.</exception>
    public async Task RemoveAsync(long id, string? author, CancellationToken cancellationToken)
    {
        var theirs = author is null ? Sql.Of($"1 = 1") : Sql.Of($"author = {author}");
        var found = await session.QueryLongAsync(
            Sql.Of($"SELECT COUNT(*) FROM {_comments} WHERE id = {id} AND {theirs}"),
            cancellationToken
        );
        if (found == 0)
            throw new KettlefogException(
                ErrorCode.UnknownEntry,
                $"You have no comment {id}.",
                "A comment is removed by its author, or by an administrator."
            );
        await session.ExecuteAsync(Sql.Of($"DELETE FROM {_about} WHERE comment = {id}"), cancellationToken);
        await session.ExecuteAsync(Sql.Of($"DELETE FROM {_comments} WHERE id = {id}"), cancellationToken);
    }

    /// <summary>Pairs of a cluster and a comment about two of its records or more.</summary>
    private Sql OnClusters(IReadOnlyList<long> clusters) =>
        Sql.Of(
            $"""
            SELECT m.cluster, a.comment FROM {_members} m JOIN {_about} a ON a.record_type = m.record_type
              AND a.record_key = m.record_key
            WHERE m.cluster IN ({ClusterStore.Numbers(clusters)}) GROUP BY m.cluster, a.comment HAVING COUNT(*) > 1
            """
        );
}
