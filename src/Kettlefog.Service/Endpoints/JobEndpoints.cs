using System.Globalization;
using System.Runtime.CompilerServices;
using Kettlefog.Contracts;
using Kettlefog.Database.Journal;
using Kettlefog.Service.Jobs;
using Kettlefog.Service.Security;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.Extensions.Primitives;

namespace Kettlefog.Service.Endpoints;

/// <summary>Follows and cancels merges and reversals that continue after their requests were answered.</summary>
internal static class JobEndpoints
{
    private static readonly TimeSpan MaxWait = TimeSpan.FromSeconds(30);
    private static readonly TimeSpan Glance = TimeSpan.FromMilliseconds(200);

    public static void Map(RouteGroupBuilder api)
    {
        var group = api.MapGroup("/jobs").WithTags("merges");
        group
            .MapGet("{id}", ReadAsync)
            .WithName("readJob")
            .WithSummary("Read the state of a merge or reversal that was answered with 202.");
        group
            .MapGet("{id}/events", Follow)
            .WithName("followJob")
            .WithSummary("Follow a merge or reversal that was answered with 202, as server-sent events.")
            .WithDescription("Events of type 'job' carry each change of state; the stream ends after the final one.")
            .Produces<JobView>(200, "text/event-stream");
        group
            .MapDelete("{id}", StopAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("stopJob")
            .WithSummary(
                "Cancel a merge or reversal, and answer when it has ended. After its commit it can no longer "
                    + "be cancelled."
            );
    }

    /// <summary>
    /// Runs work in the request, or as a job if the caller prefers that (RFC 7240, <c>respond-async</c>) and it
    /// takes longer than the caller's <c>wait</c>.
    /// </summary>
    /// <param name="context">The request.</param>
    /// <param name="jobs">The jobs.</param>
    /// <param name="request">What is asked for.</param>
    /// <param name="work">Does it.</param>
    /// <returns>What was done; or null if it goes on, with the answer for that.</returns>
    public static async Task<(object? Done, IResult? GoesOn)> RunAsync(
        HttpContext context,
        MergeJobs jobs,
        JobRequest request,
        Func<IProgress<MoveProgress>?, CancellationToken, Task<object>> work
    )
    {
        if (WaitOf(context.Request.Headers["Prefer"]) is not { } wait)
            return (await work(null, context.RequestAborted), null);
        var job = jobs.Start(request, work);
        job.Join();
        try
        {
            return (await job.Answer.WaitAsync(wait < MaxWait ? wait : MaxWait, context.RequestAborted), null);
        }
        catch (OperationCanceledException) when (context.RequestAborted.IsCancellationRequested)
        {
            job.Leave();
            throw;
        }
        catch (TimeoutException) when (!job.Answer.IsCompleted)
        {
            job.Tell();
            context.Response.Headers["Preference-Applied"] = "respond-async";
            context.Response.Headers.RetryAfter = "1";
            return (null, Results.Accepted($"/api/jobs/{job.Id}", await ViewAsync(job, context)));
        }
    }

    private static Task<JobView> ReadAsync(string id, MergeJobs jobs, HttpContext context) =>
        ViewAsync(jobs.Require(id), context);

    private static ServerSentEventsResult<JobView> Follow(string id, MergeJobs jobs, HttpContext context) =>
        TypedResults.ServerSentEvents(FollowAsync(jobs.Require(id), context), "job");

    private static async IAsyncEnumerable<JobView> FollowAsync(
        MergeJob job,
        HttpContext context,
        [EnumeratorCancellation] CancellationToken cancellationToken = default
    )
    {
        JobView? before = null;
        while (!context.RequestAborted.IsCancellationRequested)
        {
            var now = await ViewAsync(job, context);
            if (now != before)
                yield return before = now;
            if (now.State != "running")
                yield break;
            await Task.WhenAny(job.Answer, Task.Delay(Glance, cancellationToken));
        }
    }

    private static async Task<JobView> StopAsync(string id, MergeJobs jobs, HttpContext context)
    {
        var job = jobs.Require(id);
        job.Stop();
        await Task.WhenAny(job.Answer, Task.Delay(MaxWait, context.RequestAborted));
        return await ViewAsync(job, context);
    }

    private static async Task<JobView> ViewAsync(MergeJob job, HttpContext context)
    {
        var rows = job.Rows;
        var view = new JobView(job.Id, job.Request.Kind, "running", rows.Moved, rows.Total, null, null, null);
        if (!job.Answer.IsCompleted)
            return view;
        try
        {
            var answer = await job.Answer;
            return view with { State = "done", Merge = answer as EntryView, Reversal = answer as ReversalResult };
        }
        catch (OperationCanceledException)
        {
            return view with { State = "stopped" };
        }
        catch (Exception error)
        {
            return view with { State = "failed", Problem = ProblemHandler.Of(error, context) };
        }
    }

    /// <summary>
    /// How long a caller wants to wait before the answer that it goes on; null if it wants no such answer.
    /// </summary>
    private static TimeSpan? WaitOf(StringValues prefer)
    {
        var preferences = prefer
            .SelectMany(value => (value ?? "").Split(',', ';'))
            .Select(each => each.Trim().ToLowerInvariant())
            .ToList();
        if (!preferences.Contains("respond-async"))
            return null;
        var wait = preferences.Find(each => each.StartsWith("wait=", StringComparison.Ordinal))?["wait=".Length..];
        return int.TryParse(wait, NumberStyles.None, CultureInfo.InvariantCulture, out var seconds)
            ? TimeSpan.FromSeconds(seconds)
            : TimeSpan.Zero;
    }
}
