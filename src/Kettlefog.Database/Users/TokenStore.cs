using Kettlefog.Core;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Users;

/// <summary>The purpose of a secret.</summary>
public enum TokenPurpose
{
    /// <summary>Calls of the API, until it expires or is revoked.</summary>
    Api,

    /// <summary>One sign-in to the console.</summary>
    SignInLink,
}

/// <summary>A token, without its secret.</summary>
/// <param name="Id">Its number.</param>
/// <param name="User">Its owner.</param>
/// <param name="Label">What it is for, in the user's words.</param>
/// <param name="CreatedAt">When it was created.</param>
/// <param name="ExpiresAt">When it becomes invalid, or null if never.</param>
public sealed record Token(long Id, string User, string Label, DateTimeOffset CreatedAt, DateTimeOffset? ExpiresAt);

/// <summary>Stores API tokens and sign-in links; their secrets only as hashes.</summary>
public sealed class TokenStore
{
    private const string TokenPrefix = "kft_";

    private readonly DatabaseEngine _engine;
    private readonly TimeProvider _clock;

    internal TokenStore(DatabaseEngine engine, TimeProvider clock)
    {
        _engine = engine;
        _clock = clock;
    }

    /// <summary>Creates a secret for a user.</summary>
    /// <param name="user">The user's name.</param>
    /// <param name="purpose">Its purpose.</param>
    /// <param name="label">What it is for, in the user's words.</param>
    /// <param name="lifetime">Its lifetime, or null if it is valid until revoked.</param>
    /// <param name="isSignIn">Whether the user signs in by it, having given a password.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The secret, which cannot be read again, because only its hash is stored.</returns>
    /// <exception cref="KettlefogException">There is no such user, or it is disabled.</exception>
    public async Task<string> IssueAsync(
        string user,
        TokenPurpose purpose,
        string label,
        TimeSpan? lifetime,
        bool isSignIn,
        CancellationToken cancellationToken
    )
    {
        var secret = TokenPrefix + Secret.Create();
        var now = _clock.GetUtcNow();
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var rows = new UserRows(session);
        if (await rows.FindAsync(user, cancellationToken) is not { } owner)
            throw new KettlefogException(ErrorCode.InvalidChoice, $"There is no user '{user}'.", "Add the user first.");
        if (owner.IsDisabled)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"The user '{user}' is disabled.",
                "Enable the user first."
            );
        await session.ExecuteAsync(
            Sql.Of($"DELETE FROM {Tokens} WHERE expires_at < {UserRows.Write(now)}"),
            cancellationToken
        );
        if (isSignIn)
            await rows.NoteSignInAsync(user, now, cancellationToken);
        await session.ExecuteAsync(
            Sql.Of(
                $"""
                INSERT INTO {Tokens} (hash, user_name, purpose, label, created_at, expires_at)
                VALUES ({Sha256Digest.OfText(secret)}, {user}, {EnumName.Of(purpose)}, {label}, {UserRows.Write(now)},
                        {(lifetime is { } span ? UserRows.Write(now + span) : null)})
                """
            ),
            cancellationToken
        );
        await session.CommitAsync(cancellationToken);
        return secret;
    }

    /// <summary>The user of an API token, or null.</summary>
    public async Task<User?> CheckAsync(string secret, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return (
            await new UserRows(session).QueryAsync(
                Sql.Of(
                    $"""
                    JOIN {Tokens} t ON t.user_name = u.name
                    WHERE t.hash = {Sha256Digest.OfText(secret)} AND t.purpose = {EnumName.Of(TokenPurpose.Api)}
                      AND (t.expires_at IS NULL OR t.expires_at >= {UserRows.Write(_clock.GetUtcNow())})
                      AND u.disabled_at IS NULL
                    """
                ),
                cancellationToken
            )
        ).SingleOrDefault();
    }

    /// <summary>Consumes a sign-in link.</summary>
    /// <returns>Its user, or null if it is unknown, used or expired.</returns>
    public async Task<User?> RedeemLinkAsync(string secret, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var users = await new UserRows(session).QueryAsync(
            Sql.Of(
                $"""
                JOIN {Tokens} t ON t.user_name = u.name
                WHERE t.hash = {Sha256Digest.OfText(secret)} AND t.purpose = {EnumName.Of(TokenPurpose.SignInLink)}
                  AND t.expires_at >= {UserRows.Write(_clock.GetUtcNow())} AND u.disabled_at IS NULL
                """
            ),
            cancellationToken
        );
        if (users.Count == 0)
            return null;
        await session.ExecuteAsync(
            Sql.Of($"DELETE FROM {Tokens} WHERE hash = {Sha256Digest.OfText(secret)}"),
            cancellationToken
        );
        await session.CommitAsync(cancellationToken);
        return users[0];
    }

    /// <summary>The API tokens that are valid, of one user or of all.</summary>
    public async Task<IReadOnlyList<Token>> ListAsync(string? user, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        var ofUser = user is null ? Sql.Of($"1 = 1") : Sql.Of($"user_name = {user}");
        return await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT id, user_name, label, created_at, expires_at FROM {Tokens}
                WHERE purpose = {EnumName.Of(TokenPurpose.Api)} AND {ofUser}
                  AND (expires_at IS NULL OR expires_at >= {UserRows.Write(_clock.GetUtcNow())})
                ORDER BY id
                """
            ),
            row => new Token(
                row.Long(),
                row.Text(),
                row.Text(),
                StoredTimestamp.Read(row.Text()),
                StoredTimestamp.ReadOptional(row.OptionalText())
            ),
            cancellationToken
        );
    }

    /// <summary>Revokes an API token.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="user">The user who must own it, or null for anyone.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>True if there was such a token.</returns>
    public async Task<bool> RevokeAsync(long id, string? user, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var ofUser = user is null ? Sql.Of($"1 = 1") : Sql.Of($"user_name = {user}");
        var revoked = await session.ExecuteAsync(
            Sql.Of($"DELETE FROM {Tokens} WHERE id = {id} AND {ofUser}"),
            cancellationToken
        );
        await session.CommitAsync(cancellationToken);
        return revoked > 0;
    }

    private Sql Tokens => _engine.Dialect.Own("token");
}
