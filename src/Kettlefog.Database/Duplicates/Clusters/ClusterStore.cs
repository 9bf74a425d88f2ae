using System.Globalization;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching.Clustering;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Schema;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.Clusters;

/// <summary>What became of a cluster.</summary>
public enum ClusterState
{
    /// <summary>It waits for a decision.</summary>
    Open,

    /// <summary>Its records were merged.</summary>
    Merged,

    /// <summary>Its records are kept apart.</summary>
    NonDuplicates,

    /// <summary>It was put off until a day.</summary>
    Postponed,
}

/// <summary>A group of suspected duplicates.</summary>
/// <param name="Id">Its number, which it keeps from scan to scan.</param>
/// <param name="RecordType">The name of the record type.</param>
/// <param name="State">What became of it.</param>
/// <param name="Rule">The rule that proposes it.</param>
/// <param name="Confidence">The mean score of its pairs, from 0 to 1.</param>
/// <param name="Weakest">The least score of its pairs.</param>
/// <param name="Records">How many records it has.</param>
/// <param name="RelatedRows">How many related rows they have.</param>
/// <param name="Amount">What these rows are worth, as the map says it; null if it does not.</param>
/// <param name="Assignee">Who works on it, or null.</param>
/// <param name="PostponedUntil">The date until which it is postponed, or null.</param>
/// <param name="FoundAt">When it was found.</param>
/// <param name="ChangedAt">When it changed last.</param>
/// <param name="Summary">The strongest evidence for it, in few words.</param>
/// <param name="Members">The keys of its records that are still in it.</param>
public sealed record Cluster(
    long Id,
    string RecordType,
    ClusterState State,
    string Rule,
    double Confidence,
    double Weakest,
    long Records,
    long RelatedRows,
    string? Amount,
    string? Assignee,
    DateOnly? PostponedUntil,
    DateTimeOffset FoundAt,
    DateTimeOffset ChangedAt,
    string Summary,
    IReadOnlyList<string> Members
);

/// <summary>What clusters can be sorted by.</summary>
public enum ClusterOrder
{
    /// <summary>The most certain first.</summary>
    Confidence,

    /// <summary>Those with the most related rows first.</summary>
    Impact,

    /// <summary>Those worth most first.</summary>
    Amount,

    /// <summary>Those found first come first.</summary>
    Age,
}

/// <summary>Which clusters to list.</summary>
/// <param name="RecordType">Only those of a record type.</param>
/// <param name="State">Only those in a state; null for all. One put off counts as open from its day on.</param>
/// <param name="Assignee">Only those that a user has in hand; empty for those that nobody has.</param>
/// <param name="Rule">Only clusters proposed by this rule.</param>
/// <param name="Least">Only those with at least this confidence, from 0 to 1.</param>
/// <param name="Most">Only those with at most this confidence.</param>
/// <param name="Record">Only the cluster with this record.</param>
/// <param name="Order">What they are sorted by.</param>
public sealed record ClusterFilter(
    string? RecordType = null,
    ClusterState? State = ClusterState.Open,
    string? Assignee = null,
    string? Rule = null,
    double? Least = null,
    double? Most = null,
    string? Record = null,
    ClusterOrder Order = ClusterOrder.Confidence
);

/// <summary>How many clusters stand alike.</summary>
/// <param name="RecordType">The name of the record type.</param>
/// <param name="State">What became of them; those put off count as open from their day on.</param>
/// <param name="IsAssigned">True if somebody has them in hand.</param>
/// <param name="Percent">Their confidence, from 0 to 100.</param>
/// <param name="Clusters">How many they are.</param>
/// <param name="RelatedRows">How many related rows their records have.</param>
/// <param name="Amount">What these rows are worth.</param>
public sealed record ClusterCount(
    string RecordType,
    ClusterState State,
    bool IsAssigned,
    int Percent,
    long Clusters,
    long RelatedRows,
    decimal Amount
);

/// <summary>A cluster as a scan found it.</summary>
internal sealed record NewCluster(
    IReadOnlyList<string> Members,
    string Rule,
    double Confidence,
    double Weakest,
    string Summary
);

