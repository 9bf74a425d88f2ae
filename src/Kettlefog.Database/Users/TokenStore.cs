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
/// <param name="Role">The role it acts in at most, or null for that of its owner.</param>
/// <param name="CreatedAt">When it was created.</param>
/// <param name="ExpiresAt">When it becomes invalid, or null if never.</param>
/// <param name="LastUsedAt">When it was used last, to a few minutes; null if it never was.</param>
public sealed record Token(
    long Id,
    string User,
    string Label,
    Role? Role,
    DateTimeOffset CreatedAt,
    DateTimeOffset? ExpiresAt,
    DateTimeOffset? LastUsedAt
);

/// <summary>A secret to create for a user.</summary>
/// <param name="User">The user's name.</param>
/// <param name="Purpose">Its purpose.</param>
/// <param name="Label">What it is for, in the user's words; at most <see cref="MaxLabel"/> characters.</param>
/// <param name="Lifetime">Its lifetime, or null if it is valid until revoked.</param>
/// <param name="Role">The role it acts in at most, or null for that of its owner.</param>
/// <param name="IsSignIn">Whether the user signs in by it, having given a password.</param>
public sealed record NewSecret(
    string User,
    TokenPurpose Purpose,
    string Label,
    TimeSpan? Lifetime,
    Role? Role = null,
    bool IsSignIn = false
)
{
    /// <summary>The length of a label, at most.</summary>
    public const int MaxLabel = 200;
}

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
    /// <param name="asked">What is asked for.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The secret, which cannot be read again, because only its hash is stored.</returns>
    /// <exception cref="KettlefogException">
    /// There is no such user, or it is disabled; the label is too long; or the role is more than the user has.
    /// </exception>
    public async Task<string> IssueAsync(NewSecret asked, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(asked);
        var (user, purpose, label, lifetime, role, isSignIn) = asked;
        if (label.Length > NewSecret.MaxLabel)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"The purpose is too long: {label.Length} characters.",
                $"Use at most {NewSecret.MaxLabel}."
            );
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
        if (role > owner.Role)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"{owner.FullName} is not {EnumName.Of(role.Value)}.",
                $"Choose {EnumName.Of(owner.Role)} or less, or leave the role out."
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
                INSERT INTO {Tokens} (hash, user_name, purpose, label, created_at, expires_at, role)
                VALUES ({Sha256Digest.OfText(secret)}, {user}, {EnumName.Of(purpose)}, {label}, {UserRows.Write(now)},
                        {(lifetime is { } span ? UserRows.Write(now + span) : null)},
                        {(role is { } most ? EnumName.Of(most) : null)})
                """
            ),
            cancellationToken
        );
        await session.CommitAsync(cancellationToken);
        return secret;
    }

    /// <summary>The user of an API token, in the role in which the token acts; or null.</summary>
    /// <param name="secret">The token.</param>
    /// <param name="isUse">Whether the token is used; if not, it is only asked about.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<User?> CheckAsync(string secret, bool isUse, CancellationToken cancellationToken)
    {
        var now = _clock.GetUtcNow();
        var hash = Sha256Digest.OfText(secret);
        User? user;
        (Role? Role, string LastUsed) token;
        await using (var session = await _engine.OpenReadAsync(cancellationToken))
        {
            user = (
                await new UserRows(session).QueryAsync(
                    Sql.Of(
                        $"""
                        JOIN {Tokens} t ON t.user_name = u.name
                        WHERE t.hash = {hash} AND t.purpose = {EnumName.Of(TokenPurpose.Api)}
                          AND (t.expires_at IS NULL OR t.expires_at >= {UserRows.Write(now)})
                          AND u.disabled_at IS NULL
                        """
                    ),
                    cancellationToken
                )
            ).SingleOrDefault();
            if (user is null)
                return null;
            token = (
                await session.QueryAsync(
                    Sql.Of($"SELECT role, last_used_at FROM {Tokens} WHERE hash = {hash}"),
                    row => (ReadRole(row.OptionalText()), row.OptionalText() ?? ""),
                    cancellationToken
                )
            ).Single();
        }

        if (isUse)
            await LastUse.NoteAsync(_engine, Tokens, "last_used_at", hash, token.LastUsed, now, cancellationToken);
        return token.Role < user.Role ? user with { Role = token.Role.Value } : user;
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
                SELECT id, user_name, label, role, created_at, expires_at, last_used_at FROM {Tokens}
                WHERE purpose = {EnumName.Of(TokenPurpose.Api)} AND {ofUser}
                  AND (expires_at IS NULL OR expires_at >= {UserRows.Write(_clock.GetUtcNow())})
                ORDER BY id
                """
            ),
            row => new Token(
                row.Long(),
                row.Text(),
                row.Text(),
                ReadRole(row.OptionalText()),
                StoredTimestamp.Read(row.Text()),
                StoredTimestamp.ReadOptional(row.OptionalText()),
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

    /// <summary>A role that this program does not know is the least.</summary>
    private static Role? ReadRole(string? name) =>
        name is null ? null
        : EnumName.TryRead<Role>(name, out var role) ? role
        : Role.Viewer;

    private Sql Tokens => _engine.Dialect.Own("token");
}
