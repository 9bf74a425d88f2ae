using System.Collections.Concurrent;
using Kettlefog.Core;
using Kettlefog.Database.Journal;

namespace Kettlefog.Service.Jobs;

/// <summary>The request of a job.</summary>
/// <param name="Kind">Its kind: <c>merge</c> or <c>reversal</c>.</param>
/// <param name="Actor">Who asked for it.</param>
/// <param name="Key">The caller's key for the request; null for a dry run.</param>
/// <param name="Fingerprint">The fingerprint of the plan.</param>
internal sealed record JobRequest(string Kind, string Actor, string? Key, string Fingerprint);

/// <summary>A running merge or reversal.</summary>
internal sealed class MergeJob(string id, JobRequest request, CancellationToken ending)
    : IProgress<MoveProgress>,
        IDisposable
{
    private readonly CancellationTokenSource _stop = CancellationTokenSource.CreateLinkedTokenSource(ending);
    private long _moved;
    private int _waiting;
    private volatile bool _told;
    private long _toMove;

    public string Id => id;

    public JobRequest Request => request;

    /// <summary>Its response, once it is done.</summary>
    public Task<object> Answer { get; private set; } = null!;

    /// <summary>The related rows moved so far, and those to move.</summary>
    public MoveProgress Rows => new(Interlocked.Read(ref _moved), Interlocked.Read(ref _toMove));

    /// <summary>When it ended; null while it runs.</summary>
    public DateTimeOffset? Ended { get; private set; }

    public void Start(
        Func<IProgress<MoveProgress>, CancellationToken, Task<object>> work,
        TimeProvider clock,
        ILogger log
    ) =>
        Answer = Task.Run(async () =>
        {
            try
            {
                return await work(this, _stop.Token);
            }
            catch (Exception error)
                when (error is not (KettlefogException or StaleException or OperationCanceledException))
            {
                log.LogError(error, "Job {Id}, a {Kind}, broke off", id, request.Kind);
                throw;
            }
            finally
            {
                Ended = clock.GetUtcNow();
            }
        });

    /// <summary>Called by each caller that waits for its response.</summary>
    public void Join() => Interlocked.Increment(ref _waiting);

    /// <summary>A caller was told of the job: from then on it ends only by itself, or when somebody stops it.</summary>
    public void Tell() => _told = true;

    /// <summary>
    /// A caller has gone away. If nobody else waits for the response, and nobody was told of the job, it is stopped.
    /// </summary>
    public void Leave()
    {
        if (Interlocked.Decrement(ref _waiting) == 0 && !_told)
            Stop();
    }

    /// <summary>Stops it, if it has not reached its commit.</summary>
    public void Stop() => _stop.Cancel();

    public void Report(MoveProgress value)
    {
        Interlocked.Exchange(ref _moved, value.Moved);
        Interlocked.Exchange(ref _toMove, value.Total);
    }

    public void Dispose() => _stop.Dispose();
}

/// <summary>
/// The merges and reversals that continue after their requests were answered. They live as long as the service: one
/// that ends with the service was rolled back, and can be requested again with the same Idempotency-Key.
/// </summary>
internal sealed class MergeJobs(IHostApplicationLifetime lifetime, TimeProvider clock, ILogger<MergeJobs> log)
    : IDisposable
{
    private static readonly TimeSpan Kept = TimeSpan.FromHours(1);

    private readonly ConcurrentDictionary<string, MergeJob> _jobs = new();
    private readonly Lock _starting = new();

    /// <summary>Starts a job; a request that repeats a running one under the same key gets the same job.</summary>
    public MergeJob Start(JobRequest request, Func<IProgress<MoveProgress>, CancellationToken, Task<object>> work)
    {
        foreach (var old in _jobs.Values.Where(job => job.Ended < clock.GetUtcNow() - Kept))
        {
            if (_jobs.TryRemove(old.Id, out _))
                old.Dispose();
        }

        lock (_starting)
        {
            if (
                request.Key is not null
                && _jobs.Values.FirstOrDefault(job => job.Ended is null && job.Request == request) is { } same
            )
                return same;
            var job = new MergeJob(Guid.NewGuid().ToString("N"), request, lifetime.ApplicationStopping);
            job.Start(work, clock, log);
            _jobs[job.Id] = job;
            return job;
        }
    }

    /// <summary>The running jobs.</summary>
    public IEnumerable<MergeJob> Running => _jobs.Values.Where(job => job.Ended is null);

    /// <summary>A job.</summary>
    /// <exception cref="KettlefogException">There is no job with this id.</exception>
    public MergeJob Require(string id) =>
        _jobs.TryGetValue(id, out var job)
            ? job
            : throw new KettlefogException(
                ErrorCode.UnknownJob,
                $"This instance of the service has no job '{id}': it ended more than an hour ago, the service was "
                    + "restarted, or another instance is running it.",
                "Send the request again with the same Idempotency-Key: what was done is not done twice."
            );

    public void Dispose()
    {
        foreach (var job in _jobs.Values)
            job.Dispose();
    }
}
