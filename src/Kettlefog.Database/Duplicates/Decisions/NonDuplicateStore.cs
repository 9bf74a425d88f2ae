using System.Text.Json;
using Kettlefog.Contracts;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Merging;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.Decisions;

/// <summary>Two records marked as not duplicates.</summary>
/// <param name="A">The key of one.</param>
/// <param name="B">The key of the other.</param>
/// <param name="Number">The history entry that records the decision.</param>
public sealed record NonDuplicatePair(string A, string B, long Number);

/// <summary>A pair that was decided, with the history entry that records it.</summary>
/// <param name="Number">The number of the history entry.</param>
/// <param name="Decision">The decision.</param>
internal sealed record NumberedDecision(long Number, Decision Decision);

/// <summary>The decisions about records: non-duplicates, and examples for learning scores.</summary>
internal sealed class NonDuplicateStore(Session session)
{
    /// <summary>The number of latest decisions to learn from.</summary>
    private const long MaxDecisions = 20_000;

    private readonly Sql _nonDuplicates = session.Dialect.Own("non_duplicate");
    private readonly Sql _decisions = session.Dialect.Own("decision");
    private readonly Sql _redirects = session.Dialect.Own("redirect");

    /// <summary>
    /// The non-duplicates of a record type, by their current keys: a non-duplicate of a retired record is one of its
    /// master.
    /// </summary>
    /// <param name="recordType">The record type.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <param name="of">Only those of one record, by its current key.</param>
    /// <param name="number">Only those that one history entry decided.</param>
    public Task<List<NonDuplicatePair>> ListAsync(
        string recordType,
        CancellationToken cancellationToken,
        string? of = null,
        long? number = null
    )
    {
        if (session.Engine.IsUninitialised)
            return Task.FromResult<List<NonDuplicatePair>>([]);
        var one = of is null
            ? Sql.Of($"1 = 1")
            : Sql.Of($"{of} IN (COALESCE(fa.master_key, a.key_a), COALESCE(fb.master_key, a.key_b))");
        var decided = number is { } entry ? Sql.Of($"a.number = {entry}") : Sql.Of($"1 = 1");
        return session.QueryAsync(
            Sql.Of(
                $"""
                SELECT COALESCE(fa.master_key, a.key_a), COALESCE(fb.master_key, a.key_b), a.number FROM
                  {_nonDuplicates} a
                LEFT JOIN {_redirects} fa ON fa.record_type = a.record_type AND fa.old_key = a.key_a
                LEFT JOIN {_redirects} fb ON fb.record_type = a.record_type AND fb.old_key = a.key_b
                WHERE a.record_type = {recordType} AND {one} AND {decided} ORDER BY a.number DESC, a.key_a, a.key_b
                """
            ),
            row => new NonDuplicatePair(row.Text(), row.Text(), row.Long()),
            cancellationToken
        );
    }

