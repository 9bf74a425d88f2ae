using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using Kettlefog.Contracts;
using Kettlefog.Service.Jobs;
using Kettlefog.Service.Security;
using Microsoft.AspNetCore.Http.HttpResults;

namespace Kettlefog.Service.Endpoints;

/// <summary>Changes, as server-sent events (WHATWG HTML, section 9.2).</summary>
internal static class EventEndpoints
{
    private const string EventStream = "text/event-stream";

    /// <summary>A stream ends by itself, so that clients reconnect and are authorised again.</summary>
    private static readonly TimeSpan Longest = TimeSpan.FromMinutes(10);

    public static void Map(RouteGroupBuilder api) =>
        api.MapGet("/events", Listen)
            .WithTags("events")
            .WithName("listen")
            .WithSummary("Follow changes to history, queue, rules and scans, as server-sent events.")
            .WithDescription(
                "Event types: 'history' (a merge, reversal or decision), 'queue', 'rules', 'scan' (the state "
                    + "of a scan), and 'alive' as a keep-alive. The stream ends with its session or token, and "
                    + "after ten minutes; clients reconnect."
            )
            .Produces<EventView>(200, EventStream);

    private static ServerSentEventsResult<EventView> Listen(
        ChangeFeed feed,
        CallerCache callers,
        HttpContext context,
        IHostApplicationLifetime lifetime
    ) => TypedResults.ServerSentEvents(EventsAsync(feed, callers, context, lifetime.ApplicationStopping));

    private static async IAsyncEnumerable<SseItem<EventView>> EventsAsync(
        ChangeFeed feed,
        CallerCache callers,
        HttpContext context,
        CancellationToken stopping,
        [EnumeratorCancellation] CancellationToken cancellationToken = default
    )
    {
        using var ending = CancellationTokenSource.CreateLinkedTokenSource(
            context.RequestAborted,
            stopping,
            cancellationToken
        );
        ending.CancelAfter(Longest);
        await using var events = feed.ListenAsync(ending.Token).GetAsyncEnumerator(CancellationToken.None);
        while (await NextAsync(events) && await callers.StillHoldsAsync(context))
            yield return new SseItem<EventView>(events.Current.View, events.Current.Type);
    }

    private static async Task<bool> NextAsync(IAsyncEnumerator<ChangeEvent> events)
    {
        try
        {
            return await events.MoveNextAsync();
        }
        catch (OperationCanceledException)
        {
            return false;
        }
    }
}
