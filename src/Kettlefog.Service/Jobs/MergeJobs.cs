using System.Collections.Concurrent;
using Kettlefog.Core;
using Kettlefog.Database;

namespace Kettlefog.Service.Jobs;

/// <summary>A merge or a reversal at work.</summary>
internal sealed class MergeJob(string id, string kind, string actor, string? key, CancellationToken ending) : IProgress<RowsMoved>, IDisposable
{
    private readonly CancellationTokenSource _stop = CancellationTokenSource.CreateLinkedTokenSource(ending);
    private long _moved;
    private long _toMove;

    public string Id => id;

    public string Kind => kind;

    public string Actor => actor;

    public string? Key => key;

    /// <summary>Its answer, once it is done.</summary>
    public Task<object> Answer { get; private set; } = null!;

    /// <summary>The related rows moved so far, and those to move.</summary>
    public RowsMoved Rows => new(Interlocked.Read(ref _moved), Interlocked.Read(ref _toMove));

    /// <summary>When it ended; null while it runs.</summary>
    public DateTimeOffset? Ended { get; private set; }

    public void Start(Func<IProgress<RowsMoved>, CancellationToken, Task<object>> work, TimeProvider clock) => Answer = Task.Run(async () =>
    {
        try
        {
            return await work(this, _stop.Token);
        }
        finally
        {
            Ended = clock.GetUtcNow();
        }
    });

    /// <summary>Stops it, if it has not come to its commit yet.</summary>
    public void Stop() => _stop.Cancel();

    public void Report(RowsMoved value)
    {
        Interlocked.Exchange(ref _moved, value.Moved);
        Interlocked.Exchange(ref _toMove, value.ToMove);
    }

    public void Dispose() => _stop.Dispose();
}

/// <summary>
/// The merges and reversals that go on after their requests were answered. They live as long as the service: one that it
/// takes along when it ends was rolled back, and can be asked for again under the same Idempotency-Key.
/// </summary>
internal sealed class MergeJobs(IHostApplicationLifetime lifetime, TimeProvider clock) : IDisposable
{
    private static readonly TimeSpan Kept = TimeSpan.FromHours(1);

    private readonly ConcurrentDictionary<string, MergeJob> _jobs = new();
    private readonly Lock _starting = new();

    /// <summary>Starts a job; one that was asked for before under the same key is the same job.</summary>
    public MergeJob Start(string kind, string actor, string? key, Func<IProgress<RowsMoved>, CancellationToken, Task<object>> work)
    {
        foreach (var old in _jobs.Values.Where(job => job.Ended < clock.GetUtcNow() - Kept))
        {
            if (_jobs.TryRemove(old.Id, out _))
                old.Dispose();
        }

        lock (_starting)
        {
            if (key is not null && _jobs.Values.FirstOrDefault(job => job.Ended is null && job.Key == key && job.Actor == actor && job.Kind == kind) is { } same)
                return same;
            var job = new MergeJob(Guid.NewGuid().ToString("N"), kind, actor, key, lifetime.ApplicationStopping);
            job.Start(work, clock);
            _jobs[job.Id] = job;
            return job;
        }
    }

    /// <summary>A job.</summary>
    /// <exception cref="Refusal">There is none of that id.</exception>
    public MergeJob Require(string id) => _jobs.TryGetValue(id, out var job) ? job : throw new Refusal(
        RefusalCode.UnknownJob,
        $"There is no job '{id}': it ended more than an hour ago, or the service was started anew since.",
        "Look into the history whether it was done. If not, nothing was changed; it can be asked for again.");

    public void Dispose()
    {
        foreach (var job in _jobs.Values)
            job.Dispose();
    }
}
