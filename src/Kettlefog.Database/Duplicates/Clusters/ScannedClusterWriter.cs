using System.Globalization;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching.Clustering;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.Clusters;

/// <summary>Writes the clusters of a scan, with the related rows and amounts of their records.</summary>
internal sealed class ScannedClusterWriter(Session session)
{
    private const int RowsAtOnce = 100;

    private readonly Sql _clusters = session.Dialect.Own("cluster");
    private readonly Sql _records = session.Dialect.Own("cluster_record");

    /// <summary>
    /// Compares the clusters of a scan with those in the queue; a cluster that continues keeps its number and state. A
    /// reading session is enough.
    /// </summary>
    public async Task<ClusterChanges> CompareAsync(
        RecordType type,
        IReadOnlyList<NewCluster> found,
        CancellationToken cancellationToken
    )
    {
        var rows = await ClusterStore
            .MembersAsync(session, type.Name, cancellationToken)
            .ToListAsync(cancellationToken);
        var known = rows.GroupBy(row => row.Cluster)
            .Select(group => new KnownCluster(group.Key, [.. group.Select(row => row.Key)]))
            .ToDictionary(cluster => cluster.Id);
        var stored = await session.QueryAsync(
            Sql.Of(
                $"SELECT id, rule, confidence, weakest, summary FROM {_clusters} WHERE record_type = {type.Name} AND "
                    + $"state IN ('open', 'postponed')"
            ),
            row => (Id: row.Long(), Cluster: new NewCluster([], row.Text(), row.Real(), row.Real(), row.Text())),
            cancellationToken
        );
        var before = stored.ToDictionary(row => row.Id, row => row.Cluster);
        var kept = ClusterIdentityMatcher.Match([.. known.Values], [.. found.Select(cluster => cluster.Members)]);
        bool IsSame(long id, NewCluster cluster) =>
            before[id] == cluster with { Members = before[id].Members }
            && cluster.Members.ToHashSet().SetEquals(known[id].Members);
        var staying = kept.OfType<long>().ToHashSet();
        return new ClusterChanges(
            [.. known.Keys.Where(id => !staying.Contains(id))],
            [
                .. kept.Zip(found)
                    .Where(pair => pair.First is { } id && !IsSame(id, pair.Second))
                    .Select(pair => (pair.First!.Value, pair.Second)),
            ],
            [.. kept.Zip(found).Where(pair => pair.First is null).Select(pair => pair.Second)]
        );
    }

    /// <summary>Takes numbers for new clusters.</summary>
    /// <returns>The first of them; the others follow it.</returns>
    public Task<long> TakeNumbersAsync(int count, CancellationToken cancellationToken) =>
        new NumberSeries(session).TakeAsync(
            NumberSeries.Clusters,
            count,
            Sql.Of($"SELECT MAX(id) FROM {_clusters}"),
            cancellationToken
        );

    /// <summary>Removes clusters that a scan no longer found, unless they were decided since.</summary>
    public async Task RemoveAsync(IReadOnlyList<long> clusters, CancellationToken cancellationToken)
    {
        foreach (var chunk in clusters.Chunk(RowsAtOnce))
        {
            var undecided = await session.QueryAsync(
                Sql.Of(
                    $"SELECT id FROM {_clusters} WHERE id IN ({ClusterStore.Numbers(chunk)}) AND state IN "
                        + $"('open', 'postponed')"
                ),
                row => row.Long(),
                cancellationToken
            );
            if (undecided.Count == 0)
                continue;
            var numbers = ClusterStore.Numbers(undecided);
            await session.ExecuteAsync(
                Sql.Of($"DELETE FROM {_records} WHERE cluster IN ({numbers})"),
                cancellationToken
            );
            await session.ExecuteAsync(Sql.Of($"DELETE FROM {_clusters} WHERE id IN ({numbers})"), cancellationToken);
        }
    }

