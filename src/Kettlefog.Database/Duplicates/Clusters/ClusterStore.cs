using System.Globalization;
using Kettlefog.Core;
using Kettlefog.Core.Naming;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.Clusters;

/// <summary>The queue of clusters.</summary>
internal sealed class ClusterStore(Session session)
{
    private readonly Sql _clusters = session.Dialect.Own("cluster");
    private readonly Sql _records = session.Dialect.Own("cluster_record");

    /// <summary>One cluster.</summary>
    /// <exception cref="KettlefogException">There is none of that number.</exception>
    public async Task<Cluster> RequireAsync(long id, CancellationToken cancellationToken)
    {
        var found = await session.QueryAsync(Select(Sql.Of($"WHERE c.id = {id}")), Read, cancellationToken);
        return (await WithMembersAsync(found, cancellationToken)).SingleOrDefault()
            ?? throw new KettlefogException(
                ErrorCode.UnknownCluster,
                $"There is no cluster {id}.",
                "A later scan may have found other clusters: list them again."
            );
    }

    /// <summary>Changes with every change of the queue.</summary>
    public async Task<string> ReadChangeMarkerAsync(CancellationToken cancellationToken) =>
        (
            await session.QueryAsync(
                Sql.Of($"SELECT COUNT(*), COALESCE(MAX(changed_at), '') FROM {_clusters}"),
                row => $"{row.Long()} {row.Text()}",
                cancellationToken
            )
        )[0];

    /// <summary>A page of clusters, with how many there are in all.</summary>
    public async Task<Page<Cluster>> ListAsync(
        ClusterFilter filter,
        DateOnly today,
        int page,
        int size,
        CancellationToken cancellationToken
    )
    {
        var where = Where(filter, today);
        var order = filter.Order switch
        {
            ClusterOrder.Impact => Sql.Literal("c.related_rows DESC, c.id"),
            ClusterOrder.Amount => Sql.Of(
                $"{session.Dialect.AsNumeric(Sql.Literal("COALESCE(c.amount, '0')"))} DESC, c.id"
            ),
            ClusterOrder.Age => Sql.Literal("c.found_at, c.id"),
            _ => Sql.Literal("c.confidence DESC, c.id"),
        };
        var total = await session.QueryLongAsync(
            Sql.Of($"SELECT COUNT(*) FROM {_clusters} c WHERE {where}"),
            cancellationToken
        );
        var found = await session.QueryAsync(
            Select(Sql.Of($"WHERE {where} ORDER BY {order} LIMIT {(long)size} OFFSET {(page - 1) * (long)size}")),
            Read,
            cancellationToken
        );
        return new Page<Cluster>(await WithMembersAsync(found, cancellationToken), total);
    }

    /// <summary>Every record of the clusters of a record type, with the cluster's number.</summary>
    public IAsyncEnumerable<(string Key, long Cluster)> MembersAsync(
        string recordType,
        CancellationToken cancellationToken
    ) =>
        session.StreamAsync(
            Sql.Of(
                $"SELECT r.record_key, r.cluster FROM {_records} r JOIN {_clusters} c ON c.id = r.cluster "
                    + $"WHERE c.record_type = {recordType} AND c.state IN ('open', 'postponed') AND r.left_by IS "
                    + $"NULL ORDER BY r.cluster, r.record_key"
            ),
            row => (row.Text(), row.Long()),
            cancellationToken
        );

    /// <summary>
    /// Assigns a cluster to a user, or to nobody; users may reassign their own, and those of others only by force.
    /// </summary>
    /// <exception cref="KettlefogException">Somebody else has it, or it was decided.</exception>
    public async Task AssignAsync(
        long id,
        string? user,
        string caller,
        bool force,
        DateTimeOffset at,
        CancellationToken cancellationToken
    )
    {
        var free = force ? Sql.Of($"1 = 1") : Sql.Of($"(assignee IS NULL OR assignee = {caller})");
        var done = await session.ExecuteAsync(
            Sql.Of(
                $"UPDATE {_clusters} SET assignee = {user}, changed_at = {StoredTimestamp.Write(at)} WHERE id "
                    + $"= {id} AND state IN ('open', 'postponed') AND {free}"
            ),
            cancellationToken
        );
        if (done == 1)
            return;
        throw Taken(await RequireAsync(id, cancellationToken));
    }

    /// <summary>Postpone a cluster until a date.</summary>
    public async Task PostponeAsync(long id, DateOnly until, DateTimeOffset at, CancellationToken cancellationToken)
    {
        if (
            await session.ExecuteAsync(
                Sql.Of(
                    $"UPDATE {_clusters} SET state = 'postponed', postponed_until = "
                        + $"{until.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)}, assignee = NULL, "
                        + $"changed_at = {StoredTimestamp.Write(at)} WHERE id = {id} AND state IN ('open', "
                        + $"'postponed')"
                ),
                cancellationToken
            ) == 0
        )
        {
            throw Taken(await RequireAsync(id, cancellationToken));
        }
    }

