using Kettlefog.Core;
using Kettlefog.Database;
using Kettlefog.Database.Duplicates.Scans;

namespace Kettlefog.Service.Jobs;

/// <summary>
/// Carries out scans, one after the other. A scan that was running when the service ended continues when it starts.
/// </summary>
internal sealed class ScanWorker(OperationalDatabase database, ILogger<ScanWorker> log) : BackgroundService
{
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(30);
    private static readonly TimeSpan RetryAfter = TimeSpan.FromSeconds(3);
    private static readonly TimeSpan Breath = TimeSpan.FromMilliseconds(200);

    private readonly SemaphoreSlim _wake = new(0);

    /// <summary>Signals that a scan is waiting.</summary>
    public void Wake() => _wake.Release();

    /// <inheritdoc/>
    public override void Dispose()
    {
        _wake.Dispose();
        base.Dispose();
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                // Another instance of the service may be carrying out the scan: it continues here if that one ends.
                if (await NextAsync(stoppingToken) is not { } scan || !await RunAsync(scan, stoppingToken))
                    await _wake.WaitAsync(Pause, stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception error) when (!stoppingToken.IsCancellationRequested)
            {
                log.LogWarning(error, "Scans pause: {Reason}", error.Message);
                await Task.Delay(RetryAfter, CancellationToken.None);
            }
        }
    }

    private async Task<Scan?> NextAsync(CancellationToken cancellationToken) =>
        (await database.Scans.ListAsync(null, openOnly: true, cancellationToken))
            .Where(scan => scan.State is ScanState.Waiting or ScanState.Running)
            .MinBy(scan => scan.Id);

    private async Task<bool> RunAsync(Scan scan, CancellationToken cancellationToken)
    {
        try
        {
            await database.Scans.MoveAsync(scan.Id, ScanState.Running, cancellationToken);
            log.LogInformation("Scan {Id} of {RecordType} runs", scan.Id, scan.RecordType);
            if (!await database.Scans.RunAsync(scan, cancellationToken))
                return false;
            var ended = await database.Scans.ReadAsync(scan.Id, cancellationToken);

            // It paused for a request to stop it, which has yet to store that.
            if (ended.State == ScanState.Running)
                await Task.Delay(Breath, cancellationToken);
            log.LogInformation(
                "Scan {Id} is {State}: {Clusters} clusters of {Records} records in {Seconds} s",
                ended.Id,
                ended.State,
                ended.Report?.Clusters,
                ended.Report?.Records,
                ended.Report?.Seconds
            );
        }
        catch (KettlefogException refusal) when (refusal.Code == ErrorCode.ScanRunning)
        {
            log.LogInformation("Scan {Id} was stopped before it started", scan.Id);
        }
        catch (Exception error)
            when (error is not OperationCanceledException and not KettlefogException { Code: ErrorCode.DatabaseBusy })
        {
            // A scan that fails must not stop the others.
            log.LogError(error, "Scan {Id} broke off", scan.Id);
            await database.Scans.FailAsync(
                scan.Id,
                error is KettlefogException refusal ? refusal.Message : "Internal error; see the service's log.",
                cancellationToken
            );
        }

        return true;
    }
}