    /// <summary>
    /// Writes clusters of a scan. One with records about which something was decided since is left as it is: the next
    /// scan finds what remains of it.
    /// </summary>
    /// <param name="type">The record type.</param>
    /// <param name="clusters">The clusters with their numbers, known or new.</param>
    /// <param name="since">The number of the last history entry that the scan knows.</param>
    /// <param name="at">When.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task WriteAsync(
        RecordType type,
        IReadOnlyList<(long Id, NewCluster Cluster)> clusters,
        long since,
        DateTimeOffset at,
        CancellationToken cancellationToken
    )
    {
        var decided = await DecidedSinceAsync(type, since, cancellationToken);
        var undecided = clusters.Where(each => !each.Cluster.Members.Any(decided.Contains));
        var moment = StoredTimestamp.Write(at);
        foreach (var chunk in undecided.Chunk(RowsAtOnce))
        {
            await session.ExecuteAsync(
                Sql.Of(
                    $"DELETE FROM {_records} WHERE left_by IS NULL AND cluster IN "
                        + $"({ClusterStore.Numbers([.. chunk.Select(each => each.Id)])})"
                ),
                cancellationToken
            );

            // Decisions about known clusters are kept; only what the scan found is rewritten.
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
    }

    /// <summary>The keys of the records that were merged or marked as not duplicates after a history entry.</summary>
    private async Task<HashSet<string>> DecidedSinceAsync(
        RecordType type,
        long since,
        CancellationToken cancellationToken
    )
    {
        var nonDuplicates = session.Dialect.Own("non_duplicate");
        var keys = await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT old_key FROM {session.Dialect.Own(
                    "redirect"
                )} WHERE record_type = {type.Name} AND number > {since}
                UNION SELECT key_a FROM {nonDuplicates} WHERE record_type = {type.Name} AND number > {since}
                UNION SELECT key_b FROM {nonDuplicates} WHERE record_type = {type.Name} AND number > {since}
                """
            ),
            row => row.Text(),
            cancellationToken
        );
        return [.. keys];
    }

    /// <summary>
    /// Counts the rows of a reference for the clusters of a record type, and adds up the amount if it is theirs; a
    /// reading session is enough.
    /// </summary>
    public async Task WeighAsync(
        RecordType type,
        Reference reference,
        ClusterWeights weights,
        CancellationToken cancellationToken
    )
    {
        var map = session.Map;
        var table = map.Catalog.Require(reference.Table);
        var columns = table.Require(reference.Columns);
        var amount =
            type.Amount is { Column: { } column } figure && figure.Reference == reference.Name
                ? session.Dialect.DecimalSum(Sql.Of($"t.{new SqlName(column)}"), table.Find(column))
                : session.Dialect.AsText(Sql.Literal("NULL"));
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
        await foreach (var (record, count, sum) in rows)
            weights.Add(record, count, ExactSum.Read(sum).Total ?? 0);
    }

    /// <summary>Stores the weights of the clusters of a record type.</summary>
    public async Task StoreWeightsAsync(RecordType type, ClusterWeights weights, CancellationToken cancellationToken)
    {
        var clusters = new Dictionary<long, (long Rows, decimal Amount)>();
        await foreach (var (key, cluster) in ClusterStore.MembersAsync(session, type.Name, cancellationToken))
            clusters[cluster] = ClusterWeights.Added(clusters.GetValueOrDefault(cluster), weights[key]);
        foreach (var chunk in clusters.Chunk(RowsAtOnce))
        {
            var rows = chunk.Select(pair =>
                Sql.Of(
                    $"{pair.Key}, {pair.Value.Rows}, "
                        + $"{(type.Amount is null ? null : pair.Value.Amount.ToString(CultureInfo.InvariantCulture))}"
                )
            );
            await session.ExecuteAsync(
                session.Dialect.UpdateFromValues(_clusters, "id", ["related_rows", "amount"], rows),
                cancellationToken
            );
        }
    }

    /// <summary>
    /// The key of the record that a row refers to by other columns or in a longer text, and the join that reads it.
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
        Sql Around(string before, string after) =>
            session.Dialect.Concatenate(Sql.Of($"{before}"), session.Keys.Text(to, "r"), Sql.Of($"{after}"));
        var on = around is null
            ? Sql.Join(" AND ", table.Require(reference.Columns).Zip(to, On))
            : Sql.Of($"{Around(around[0], around[1])} = t.{new SqlName(reference.Columns[0])}");
        return (
            session.Keys.Text(records.Require(type.Key), "r"),
            Sql.Of($"{session.Dialect.Table(table)} t JOIN {session.Dialect.Table(records)} r ON {on}")
        );
    }
}
