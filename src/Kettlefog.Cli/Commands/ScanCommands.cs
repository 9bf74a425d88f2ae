using System.CommandLine;
using Kettlefog.Client;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Scans for duplicates.</summary>
internal static class ScanCommands
{
    private static readonly TimeSpan Between = TimeSpan.FromMilliseconds(300);

    public static Command Scan()
    {
        var type = new Argument<string?>("type")
        {
            Description = "Record type to scan; 'kettlefog types' lists them.",
            Arity = ArgumentArity.ZeroOrOne,
        };
        var changed = new Option<bool>("--changed") { Description = "Scan only what changed since the last scan." };
        var noWait = new Option<bool>("--no-wait") { Description = "Request the scan and do not wait for it." };
        var scan = new Command(
            "scan",
            CommandHelp.WithExamples(
                "Scan a record type for duplicates, and show the progress.",
                "scan vendor",
                "scan vendor --changed",
                "scan list"
            )
        )
        {
            type,
            changed,
            noWait,
        };
        scan.Calling(
            async (result, client, cancellationToken) =>
            {
                var name = result.GetValue(type)
                    ?? throw new UsageException(
                        "No record type was given.",
                        "Give one, as in 'kettlefog scan vendor'; 'kettlefog types' lists them."
                    );
                var asked = await client.AddScanAsync(
                    new ScanBody(name, result.GetValue(changed) ? "changed" : "whole"),
                    cancellationToken
                );
                return await FollowAsync(result, client, asked, result.GetValue(noWait), cancellationToken);
            }
        );
        scan.Add(List());
        scan.Add(Show());
        scan.Add(Move("stop", "Stop a scan; it can be resumed."));
        scan.Add(Move("resume", "Resume a stopped scan."));
        scan.Add(Move("cancel", "Cancel a scan."));
        return scan;
    }

    private static Command List()
    {
        var type = new Option<string?>("--type") { Description = "Only scans of this record type." };
        return new Command("list", CommandHelp.WithExamples("List scans, latest first.", "scan list --type vendor"))
        {
            type,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var scans = await client.ScansAsync(result.GetValue(type), cancellationToken);
                CommonOptions.PrinterOf(result).Print(scans, GridOf(scans));
                return 0;
            }
        );
    }

    private static Command Show()
    {
        var id = IdArgument();
        return new Command("show", CommandHelp.WithExamples("Show the state and result of a scan.", "scan show 1"))
        {
            id,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var scan = await client.ScanAsync(result.GetRequiredValue(id), cancellationToken);
                Print(CommonOptions.PrinterOf(result), scan);
                return 0;
            }
        );
    }

    private static Command Move(string verb, string description)
    {
        var id = IdArgument();
        return new Command(verb, CommandHelp.WithExamples(description, $"scan {verb} 1")) { id }.Calling(
            async (result, client, cancellationToken) =>
            {
                var scan = await client.MoveScanAsync(result.GetRequiredValue(id), verb, cancellationToken);
                CommonOptions.PrinterOf(result).Print(scan, GridOf([scan]));
                return 0;
            }
        );
    }

    private static Argument<long> IdArgument() => new("id") { Description = "Number of the scan." };

    private static async Task<int> FollowAsync(
        ParseResult result,
        KettlefogClient client,
        ScanView scan,
        bool noWait,
        CancellationToken cancellationToken
    )
    {
        var output = CommonOptions.PrinterOf(result);
        if (!noWait)
            scan = await JobProgressBar.WhileAsync(output, tell =>
                WaitAsync(client, scan, now => tell(now.Phase, now.Done, now.Total), cancellationToken)
            );
        Print(output, scan);
        return scan.State is "failed" ? 1 : 0;
    }

    private static async Task<ScanView> WaitAsync(
        KettlefogClient client,
        ScanView scan,
        Action<ScanView> reportProgress,
        CancellationToken cancellationToken
    )
    {
        while (scan.State is "waiting" or "running")
        {
            await Task.Delay(Between, cancellationToken);
            scan = await client.ScanAsync(scan.Id, cancellationToken);
            reportProgress(scan);
        }

        return scan;
    }

    private static void Print(Printer output, ScanView scan) =>
        output.Print(
            scan,
            () => GridOf([scan]),
            page =>
            {
                var progress = scan.State is "running" or "stopped"
                    ? $", {scan.Phase} {scan.Done} of {scan.Total}"
                    : "";
                page.Line($"Scan {scan.Id} of {scan.RecordType}: {scan.State}{progress}.");
                if (scan.Message is not null)
                    page.Line(scan.Message);
                if (scan.Report is not { } report)
                    return;
                foreach (var line in ScanSummary.LinesOf(report))
                    page.Line(line);
                page.Line($"See them with 'kettlefog clusters list {scan.RecordType}'.");
            }
        );

    private static Grid GridOf(IReadOnlyList<ScanView> scans) =>
        new(
            [
                "id",
                "record_type",
                "scope",
                "state",
                "phase",
                "done",
                "total",
                "clusters",
                "pairs",
                "seconds",
                "actor",
                "at",
            ],
            [
                .. scans.Select(scan =>
                    (IReadOnlyList<string?>)
                        [
                            $"{scan.Id}",
                            scan.RecordType,
                            scan.Scope,
                            scan.State,
                            scan.Phase,
                            $"{scan.Done}",
                            $"{scan.Total}",
                            scan.Report is { } report ? $"{report.Clusters}" : null,
                            scan.Report is { } pairs ? $"{pairs.Pairs}" : null,
                            scan.Report is { } timed ? TextFormat.Seconds(timed.Seconds) : null,
                            scan.Actor,
                            TextFormat.Minute(scan.At),
                        ]
                ),
            ]
        );
}