    /// <summary>The decisions that records of a merge are not duplicates of each other.</summary>
    /// <param name="recordType">The record type.</param>
    /// <param name="keys">The keys of the records: a decision about a retired record is one about its master.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<IReadOnlyList<MarkedNonDuplicates>> ListAmongAsync(
        string recordType,
        IReadOnlyList<string> keys,
        CancellationToken cancellationToken
    )
    {
        if (session.Engine.IsUninitialised)
            return [];
        var given = session.Dialect.ValuesTable("given", ["record_key"], keys.Select(key => Sql.Of($"{key}")));
        return await session.QueryAsync(
            Sql.Of(
                $"""
                WITH {given}, names (old_key, master_key) AS (
                  SELECT record_key, record_key FROM given
                  UNION ALL SELECT f.old_key, f.master_key FROM given JOIN {_redirects} f
                    ON f.record_type = {recordType} AND f.master_key = given.record_key)
                SELECT na.master_key, nb.master_key, n.key_a, n.key_b, n.number, h.actor, h.at, h.reason
                FROM names na JOIN {_nonDuplicates} n ON n.record_type = {recordType} AND n.key_a = na.old_key
                JOIN names nb ON nb.old_key = n.key_b
                JOIN {session.Dialect.Own("history")} h ON h.number = n.number
                WHERE na.master_key <> nb.master_key ORDER BY n.number, n.key_a, n.key_b
                """
            ),
            row => new MarkedNonDuplicates(
                row.Text(),
                row.Text(),
                (row.Text(), row.Text()),
                row.Long(),
                row.Text(),
                StoredTimestamp.Read(row.Text()),
                row.Text()
            ),
            cancellationToken
        );
    }

    /// <summary>Reopens decisions that records are not duplicates, for a merge of them.</summary>
    public async Task RemoveAsync(
        string recordType,
        IEnumerable<ReopenedPair> pairs,
        CancellationToken cancellationToken
    )
    {
        foreach (var pair in pairs)
            await session.ExecuteAsync(
                Sql.Of(
                    $"DELETE FROM {_nonDuplicates} WHERE record_type = {recordType} AND key_a = {pair.A} AND "
                        + $"key_b = {pair.B} AND number = {pair.Number}"
                ),
                cancellationToken
            );
    }

    /// <summary>Mark two records as not duplicates.</summary>
    public Task AddAsync(string recordType, string a, string b, long number, CancellationToken cancellationToken)
    {
        var (first, second) = Ordered(a, b);
        return session.ExecuteAsync(
            session.Dialect.Upsert(
                _nonDuplicates,
                ["record_type", "key_a", "key_b", "number"],
                [Sql.Of($"{recordType}, {first}, {second}, {number}")],
                ["record_type", "key_a", "key_b"],
                []
            ),
            cancellationToken
        );
    }

    /// <summary>Reopen a decision that two records are not duplicates.</summary>
    /// <returns>The entries that had marked them.</returns>
    public async Task<IReadOnlyList<NonDuplicatePair>> RemoveAsync(
        string recordType,
        string a,
        string b,
        CancellationToken cancellationToken
    )
    {
        var found = (await ListAsync(recordType, cancellationToken, a))
            .Where(pair => Ordered(pair.A, pair.B) == Ordered(a, b))
            .ToList();
        foreach (var number in found.Select(pair => pair.Number).Distinct())
        {
            await session.ExecuteAsync(
                Sql.Of(
                    $"""
                    DELETE FROM {_nonDuplicates} WHERE record_type = {recordType} AND number = {number}
                      AND COALESCE((SELECT f.master_key FROM {_redirects} f WHERE f.record_type = {recordType} AND
                        f.old_key = key_a), key_a) IN ({a}, {b})
                      AND COALESCE((SELECT f.master_key FROM {_redirects} f WHERE f.record_type = {recordType} AND
                        f.old_key = key_b), key_b) IN ({a}, {b})
                    """
                ),
                cancellationToken
            );
            await ForgetAsync(number, cancellationToken);
        }

        return found;
    }

    /// <summary>Reopens what a history entry decided, as far as it is not reopened yet.</summary>
    /// <returns>The pairs.</returns>
    public async Task<IReadOnlyList<NonDuplicatePair>> RemoveAsync(
        string recordType,
        long number,
        CancellationToken cancellationToken
    )
    {
        var found = await ListAsync(recordType, cancellationToken, number: number);
        await session.ExecuteAsync(
            Sql.Of($"DELETE FROM {_nonDuplicates} WHERE record_type = {recordType} AND number = {number}"),
            cancellationToken
        );
        await ForgetAsync(number, cancellationToken);
        return found;
    }

    /// <summary>Stores the values of the records at the time of a decision.</summary>
    public void KeepDecision(long number, RecordType type, IReadOnlyList<(string?[] A, string?[] B)> pairs, bool match)
    {
        var fields = JsonSerializer.Serialize(type.Fields.Select(field => field.Name));
        for (var place = 0; place < pairs.Count; place++)
        {
            session.Enqueue(
                Sql.Of(
                    $"INSERT INTO {_decisions} (number, place, record_type, is_match, fields, values_a, "
                        + $"values_b) VALUES ({number}, {(long)place}, {type.Name}, {(match ? 1L : 0L)}, {fields}, "
                        + $"{JsonSerializer.Serialize(pairs[place].A)}, {JsonSerializer.Serialize(pairs[place].B)})"
                )
            );
        }
    }

    /// <summary>Removes a decision that was reversed.</summary>
    public Task ForgetAsync(long number, CancellationToken cancellationToken) =>
        session.ExecuteAsync(Sql.Of($"DELETE FROM {_decisions} WHERE number = {number}"), cancellationToken);

    /// <summary>The latest decisions, with the values in the current order of the type's fields.</summary>
    public async Task<IReadOnlyList<NumberedDecision>> DecisionsAsync(
        RecordType type,
        CancellationToken cancellationToken
    )
    {
        var rows = await session.QueryAsync(
            Sql.Of(
                $"SELECT number, is_match, fields, values_a, values_b FROM {_decisions} WHERE record_type = "
                    + $"{type.Name} ORDER BY number DESC, place LIMIT {MaxDecisions}"
            ),
            row => (Number: row.Long(), Match: row.Flag(), Fields: row.Text(), A: row.Text(), B: row.Text()),
            cancellationToken
        );
        return
        [
            .. rows.Select(row =>
            {
                var fields = JsonSerializer.Deserialize<string[]>(row.Fields)!;
                var (a, b) = (
                    JsonSerializer.Deserialize<string?[]>(row.A)!,
                    JsonSerializer.Deserialize<string?[]>(row.B)!
                );
                var places = type.Fields.Select(field => Array.IndexOf(fields, field.Name)).ToList();
                return new NumberedDecision(
                    row.Number,
                    new Decision(
                        [.. places.Select(place => place < 0 ? null : a[place])],
                        [.. places.Select(place => place < 0 ? null : b[place])],
                        row.Match
                    )
                );
            }),
        ];
    }

    /// <summary>Two keys in the order in which a pair is stored.</summary>
    public static (string A, string B) Ordered(string a, string b) =>
        string.CompareOrdinal(a, b) <= 0 ? (a, b) : (b, a);
}
