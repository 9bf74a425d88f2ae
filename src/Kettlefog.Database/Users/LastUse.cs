using Kettlefog.Core;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Users;

/// <summary>When a session or a token was used last, to a few minutes: not every request writes.</summary>
internal static class LastUse
{
    private static readonly TimeSpan Precision = TimeSpan.FromMinutes(5);

    /// <summary>Stores that something was used, unless that is known well enough.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="table">The table of secrets.</param>
    /// <param name="column">The column that says when a secret was used last.</param>
    /// <param name="hash">The hash of the secret.</param>
    /// <param name="known">When it was used last as far as is known, or empty.</param>
    /// <param name="now">When it is used.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public static async Task NoteAsync(
        DatabaseEngine engine,
        Sql table,
        string column,
        string hash,
        string known,
        DateTimeOffset now,
        CancellationToken cancellationToken
    )
    {
        if (known.Length > 0 && now - StoredTimestamp.Read(known) < Precision)
            return;
        try
        {
            await using var session = await engine.OpenWriteAsync(cancellationToken);
            await session.ExecuteAsync(
                Sql.Of($"UPDATE {table} SET {new SqlName(column)} = {UserRows.Write(now)} WHERE hash = {hash}"),
                cancellationToken
            );
            await session.CommitAsync(cancellationToken);
        }
        catch (KettlefogException)
        {
            // A large merge is writing; the next request tries again.
        }
    }
}