    /// <summary>Resume a postponed cluster.</summary>
    public async Task ResumeAsync(long id, DateTimeOffset at, CancellationToken cancellationToken)
    {
        if (
            await session.ExecuteAsync(
                Sql.Of(
                    $"UPDATE {_clusters} SET state = 'open', postponed_until = NULL, changed_at = "
                        + $"{StoredTimestamp.Write(at)} WHERE id = {id} AND state IN ('open', 'postponed')"
                ),
                cancellationToken
            ) == 0
        )
        {
            throw Taken(await RequireAsync(id, cancellationToken));
        }
    }

    /// <summary>Counts the clusters of each record type and state by whole percents of their confidence.</summary>
    public Task<List<ClusterCount>> CountAsync(DateOnly today, CancellationToken cancellationToken)
    {
        var day = today.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
        return session.QueryAsync(
            Sql.Of(
                $"""
                SELECT s.record_type, s.state, s.in_hand, s.percent, COUNT(*), SUM(s.related_rows),
                  {session.Dialect.DecimalSum(
                    Sql.Of($"s.amount")
                )}
                FROM (SELECT c.record_type, CASE WHEN c.state = 'postponed' AND c.postponed_until <= {day} THEN 'open'
                  ELSE c.state END AS state,
                             CASE WHEN c.assignee IS NULL THEN 0 ELSE 1 END AS in_hand, {session.Dialect.AsInteger(
                    Sql.Literal("ROUND(c.confidence * 100)")
                )} AS percent, c.related_rows, c.amount
                      FROM {_clusters} c) s
                GROUP BY s.record_type, s.state, s.in_hand, s.percent
                """
            ),
            row => new ClusterCount(
                row.Text(),
                EnumName.TryRead<ClusterState>(row.Text(), out var state) ? state : ClusterState.Open,
                row.Flag(),
                (int)row.Long(),
                row.Long(),
                row.Long(),
                decimal.Parse(row.OptionalText() ?? "0", CultureInfo.InvariantCulture)
            ),
            cancellationToken
        );
    }

    /// <summary>
    /// Takes records out of every open cluster; a cluster with fewer than two records left is decided.
    /// </summary>
    public async Task LeaveAsync(
        string recordType,
        IReadOnlyList<string> keys,
        long? onlyCluster,
        ClusterState verdict,
        long number,
        DateTimeOffset at,
        CancellationToken cancellationToken
    )
    {
        var one = onlyCluster is { } id ? Sql.Of($"cluster = {id}") : Sql.Of($"1 = 1");
        var left = 0;
        foreach (var key in keys)
        {
            left += await session.ExecuteAsync(
                Sql.Of(
                    $"UPDATE {_records} SET left_by = {number} WHERE record_type = {recordType} AND record_key "
                        + $"= {key} AND left_by IS NULL AND {one} AND cluster IN (SELECT id FROM {_clusters} WHERE "
                        + $"state IN ('open', 'postponed'))"
                ),
                cancellationToken
            );
        }

        if (left == 0)
            return;
        await session.ExecuteAsync(
            Sql.Of(
                $"""
                UPDATE {_clusters} SET
                  state = CASE WHEN {Left} < 2 THEN {EnumName.Of(verdict)} ELSE state END,
                  assignee = CASE WHEN {Left} < 2 THEN NULL ELSE assignee END,
                  records = {Left}, changed_at = {StoredTimestamp.Write(at)}
                WHERE id IN (SELECT cluster FROM {_records} WHERE left_by = {number})
                """
            ),
            cancellationToken
        );
    }

    /// <summary>Puts back the records that an entry of the history took out: all of them, or some.</summary>
    public async Task ReturnAsync(
        long number,
        IReadOnlyList<string>? keys,
        DateTimeOffset at,
        CancellationToken cancellationToken
    )
    {
        var only = keys is null
            ? Sql.Of($"1 = 1")
            : Sql.Of($"record_key IN ({Sql.Join(", ", keys.Select(key => Sql.Of($"{key}")))})");
        var clusters = await session.QueryAsync(
            Sql.Of($"SELECT DISTINCT cluster FROM {_records} WHERE left_by = {number} AND {only}"),
            row => row.Long(),
            cancellationToken
        );
        if (clusters.Count == 0)
            return;
        await session.ExecuteAsync(
            Sql.Of($"UPDATE {_records} SET left_by = NULL WHERE left_by = {number} AND {only}"),
            cancellationToken
        );
        await session.ExecuteAsync(
            Sql.Of(
                $"UPDATE {_clusters} SET state = CASE WHEN {Left} < 2 THEN state ELSE 'open' END, records = "
                    + $"{Left}, changed_at = {StoredTimestamp.Write(at)} WHERE id IN ({Numbers(clusters)})"
            ),
            cancellationToken
        );
    }

