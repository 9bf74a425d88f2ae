using Kettlefog.Database.Duplicates.Decisions;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.Finding;

/// <summary>A pair that a scan scored.</summary>
/// <param name="A">The key of one record.</param>
/// <param name="B">The key of the other.</param>
/// <param name="Score">The probability that both are the same entity, from 0 to 1.</param>
/// <param name="Rule">The rule that gives the score.</param>
/// <param name="Proposed">True if the rule proposes the pair.</param>
public sealed record StoredPair(string A, string B, double Score, string Rule, bool Proposed)
{
    /// <summary>The decimals of a score that are stored: enough to tell apart what is nearly certain.</summary>
    public const int Decimals = 6;
}

/// <summary>The pairs of scans, and the digests of the records when they were compared.</summary>
internal sealed class PairStore(Session session)
{
    private const int RowsAtOnce = 150;

    private readonly Sql _pairs = session.Dialect.Own("pair");
    private readonly Sql _hashes = session.Dialect.Own("scan_record");

    /// <summary>Stores pairs of a scan; a known pair is replaced.</summary>
    public async Task AddAsync(
        string recordType,
        long scan,
        IReadOnlyList<StoredPair> pairs,
        CancellationToken cancellationToken
    )
    {
        foreach (var chunk in pairs.Chunk(RowsAtOnce))
        {
            var rows = chunk.Select(pair =>
                Sql.Of(
                    $"{recordType}, {pair.A}, {pair.B}, {scan}, {pair.Score}, {pair.Rule}, {(pair.Proposed ? 1L : 0L)}"
                )
            );
            await session.ExecuteAsync(
                session.Dialect.Upsert(
                    _pairs,
                    ["record_type", "key_a", "key_b", "scan", "score", "rule", "proposed"],
                    rows,
                    ["record_type", "key_a", "key_b", "scan"],
                    ["score", "rule", "proposed"]
                ),
                cancellationToken
            );
        }
    }

