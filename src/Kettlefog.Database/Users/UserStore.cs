using System.Globalization;
using System.Security.Cryptography;
using Kettlefog.Core;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Users;

/// <summary>The role of a user.</summary>
public enum Role
{
    /// <summary>Reads, and changes nothing.</summary>
    Viewer,

    /// <summary>Plans, merges and reverses.</summary>
    Operator,

    /// <summary>Has the rights of an operator, and approves.</summary>
    Approver,

    /// <summary>Has all rights, and manages users.</summary>
    Administrator,
}

/// <summary>A user.</summary>
/// <param name="Name">The name to sign in with.</param>
/// <param name="FullName">The name for people.</param>
/// <param name="Role">The role.</param>
/// <param name="CreatedAt">When the user was added.</param>
public sealed record User(string Name, string FullName, Role Role, DateTimeOffset CreatedAt);

/// <summary>The purpose of a secret.</summary>
public enum TokenPurpose
{
    /// <summary>Calls of the API, until it is revoked.</summary>
    Api,

    /// <summary>One sign-in to the console.</summary>
    SignInLink,
}

/// <summary>A token, without its secret.</summary>
/// <param name="Id">Its number.</param>
/// <param name="User">Its owner.</param>
/// <param name="Label">What it is for, in the user's words.</param>
/// <param name="CreatedAt">When it was created.</param>
public sealed record Token(long Id, string User, string Label, DateTimeOffset CreatedAt);

/// <summary>Stores users and their credentials; passwords and tokens only as hashes.</summary>
public sealed class UserStore
{
    private const string TokenPrefix = "kft_";

    private readonly DatabaseEngine _engine;
    private readonly TimeProvider _clock;

    internal UserStore(DatabaseEngine engine, TimeProvider clock)
    {
        _engine = engine;
        _clock = clock;
    }

    /// <summary>All users, by name.</summary>
    public async Task<IReadOnlyList<User>> ListAsync(CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await session.QueryAsync(Select(Sql.Of($"ORDER BY u.name")), Read, cancellationToken);
    }

    /// <summary>The user of that name, or null.</summary>
    public async Task<User?> FindAsync(string name, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return (
            await session.QueryAsync(Select(Sql.Of($"WHERE u.name = {name}")), Read, cancellationToken)
        ).SingleOrDefault();
    }

