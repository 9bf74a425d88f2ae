using System.Globalization;
using Kettlefog.Core;
using Kettlefog.Core.Naming;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.Clusters;

/// <summary>The queue of clusters.</summary>
/// <param name="session">The session.</param>
/// <param name="now">The time: a claim that lapsed before is none, a postponement that ended before is over.</param>
internal sealed class ClusterStore(Session session, DateTimeOffset now)
{
    private readonly Sql _clusters = session.Dialect.Own("cluster");
    private readonly Sql _records = session.Dialect.Own("cluster_record");
    private readonly string _now = StoredTimestamp.Write(now);
    private readonly string _today = now.UtcDateTime.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);

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

    /// <summary>The number of the last history entry that decided about records of a cluster; null for none.</summary>
    public async Task<long?> FindDecisionAsync(long id, CancellationToken cancellationToken) =>
        await session.QueryLongAsync(
            Sql.Of($"SELECT COALESCE(MAX(left_by), 0) FROM {_records} WHERE cluster = {id}"),
            cancellationToken
        )
            is > 0
                and var number
            ? number
            : null;

    /// <summary>Changes with every change of the queue, and with every comment.</summary>
    public static async Task<string> ReadChangeMarkerAsync(Session session, CancellationToken cancellationToken) =>
        (
            await session.QueryAsync(
                Sql.Of(
                    $"""
                    SELECT COUNT(*), COALESCE(MAX(changed_at), ''), (SELECT COUNT(*) FROM {session.Dialect.Own(
                        "comment"
                    )}), (SELECT COALESCE(MAX(at), '') FROM {session.Dialect.Own("comment")})
                    FROM {session.Dialect.Own("cluster")}
                    """
                ),
                row => $"{row.Long()} {row.Text()} {row.Long()} {row.Text()}",
                cancellationToken
            )
        )[0];

    /// <summary>A page of clusters, with how many there are in all.</summary>
    public async Task<Page<Cluster>> ListAsync(
        ClusterFilter filter,
        int page,
        int size,
        CancellationToken cancellationToken
    )
    {
        var where = Where(filter);
        var order = Sql.Of($"{SortKey(filter.Order, "c")} {Direction(filter)}, c.id");
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

    /// <summary>Where a cluster is in the queue; see <see cref="ClusterService.FindPlaceAsync"/>.</summary>
    public async Task<ClusterPlace> FindPlaceAsync(
        long id,
        ClusterFilter filter,
        string caller,
        IReadOnlyList<long> skipped,
        CancellationToken cancellationToken
    )
    {
        await RequireAsync(id, cancellationToken);
        var (key, own) = (SortKey(filter.Order, "c"), SortKey(filter.Order, "x"));
        var isBefore = Sql.Of(
            $"({key} {Sql.Literal(IsDescending(filter) ? ">" : "<")} {own} OR ({key} = {own} AND c.id < x.id))"
        );
        var where = Where(filter);
        var counts = await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT COUNT(*), COALESCE(SUM(CASE WHEN {isBefore} THEN 1 ELSE 0 END), 0),
                  COALESCE(SUM(CASE WHEN c.id = x.id THEN 1 ELSE 0 END), 0)
                FROM {_clusters} c CROSS JOIN {_clusters} x WHERE x.id = {id} AND {where}
                """
            ),
            row => (Total: row.Long(), Before: row.Long(), IsIn: row.Long() == 1),
            cancellationToken
        );
        var passedOver = skipped.Count == 0 ? Sql.Of($"1 = 1") : Sql.Of($"c.id NOT IN ({Numbers(skipped)})");
        async Task<(long Id, string RecordType)?> NeighbourAsync(Sql side, string direction, string byNumber)
        {
            var found = await session.QueryAsync(
                Sql.Of(
                    $"""
                    SELECT c.id, c.record_type FROM {_clusters} c CROSS JOIN {_clusters} x
                    WHERE x.id = {id} AND c.id <> x.id AND {where} AND {side} AND {passedOver}
                      AND COALESCE({Assignee("c")}, {caller}) = {caller}
                    ORDER BY {key} {Sql.Literal(direction)}, c.id {Sql.Literal(byNumber)} LIMIT 1
                    """
                ),
                row => (row.Long(), row.Text()),
                cancellationToken
            );
            return found.Count == 0 ? null : found[0];
        }

        var (forward, backward) = IsDescending(filter) ? ("DESC", "ASC") : ("ASC", "DESC");
        return new ClusterPlace(
            counts[0].IsIn ? counts[0].Before + 1 : null,
            counts[0].Total,
            await NeighbourAsync(isBefore, backward, "DESC"),
            await NeighbourAsync(Sql.Of($"NOT {isBefore}"), forward, "ASC")
        );
    }

    /// <summary>Every record of the clusters of a record type, with the cluster's number.</summary>
    public static IAsyncEnumerable<(string Key, long Cluster)> MembersAsync(
        Session session,
        string recordType,
        CancellationToken cancellationToken
    ) =>
        session.StreamAsync(
            Sql.Of(
                $"SELECT r.record_key, r.cluster FROM {session.Dialect.Own("cluster_record")} r "
                    + $"JOIN {session.Dialect.Own("cluster")} c ON c.id = r.cluster WHERE c.record_type = {recordType} "
                    + $"AND c.state IN ('open', 'postponed') AND r.left_by IS NULL ORDER BY r.cluster, r.record_key"
            ),
            row => (row.Text(), row.Long()),
            cancellationToken
        );

    /// <summary>
    /// Assigns a cluster to a user, or to nobody; users may reassign their own, and those of others only by force.
    /// </summary>
    /// <exception cref="KettlefogException">Somebody else has it, or it was decided.</exception>
    public Task AssignAsync(long id, string? user, string caller, bool force, CancellationToken cancellationToken) =>
        ChangeAsync(
            id,
            Sql.Of($"assignee = {user}, claimed_until = NULL, changed_at = {_now}"),
            force ? Sql.Of($"1 = 1") : IsFreeFor(caller),
            cancellationToken
        );

    /// <summary>
    /// Assigns a cluster to a user who looks at it until a time, or renews that. What was assigned to the user without
    /// a limit stays so.
    /// </summary>
    /// <exception cref="KettlefogException">Somebody else has it, or it was decided.</exception>
    public Task ClaimAsync(long id, string user, DateTimeOffset until, bool force, CancellationToken cancellationToken)
    {
        var isTheirs = Sql.Of($"COALESCE({Assignee(null)}, '') = {user}");
        return ChangeAsync(
            id,
            Sql.Of(
                $"""
                changed_at = CASE WHEN {isTheirs} THEN changed_at ELSE {_now} END,
                claimed_until = CASE WHEN {isTheirs} AND claimed_until IS NULL THEN NULL
                  ELSE {StoredTimestamp.Write(until)} END,
                assignee = {user}
                """
            ),
            force ? Sql.Of($"1 = 1") : IsFreeFor(user),
            cancellationToken
        );
    }

    /// <summary>Ends a user's claims, but not what was assigned to the user: of one cluster, or of all.</summary>
    public Task ReleaseAsync(string user, long? id, CancellationToken cancellationToken)
    {
        var of = id is { } one ? Sql.Of($"id = {one}") : Sql.Of($"1 = 1");
        return session.ExecuteAsync(
            Sql.Of(
                $"UPDATE {_clusters} SET assignee = NULL, claimed_until = NULL, changed_at = {_now} WHERE assignee = "
                    + $"{user} AND claimed_until IS NOT NULL AND {of}"
            ),
            cancellationToken
        );
    }

    /// <summary>Who a cluster is assigned to now.</summary>
    private Sql Assignee(string? alias)
    {
        var prefix = Sql.Literal(alias is null ? "" : $"{alias}.");
        return Sql.Of($"CASE WHEN {prefix}claimed_until <= {_now} THEN NULL ELSE {prefix}assignee END");
    }

    private Sql IsFreeFor(string user) => Sql.Of($"COALESCE({Assignee(null)}, {user}) = {user}");

    /// <summary>Changes a cluster about which nothing is decided.</summary>
    /// <exception cref="KettlefogException">The condition does not hold, or it was decided.</exception>
    private async Task ChangeAsync(long id, Sql changes, Sql condition, CancellationToken cancellationToken)
    {
        var done = await session.ExecuteAsync(
            Sql.Of(
                $"UPDATE {_clusters} SET {changes} WHERE id = {id} AND state IN ('open', 'postponed') AND {condition}"
            ),
            cancellationToken
        );
        if (done == 0)
            throw Taken(await RequireAsync(id, cancellationToken));
    }

    /// <summary>Checks that no open cluster with two of some records is assigned to another user.</summary>
    /// <exception cref="KettlefogException">One is.</exception>
    public async Task EnsureNotAssignedToOthersAsync(
        string recordType,
        IReadOnlyList<string> keys,
        string user,
        CancellationToken cancellationToken
    )
    {
        if (session.Engine.IsUninitialised)
            return;
        var list = Sql.Join(", ", keys.Select(key => Sql.Of($"{key}")));
        var taken = await session.QueryAsync(
            Select(
                Sql.Of(
                    $"""
                    WHERE c.state IN ('open', 'postponed') AND {Assignee("c")} <> {user} AND c.id IN (
                      SELECT r.cluster FROM {_records} r WHERE r.record_type = {recordType} AND r.record_key IN ({list})
                        AND r.left_by IS NULL GROUP BY r.cluster HAVING COUNT(*) > 1) ORDER BY c.id
                    """
                )
            ),
            Read,
            cancellationToken
        );
        if (taken.Count > 0)
            throw Taken(taken[0]);
    }

    /// <summary>Postpone a cluster until a date.</summary>
    /// <exception cref="KettlefogException">Somebody else has it, or it was decided.</exception>
    public Task PostponeAsync(long id, Postponement postponement, CancellationToken cancellationToken) =>
        ChangeAsync(
            id,
            Sql.Of(
                $"""
                state = 'postponed', assignee = NULL, claimed_until = NULL, changed_at = {_now},
                postponed_until = {postponement.Until.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)},
                postponed_by = {postponement.By}, postponed_reason = {postponement.Reason}
                """
            ),
            IsFreeFor(postponement.By),
            cancellationToken
        );

    /// <summary>Resume a postponed cluster.</summary>
    /// <exception cref="KettlefogException">It was decided.</exception>
    public Task ResumeAsync(long id, CancellationToken cancellationToken) =>
        ChangeAsync(
            id,
            Sql.Of(
                $"state = 'open', postponed_until = NULL, postponed_by = NULL, postponed_reason = NULL, "
                    + $"changed_at = {_now}"
            ),
            Sql.Of($"1 = 1"),
            cancellationToken
        );

    /// <summary>Counts the clusters; see <see cref="ClusterService.CountAsync"/>.</summary>
    public Task<List<ClusterCount>> CountAsync(
        IReadOnlyDictionary<string, double> certain,
        CancellationToken cancellationToken
    )
    {
        var certainFrom = certain
            .Select(each => Sql.Of($"WHEN c.record_type = {each.Key} AND c.confidence >= {each.Value} THEN 1"))
            .Prepend(Sql.Of($"WHEN 1 = 0 THEN 1"));

        // The next lower whole percentage, so that a band has the clusters that a filter from here to there finds.
        var percent = session.Dialect.AsInteger(Sql.Literal("ROUND(c.confidence * 100 - 0.499999999)"));
        return session.QueryAsync(
            Sql.Of(
                $"""
                SELECT s.record_type, s.state, s.assigned, s.certain, s.percent, COUNT(*), SUM(s.related_rows),
                  {session.Dialect.DecimalSum(
                    Sql.Of($"s.amount")
                )}, MIN(s.found_at)
                FROM (SELECT c.record_type,
                  CASE WHEN c.state = 'postponed' AND c.postponed_until <= {_today} THEN 'open' ELSE c.state END
                    AS state,
                  CASE WHEN {Assignee("c")} IS NULL THEN 0 ELSE 1 END AS assigned,
                  CASE {Sql.Join(" ", certainFrom)} ELSE 0 END AS certain, {percent} AS percent,
                  c.related_rows, c.amount, c.found_at
                      FROM {_clusters} c) s
                GROUP BY s.record_type, s.state, s.assigned, s.certain, s.percent
                """
            ),
            row => new ClusterCount(
                row.Text(),
                EnumName.TryRead<ClusterState>(row.Text(), out var state) ? state : ClusterState.Open,
                row.Flag(),
                row.Flag(),
                (int)row.Long(),
                row.Long(),
                row.Long(),
                decimal.Parse(row.OptionalText() ?? "0", CultureInfo.InvariantCulture),
                StoredTimestamp.Read(row.Text())
            ),
            cancellationToken
        );
    }

    /// <summary>Counts the clusters by the days on which they were found and decided.</summary>
    public Task<List<ClusterAge>> CountByAgeAsync(CancellationToken cancellationToken) =>
        session.QueryAsync(
            Sql.Of(
                $"""
                SELECT a.found_on, a.decided_on, COUNT(*) FROM (SELECT SUBSTR(found_at, 1, 10) AS found_on,
                  CASE WHEN state IN ('open', 'postponed') THEN NULL ELSE SUBSTR(changed_at, 1, 10) END AS decided_on
                  FROM {_clusters}) a GROUP BY a.found_on, a.decided_on
                """
            ),
            row => new ClusterAge(Day(row.Text()), row.OptionalText() is { } decided ? Day(decided) : null, row.Long()),
            cancellationToken
        );

    /// <summary>
    /// Takes records out of every open cluster; a cluster with fewer than two records left is decided.
    /// </summary>
    public async Task LeaveAsync(
        string recordType,
        IReadOnlyList<string> keys,
        long? onlyCluster,
        ClusterState verdict,
        long number,
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
                  records = {Left}, changed_at = {_now}
                WHERE id IN (SELECT cluster FROM {_records} WHERE left_by = {number})
                """
            ),
            cancellationToken
        );
    }

    /// <summary>Puts back the records that an entry of the history took out: all of them, or some.</summary>
    public async Task ReturnAsync(long number, IReadOnlyList<string>? keys, CancellationToken cancellationToken)
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
                    + $"{Left}, changed_at = {_now} WHERE id IN ({Numbers(clusters)})"
            ),
            cancellationToken
        );
    }

    private Sql Left =>
        Sql.Of($"(SELECT COUNT(*) FROM {_records} r WHERE r.cluster = {_clusters}.id AND r.left_by IS NULL)");

    /// <summary>What the queue is sorted by, before the number.</summary>
    private Sql SortKey(ClusterOrder order, string alias) =>
        order switch
        {
            ClusterOrder.Impact => Sql.Literal($"{alias}.related_rows"),
            ClusterOrder.Amount => session.Dialect.AsNumeric(Sql.Literal($"COALESCE({alias}.amount, '0')")),
            ClusterOrder.Age => Sql.Literal($"{alias}.found_at"),
            _ => Sql.Literal($"{alias}.confidence"),
        };

    private static bool IsDescending(ClusterFilter filter) => filter.Order != ClusterOrder.Age != filter.IsReversed;

    private static Sql Direction(ClusterFilter filter) => Sql.Literal(IsDescending(filter) ? "DESC" : "ASC");

    private Sql Where(ClusterFilter filter)
    {
        var conditions = new List<Sql> { Sql.Of($"1 = 1") };
        if (filter.RecordType is not null)
            conditions.Add(Sql.Of($"c.record_type = {filter.RecordType}"));
        if (filter.State == ClusterState.Open)
            conditions.Add(Sql.Of($"(c.state = 'open' OR (c.state = 'postponed' AND c.postponed_until <= {_today}))"));
        else if (filter.State == ClusterState.Postponed)
            conditions.Add(Sql.Of($"c.state = 'postponed' AND c.postponed_until > {_today}"));
        else if (filter.State is { } state)
            conditions.Add(Sql.Of($"c.state = {EnumName.Of(state)}"));
        if (filter.Assignee is { } assignee)
            conditions.Add(
                assignee.User switch
                {
                    null => Sql.Of($"{Assignee("c")} IS NOT NULL"),
                    "" => Sql.Of($"{Assignee("c")} IS NULL"),
                    var user => Sql.Of($"{Assignee("c")} = {user}"),
                }
            );
        if (filter.Rule is not null)
            conditions.Add(Sql.Of($"c.rule = {filter.Rule}"));
        if (filter.MinConfidence is { } minConfidence)
            conditions.Add(Sql.Of($"c.confidence >= {minConfidence}"));
        if (filter.MaxConfidence is { } maxConfidence)
            conditions.Add(
                maxConfidence >= 1 ? Sql.Of($"c.confidence <= 1") : Sql.Of($"c.confidence < {maxConfidence}")
            );
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
        var comments = await new CommentStore(session).CountAsync(
            [.. clusters.Select(cluster => cluster.Id)],
            cancellationToken
        );

        // For a decided cluster, all records that were in it are listed.
        return
        [
            .. clusters.Select(cluster =>
                cluster with
                {
                    Comments = comments.GetValueOrDefault(cluster.Id),
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
                + $"c.amount, {Assignee("c")}, c.claimed_until, c.postponed_until, c.postponed_by, c.postponed_reason, "
                + $"c.found_at, c.changed_at, c.summary FROM {_clusters} c {rest}"
        );

    internal static Sql Numbers(IReadOnlyList<long> numbers) =>
        Sql.Join(", ", numbers.Select(number => Sql.Of($"{number}")));

    /// <summary>Why a cluster cannot be decided by somebody: another user has it, or it was decided.</summary>
    public static KettlefogException Taken(Cluster cluster) =>
        cluster.State is ClusterState.Open or ClusterState.Postponed
            ? new KettlefogException(
                ErrorCode.ClusterTaken,
                $"Cluster {cluster.Id} is assigned to {cluster.Assignee}.",
                "Choose another one, or take it over: assign it to yourself with 'force'."
            )
            : new KettlefogException(
                ErrorCode.ClusterTaken,
                $"Cluster {cluster.Id} is decided: {EnumName.Of(cluster.State).Replace('-', ' ')}.",
                "See the history for the decision."
            );

    private static Cluster Read(RowReader row)
    {
        var cluster = new Cluster(
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
            StoredTimestamp.ReadOptional(row.OptionalText()),
            ReadPostponement(row),
            StoredTimestamp.Read(row.Text()),
            StoredTimestamp.Read(row.Text()),
            row.Text(),
            []
        );
        return cluster.Assignee is null ? cluster with { ClaimedUntil = null } : cluster;
    }

    private static Postponement? ReadPostponement(RowReader row)
    {
        var (until, by, reason) = (row.OptionalText(), row.OptionalText(), row.OptionalText());
        return until is null ? null : new Postponement(Day(until), by ?? "", reason ?? "");
    }

    private static DateOnly Day(string text) => DateOnly.Parse(text, CultureInfo.InvariantCulture);
}
