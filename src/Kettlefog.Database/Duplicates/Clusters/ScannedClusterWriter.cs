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
    /// Replaces the clusters by those of a scan; a cluster that continues keeps its number and state.
    /// </summary>
    public async Task<long> ReplaceAsync(
        RecordType type,
        IReadOnlyList<NewCluster> found,
        DateTimeOffset at,
        CancellationToken cancellationToken
    )
    {
        var rows = await new ClusterStore(session)
            .MembersAsync(type.Name, cancellationToken)
            .ToListAsync(cancellationToken);
        var known = rows.GroupBy(row => row.Cluster)
            .Select(group => new KnownCluster(group.Key, [.. group.Select(row => row.Key)]))
            .ToList();
        var kept = ClusterIdentityMatcher.Match(known, [.. found.Select(cluster => cluster.Members)]);
        var next = await new NumberSeries(session).TakeAsync(
            NumberSeries.Clusters,
            kept.Count(id => id is null),
            Sql.Of($"SELECT MAX(id) FROM {_clusters}"),
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
                Sql.Of(
                    $"DELETE FROM {_records} WHERE left_by IS NULL AND cluster IN ({ClusterStore.Numbers(staying)})"
                ),
                cancellationToken
            );
        var moment = StoredTimestamp.Write(at);
        var numbered = found.Select((cluster, index) => (Id: kept[index] ?? next++, Cluster: cluster)).ToList();
        foreach (var chunk in numbered.Chunk(RowsAtOnce))
        {
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

        return found.Count;
    }

    /// <summary>
    /// Counts the related rows of the clusters of a record type, and adds up their amounts; a reading session is
    /// enough.
    /// </summary>
    public async Task<IReadOnlyDictionary<long, (long Rows, decimal Amount)>> WeighAsync(
        RecordType type,
        CancellationToken cancellationToken
    )
    {
        var map = session.Map;
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
            await foreach (var (record, count, sum) in rows)
            {
                var before = weights.GetValueOrDefault(record);
                weights[record] = (before.Rows + count, Added(before.Amount, ExactSum.Read(sum).Total ?? 0));
            }
        }

        var clusters = new Dictionary<long, (long Rows, decimal Amount)>();
        await foreach (var (key, cluster) in new ClusterStore(session).MembersAsync(type.Name, cancellationToken))
        {
            var (sum, weight) = (clusters.GetValueOrDefault(cluster), weights.GetValueOrDefault(key));
            clusters[cluster] = (sum.Rows + weight.Rows, Added(sum.Amount, weight.Amount));
        }

        return clusters;
    }

    /// <summary>Stores what <see cref="WeighAsync"/> found.</summary>
    public async Task StoreWeightsAsync(
        RecordType type,
        IReadOnlyDictionary<long, (long Rows, decimal Amount)> clusters,
        CancellationToken cancellationToken
    )
    {
        var hasAmount = type.References.Any(reference => reference.Amount is not null);
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

    /// <summary>The sum of two amounts by which clusters are ordered; it stops at the largest.</summary>
    private static decimal Added(decimal one, decimal two) =>
        new ExactSum(one, null).Plus(new ExactSum(Math.Abs(two), null)).Total ?? decimal.MaxValue;

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

    private async Task RemoveAsync(IReadOnlyList<long> clusters, CancellationToken cancellationToken)
    {
        await session.ExecuteAsync(
            Sql.Of($"DELETE FROM {_records} WHERE cluster IN ({ClusterStore.Numbers(clusters)})"),
            cancellationToken
        );
        await session.ExecuteAsync(
            Sql.Of($"DELETE FROM {_clusters} WHERE id IN ({ClusterStore.Numbers(clusters)})"),
            cancellationToken
        );
    }
}
