using System.CommandLine;
using System.Globalization;
using CsvHelper;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>What a rule would find, and how right it is about pairs that people labelled.</summary>
internal static class RuleTrialCommands
{
    private static readonly string[] LabelledColumns = ["id_a", "id_b", "match"];

    public static Command Try()
    {
        var type = RecordCommands.TypeArgument();
        var file = RuleCommands.FileArgument();
        var replaces = new Option<string?>("--replaces")
        {
            Description = "Rule that it would replace; without it, it would apply beside the others.",
        };
        return new Command(
            "try",
            CommandHelp.WithExamples(
                "Try a rule on today's records without saving it.",
                "rules try vendor rule.yaml",
                "rules try vendor rule.yaml --replaces ready"
            )
        )
        {
            type,
            file,
            replaces,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var trial = await client.TryRuleAsync(
                    result.GetRequiredValue(type),
                    new RuleTrialBody(RuleCommands.Read(result.GetRequiredValue(file)), result.GetValue(replaces)),
                    cancellationToken
                );
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        trial,
                        () =>
                            new Grid(
                                ["from", "to", "pairs"],
                                [
                                    .. trial.Bands.Select(band =>
                                        (IReadOnlyList<string?>)
                                            [TextFormat.Number(band.From), TextFormat.Number(band.To), $"{band.Pairs}"]
                                    ),
                                ]
                            ),
                        page =>
                        {
                            page.Line(
                                $"{trial.Records} records: {trial.Pairs} pairs in {trial.Clusters} clusters of "
                                    + $"{trial.InClusters} records, {trial.Certain} of them certain."
                            );
                            page.Line(
                                (
                                    result.GetValue(replaces) is { } replaced
                                        ? $"In place of '{replaced}'"
                                        : "Beside the rules in force"
                                ) + $": {trial.Gained} pairs gained, {trial.Lost} lost."
                            );
                            if (trial.Pairs > 0)
                                page.Line(Expected(trial));
                            page.Heading("Scores");
                            var maxPairs = Math.Max(1, trial.Bands.Max(band => band.Pairs));
                            page.Table(
                                new Grid(
                                    ["Score", "Pairs", ""],
                                    [
                                        .. trial
                                            .Bands.Where(band => band.Pairs > 0)
                                            .Select(band =>
                                                (IReadOnlyList<string?>)
                                                    [
                                                        $"{TextFormat.Number(band.From)} to "
                                                            + $"{TextFormat.Number(band.To)} %",
                                                        $"{band.Pairs}",
                                                        new string(
                                                            '█',
                                                            (int)Math.Ceiling(30.0 * band.Pairs / maxPairs)
                                                        ),
                                                    ]
                                            ),
                                    ],
                                    [1]
                                )
                            );
                            Samples(page, "Near the threshold", trial.NearThreshold);
                            Samples(page, "Newly found", trial.GainedSamples);
                            Samples(page, "No longer found", trial.LostSamples);
                        }
                    );
                return 0;
            }
        );
    }

    public static Command Evaluate()
    {
        var type = RecordCommands.TypeArgument();
        var labelled = new Argument<FileInfo>("pairs")
        {
            Description = "CSV file with the columns id_a, id_b and match (1 or 0).",
        };
        var rule = new Option<FileInfo?>("--rule")
        {
            Description = "File with the rule (default: the rules in force).",
        };
        return new Command(
            "evaluate",
            CommandHelp.WithExamples(
                "Measure precision, recall and F1 of a rule against labelled pairs, at each threshold.",
                "rules evaluate vendor labelled.csv",
                "rules evaluate vendor labelled.csv --rule rule.yaml"
            )
        )
        {
            type,
            labelled,
            rule,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var body = new EvaluationBody(
                    result.GetValue(rule) is { } file ? RuleCommands.Read(file) : null,
                    ReadPairs(result.GetRequiredValue(labelled))
                );
                var evaluation = await client.EvaluateRuleAsync(result.GetRequiredValue(type), body, cancellationToken);
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        evaluation,
                        new Grid(
                            ["threshold", "precision", "recall", "f1"],
                            [
                                .. evaluation.Lines.Select(line =>
                                    (IReadOnlyList<string?>)
                                        [
                                            TextFormat.Number(line.Threshold),
                                            Share(line.Precision),
                                            Share(line.Recall),
                                            Share(line.F1),
                                        ]
                                ),
                            ],
                            [0, 1, 2, 3]
                        ),
                        $"{evaluation.Pairs} pairs, {evaluation.Matches} of them matches; "
                            + $"{evaluation.NotCompared} of these are missed by blocking. "
                            + $"{evaluation.Unknown} pairs name unknown or retired records."
                    );
                return 0;
            }
        );
    }

    internal static void Samples(Printer page, string heading, IReadOnlyList<SamplePairView> samples)
    {
        if (samples.Count == 0)
            return;
        page.Heading(heading);
        page.Table(
            new Grid(
                ["Score", "One", "Other", "Why"],
                [
                    .. samples.Select(pair =>
                        (IReadOnlyList<string?>)
                            [
                                TextFormat.Percent(pair.Score),
                                $"{pair.A} {pair.LabelA}",
                                $"{pair.B} {pair.LabelB}",
                                pair.Summary,
                            ]
                    ),
                ],
                [0]
            )
        );
    }

    private static string Expected(RuleTrialView trial)
    {
        var all = trial.Expected;
        var certain = trial.ExpectedOfCertain is { } some
            ? $"; of the certain pairs {TextFormat.Percent(some.Precision)} and {TextFormat.Percent(some.Recall)}"
            : "";
        return $"Expected by the scores: {TextFormat.Percent(all.Precision)} of the pairs are right, and "
            + $"{TextFormat.Percent(all.Recall)} of the duplicates compared are among them{certain}.";
    }

    private static List<LabelledPairBody> ReadPairs(FileInfo file)
    {
        using var csv = CsvReader.FromText(RuleCommands.Read(file), new CsvReaderOptions());
        var pairs = new List<LabelledPairBody>();
        try
        {
            csv.ReadHeader();
            if (LabelledColumns.FirstOrDefault(column => !csv.Headers.Contains(column)) is { } missing)
                throw new UsageException(
                    $"{file.Name} has no column '{missing}'.",
                    "Start with the line 'id_a,id_b,match'."
                );
            while (csv.Read())
            {
                var match = csv.GetString("match").Trim().ToUpperInvariant() switch
                {
                    "1" or "TRUE" or "YES" => true,
                    "0" or "FALSE" or "NO" => false,
                    var other => throw new UsageException(
                        $"'{other}' in line {csv.LineNumber} of {file.Name} is neither 1 nor 0.",
                        "Write 1 or 0 in the column 'match'."
                    ),
                };
                pairs.Add(
                    new LabelledPairBody(
                        CsvText.Read(csv.GetString("id_a")),
                        CsvText.Read(csv.GetString("id_b")),
                        match
                    )
                );
            }
        }
        catch (CsvFormatException error)
        {
            throw new UsageException(
                $"{file.Name} is not a table of labelled pairs: {error.Message}",
                "Start with the line 'id_a,id_b,match'."
            );
        }

        return pairs;
    }

    private static string Share(double value) => value.ToString("0.0000", CultureInfo.InvariantCulture);
}
