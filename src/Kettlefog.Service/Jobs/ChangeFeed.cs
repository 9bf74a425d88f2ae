using System.Collections.Concurrent;
using System.Threading.Channels;
using Kettlefog.Contracts;
using Kettlefog.Database;
using Kettlefog.Database.Duplicates.Scans;
using Kettlefog.Service.Endpoints;

namespace Kettlefog.Service.Jobs;

/// <summary>A server-sent event.</summary>
/// <param name="Type">
/// Its type: <c>history</c>, <c>queue</c>, <c>rules</c>, <c>scan</c>, or <c>alive</c> when nothing has changed for a
/// while.
/// </param>
/// <param name="View">Its data.</param>
internal readonly record struct ChangeEvent(string Type, EventView View);

/// <summary>
/// Notifies subscribers of changes in the database, by any instance of the service. It polls once a
/// second, and only while there are subscribers.
/// </summary>
internal sealed class ChangeFeed(OperationalDatabase database, TimeProvider clock, ILogger<ChangeFeed> log)
    : BackgroundService
{
    private const int MaxWaiting = 256;
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(1);
    private static readonly TimeSpan Quiet = TimeSpan.FromSeconds(15);

    private readonly ConcurrentDictionary<Channel<ChangeEvent>, byte> _listeners = new();
    private readonly SemaphoreSlim _wake = new(0);

    /// <summary>Subscribes until cancelled.</summary>
    public async IAsyncEnumerable<ChangeEvent> ListenAsync(
        [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancellationToken
    )
    {
        // A slow subscriber loses the oldest events: each only says that something must be read again.
        var channel = Channel.CreateBounded<ChangeEvent>(
            new BoundedChannelOptions(MaxWaiting) { FullMode = BoundedChannelFullMode.DropOldest }
        );
        _listeners[channel] = 0;
        _wake.Release();
        try
        {
            yield return new ChangeEvent("alive", new EventView());
            while (await channel.Reader.WaitToReadAsync(cancellationToken))
            {
                while (channel.Reader.TryRead(out var change))
                    yield return change;
            }
        }
        finally
        {
            _listeners.TryRemove(channel, out _);
        }
    }

    /// <inheritdoc/>
    public override void Dispose()
    {
        _wake.Dispose();
        base.Dispose();
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        try
        {
            while (true)
            {
                await _wake.WaitAsync(stoppingToken);
                await WatchAsync(stoppingToken);
            }
        }
        catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested) { }
    }

    private async Task WatchAsync(CancellationToken cancellationToken)
    {
        ChangeMarkers? before = null;
        var scans = new Dictionary<long, ScanView>();
        var said = clock.GetTimestamp();
        var away = false;
        while (!_listeners.IsEmpty)
        {
            try
            {
                var now = await database.ReadChangeMarkersAsync(cancellationToken);
                var running = await database.Scans.ListAsync(null, openOnly: true, cancellationToken);
                var ended = new List<Scan>();
                foreach (var id in scans.Keys.Where(id => running.All(scan => scan.Id != id)).ToList())
                    ended.Add(await database.Scans.ReadAsync(id, cancellationToken));
                foreach (
                    var change in Changes(before, now, [.. running.Concat(ended).Select(DuplicateViews.Of)], scans)
                )
                {
                    Say(change);
                    said = clock.GetTimestamp();
                }

                foreach (var scan in ended)
                    scans.Remove(scan.Id);
                before = now;
                if (away)
                    log.LogInformation("The database can be read again.");
                away = false;
            }
            catch (Exception error) when (error is not OperationCanceledException)
            {
                // It is polled again in a moment; 'alive' tells subscribers that the service is running.
                if (!away)
                    log.LogWarning(
                        error,
                        "The database cannot be read; retrying once a second: {Reason}",
                        error.Message
                    );
                away = true;
            }

            if (clock.GetElapsedTime(said) > Quiet)
            {
                Say(new ChangeEvent("alive", new EventView()));
                said = clock.GetTimestamp();
            }

            await Task.Delay(Pause, clock, cancellationToken);
        }
    }

    private static IEnumerable<ChangeEvent> Changes(
        ChangeMarkers? before,
        ChangeMarkers now,
        IReadOnlyList<ScanView> scans,
        Dictionary<long, ScanView> known
    )
    {
        if (before is not null && before.History != now.History)
            yield return new ChangeEvent("history", new EventView(History: now.History));
        if (before is not null && before.Queue != now.Queue)
            yield return new ChangeEvent("queue", new EventView());
        if (before is not null && before.Rules != now.Rules)
            yield return new ChangeEvent("rules", new EventView());
        foreach (var scan in scans)
        {
            if (known.GetValueOrDefault(scan.Id) != scan)
                yield return new ChangeEvent("scan", new EventView(Scan: scan));
            known[scan.Id] = scan;
        }
    }

    private void Say(ChangeEvent change)
    {
        foreach (var listener in _listeners.Keys)
            listener.Writer.TryWrite(change);
    }
}
