using System.Globalization;
using Kettlefog.Core.Naming;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Users;

/// <summary>The rows of users, within a session.</summary>
internal sealed class UserRows(Session session)
{
    /// <summary>A timestamp as these tables store it: UTC, to the second.</summary>
    public static string Write(DateTimeOffset at) =>
        at.UtcDateTime.ToString("yyyy-MM-ddTHH:mm:ssZ", CultureInfo.InvariantCulture);

    /// <summary>The user of that name, or null.</summary>
    public async Task<User?> FindAsync(string name, CancellationToken cancellationToken) =>
        (await QueryAsync(Sql.Of($"WHERE u.name = {name}"), cancellationToken)).SingleOrDefault();

    /// <summary>The users that a JOIN, WHERE or ORDER BY clause selects, in which they are <c>u</c>.</summary>
    public async Task<IReadOnlyList<User>> QueryAsync(Sql rest, CancellationToken cancellationToken) =>
        await session.QueryAsync(Sql.Of($"SELECT {Columns} FROM {Users} u {rest}"), Read, cancellationToken);

    /// <summary>The user of that name with the hash of the password, or null.</summary>
    public async Task<(User User, string? Hash)?> FindWithHashAsync(string name, CancellationToken cancellationToken)
    {
        var found = await session.QueryAsync(
            Sql.Of($"SELECT {Columns}, u.password_hash FROM {Users} u WHERE u.name = {name}"),
            row => (Read(row), row.OptionalText()),
            cancellationToken
        );
        return found.Count == 0 ? null : found[0];
    }

    /// <summary>Stores when a user signed in last.</summary>
    public Task NoteSignInAsync(string name, DateTimeOffset at, CancellationToken cancellationToken) =>
        session.ExecuteAsync(
            Sql.Of($"UPDATE {Users} SET last_sign_in_at = {Write(at)} WHERE name = {name}"),
            cancellationToken
        );

    private Sql Users => session.Dialect.Own("user");

    private static Sql Columns =>
        Sql.Of($"u.name, u.full_name, u.role, u.created_at, u.disabled_at, u.last_sign_in_at");

    private static User Read(RowReader row) =>
        new(
            row.Text(),
            row.Text(),
            EnumName.TryRead<Role>(row.Text(), out var role) ? role : Role.Viewer,
            StoredTimestamp.Read(row.Text()),
            StoredTimestamp.ReadOptional(row.OptionalText()),
            StoredTimestamp.ReadOptional(row.OptionalText())
        );
}
