using System.CommandLine;
using System.Globalization;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Shows the open work and recent activity.</summary>
internal static class OverviewCommand
{
    public static Command Overview() =>
        new Command(
            "overview",
            CommandHelp.WithExamples(
                "Show open work by record type, and the activity of the last thirty days.",
                "overview"
            )
        ).Calling(
            async (result, client, cancellationToken) =>
            {
                var overview = await client.OverviewAsync(cancellationToken);
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        overview,
                        () =>
                            new Grid(
                                [
                                    "record_type",
                                    "open",
                                    "certain",
                                    "assigned",
                                    "postponed",
                                    "related_rows",
                                    "amount",
                                    "merged",
                                    "non_duplicates",
                                    "scanned_at",
                                ],
                                [
                                    .. overview.Types.Select(type =>
                                        Row(type, type.ScannedAt is { } at ? TextFormat.Timestamp(at) : null)
                                    ),
                                ]
                            ),
                        page =>
                        {
                            page.Table(
                                new Grid(
                                    [
                                        "Record type",
                                        "Waiting",
                                        "Certain",
                                        "Assigned",
                                        "Postponed",
                                        "Rows",
                                        "Amount",
                                        "Merged",
                                        "Not duplicates",
                                        "Last scan (UTC)",
                                    ],
                                    [
                                        .. overview.Types.Select(type =>
                                            Row(
                                                type with
                                                {
                                                    Amount = TextFormat.Amount(type.Amount),
                                                },
                                                type.ScannedAt is { } at ? TextFormat.Minute(at) : "never"
                                            )
                                        ),
                                    ],
                                    [1, 2, 3, 4, 5, 6, 7, 8]
                                )
                            );
                            page.Line(
                                string.Create(
                                    CultureInfo.InvariantCulture,
                                    $"Since {TextFormat.Date(overview.Since)}: "
                                        + $"{overview.Days.Sum(day => day.Merged)} merges, "
                                        + $"{overview.Days.Sum(day => day.Reversed)} reversals, "
                                        + $"{overview.Days.Sum(day => day.NonDuplicates)} decisions that records are "
                                        + $"not duplicates."
                                )
                            );
                            foreach (var scan in overview.Scans)
                                page.Line(
                                    $"Scan {scan.Id} of {scan.RecordType}: {scan.State}, {scan.Phase} "
                                        + $"{scan.Done} of {scan.Total}."
                                );
                        }
                    );
                return 0;
            }
        );

    private static IReadOnlyList<string?> Row(TypeOverview type, string? scanned) =>
        [
            type.RecordType,
            $"{type.Open}",
            $"{type.Certain}",
            $"{type.Assigned}",
            $"{type.Postponed}",
            $"{type.RelatedRows}",
            type.Amount,
            $"{type.Merged}",
            $"{type.NonDuplicates}",
            scanned,
        ];
}