    private Sql Left =>
        Sql.Of($"(SELECT COUNT(*) FROM {_records} r WHERE r.cluster = {_clusters}.id AND r.left_by IS NULL)");

    private Sql Where(ClusterFilter filter, DateOnly today)
    {
        var day = today.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
        var conditions = new List<Sql> { Sql.Of($"1 = 1") };
        if (filter.RecordType is not null)
            conditions.Add(Sql.Of($"c.record_type = {filter.RecordType}"));
        if (filter.State == ClusterState.Open)
            conditions.Add(Sql.Of($"(c.state = 'open' OR (c.state = 'postponed' AND c.postponed_until <= {day}))"));
        else if (filter.State == ClusterState.Postponed)
            conditions.Add(Sql.Of($"c.state = 'postponed' AND c.postponed_until > {day}"));
        else if (filter.State is { } state)
            conditions.Add(Sql.Of($"c.state = {EnumName.Of(state)}"));
        if (filter.Assignee is { Length: 0 })
            conditions.Add(Sql.Of($"c.assignee IS NULL"));
        else if (filter.Assignee is not null)
            conditions.Add(Sql.Of($"c.assignee = {filter.Assignee}"));
        if (filter.Rule is not null)
            conditions.Add(Sql.Of($"c.rule = {filter.Rule}"));
        if (filter.MinConfidence is { } minConfidence)
            conditions.Add(Sql.Of($"c.confidence >= {minConfidence}"));
        if (filter.MaxConfidence is { } maxConfidence)
            conditions.Add(Sql.Of($"c.confidence <= {maxConfidence}"));
        if (filter.Record is not null)
            conditions.Add(
                Sql.Of(
                    $"c.id IN (SELECT r.cluster FROM {_records} r WHERE r.record_type = c.record_type AND "
                        + $"r.record_key = {filter.Record} AND r.left_by IS NULL)"
                )
            );
        return Sql.Join(" AND ", conditions);
    }

    private async Task<List<Cluster>> WithMembersAsync(List<Cluster> clusters, CancellationToken cancellationToken)
    {
        if (clusters.Count == 0)
            return clusters;
        var rows = await session.QueryAsync(
            Sql.Of(
                $"SELECT r.cluster, r.record_key, CASE WHEN r.left_by IS NULL THEN 0 ELSE 1 END FROM "
                    + $"{_records} r WHERE r.cluster IN ({Numbers([.. clusters.Select(cluster => cluster.Id)])}) "
                    + $"ORDER BY r.cluster, r.record_key"
            ),
            row => (Cluster: row.Long(), Key: row.Text(), Left: row.Flag()),
            cancellationToken
        );
        var members = rows.ToLookup(row => row.Cluster);

        // For a decided cluster, all records that were in it are listed.
        return
        [
            .. clusters.Select(cluster =>
                cluster with
                {
                    Members =
                    [
                        .. members[cluster.Id]
                            .Where(row =>
                                !row.Left || cluster.State is ClusterState.Merged or ClusterState.NonDuplicates
                            )
                            .Select(row => row.Key),
                    ],
                }
            ),
        ];
    }

    private Sql Select(Sql rest) =>
        Sql.Of(
            $"SELECT c.id, c.record_type, c.state, c.rule, c.confidence, c.weakest, c.records, c.related_rows, "
                + $"c.amount, c.assignee, c.postponed_until, c.found_at, c.changed_at, c.summary FROM {_clusters} c "
                + $"{rest}"
        );

    internal static Sql Numbers(IReadOnlyList<long> numbers) =>
        Sql.Join(", ", numbers.Select(number => Sql.Of($"{number}")));

    private static KettlefogException Taken(Cluster cluster) =>
        cluster.State is ClusterState.Open or ClusterState.Postponed
            ? new KettlefogException(
                ErrorCode.ClusterTaken,
                $"Cluster {cluster.Id} is assigned to {cluster.Assignee}.",
                "Choose another one, or ask for it to be reassigned."
            )
            : new KettlefogException(
                ErrorCode.ClusterTaken,
                $"Cluster {cluster.Id} is decided: {EnumName.Of(cluster.State).Replace('-', ' ')}.",
                "See the history for the decision."
            );

    private static Cluster Read(RowReader row) =>
        new(
            row.Long(),
            row.Text(),
            EnumName.TryRead<ClusterState>(row.Text(), out var state) ? state : ClusterState.Open,
            row.Text(),
            row.Real(),
            row.Real(),
            row.Long(),
            row.Long(),
            row.OptionalText(),
            row.OptionalText(),
            row.OptionalText() is { } until ? DateOnly.Parse(until, CultureInfo.InvariantCulture) : null,
            StoredTimestamp.Read(row.Text()),
            StoredTimestamp.Read(row.Text()),
            row.Text(),
            []
        );
}
