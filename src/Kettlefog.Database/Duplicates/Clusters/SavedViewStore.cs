using Kettlefog.Core;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.Clusters;

/// <summary>A filter and order of the queue under a name.</summary>
/// <param name="Id">Its number.</param>
/// <param name="Owner">The name of the user who saved it.</param>
/// <param name="Name">Its name.</param>
/// <param name="Query">The filter and order, as in the address of the queue.</param>
/// <param name="IsShared">Whether everybody sees it.</param>
public sealed record SavedView(long Id, string Owner, string Name, string Query, bool IsShared);

/// <summary>Stores views of the queue: each user's own, and those that users share with all.</summary>
public sealed class SavedViewStore
{
    private const int MaxNameLength = 80;
    private const int MaxQueryLength = 2000;

    private readonly DatabaseContext _context;

    internal SavedViewStore(DatabaseContext context) => _context = context;

    /// <summary>The views that a user sees, by name.</summary>
    public async Task<IReadOnlyList<SavedView>> ListAsync(string user, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT id, owner, name, query, is_shared FROM {session.Dialect.Own("saved_view")}
                WHERE owner = {user} OR is_shared = 1 ORDER BY name, id
                """
            ),
            row => new SavedView(row.Long(), row.Text(), row.Text(), row.Text(), row.Flag()),
            cancellationToken
        );
    }

    /// <summary>Saves a view; one of the same name and user is replaced.</summary>
    /// <param name="user">The user whose it is.</param>
    /// <param name="name">Its name: 1 to 80 characters.</param>
    /// <param name="query">
    /// The filter and order, as in the address of the queue; at most 2,000 characters.
    /// </param>
    /// <param name="isShared">Whether everybody sees it.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The name is blank, or it or the query is too long.</exception>
    public async Task SaveAsync(
        string user,
        string name,
        string query,
        bool isShared,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(name);
        ArgumentNullException.ThrowIfNull(query);
        name = name.Trim();
        if (name.Length is 0 or > MaxNameLength || query.Length > MaxQueryLength)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                name.Length == 0 ? "The view has no name." : "The name or the filter of the view is too long.",
                $"Use a name of 1 to {MaxNameLength} characters, and a filter of at most {MaxQueryLength}."
            );
        if ((name + query).Contains('\0', StringComparison.Ordinal))
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                "The name or the filter of the view has a NUL character (U+0000).",
                "Leave it out: not every database can keep it."
            );
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        await session.ExecuteAsync(
            session.Dialect.Upsert(
                session.Dialect.Own("saved_view"),
                ["owner", "name", "query", "is_shared"],
                [Sql.Of($"{user}, {name}, {query}, {(isShared ? 1L : 0L)}")],
                ["owner", "name"],
                ["query", "is_shared"]
            ),
            cancellationToken
        );
        await session.CommitAsync(cancellationToken);
    }

    /// <summary>Removes a view.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="user">The user whose it must be, or null for anyone.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">There is no such view.</exception>
    public async Task RemoveAsync(long id, string? user, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        var theirs = user is null ? Sql.Of($"1 = 1") : Sql.Of($"owner = {user}");
        var removed = await session.ExecuteAsync(
            Sql.Of($"DELETE FROM {session.Dialect.Own("saved_view")} WHERE id = {id} AND {theirs}"),
            cancellationToken
        );
        if (removed == 0)
            throw new KettlefogException(
                ErrorCode.UnknownEntry,
                $"You have no view {id}.",
                "A view is removed by its owner, or by an administrator."
            );
        await session.CommitAsync(cancellationToken);
    }
}