/// <summary>The queue of clusters.</summary>
internal sealed class ClusterStore(Session session)
{
    private const int RowsAtOnce = 100;

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
    /// Puts the clusters of a scan in the place of those before; clusters that go on keep their number and state.
    /// </summary>
    public async Task<long> ReplaceAsync(
        RecordType type,
        IReadOnlyList<NewCluster> found,
        DateTimeOffset at,
        CancellationToken cancellationToken
    )
    {
        var rows = await session.QueryAsync(
            Sql.Of(
                $"SELECT r.cluster, r.record_key FROM {_records} r JOIN {_clusters} c ON c.id = r.cluster "
                    + $"WHERE c.record_type = {type.Name} AND c.state IN ('open', 'postponed') AND r.left_by IS NULL "
                    + $"ORDER BY r.cluster, r.record_key"
            ),
            row => (Cluster: row.Long(), Key: row.Text()),
            cancellationToken
        );
        var known = rows.GroupBy(row => row.Cluster)
            .Select(group => new KnownCluster(group.Key, [.. group.Select(row => row.Key)]))
            .ToList();
        var kept = ClusterIdentityMatcher.Match(known, [.. found.Select(cluster => cluster.Members)]);
        var next = await session.QueryLongAsync(
            Sql.Of($"SELECT COALESCE(MAX(id), 0) FROM {_clusters}"),
            cancellationToken
        );
        var stay = kept.OfType<long>().ToHashSet();
        foreach (
            var gone in known
                .Where(cluster => !stay.Contains(cluster.Id))
                .Select(cluster => cluster.Id)
                .Chunk(RowsAtOnce)
        )
            await RemoveAsync(gone, cancellationToken);
        foreach (var staying in stay.Chunk(RowsAtOnce))
            await session.ExecuteAsync(
                Sql.Of($"DELETE FROM {_records} WHERE left_by IS NULL AND cluster IN ({Numbers(staying)})"),
                cancellationToken
            );
        var moment = StoredTimestamp.Write(at);
        var numbered = found.Select((cluster, index) => (Id: kept[index] ?? ++next, Cluster: cluster)).ToList();
        foreach (var chunk in numbered.Chunk(RowsAtOnce))
        {
            // What is known stays as it was decided; only what the scan found is written anew.
            await session.ExecuteAsync(
                session.Dialect.Upsert(
                    _clusters,
                    [
                        "id",
                        "record_type",
                        "state",
                        "rule",
                        "confidence",
                        "weakest",
                        "records",
                        "related_rows",
                        "summary",
                        "found_at",
                        "changed_at",
                    ],
                    chunk.Select(each =>
                        Sql.Of(
                            $"{each.Id}, {type.Name}, 'open', {each.Cluster.Rule}, {each.Cluster.Confidence}, "
                                + $"{each.Cluster.Weakest}, {(long)each.Cluster.Members.Count}, 0, "
                                + $"{each.Cluster.Summary}, {moment}, {moment}"
                        )
                    ),
                    ["id"],
                    ["rule", "confidence", "weakest", "records", "summary"]
                ),
                cancellationToken
            );
            var members = chunk.SelectMany(each =>
                each.Cluster.Members.Select(key => Sql.Of($"{each.Id}, {key}, {type.Name}, NULL"))
            );
            await session.ExecuteAsync(
                session.Dialect.Upsert(
                    _records,
                    ["cluster", "record_key", "record_type", "left_by"],
                    members,
                    ["cluster", "record_key"],
                    ["left_by"]
                ),
                cancellationToken
            );
        }

        return found.Count;
    }

