using Kettlefog.Core;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Own;

/// <summary>
/// Stores which request did what, so that one sent twice is done once (the Idempotency-Key header, IETF
/// draft-ietf-httpapi-idempotency-key-header). It is written in the transaction of the request itself.
/// </summary>
internal sealed class IdempotencyStore(Session session, string actor, string? key, params string[] request)
{
    private readonly Sql _table = session.Dialect.Own("idempotency");

    /// <summary>The entry that the same request made before, or null.</summary>
    /// <exception cref="KettlefogException">The key was used for another request.</exception>
    public async Task<long?> FindAsync(CancellationToken cancellationToken)
    {
        if (key is null)
            return null;
        var found = await session.QueryAsync(
            Sql.Of($"SELECT request, number FROM {_table} WHERE actor = {actor} AND key = {key}"),
            row => (Request: row.Text(), Number: row.Long()),
            cancellationToken
        );
        if (found.Count == 0)
            return null;
        return found[0].Request == Digest
            ? found[0].Number
            : throw new KettlefogException(
                ErrorCode.IdempotencyKeyReused,
                $"The Idempotency-Key '{key}' was used before for another request.",
                "Send a new key with every new request."
            );
    }

    /// <summary>Stores what the request did.</summary>
    public void Keep(long number)
    {
        if (key is not null)
            session.Enqueue(
                Sql.Of(
                    $"INSERT INTO {_table} (actor, key, request, number) VALUES ({actor}, {key}, {Digest}, {number})"
                )
            );
    }

    private string Digest
    {
        get
        {
            using var digest = new Sha256Digest();
            foreach (var part in request)
                digest.Add(part);
            return Convert.ToHexStringLower(digest.Finish());
        }
    }
}
