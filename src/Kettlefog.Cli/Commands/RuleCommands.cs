using System.CommandLine;
using System.Globalization;
using CsvHelper;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Match rules.</summary>
internal static class RuleCommands
{
    private static readonly string[] LabelledColumns = ["id_a", "id_b", "match"];

    public static Command Rules() =>
        new(
            "rules",
            CommandHelp.WithExamples(
                "Show, save and try match rules.",
                "rules list vendor",
                "rules try vendor rule.yaml",
                "rules save vendor same_tax rule.yaml --note 'agreed with audit'"
            )
        )
        {
            List(),
            Show(),
            Versions(),
            Save(),
            Remove(),
            Try(),
            Evaluate(),
            LearningCommand.Create(),
        };

    private static Command List()
    {
        var type = RecordCommands.TypeArgument();
        return new Command(
            "list",
            CommandHelp.WithExamples("List the match rules of a record type that are in force.", "rules list vendor")
        )
        {
            type,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var rules = await client.RulesAsync(result.GetRequiredValue(type), cancellationToken);
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        rules,
                        () =>
                            new Grid(
                                ["name", "title", "version", "review", "automatic", "in_words"],
                                [
                                    .. rules.Select(rule =>
                                        (IReadOnlyList<string?>)
                                            [
                                                rule.Name,
                                                rule.Title,
                                                $"{rule.Version}",
                                                TextFormat.Number(rule.Review),
                                                rule.Automatic is { } automatic ? TextFormat.Number(automatic) : null,
                                                string.Join(' ', rule.Description),
                                            ]
                                    ),
                                ]
                            ),
                        page =>
                        {
                            foreach (var rule in rules)
                            {
                                var saved = rule.Version > 0 ? $" (version {rule.Version}, saved by {rule.Actor})" : "";
                                page.Heading(
                                    rule.Faults is null
                                        ? $"{rule.Name}: {rule.Title}{saved}"
                                        : $"{rule.Name}: broken{saved}"
                                );
                                foreach (var line in rule.Description)
                                    page.Line(line);
                            }
                        }
                    );
                return 0;
            }
        );
    }

    private static Command Show()
    {
        var type = RecordCommands.TypeArgument();
        var name = NameArgument();
        return new Command(
            "show",
            CommandHelp.WithExamples(
                "Print a rule in the form used by 'rules try' and 'rules save'.",
                "rules show vendor ready"
            )
        )
        {
            type,
            name,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var (types, wanted) = (result.GetRequiredValue(type), result.GetRequiredValue(name));
                var rules = await client.RulesAsync(types, cancellationToken);
                var rule = rules.FirstOrDefault(each => each.Name == wanted)
                    ?? throw new UsageException(
                        $"There is no rule '{wanted}' for '{types}'.",
                        $"The rules are: {string.Join(", ", rules.Select(each => each.Name))}."
                    );
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        rule,
                        () =>
                            new Grid(
                                ["name", "version", "body"],
                                [
                                    [rule.Name, $"{rule.Version}", rule.Body],
                                ]
                            ),
                        page => page.Line(rule.Body.TrimEnd())
                    );
                return 0;
            }
        );
    }

    private static Command Versions()
    {
        var type = RecordCommands.TypeArgument();
        var name = NameArgument();
        return new Command(
            "versions",
            CommandHelp.WithExamples(
                "List all saved versions of a rule, latest first.",
                "rules versions vendor same_tax"
            )
        )
        {
            type,
            name,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var versions = await client.RuleVersionsAsync(
                    result.GetRequiredValue(type),
                    result.GetRequiredValue(name),
                    cancellationToken
                );
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        versions,
                        new Grid(
                            ["version", "actor", "at", "note", "rule"],
                            [
                                .. versions.Select(version =>
                                    (IReadOnlyList<string?>)
                                        [
                                            $"{version.Version}",
                                            version.Actor,
                                            version.At is { } at ? TextFormat.Minute(at) : null,
                                            version.Note,
                                            version.Body ?? "(removed)",
                                        ]
                                ),
                            ]
                        ),
                        versions.Count == 0 ? "No saved versions; the rule comes from the map, if it exists." : null
                    );
                return 0;
            }
        );
    }

    private static Command Save()
    {
        var type = RecordCommands.TypeArgument();
        var name = NameArgument();
        var file = FileArgument();
        var note = new Option<string>("--note")
        {
            Description = "Note, stored with the version.",
            DefaultValueFactory = _ => "",
        };
        return new Command(
            "save",
            CommandHelp.WithExamples(
                "Save a rule as a new version; earlier versions are kept.",
                "rules save vendor same_tax rule.yaml --note 'agreed with audit'"
            )
        )
        {
            type,
            name,
            file,
            note,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var rule = await client.SaveRuleAsync(
                    result.GetRequiredValue(type),
                    result.GetRequiredValue(name),
                    new RuleBody(Read(result.GetRequiredValue(file)), result.GetRequiredValue(note)),
                    cancellationToken
                );
                var others = (await client.RulesAsync(result.GetRequiredValue(type), cancellationToken))
                    .Where(other => other.Name != rule.Name && other.Faults is null)
                    .Select(other => other.Name)
                    .ToList();
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        rule,
                        () =>
                            new Grid(
                                ["name", "version"],
                                [
                                    [rule.Name, $"{rule.Version}"],
                                ]
                            ),
                        page =>
                        {
                            page.Line($"Saved '{rule.Name}' as version {rule.Version}. The next scan uses it.");
                            foreach (var line in rule.Description)
                                page.Line(line);
                            if (others.Count > 0)
                                page.Line(
                                    $"Also in force: {string.Join(", ", others)}. 'kettlefog rules remove "
                                        + $"{result.GetRequiredValue(type)} NAME' switches one off."
                                );
                        }
                    );
                return 0;
            }
        );
    }

    private static Command Remove()
    {
        var type = RecordCommands.TypeArgument();
        var name = NameArgument();
        var note = new Option<string>("--note") { Description = "Why.", DefaultValueFactory = _ => "" };
        return new Command(
            "remove",
            CommandHelp.WithExamples("Remove a rule; its versions are kept.", "rules remove vendor same_tax")
        )
        {
            type,
            name,
            note,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                await client.RemoveRuleAsync(
                    result.GetRequiredValue(type),
                    result.GetRequiredValue(name),
                    result.GetRequiredValue(note),
                    cancellationToken
                );
                CommonOptions
                    .PrinterOf(result)
                    .Line($"Removed '{result.GetRequiredValue(name)}'. If no rule is left, the built-in rule applies.");
                return 0;
            }
        );
    }

    private static Command Try()
    {
        var type = RecordCommands.TypeArgument();
        var file = FileArgument();
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
                    new RuleTrialBody(Read(result.GetRequiredValue(file)), result.GetValue(replaces)),
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

    private static Command Evaluate()
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
                    result.GetValue(rule) is { } file ? Read(file) : null,
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

    private static Argument<string> NameArgument() => new("name") { Description = "Name of the rule." };

    private static Argument<FileInfo> FileArgument() =>
        new("file")
        {
            Description = "File with the rule, in YAML or JSON, as under its name in a map; '-' for standard input.",
        };

    private static string Read(FileInfo file)
    {
        try
        {
            return file.Name == "-" ? Console.In.ReadToEnd() : File.ReadAllText(file.FullName);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new UsageException(
                $"{file.Name} cannot be read: {error.Message}",
                "Check the path and the rights of the file."
            );
        }
    }

    private static List<LabelledPairBody> ReadPairs(FileInfo file)
    {
        using var csv = CsvReader.FromText(Read(file), new CsvReaderOptions());
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
                pairs.Add(new LabelledPairBody(csv.GetString("id_a"), csv.GetString("id_b"), match));
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