    /// <summary>Counts the related rows of the clusters of a record type.</summary>
    public async Task MeasureAsync(RecordType type, CheckedMap map, CancellationToken cancellationToken)
    {
        var weights = new Dictionary<string, (long Rows, decimal Amount)>();
        foreach (var reference in type.References)
        {
            var table = map.Catalog.Require(reference.Table);
            var columns = table.Require(reference.Columns);
            var amount = reference.Amount is null
                ? session.Dialect.AsText(Sql.Literal("NULL"))
                : session.Dialect.DecimalSum(
                    Sql.Of($"t.{new SqlName(reference.Amount)}"),
                    table.Find(reference.Amount)
                );
            var holds = session.Keys.Holds(reference, table, "t");
            var (key, source) = reference.HoldsKey
                ? (session.Keys.Text(columns), Sql.Of($"{session.Dialect.Table(table)} t"))
                : RecordsBehind(type, reference, table, map.Catalog.Require(type.Table));
            var rows = session.StreamAsync(
                Sql.Of(
                    $"""
                    SELECT MIN({key}), COUNT(*), {amount} FROM {source}
                    WHERE {holds} AND {key} IN (SELECT r.record_key FROM {_records} r WHERE r.record_type = {type.Name})
                    GROUP BY {Sql.Join(", ", reference.Columns.Select(column => Sql.Of($"t.{new SqlName(column)}")))}
                    """
                ),
                row => (Key: row.Text(), Count: row.Long(), Amount: row.OptionalText()),
                cancellationToken
            );
            await foreach (var (record, count, worth) in rows)
            {
                var before = weights.GetValueOrDefault(record);
                weights[record] = (
                    before.Rows + count,
                    before.Amount
                        + (
                            decimal.TryParse(worth, NumberStyles.Float, CultureInfo.InvariantCulture, out var value)
                                ? Math.Abs(value)
                                : 0
                        )
                );
            }
        }

        var hasAmount = type.References.Any(reference => reference.Amount is not null);
        var clusters = new Dictionary<long, (long Rows, decimal Amount)>();
        await foreach (var (key, cluster) in MembersAsync(type.Name, cancellationToken))
        {
            var (sum, weight) = (clusters.GetValueOrDefault(cluster), weights.GetValueOrDefault(key));
            clusters[cluster] = (sum.Rows + weight.Rows, sum.Amount + weight.Amount);
        }

        foreach (var chunk in clusters.Chunk(RowsAtOnce))
        {
            var rows = chunk.Select(pair =>
                Sql.Of(
                    $"{pair.Key}, {pair.Value.Rows}, "
                        + $"{(hasAmount ? pair.Value.Amount.ToString(CultureInfo.InvariantCulture) : null)}"
                )
            );
            await session.ExecuteAsync(
                session.Dialect.UpdateFromValues(_clusters, "id", ["related_rows", "amount"], rows),
                cancellationToken
            );
        }
    }

    /// <summary>
    /// The key of the record that a row points at by other columns or in a longer text, and where to read it.
    /// </summary>
    private (Sql Key, Sql Source) RecordsBehind(
        RecordType type,
        Reference reference,
        TableSchema table,
        TableSchema records
    )
    {
        var to = records.Require(reference.To.Count == 0 ? type.Key : reference.To);
        Sql On(ColumnSchema column, ColumnSchema target) =>
            Sql.Of($"r.{new SqlName(target.Name)} = t.{new SqlName(column.Name)}");
        var around = reference.Template?.Split(Reference.KeyPlaceholder);
        var on = around is null
            ? Sql.Join(" AND ", table.Require(reference.Columns).Zip(to, On))
            : Sql.Of(
                $"{session.Dialect.Concatenate(Sql.Of($"{around[0]}"), session.Keys.Text(to, "r"), Sql
                    .Of($"{around[1]}"))} "
                    + $"= t.{new SqlName(reference.Columns[0])}"
            );
        return (
            session.Keys.Text(records.Require(type.Key), "r"),
            Sql.Of($"{session.Dialect.Table(table)} t JOIN {session.Dialect.Table(records)} r ON {on}")
        );
    }

    /// <summary>
    /// Gives a cluster to a user, or to nobody; one's own can be handed over, another's only if that is meant.
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
    /// Takes records out of every cluster they wait in; a cluster without two records left is decided.
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

    /// <summary>Brings back what an entry of the history took out: all records, or some of them.</summary>
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

    private async Task RemoveAsync(IReadOnlyList<long> clusters, CancellationToken cancellationToken)
    {
        await session.ExecuteAsync(
            Sql.Of($"DELETE FROM {_records} WHERE cluster IN ({Numbers(clusters)})"),
            cancellationToken
        );
        await session.ExecuteAsync(
            Sql.Of($"DELETE FROM {_clusters} WHERE id IN ({Numbers(clusters)})"),
            cancellationToken
        );
    }

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
        if (filter.Least is { } least)
            conditions.Add(Sql.Of($"c.confidence >= {least}"));
        if (filter.Most is { } most)
            conditions.Add(Sql.Of($"c.confidence <= {most}"));
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

        // Of a cluster that was decided, all records are told that were in it.
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

    private static Sql Numbers(IReadOnlyList<long> numbers) =>
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
                "Look at the history for what was done."
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
