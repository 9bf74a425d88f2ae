using System.CommandLine;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Shows the record map of the service.</summary>
internal static class MapCommand
{
    public static Command Map()
    {
        var type = RecordCommands.TypeArgument();
        return new Command(
            "map",
            CommandHelp.WithExamples(
                "Show a record type of the map: fields, references, checks and missing indexes.",
                "map vendor"
            )
        )
        {
            type,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var reading = await client.MapDetailsAsync(cancellationToken);
                var wanted = result.GetRequiredValue(type);
                var shown = reading.RecordTypes.FirstOrDefault(each => each.Name == wanted)
                    ?? throw new UsageException(
                        $"There is no record type '{wanted}'.",
                        $"The map has: {string.Join(", ", reading.RecordTypes.Select(each => each.Name))}."
                    );
                var references = new Grid(
                    ["reference", "table", "columns", "policy", "collision", "indexed"],
                    [
                        .. shown.References.Select(reference =>
                            (IReadOnlyList<string?>)
                                [
                                    reference.Name,
                                    reference.Table,
                                    string.Join(", ", reference.Columns),
                                    reference.Policy,
                                    reference.Collision,
                                    reference.Indexed ? "yes" : "no",
                                ]
                        ),
                    ]
                );
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        shown,
                        () => references,
                        page =>
                        {
                            page.Line(
                                $"{shown.Title}: the rows of {shown.Table} in {reading.Database}, key "
                                    + $"{string.Join(", ", shown.Key)}. Duplicates: {shown.Retirement}."
                            );
                            page.Heading("Fields");
                            page.Table(
                                new Grid(
                                    ["field", "column", "kind", "rule", "overflows to"],
                                    [
                                        .. shown.Fields.Select(field =>
                                            (IReadOnlyList<string?>)
                                                [
                                                    field.Name,
                                                    field.Column,
                                                    field.Kind,
                                                    field.Rule,
                                                    string.Join(", ", field.Overflow),
                                                ]
                                        ),
                                    ]
                                )
                            );
                            page.Heading("References");
                            page.Table(references);
                            if (shown.Figures.Count > 0)
                            {
                                page.Heading("Figures");
                                page.Table(
                                    new Grid(
                                        ["figure", "of", "is", "column", "control total"],
                                        [
                                            .. shown.Figures.Select(figure =>
                                                (IReadOnlyList<string?>)
                                                    [
                                                        figure.Name,
                                                        figure.Reference,
                                                        figure.Operation,
                                                        figure.Column,
                                                        figure.Control ? "yes" : "",
                                                    ]
                                            ),
                                        ]
                                    )
                                );
                            }

                            page.Heading("Checks");
                            foreach (var check in shown.Checks.DefaultIfEmpty("None."))
                                page.Line(check);
                            if (shown.RequireReason)
                                page.Line("Merges and reversals require a reason.");
                            if (reading.Findings is { Count: > 0 } findings)
                            {
                                page.Heading("Findings");
                                FindingsReport.Print(page, findings);
                            }
                        }
                    );
                return 0;
            }
        );
    }
}