    /// <summary>Adds a user.</summary>
    /// <param name="name">The name to sign in with: lower-case letters, digits, dots and hyphens.</param>
    /// <param name="fullName">The name for people.</param>
    /// <param name="role">The role.</param>
    /// <param name="password">
    /// The password of at least ten characters, or null for a user who signs in by token or link only.
    /// </param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The name is taken or invalid, or the password is too short.</exception>
    public async Task<User> AddAsync(
        string name,
        string fullName,
        Role role,
        string? password,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(name);
        if (
            name.Length is 0 or > 64
            || !name.All(letter => char.IsAsciiLetterLower(letter) || char.IsAsciiDigit(letter) || letter is '.' or '-')
        )
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"'{name}' is not a user name.",
                "Use up to 64 lower-case letters, digits, dots and hyphens."
            );
        if (password is { Length: < PasswordHash.MinimumLength })
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                "The password is too short.",
                $"Use at least {PasswordHash.MinimumLength} characters."
            );
        var hash = password is null ? null : PasswordHash.Of(password);
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var taken = await session.QueryLongAsync(
            Sql.Of($"SELECT COUNT(*) FROM {Users} WHERE name = {name}"),
            cancellationToken
        );
        if (taken > 0)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"There is a user '{name}' already.",
                "Choose another name."
            );
        var user = new User(name, fullName, role, _clock.GetUtcNow());
        await session.ExecuteAsync(
            Sql.Of(
                $"""
                INSERT INTO {Users} (name, full_name, role, password_hash, created_at)
                VALUES ({name}, {fullName}, {EnumName.Of(role)}, {hash}, {Write(user.CreatedAt)})
                """
            ),
            cancellationToken
        );
        await session.CommitAsync(cancellationToken);
        return user;
    }

    /// <summary>The user with this name and password, or null.</summary>
    public async Task<User?> CheckPasswordAsync(string name, string password, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        var found = await session.QueryAsync(
            Sql.Of(
                $"SELECT u.name, u.full_name, u.role, u.created_at, u.password_hash FROM {Users} u WHERE "
                    + $"u.name = {name}"
            ),
            row => (User: Read(row), Hash: row.OptionalText()),
            cancellationToken
        );
        var hash = found.Count == 0 ? null : found[0].Hash;
        return PasswordHash.Matches(password, hash) ? found[0].User : null;
    }

    /// <summary>Creates a secret for a user.</summary>
    /// <param name="user">The user's name.</param>
    /// <param name="purpose">Its purpose.</param>
    /// <param name="label">What it is for, in the user's words.</param>
    /// <param name="lifetime">Its lifetime, or null if it is valid until revoked.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The secret, which cannot be read again, because only its hash is stored.</returns>
    /// <exception cref="KettlefogException">There is no such user.</exception>
    public async Task<string> IssueAsync(
        string user,
        TokenPurpose purpose,
        string label,
        TimeSpan? lifetime,
        CancellationToken cancellationToken
    )
    {
        if (await FindAsync(user, cancellationToken) is null)
            throw new KettlefogException(ErrorCode.InvalidChoice, $"There is no user '{user}'.", "Add the user first.");
        var secret = TokenPrefix + Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24));
        var now = _clock.GetUtcNow();
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        await session.ExecuteAsync(Sql.Of($"DELETE FROM {Tokens} WHERE expires_at < {Write(now)}"), cancellationToken);
        await session.ExecuteAsync(
            Sql.Of(
                $"""
                INSERT INTO {Tokens} (hash, user_name, purpose, label, created_at, expires_at)
                VALUES ({Sha256Digest.OfText(secret)}, {user}, {EnumName.Of(purpose)}, {label}, {Write(now)},
                        {(lifetime is { } span ? Write(now + span) : null)})
                """
            ),
            cancellationToken
        );
        await session.CommitAsync(cancellationToken);
        return secret;
    }

    /// <summary>The user of an API token, or null.</summary>
    public async Task<User?> CheckTokenAsync(string secret, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return (
            await session.QueryAsync(
                Select(
                    Sql.Of(
                        $"""
                        JOIN {Tokens} t ON t.user_name = u.name
                        WHERE t.hash = {Sha256Digest.OfText(secret)} AND t.purpose = {EnumName.Of(TokenPurpose.Api)}
                          AND (t.expires_at IS NULL OR t.expires_at >= {Write(_clock.GetUtcNow())})
                        """
                    )
                ),
                Read,
                cancellationToken
            )
        ).SingleOrDefault();
    }

    /// <summary>Consumes a sign-in link.</summary>
    /// <returns>Its user, or null if it is unknown, used or expired.</returns>
    public async Task<User?> RedeemLinkAsync(string secret, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var users = await session.QueryAsync(
            Select(
                Sql.Of(
                    $"""
                    JOIN {Tokens} t ON t.user_name = u.name
                    WHERE t.hash = {Sha256Digest.OfText(secret)} AND t.purpose = {EnumName.Of(TokenPurpose.SignInLink)}
                      AND t.expires_at >= {Write(_clock.GetUtcNow())}
                    """
                )
            ),
            Read,
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

    /// <summary>The API tokens, of one user or of all.</summary>
    public async Task<IReadOnlyList<Token>> ListTokensAsync(string? user, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        var ofUser = user is null ? Sql.Of($"1 = 1") : Sql.Of($"user_name = {user}");
        return await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT id, user_name, label, created_at FROM {Tokens}
                WHERE purpose = {EnumName.Of(TokenPurpose.Api)} AND {ofUser} ORDER BY id
                """
            ),
            row => new Token(row.Long(), row.Text(), row.Text(), ReadTime(row.Text())),
            cancellationToken
        );
    }

    /// <summary>Revoke an API token.</summary>
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

    /// <summary>The keys that protect the service's cookies, as XML.</summary>
    public async Task<IReadOnlyList<string>> ReadKeyRingAsync(CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await session.QueryAsync(
            Sql.Of($"SELECT xml FROM {KeyRing} ORDER BY id"),
            row => row.Text(),
            cancellationToken
        );
    }

    /// <summary>Adds a key that protects the service's cookies.</summary>
    public async Task AddToKeyRingAsync(string xml, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        await session.ExecuteAsync(Sql.Of($"INSERT INTO {KeyRing} (xml) VALUES ({xml})"), cancellationToken);
        await session.CommitAsync(cancellationToken);
    }

    private Sql Users => _engine.Dialect.Own("user");

    private Sql Tokens => _engine.Dialect.Own("token");

    private Sql KeyRing => _engine.Dialect.Own("key_ring");

    private Sql Select(Sql rest) => Sql.Of($"SELECT u.name, u.full_name, u.role, u.created_at FROM {Users} u {rest}");

    private static User Read(RowReader row) =>
        new(
            row.Text(),
            row.Text(),
            EnumName.TryRead<Role>(row.Text(), out var role) ? role : Role.Viewer,
            ReadTime(row.Text())
        );

    private static string Write(DateTimeOffset at) =>
        at.UtcDateTime.ToString("yyyy-MM-ddTHH:mm:ssZ", CultureInfo.InvariantCulture);

    private static DateTimeOffset ReadTime(string text) =>
        DateTimeOffset.Parse(text, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal);
}
