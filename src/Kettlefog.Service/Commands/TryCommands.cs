using System.CommandLine;
using System.Diagnostics;
using System.Globalization;
using Kettlefog.Core.Merging;
using Kettlefog.Database;
using Kettlefog.Database.History;
using Kettlefog.Database.Merging;
using Kettlefog.Service.Endpoints;
using Kettlefog.Service.Settings;
using Kettlefog.Terminal;

namespace Kettlefog.Service.Commands;

/// <summary>
/// Plans and rehearses merges in a database with a map, without a service; the database is not changed.
/// </summary>
internal static class TryCommands
{
    public static Command Plan()
    {
        var (options, format) = (new PlanOptions(), Printer.FormatOption());
        var command = options.AddTo(
            new Command(
                "plan",
                CommandHelp.WithExamples(
                    "Plan a merge without a service and without Kettlefog's tables; nothing is changed.",
                    "service plan vendor 1001 1002 --database books.db --map books.map.yaml"
                )
            )
            {
                ServiceSettings.DatabaseOption,
                ServiceSettings.MapOption,
                format,
            }
        );
        command.SetAction(
            async (result, cancellationToken) =>
            {
                using var database = await OpenAsync(result, cancellationToken);
                var (_, plan) = await options.PlanAsync(result, async request =>
                    Views.Of(
                        await database.Merges.PlanAsync(MergeEndpoints.Choices(request, database), cancellationToken),
                        database.Map.Map
                    )
                );
                new Printer(result.GetValue(format)).Print(
                    plan,
                    () => PlanReport.Fields(plan),
                    output =>
                    {
                        PlanReport.Print(output, plan);
                        output.Line();
                        output.Line(
                            "To run it in the database and roll it back, use 'kettlefog service rehearse' "
                                + "with the same arguments."
                        );
                    }
                );
            }
        );
        return command;
    }

    public static Command Rehearse()
    {
        var (options, format) = (new PlanOptions(), Printer.FormatOption());
        var command = options.AddTo(
            new Command(
                "rehearse",
                CommandHelp.WithExamples(
                    "Carry out a merge in one transaction, verify it, report it, and roll it back. Its rows "
                        + "are locked while it runs.",
                    "service rehearse vendor 1001 1002 --database books.db --map books.map.yaml"
                )
            )
            {
                ServiceSettings.DatabaseOption,
                ServiceSettings.MapOption,
                format,
            }
        );
        command.SetAction(
            async (result, cancellationToken) =>
            {
                using var database = await OpenAsync(result, cancellationToken);
                MergePlan? planned = null;
                var (request, _) = await options.PlanAsync(result, async request =>
                    Views.Of(
                        planned = await database.Merges.PlanAsync(
                            MergeEndpoints.Choices(request, database),
                            cancellationToken
                        ),
                        database.Map.Map
                    )
                );
                var clock = Stopwatch.StartNew();
                var outcome = await database.Merges.ApplyAsync(
                    new MergeRequest(
                        MergeEndpoints.Choices(request, database),
                        planned!.Fingerprint.Text,
                        new AuditContext("rehearsal", "rehearsal"),
                        null,
                        DryRun: true
                    ),
                    cancellationToken
                );
                var took = clock.ElapsedMilliseconds;
                var view = Views.Full(RecordedEntry.New(outcome.Entry), outcome.Details!);
                new Printer(result.GetValue(format)).Print(
                    view,
                    () => PlanReport.Moves(view.Merge!, done: true),
                    output =>
                    {
                        PlanReport.Print(output, view.Merge!, done: true);
                        output.Line();
                        var totals = view.Merge!.Figures.Count(figure => figure.Control);
                        var agree = totals switch
                        {
                            0 => "",
                            1 => ", and the control total agrees",
                            _ => $", and {totals} control totals agree",
                        };
                        output.Line(
                            string.Create(
                                CultureInfo.InvariantCulture,
                                $"Done in {took} ms and verified: no row refers to a duplicate{agree}. "
                                    + $"Everything was rolled back: the database is unchanged."
                            )
                        );
                    }
                );
            }
        );
        return command;
    }

    private static async Task<OperationalDatabase> OpenAsync(ParseResult result, CancellationToken cancellationToken)
    {
        var database = await OperationalDatabase.OpenForPreviewAsync(
            ServiceSettings.Of(result).Database,
            ServiceCommand.ReadMap(ServiceSettings.Of(result).Map),
            TimeProvider.System,
            cancellationToken
        );

        try
        {
            // So that the plan can warn of references that the map does not name.
            await database.Maps.CheckAsync(cancellationToken);
            return database;
        }
        catch
        {
            database.Dispose();
            throw;
        }
    }
}
