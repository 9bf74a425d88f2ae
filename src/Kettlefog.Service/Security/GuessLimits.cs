using System.Collections.Concurrent;
using System.Threading.RateLimiting;

namespace Kettlefog.Service.Security;

/// <summary>
/// Slows those who guess passwords, by account and by address, whatever the account: some attempts at once, then a few
/// a minute. A right password, and a reset by an administrator, clears the account. How many passwords are hashed at
/// once is bounded, so that guessers leave a processor to others.
/// </summary>
internal sealed class GuessLimits : IDisposable
{
    /// <summary>How many wrong passwords an account takes at once.</summary>
    public const int AccountAttempts = 10;

    /// <summary>How many attempts come from an address at once, for all accounts.</summary>
    public const int AddressAttempts = 100;

    private const int Kept = 10_000;
    private static readonly TimeSpan AccountPause = TimeSpan.FromSeconds(30);

    // A proxy is the address of all who come through it.
    private static readonly TimeSpan AddressPause = TimeSpan.FromSeconds(0.5);

    private readonly ConcurrentDictionary<string, TokenBucketRateLimiter> _accounts = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, TokenBucketRateLimiter> _addresses = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, TokenBucketRateLimiter> _noted = new(StringComparer.Ordinal);
    private readonly ConcurrencyLimiter _hashes = new(
        new ConcurrencyLimiterOptions { PermitLimit = Math.Max(1, Environment.ProcessorCount / 2), QueueLimit = 100 }
    );

    /// <summary>Lets somebody try a password.</summary>
    /// <param name="account">The name of the user whose password is tried.</param>
    /// <param name="http">The request.</param>
    /// <param name="check">Checks the password; null or an exception says that it is wrong.</param>
    /// <returns>What the check gives.</returns>
    /// <exception cref="TooManyAttemptsException">There were too many attempts; it was not checked.</exception>
    public async Task<T?> TryAsync<T>(string account, HttpContext http, Func<Task<T?>> check)
        where T : class
    {
        Take(_addresses, AddressOf(http), AddressAttempts, AddressPause);
        Take(_accounts, account, AccountAttempts, AccountPause);
        using var turn = await _hashes.AcquireAsync(1, http.RequestAborted);
        if (!turn.IsAcquired)
            throw new TooManyAttemptsException(AddressPause);
        var right = await check();
        if (right is not null)
            Clear(account);
        return right;
    }

    /// <summary>Whether a wrong token from this address is worth a line in the log: not all of a flood are.</summary>
    public bool IsWorthNoting(HttpContext http)
    {
        using var lease = Attempt(_noted, AddressOf(http), AccountAttempts, AccountPause);
        return lease.IsAcquired;
    }

    /// <summary>Forgets the attempts at an account.</summary>
    public void Clear(string account) => _accounts.TryRemove(account, out _);

    /// <inheritdoc/>
    public void Dispose() => _hashes.Dispose();

    private static string AddressOf(HttpContext http) => http.Connection.RemoteIpAddress?.ToString() ?? "";

    private static void Take(
        ConcurrentDictionary<string, TokenBucketRateLimiter> limiters,
        string key,
        int attempts,
        TimeSpan pause
    )
    {
        using var lease = Attempt(limiters, key, attempts, pause);
        if (!lease.IsAcquired)
            throw new TooManyAttemptsException(
                lease.TryGetMetadata(MetadataName.RetryAfter, out var wait) && wait > TimeSpan.Zero ? wait : pause
            );
    }

    private static RateLimitLease Attempt(
        ConcurrentDictionary<string, TokenBucketRateLimiter> limiters,
        string key,
        int attempts,
        TimeSpan pause
    )
    {
        // Names and addresses come from strangers: what is kept about them has an end. A full bucket remembers nothing.
        if (limiters.Count >= Kept)
        {
            foreach (var (other, limiter) in limiters)
            {
                limiter.TryReplenish();
                if (limiter.IdleDuration is not null || limiters.Count >= 2 * Kept)
                    limiters.TryRemove(other, out _);
            }
        }

        var bucket = limiters.GetOrAdd(key.Length > 100 ? key[..100] : key, _ => new TokenBucketRateLimiter(
            new TokenBucketRateLimiterOptions
            {
                TokenLimit = attempts,
                TokensPerPeriod = 1,
                ReplenishmentPeriod = pause,
                AutoReplenishment = false,
                QueueLimit = 0,
            }
        ));
        bucket.TryReplenish();
        return bucket.AttemptAcquire();
    }
}

/// <summary>Too many passwords were tried; this one was not.</summary>
/// <param name="wait">After this time the next may be tried.</param>
internal sealed class TooManyAttemptsException(TimeSpan wait) : Exception
{
    /// <summary>The time to wait, in whole seconds, at least one.</summary>
    public int Seconds => Math.Max(1, (int)Math.Ceiling(wait.TotalSeconds));
}
