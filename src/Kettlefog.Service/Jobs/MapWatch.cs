using Kettlefog.Core;
using Kettlefog.Core.Map.Checking;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Database;

namespace Kettlefog.Service.Jobs;

/// <summary>
/// Checks the map against rights and data after the service has started, and logs the findings; nothing waits for it.
/// </summary>
internal sealed class MapWatch(OperationalDatabase database, IHostApplicationLifetime service, ILogger<MapWatch> log)
    : BackgroundService
{
    /// <summary>The findings; null until they are known.</summary>
    public MapReport? Report { get; private set; }

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        // Waiting requests go first.
        var started = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
        await using var listening = service.ApplicationStarted.Register(started.SetResult);
        await started.Task.WaitAsync(stoppingToken);
        try
        {
            Report = await database.Maps.CheckAsync(stoppingToken);
        }
        catch (KettlefogException refusal)
        {
            log.LogWarning("The record map could not be checked against rights and data: {Message}", refusal.Message);
            return;
        }
        catch (Exception error) when (error is not OperationCanceledException)
        {
            log.LogError(error, "The record map could not be checked against rights and data");
            return;
        }

        foreach (var finding in Report.Findings)
            log.Log(
                finding.Severity == FindingSeverity.Error ? LogLevel.Error : LogLevel.Warning,
                "{File}:{Line}: {Message} {Remedy} {Statement}",
                Report.File,
                finding.Line,
                finding.Message,
                finding.Remedy,
                finding.Statement ?? ""
            );
    }
}