    /// <summary>
    /// The pairs of a scan, or those of the last finished one; without records that were retired since.
    /// </summary>
    /// <param name="recordType">The record type.</param>
    /// <param name="scan">The scan; null for the last finished one.</param>
    /// <param name="minScore">The minimum score.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public IAsyncEnumerable<StoredPair> ReadAsync(
        string recordType,
        long? scan,
        double minScore,
        CancellationToken cancellationToken
    )
    {
        var of = scan is { } id
            ? Sql.Of($"scan = {id}")
            : Sql.Of(
                $"scan = (SELECT MAX(s.id) FROM {session.Dialect.Own("scan")} s WHERE s.record_type = "
                    + $"{recordType} AND s.state = 'finished')"
            );
        var retired = Sql.Of(
            $"SELECT f.old_key FROM {session.Dialect.Own("redirect")} f WHERE f.record_type = {recordType}"
        );
        return session.StreamAsync(
            Sql.Of(
                $"SELECT key_a, key_b, score, rule, proposed FROM {_pairs} WHERE record_type = {recordType} "
                    + $"AND {of} AND score >= {minScore} AND key_a NOT IN ({retired}) AND key_b NOT IN ({retired}) "
                    + $"ORDER BY score DESC, key_a, key_b"
            ),
            row => new StoredPair(row.Text(), row.Text(), row.Real(), row.Text(), row.Flag()),
            cancellationToken
        );
    }

    /// <summary>Those of some pairs that are not marked as not duplicates and of which no record was retired.</summary>
    public async Task<HashSet<(string A, string B)>> UndecidedAsync(
        string recordType,
        IReadOnlyList<(string A, string B)> pairs,
        CancellationToken cancellationToken
    )
    {
        if (pairs.Count == 0)
            return [];
        var given = session.Dialect.ValuesTable(
            "given",
            ["key_a", "key_b"],
            pairs.Select(pair => Sql.Of($"{pair.A}, {pair.B}"))
        );
        var retired = Sql.Of(
            $"SELECT f.old_key FROM {session.Dialect.Own("redirect")} f WHERE f.record_type = {recordType}"
        );
        var marked = await new NonDuplicateStore(session).ListAsync(recordType, cancellationToken);
        var open = await session.QueryAsync(
            Sql.Of(
                $"WITH {given} SELECT key_a, key_b FROM given WHERE key_a NOT IN ({retired}) "
                    + $"AND key_b NOT IN ({retired})"
            ),
            row => (A: row.Text(), B: row.Text()),
            cancellationToken
        );
        var decided = marked.Select(pair => NonDuplicateStore.Ordered(pair.A, pair.B)).ToHashSet();
        return [.. open.Where(pair => !decided.Contains(NonDuplicateStore.Ordered(pair.A, pair.B)))];
    }

    /// <summary>Deletes the pairs of a scan.</summary>
    public Task ForgetAsync(string recordType, long scan, CancellationToken cancellationToken) =>
        session.ExecuteAsync(
            Sql.Of($"DELETE FROM {_pairs} WHERE record_type = {recordType} AND scan = {scan}"),
            cancellationToken
        );

    /// <summary>Deletes pairs of all other scans.</summary>
    /// <param name="recordType">The record type.</param>
    /// <param name="scan">The scan whose pairs are kept.</param>
    /// <param name="limit">About how many to delete.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>True if there are more.</returns>
    public async Task<bool> ForgetOthersAsync(
        string recordType,
        long scan,
        long limit,
        CancellationToken cancellationToken
    )
    {
        var others = Sql.Of($"FROM {_pairs} WHERE record_type = {recordType} AND scan <> {scan}");
        var until = await session.QueryAsync(
            Sql.Of($"SELECT key_a {others} ORDER BY key_a LIMIT 1 OFFSET {limit}"),
            row => row.Text(),
            cancellationToken
        );
        await session.ExecuteAsync(
            until.Count == 0 ? Sql.Of($"DELETE {others}") : Sql.Of($"DELETE {others} AND key_a <= {until[0]}"),
            cancellationToken
        );
        return until.Count > 0;
    }

    /// <summary>The digests of the records at the last finished scan.</summary>
    public async Task<Dictionary<string, long>> ReadContentHashesAsync(
        string recordType,
        CancellationToken cancellationToken
    )
    {
        var hashes = new Dictionary<string, long>();
        await foreach (
            var (key, hash) in session.StreamAsync(
                Sql.Of($"SELECT record_key, content_hash FROM {_hashes} WHERE record_type = {recordType}"),
                row => (row.Text(), row.Long()),
                cancellationToken
            )
        )
            hashes[key] = hash;
        return hashes;
    }

    /// <summary>Deletes the digests of records.</summary>
    public async Task ForgetContentHashesAsync(
        string recordType,
        IReadOnlyList<string> keys,
        CancellationToken cancellationToken
    )
    {
        foreach (var chunk in keys.Chunk(RowsAtOnce))
            await session.ExecuteAsync(
                Sql.Of(
                    $"DELETE FROM {_hashes} WHERE record_type = {recordType} AND record_key IN "
                        + $"({Sql.Join(", ", chunk.Select(key => Sql.Of($"{key}")))})"
                ),
                cancellationToken
            );
    }

    /// <summary>Stores the current digests of records.</summary>
    public async Task StoreContentHashesAsync(
        string recordType,
        IReadOnlyList<(string Key, long Hash)> records,
        CancellationToken cancellationToken
    )
    {
        foreach (var chunk in records.Chunk(RowsAtOnce))
        {
            var rows = chunk.Select(record => Sql.Of($"{recordType}, {record.Key}, {record.Hash}"));
            await session.ExecuteAsync(
                session.Dialect.Upsert(
                    _hashes,
                    ["record_type", "record_key", "content_hash"],
                    rows,
                    ["record_type", "record_key"],
                    ["content_hash"]
                ),
                cancellationToken
            );
        }
    }
}
