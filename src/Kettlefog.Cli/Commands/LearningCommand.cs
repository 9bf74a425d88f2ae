using System.CommandLine;
using System.Globalization;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>What was learned from decisions, and what to decide next.</summary>
internal static class LearningCommand
{
    /// <summary>Where people read it, so many of each are enough.</summary>
    private const int Shown = 10;

    public static Command Create()
    {
        var type = RecordCommands.TypeArgument();
        return new Command(
            "learning",
            CommandHelp.WithExamples(
                "Show what the last scan learned from decisions, which of them are doubtful, and what to decide next.",
                "rules learning vendor",
                "rules learning vendor --output csv > to-decide.csv"
            )
        )
        {
            type,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var learning = await client.LearningAsync(result.GetRequiredValue(type), cancellationToken);
                CommonOptions.PrinterOf(result).Print(learning, () => ToDecide(learning), page => Page(page, learning));
                return 0;
            }
        );
    }

    private static Grid ToDecide(LearningView learning) =>
        new(
            ["id_a", "id_b", "score", "proposed", "label_a", "label_b", "evidence"],
            [
                .. learning.ToDecide.Select(pair =>
                    (IReadOnlyList<string?>)
                        [
                            pair.A,
                            pair.B,
                            TextFormat.Number(pair.Score),
                            pair.Proposed ? "true" : "false",
                            pair.LabelA,
                            pair.LabelB,
                            pair.Summary,
                        ]
                ),
            ],
            [2]
        );

    private static void Page(Printer page, LearningView learning)
    {
        if (learning.Scan is null)
        {
            page.Line("Nothing is learned yet: a scan learns from the merges and decisions before it.");
            page.Line($"Run 'kettlefog scan {learning.RecordType}'.");
            return;
        }

        page.Line(
            learning.Merged + learning.NotDuplicates == 0
                ? $"Scan {learning.Scan} had no decisions to learn from."
                : $"Scan {learning.Scan} learned from {Count(learning.Merged, "merged pair")} and "
                    + $"{Count(learning.NotDuplicates, "pair")} marked as not duplicates."
        );
        if (learning.Weights.Count > 0)
        {
            page.Heading("What counts differently since");
            page.Table(
                new Grid(
                    ["Change", "Compared", "Finding"],
                    [
                        .. learning
                            .Weights.Take(Shown)
                            .Select(weight =>
                                (IReadOnlyList<string?>)
                                    [
                                        weight.Change.ToString("+0.0 bits;-0.0 bits", CultureInfo.InvariantCulture),
                                        weight.Title,
                                        weight.Words,
                                    ]
                            ),
                    ],
                    [0]
                )
            );
        }

        if (learning.Doubtful.Count > 0)
        {
            page.Heading("Decisions that the others contradict");
            page.Table(
                new Grid(
                    ["Entry", "Kind", "Score now", "By", "Records"],
                    [
                        .. learning
                            .Doubtful.Take(Shown)
                            .Select(each =>
                                (IReadOnlyList<string?>)
                                    [
                                        $"{each.Entry.Number}",
                                        each.Entry.Kind,
                                        TextFormat.Percent(each.Score),
                                        each.Entry.Actor,
                                        string.Join(" | ", each.Entry.Records.Select(record => record.Label)),
                                    ]
                            ),
                    ],
                    [0, 2]
                )
            );
            page.Line();
            page.Line("Look at one with 'kettlefog history show NUMBER'; it can be reversed or reopened.");
        }

        if (learning.ToDecide.Count == 0)
            return;
        RuleTrialCommands.Samples(page, "What to decide next", [.. learning.ToDecide.Take(Shown)]);
        var first = learning.ToDecide[0];
        page.Line();
        page.Line(
            $"Decide with 'kettlefog merge {learning.RecordType} {first.A} {first.B}' or "
                + $"'kettlefog non-duplicates mark {learning.RecordType} {first.A} {first.B}', then scan again."
        );
    }

    private static string Count(int number, string what) => number == 1 ? $"1 {what}" : $"{number} {what}s";
}
