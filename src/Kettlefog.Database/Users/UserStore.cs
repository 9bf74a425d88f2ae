using System.Globalization;
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
/// <param name="DisabledAt">Since when the user cannot sign in, or null if they can.</param>
/// <param name="LastSignInAt">When the user signed in last, or null if that is not known.</param>
public sealed record User(
    string Name,
    string FullName,
    Role Role,
    DateTimeOffset CreatedAt,
    DateTimeOffset? DisabledAt = null,
    DateTimeOffset? LastSignInAt = null
)
{
    /// <summary>Whether the user cannot sign in, neither with a password nor by token or link.</summary>
    public bool IsDisabled => DisabledAt is not null;
}

/// <summary>What to change of a user; what is null is kept.</summary>
/// <param name="FullName">The name for people.</param>
/// <param name="Role">The role.</param>
/// <param name="IsDisabled">Whether the user can no longer sign in; this ends the user's sessions.</param>
/// <param name="Password">The new password; this ends the user's sessions, too.</param>
public sealed record UserChange(
    string? FullName = null,
    Role? Role = null,
    bool? IsDisabled = null,
    string? Password = null
);

/// <summary>Stores users and their passwords, these only as hashes.</summary>
public sealed class UserStore
{
    private const int MaximumFullName = 200;

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
        return await new UserRows(session).QueryAsync(Sql.Of($"ORDER BY u.name"), cancellationToken);
    }

    /// <summary>The user of that name, or null.</summary>
    public async Task<User?> FindAsync(string name, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new UserRows(session).FindAsync(name, cancellationToken);
    }

    /// <summary>The user of that name.</summary>
    /// <exception cref="KettlefogException">There is no such user.</exception>
    public async Task<User> RequireAsync(string name, CancellationToken cancellationToken) =>
        await FindAsync(name, cancellationToken) ?? throw Unknown(name);

    /// <summary>Adds a user.</summary>
    /// <param name="name">The name to sign in with: lower-case letters, digits, dots and hyphens.</param>
    /// <param name="fullName">The name for people.</param>
    /// <param name="role">The role.</param>
    /// <param name="password">
    /// The password, as <see cref="PasswordPolicy"/> wants it, or null for a user who signs in by token or link only.
    /// </param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The name is taken or invalid, or the password cannot be chosen.</exception>
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
        RequireFullName(fullName);
        var hash = HashOf(password, name);
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        if (await new UserRows(session).FindAsync(name, cancellationToken) is not null)
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
                VALUES ({name}, {fullName}, {EnumName.Of(role)}, {hash}, {UserRows.Write(user.CreatedAt)})
                """
            ),
            cancellationToken
        );
        await session.CommitAsync(cancellationToken);
        return user;
    }

    /// <summary>Changes a user.</summary>
    /// <param name="name">The user's name.</param>
    /// <param name="change">What to change.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The user as changed.</returns>
    /// <exception cref="KettlefogException">
    /// There is no such user, the full name or the password cannot be used, or nobody would be left who can sign in as
    /// an administrator.
    /// </exception>
    public async Task<User> ChangeAsync(string name, UserChange change, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(change);
        if (change.FullName is { } fullName)
            RequireFullName(fullName);
        var hash = HashOf(change.Password, name);
        var now = _clock.GetUtcNow();

        // One session writes at a time, so that no two of them each leave the other as the last administrator.
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var rows = new UserRows(session);
        var user = await rows.FindAsync(name, cancellationToken) ?? throw Unknown(name);
        var changed = user with
        {
            FullName = change.FullName ?? user.FullName,
            Role = change.Role ?? user.Role,
            DisabledAt = change.IsDisabled switch
            {
                true => user.DisabledAt ?? now,
                false => null,
                null => user.DisabledAt,
            },
        };
        if (IsAdministrator(user) && !IsAdministrator(changed))
        {
            var all = await rows.QueryAsync(Sql.Of($"ORDER BY u.name"), cancellationToken);
            if (!all.Any(other => other.Name != name && IsAdministrator(other)))
                throw new KettlefogException(
                    ErrorCode.LastAdministrator,
                    $"{user.FullName} is the last administrator.",
                    "Make somebody else an administrator first."
                );
        }

        await session.ExecuteAsync(
            Sql.Of(
                $"""
                UPDATE {Users} SET full_name = {changed.FullName}, role = {EnumName.Of(changed.Role)},
                  disabled_at = {(changed.DisabledAt is { } at ? UserRows.Write(at) : null)},
                  password_hash = COALESCE({hash}, password_hash)
                WHERE name = {name}
                """
            ),
            cancellationToken
        );
        if (changed.IsDisabled || changed.Role != user.Role || hash is not null)
            await EndAccessAsync(session, name, null, cancellationToken);
        await session.CommitAsync(cancellationToken);
        return changed;
    }

    /// <summary>Changes the own password of a user, and ends the user's other sessions.</summary>
    /// <param name="name">The user's name.</param>
    /// <param name="current">The password until now.</param>
    /// <param name="password">The new password.</param>
    /// <param name="keptSession">The secret of the session that goes on, or null if there is none.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The current password is wrong, or the new one cannot be chosen.</exception>
    public async Task ChangePasswordAsync(
        string name,
        string current,
        string password,
        string? keptSession,
        CancellationToken cancellationToken
    )
    {
        if (await CheckPasswordAsync(name, current, cancellationToken) is null)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                "The current password is wrong.",
                "Enter the password that you sign in with, or ask an administrator to reset it."
            );
        var hash = HashOf(password, name);
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        await session.ExecuteAsync(
            Sql.Of($"UPDATE {Users} SET password_hash = {hash} WHERE name = {name}"),
            cancellationToken
        );
        await EndAccessAsync(session, name, keptSession, cancellationToken);
        await session.CommitAsync(cancellationToken);
    }

    /// <summary>The user with this name and password, or null if there is none or it is disabled.</summary>
    public async Task<User?> CheckPasswordAsync(string name, string password, CancellationToken cancellationToken)
    {
        (User User, string? Hash)? found;
        await using (var session = await _engine.OpenReadAsync(cancellationToken))
            found = await new UserRows(session).FindWithHashAsync(name, cancellationToken);
        return PasswordHash.Matches(password, found?.Hash) && !found!.Value.User.IsDisabled ? found.Value.User : null;
    }

    private Sql Users => _engine.Dialect.Own("user");

    private static bool IsAdministrator(User user) => user.Role == Role.Administrator && !user.IsDisabled;

    private static KettlefogException Unknown(string name) =>
        new(ErrorCode.UnknownUser, $"There is no user '{name}'.", "List the users to see their names.");

    private static void RequireFullName(string fullName)
    {
        if (string.IsNullOrWhiteSpace(fullName) || fullName.Length > MaximumFullName)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                "A user needs a full name.",
                string.Create(CultureInfo.InvariantCulture, $"Use 1 to {MaximumFullName} characters.")
            );
    }

    private static string? HashOf(string? password, string user)
    {
        if (password is null)
            return null;
        PasswordPolicy.Require(password, user);
        return PasswordHash.Of(password);
    }

    private async Task EndAccessAsync(
        Session session,
        string user,
        string? keptSession,
        CancellationToken cancellationToken
    )
    {
        var kept = keptSession is null ? "" : Sha256Digest.OfText(keptSession);
        await session.ExecuteAsync(
            Sql.Of($"DELETE FROM {_engine.Dialect.Own("session")} WHERE user_name = {user} AND hash <> {kept}"),
            cancellationToken
        );
        await session.ExecuteAsync(
            Sql.Of(
                $"""
                DELETE FROM {_engine.Dialect.Own("token")}
                WHERE user_name = {user} AND purpose = {EnumName.Of(TokenPurpose.SignInLink)}
                """
            ),
            cancellationToken
        );
    }
}
