using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Users;

/// <summary>A session of the console, without its secret.</summary>
/// <param name="Id">Its number.</param>
/// <param name="User">Who is signed in.</param>
/// <param name="Address">The network address that signed in, or null if it is not known.</param>
/// <param name="CreatedAt">When it began.</param>
/// <param name="LastSeenAt">When it was used last, to a few minutes.</param>
/// <param name="ExpiresAt">When it ends at the latest.</param>
/// <param name="IsCurrent">Whether it is the session that asks.</param>
public sealed record ConsoleSession(
    long Id,
    string User,
    string? Address,
    DateTimeOffset CreatedAt,
    DateTimeOffset LastSeenAt,
    DateTimeOffset ExpiresAt,
    bool IsCurrent
);

/// <summary>
/// Stores who is signed in to the console; the secrets in their cookies only as hashes. A session that is not stored,
/// whose time is over, or whose user is disabled, is of no use to anybody.
/// </summary>
public sealed class SessionStore
{
    /// <summary>How long a session lasts at most.</summary>
    public static readonly TimeSpan Lifetime = TimeSpan.FromDays(7);

    /// <summary>How long a session lasts that nobody uses.</summary>
    public static readonly TimeSpan IdleLimit = TimeSpan.FromHours(12);

    private readonly DatabaseEngine _engine;
    private readonly TimeProvider _clock;

    internal SessionStore(DatabaseEngine engine, TimeProvider clock)
    {
        _engine = engine;
        _clock = clock;
    }

    /// <summary>Starts a session.</summary>
    /// <param name="user">The name of the user, whose credentials were checked.</param>
    /// <param name="address">The network address of the caller, or null if it is not known.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>
    /// The secret of the session, which cannot be read again, because only its hash is stored; or null if the user was
    /// disabled meanwhile.
    /// </returns>
    public async Task<string?> StartAsync(string user, string? address, CancellationToken cancellationToken)
    {
        var secret = Secret.Create();
        var now = _clock.GetUtcNow();
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var rows = new UserRows(session);
        if (await rows.FindAsync(user, cancellationToken) is not { IsDisabled: false })
            return null;
        await session.ExecuteAsync(Sql.Of($"DELETE FROM {Sessions} WHERE NOT ({IsOpen(now)})"), cancellationToken);
        await session.ExecuteAsync(
            Sql.Of(
                $"""
                INSERT INTO {Sessions} (hash, user_name, address, created_at, last_seen_at, expires_at)
                VALUES ({Sha256Digest.OfText(secret)}, {user}, {address}, {UserRows.Write(now)},
                        {UserRows.Write(now)}, {UserRows.Write(now + Lifetime)})
                """
            ),
            cancellationToken
        );
        await rows.NoteSignInAsync(user, now, cancellationToken);
        await session.CommitAsync(cancellationToken);
        return secret;
    }

    /// <summary>The user of a session, or null if it is over.</summary>
    /// <param name="secret">The secret of the session.</param>
    /// <param name="isUse">Whether the session is used; if not, it is only asked about.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<User?> CheckAsync(string secret, bool isUse, CancellationToken cancellationToken)
    {
        var now = _clock.GetUtcNow();
        var hash = Sha256Digest.OfText(secret);
        User? user;
        string? lastSeen = null;
        await using (var session = await _engine.OpenReadAsync(cancellationToken))
        {
            user = (
                await new UserRows(session).QueryAsync(
                    Sql.Of(
                        $"""
                        JOIN {Sessions} s ON s.user_name = u.name
                        WHERE s.hash = {hash} AND {IsOpen(now)} AND u.disabled_at IS NULL
                        """
                    ),
                    cancellationToken
                )
            ).SingleOrDefault();
            if (user is not null && isUse)
                lastSeen = (
                    await session.QueryAsync(
                        Sql.Of($"SELECT last_seen_at FROM {Sessions} WHERE hash = {hash}"),
                        row => row.Text(),
                        cancellationToken
                    )
                ).SingleOrDefault();
        }

        if (lastSeen is not null)
            await LastUse.NoteAsync(_engine, Sessions, "last_seen_at", hash, lastSeen, now, cancellationToken);
        return user;
    }

    /// <summary>The sessions that are not over, the newest first.</summary>
    /// <param name="user">The user whose they are, or null for all.</param>
    /// <param name="current">The secret of the session that asks, or null if there is none.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<IReadOnlyList<ConsoleSession>> ListAsync(
        string? user,
        string? current,
        CancellationToken cancellationToken
    )
    {
        var hash = current is null ? null : Sha256Digest.OfText(current);
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT id, user_name, address, created_at, last_seen_at, expires_at, hash FROM {Sessions}
                WHERE {OfUser(user)} AND {IsOpen(_clock.GetUtcNow())} ORDER BY id DESC
                """
            ),
            row => new ConsoleSession(
                row.Long(),
                row.Text(),
                row.OptionalText(),
                StoredTimestamp.Read(row.Text()),
                StoredTimestamp.Read(row.Text()),
                StoredTimestamp.Read(row.Text()),
                row.Text() == hash
            ),
            cancellationToken
        );
    }

    /// <summary>Ends the session that has a secret, if it is not over.</summary>
    public Task EndAsync(string secret, CancellationToken cancellationToken) =>
        DeleteAsync(Sql.Of($"hash = {Sha256Digest.OfText(secret)}"), cancellationToken);

    /// <summary>Ends a session.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="user">The user whose it must be, or null for anyone.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>True if there was such a session.</returns>
    public async Task<bool> EndAsync(long id, string? user, CancellationToken cancellationToken) =>
        await DeleteAsync(Sql.Of($"id = {id} AND {OfUser(user)}"), cancellationToken) > 0;

    /// <summary>Ends all sessions of a user.</summary>
    /// <returns>How many there were.</returns>
    public Task<int> EndAllAsync(string user, CancellationToken cancellationToken) =>
        DeleteAsync(OfUser(user), cancellationToken);

    private Sql Sessions => _engine.Dialect.Own("session");

    private static Sql IsOpen(DateTimeOffset now) =>
        Sql.Of($"expires_at >= {UserRows.Write(now)} AND last_seen_at >= {UserRows.Write(now - IdleLimit)}");

    private static Sql OfUser(string? user) => user is null ? Sql.Of($"1 = 1") : Sql.Of($"user_name = {user}");

    private async Task<int> DeleteAsync(Sql condition, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var ended = await session.ExecuteAsync(Sql.Of($"DELETE FROM {Sessions} WHERE {condition}"), cancellationToken);
        await session.CommitAsync(cancellationToken);
        return (int)ended;
    }
}
