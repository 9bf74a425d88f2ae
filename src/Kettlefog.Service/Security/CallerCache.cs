using System.Collections.Concurrent;
using Kettlefog.Core.Values;
using Kettlefog.Database;
using Kettlefog.Database.Users;

namespace Kettlefog.Service.Security;

/// <summary>
/// Caches callers for a few seconds, so that not every request reads the database. A token that
/// is revoked, or a role that is changed, takes effect at once in this process and after <see cref="Lifetime"/> in
/// others.
/// </summary>
internal sealed class CallerCache(OperationalDatabase database, TimeProvider clock)
{
    /// <summary>How long a caller is cached.</summary>
    public static readonly TimeSpan Lifetime = TimeSpan.FromSeconds(5);

    private const int MaxCallers = 1000;

    private readonly ConcurrentDictionary<string, (User User, DateTimeOffset Until)> _known = new();

    /// <summary>The user of an API token, or null.</summary>
    public ValueTask<User?> OfTokenAsync(string token, CancellationToken cancellationToken) =>
        FindAsync("token " + Sha256Digest.OfText(token), () =>
            database.Users.CheckTokenAsync(token, cancellationToken)
        );

    /// <summary>The user of that name, or null.</summary>
    public ValueTask<User?> OfNameAsync(string name, CancellationToken cancellationToken) =>
        FindAsync("name " + name, () => database.Users.FindAsync(name, cancellationToken));

    /// <summary>Clears the cache, after a change to users or tokens.</summary>
    public void Forget() => _known.Clear();

    private async ValueTask<User?> FindAsync(string key, Func<Task<User?>> ask)
    {
        if (_known.TryGetValue(key, out var known) && known.Until > clock.GetUtcNow())
            return known.User;
        if (await ask() is not { } user)
            return null;
        if (_known.Count >= MaxCallers)
            _known.Clear();
        _known[key] = (user, clock.GetUtcNow() + Lifetime);
        return user;
    }
}
