using System.CommandLine;
using Kettlefog.Contracts;
using Kettlefog.Core.Map.Checking;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Database;
using Kettlefog.Service.Endpoints;
using Kettlefog.Service.Settings;
using Kettlefog.Terminal;

namespace Kettlefog.Service.Commands;

/// <summary>Checks a record map against its database.</summary>
internal static class CheckMapCommand
{
    /// <summary>The exit code of a check that found risks but no errors.</summary>
    private const int Risky = 3;

    public static Command Create()
    {
        var format = Printer.FormatOption();
        var command = new Command(
            "check-map",
            CommandHelp.WithExamples(
                "Check a record map against its database: errors (exit code 1) and risks (exit code 3). "
                    + "Nothing is written.",
                "service check-map --database books.db --map books.map.yaml"
            )
        )
        {
            ServiceSettings.DatabaseOption,
            ServiceSettings.MapOption,
            format,
        };
        command.SetAction(
            async (result, cancellationToken) =>
            {
                var database = ServiceSettings.Of(result).Database;
                var report = await UninitialisedDatabase.CheckMapAsync(
                    database,
                    ServiceCommand.ReadMap(ServiceSettings.Of(result).Map),
                    cancellationToken
                );
                var view = new MapCheckView(
                    report.File,
                    UninitialisedDatabase.DisplayNameOf(database),
                    report.Worst != FindingSeverity.Error,
                    MapEndpoints.Findings(report)
                );
                new Printer(result.GetValue(format)).Print(
                    view,
                    () => FindingsReport.Rows(view.Findings),
                    output => Print(output, view, report)
                );
                return report.Worst switch
                {
                    FindingSeverity.Error => 1,
                    FindingSeverity.Warning => Risky,
                    _ => 0,
                };
            }
        );
        return command;
    }

    private static void Print(Printer output, MapCheckView view, MapReport report)
    {
        FindingsReport.Print(output, view.Findings);
        var risks = view.Findings.Count(finding => finding.Severity == "warning");
        var fits = report.Map is not null;
        output.Line(
            (
                fits
                    ? $"The record map {view.Map} fits {view.Database}"
                    : $"The record map {view.Map} does not fit {view.Database}"
            )
                + (view.Fits, risks) switch
                {
                    (false, _) when fits => ", but it cannot be used until the errors above are corrected.",
                    (false, _) => ".",
                    (true, 0) => ", and no risks were found.",
                    (true, 1) => "; review one finding before you merge.",
                    _ => $"; {risks} findings to review before you merge.",
                }
        );
    }
}
