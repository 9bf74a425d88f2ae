using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Records;

/// <summary>A redirect from a retired key to its master.</summary>
/// <param name="OldKey">The retired key, in text form.</param>
/// <param name="Master">The key of the current master, after all later merges.</param>
/// <param name="Number">The merge that retired it.</param>
public sealed record Redirect(string OldKey, string Master, long Number);

/// <summary>The redirects, stored flat: each old key leads to the current master in one step.</summary>
internal sealed class RedirectStore(Session session)
{
    private readonly Sql _table = session.Dialect.Own("redirect");

    /// <summary>The redirect of a key, or null if it is not retired.</summary>
    public async Task<Redirect?> FindAsync(string recordType, string key, CancellationToken cancellationToken) =>
        (await FindAsync(recordType, [key], cancellationToken)).SingleOrDefault();

    /// <summary>The redirects of those of the keys that are retired.</summary>
    public Task<List<Redirect>> FindAsync(
        string recordType,
        IReadOnlyList<string> keys,
        CancellationToken cancellationToken
    ) =>
        session.Engine.IsUninitialised
            ? Task.FromResult<List<Redirect>>([])
            : session.QueryAsync(
                Sql.Of(
                    $"""
                    SELECT old_key, master_key, number FROM {_table}
                    WHERE record_type = {recordType} AND old_key IN ({Sql.Join(
                        ", ",
                        keys.Select(key => Sql.Of($"{key}"))
                    )})
                    """
                ),
                Read,
                cancellationToken
            );

    /// <summary>The old keys that redirect to a master.</summary>
    public Task<List<Redirect>> ListToAsync(string recordType, string master, CancellationToken cancellationToken) =>
        session.QueryAsync(
            Sql.Of(
                $"SELECT old_key, master_key, number FROM {_table} WHERE record_type = {recordType} AND "
                    + $"master_key = {master} ORDER BY number, old_key"
            ),
            Read,
            cancellationToken
        );

    /// <summary>Redirects a duplicate, and all keys that redirected to it, to its master.</summary>
    public void Add(string recordType, string duplicate, string master, long number)
    {
        session.Enqueue(
            Sql.Of(
                $"UPDATE {_table} SET master_key = {master} WHERE record_type = {recordType} AND master_key = "
                    + $"{duplicate}"
            )
        );
        session.Enqueue(
            Sql.Of(
                $"""
                INSERT INTO {_table} (record_type, old_key, into_key, master_key, number)
                VALUES ({recordType}, {duplicate}, {master}, {master}, {number})
                """
            )
        );
    }

    /// <summary>Removes a merge's redirects; keys that redirected to its duplicates do so again.</summary>
    public async Task RemoveAsync(
        string recordType,
        IReadOnlyList<string> duplicates,
        long number,
        CancellationToken cancellationToken
    )
    {
        await session.ExecuteAsync(
            Sql.Of(
                $"DELETE FROM {_table} WHERE record_type = {recordType} AND number = {number} AND old_key IN "
                    + $"({Sql.Join(", ", duplicates.Select(key => Sql.Of($"{key}")))})"
            ),
            cancellationToken
        );
        foreach (var duplicate in duplicates)
        {
            await session.ExecuteAsync(
                Sql.Of(
                    $"""
                    UPDATE {_table} SET master_key = {duplicate}
                    WHERE record_type = {recordType} AND old_key IN (
                      WITH RECURSIVE chain (old_key) AS (
                        SELECT old_key FROM {_table} WHERE record_type = {recordType} AND into_key = {duplicate}
                        UNION
                        SELECT f.old_key FROM {_table} f JOIN chain c ON f.record_type = {recordType} AND f.into_key =
                          c.old_key)
                      SELECT old_key FROM chain)
                    """
                ),
                cancellationToken
            );
        }
    }

    private static Redirect Read(RowReader row) => new(row.Text(), row.Text(), row.Long());
}
