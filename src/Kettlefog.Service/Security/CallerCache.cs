using System.Collections.Concurrent;
using Kettlefog.Core;
using Kettlefog.Core.Values;
using Kettlefog.Database;
using Kettlefog.Database.Users;

namespace Kettlefog.Service.Security;

/// <summary>
/// Caches callers for a few seconds, so that not every request reads the database. A token that
/// is revoked, a session that is ended, or a role that is changed, takes effect at once in this process and after
/// <see cref="Lifetime"/> in others.
/// </summary>
internal sealed class CallerCache(OperationalDatabase database, TimeProvider clock)
{
    /// <summary>How long a caller is cached.</summary>
    public static readonly TimeSpan Lifetime = TimeSpan.FromSeconds(5);

    private const int MaxCallers = 1000;

    private int _changes;
    private readonly ConcurrentDictionary<string, (User User, bool IsUse, DateTimeOffset Until)> _known = new();

    /// <summary>The user of an API token, or null.</summary>
    /// <param name="token">The token.</param>
    /// <param name="isUse">Whether it is used; if not, it is only asked about.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public ValueTask<User?> OfTokenAsync(string token, bool isUse, CancellationToken cancellationToken) =>
        FindAsync("token " + Sha256Digest.OfText(token), isUse, () =>
            database.Tokens.CheckAsync(token, isUse, cancellationToken)
        );

    /// <summary>The user of a session of the console, or null.</summary>
    /// <param name="secret">The secret of the session.</param>
    /// <param name="isUse">Whether it is used; if not, it is only asked about.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public ValueTask<User?> OfSessionAsync(string secret, bool isUse, CancellationToken cancellationToken) =>
        FindAsync("session " + Sha256Digest.OfText(secret), isUse, () =>
            database.Sessions.CheckAsync(secret, isUse, cancellationToken)
        );

    /// <summary>
    /// Whether the session or the token of a request still holds while the request goes on. It does while the database
    /// cannot be asked.
    /// </summary>
    public async ValueTask<bool> StillHoldsAsync(HttpContext context)
    {
        try
        {
            var user = SignInSetup.SessionOf(context.User) is { } session
                ? await OfSessionAsync(session, isUse: false, context.RequestAborted)
                : await OfTokenAsync(
                    BearerTokenHandler.TokenOf(context.Request) ?? "",
                    isUse: false,
                    context.RequestAborted
                );
            return user is not null;
        }
        catch (KettlefogException)
        {
            return true;
        }
    }

    /// <summary>Clears the cache, after a change to users, sessions or tokens.</summary>
    public void Forget()
    {
        Interlocked.Increment(ref _changes);
        _known.Clear();
    }

    private async ValueTask<User?> FindAsync(string key, bool isUse, Func<Task<User?>> ask)
    {
        // That somebody only asked about it must not hide that it is used.
        if (_known.TryGetValue(key, out var known) && known.Until > clock.GetUtcNow() && (known.IsUse || !isUse))
            return known.User;
        var changes = Volatile.Read(ref _changes);
        if (await ask() is not { } user)
            return null;

        // What was read before a change is not kept after it.
        if (changes != Volatile.Read(ref _changes))
            return user;
        if (_known.Count >= MaxCallers)
            _known.Clear();
        _known[key] = (user, isUse, clock.GetUtcNow() + Lifetime);
        return user;
    }
}
