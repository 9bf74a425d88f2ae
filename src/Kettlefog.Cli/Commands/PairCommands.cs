using System.CommandLine;
using System.Globalization;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Pairs of records: their scores, similar records, and non-duplicates.</summary>
internal static class PairCommands
{
    public static Command Pairs()
    {
        var type = RecordCommands.TypeArgument();
        var minScore = new Option<double>("--min-score")
        {
            Description = "Lowest score, in percent.",
            DefaultValueFactory = _ => 0,
        };
        var format = ExportFormat();
        return new Command(
            "pairs",
            CommandHelp.WithExamples(
                "Export the pairs of the last scan: id_a, id_b, score, proposed, rule.",
                "pairs vendor --min-score 70 > pairs.csv",
                "pairs vendor --format jsonl"
            )
        )
        {
            type,
            minScore,
            format,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                await using var output = Console.OpenStandardOutput();
                await client.ExportPairsAsync(
                    result.GetRequiredValue(type),
                    result.GetValue(minScore),
                    result.GetRequiredValue(format),
                    output,
                    cancellationToken
                );
                return 0;
            }
        );
    }

    public static Command Explain()
    {
        var type = RecordCommands.TypeArgument();
        var (a, b) = Keys();
        return new Command(
            "explain",
            CommandHelp.WithExamples("Explain the score of two records.", "explain vendor 1001 1002")
        )
        {
            type,
            a,
            b,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var pair = await client.ExplainAsync(
                    new PairBody(result.GetRequiredValue(type), result.GetRequiredValue(a), result.GetRequiredValue(b)),
                    cancellationToken
                );
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        pair,
                        () => Rows([pair]),
                        page =>
                        {
                            Page(page, pair);
                            page.Line($"Compared as {ScanSummary.Several(pair.Entity)}.");
                        }
                    );
                return 0;
            }
        );
    }

    public static Command Likely()
    {
        var type = RecordCommands.TypeArgument();
        var key = new Argument<string?>("key")
        {
            Description = "Key of a record; omit to search by values.",
            Arity = ArgumentArity.ZeroOrOne,
        };
        var values = new Option<string[]>("--value")
        {
            Description = "Value to search by, as in name=Gannet; repeatable.",
            AllowMultipleArgumentsPerToken = true,
        };
        var limit = new Option<int>("--limit")
        {
            Description = "Maximum number of results.",
            DefaultValueFactory = _ => 10,
        };
        return new Command(
            "similar",
            CommandHelp.WithExamples(
                "Find records similar to a record, or to given values.",
                "similar vendor 1001",
                "similar vendor --value 'name=Gannet Chandlery' --value 'phone=01632 960118'"
            )
        )
        {
            type,
            key,
            values,
            limit,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var typed = (result.GetValue(values) ?? [])
                    .Select(Split)
                    .ToDictionary(pair => pair.Name, pair => (string?)pair.Value);
                var name = result.GetRequiredValue(type);
                if (result.GetValue(key) is null == (typed.Count == 0))
                    throw new UsageException(
                        "Nothing to search for.",
                        "Give the key of a record, or values with --value field=text."
                    );
                var found = result.GetValue(key) is { } record
                    ? await client.FindSimilarAsync(name, record, result.GetValue(limit), cancellationToken)
                    : await client.FindSimilarAsync(
                        name,
                        new SimilarBody(typed, result.GetValue(limit)),
                        cancellationToken
                    );
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        found,
                        () => Rows(found),
                        page =>
                        {
                            page.Table(
                                new Grid(
                                    ["Key", "Record", "Score", "Why"],
                                    [
                                        .. found.Select(pair =>
                                            (IReadOnlyList<string?>)
                                                [
                                                    pair.B,
                                                    pair.LabelB,
                                                    TextFormat.Percent(pair.Score),
                                                    string.Join(
                                                        ", ",
                                                        pair.Evidence.Take(3).Select(evidence => evidence.Text)
                                                    ),
                                                ]
                                        ),
                                    ],
                                    [2]
                                )
                            );
                            page.Line(found.Count == 0 ? "No similar records found." : $"{found.Count} found.");
                        }
                    );
                return 0;
            }
        );
    }

    public static Command NonDuplicates()
    {
        var list = RecordCommands.TypeArgument();
        var addType = RecordCommands.TypeArgument();
        var (addA, addB) = Keys();
        var addReason = ClusterCommands.ReasonOption();
        var reopenType = RecordCommands.TypeArgument();
        var (reopenA, reopenB) = Keys();
        var reopenReason = ClusterCommands.ReasonOption();
        return new Command(
            "non-duplicates",
            CommandHelp.WithExamples(
                "List, mark and reopen records that are not duplicates.",
                "non-duplicates list vendor",
                "non-duplicates mark vendor 1023 1024 --reason 'two branches'",
                "non-duplicates reopen vendor 1023 1024 --reason 'one after all'"
            )
        )
        {
            new Command(
                "list",
                CommandHelp.WithExamples("List the pairs marked as not duplicates.", "non-duplicates list vendor")
            )
            {
                list,
            }.Calling(
                async (result, client, cancellationToken) =>
                {
                    var pairs = await client.ListNonDuplicatesAsync(result.GetRequiredValue(list), cancellationToken);
                    CommonOptions
                        .PrinterOf(result)
                        .Print(
                            pairs,
                            new Grid(
                                ["id_a", "id_b", "entry", "actor", "reason", "at"],
                                [
                                    .. pairs.Select(pair =>
                                        (IReadOnlyList<string?>)
                                            [
                                                pair.A,
                                                pair.B,
                                                $"{pair.Entry}",
                                                pair.Actor,
                                                pair.Reason,
                                                TextFormat.Minute(pair.At),
                                            ]
                                    ),
                                ]
                            ),
                            pairs.Count == 0 ? "No records are marked as not duplicates." : null
                        );
                    return 0;
                }
            ),
            new Command(
                "mark",
                CommandHelp.WithExamples(
                    "Mark two records as not duplicates.",
                    "non-duplicates mark vendor 1023 1024 --reason 'two branches'"
                )
            )
            {
                addType,
                addA,
                addB,
                addReason,
            }.Calling(
                async (result, client, cancellationToken) =>
                {
                    var entry = await client.MarkPairNonDuplicatesAsync(
                        new PairBody(
                            result.GetRequiredValue(addType),
                            result.GetRequiredValue(addA),
                            result.GetRequiredValue(addB),
                            result.GetRequiredValue(addReason)
                        ),
                        cancellationToken
                    );
                    PrintDecision(CommonOptions.PrinterOf(result), entry, "Not duplicates");
                    return 0;
                }
            ),
            new Command(
                "reopen",
                CommandHelp.WithExamples(
                    "Reopen a decision that two records are not duplicates.",
                    "non-duplicates reopen vendor 1023 1024 --reason 'one after all'"
                )
            )
            {
                reopenType,
                reopenA,
                reopenB,
                reopenReason,
            }.Calling(
                async (result, client, cancellationToken) =>
                {
                    var entry = await client.ReopenAsync(
                        new PairBody(
                            result.GetRequiredValue(reopenType),
                            result.GetRequiredValue(reopenA),
                            result.GetRequiredValue(reopenB),
                            result.GetRequiredValue(reopenReason)
                        ),
                        cancellationToken
                    );
                    PrintDecision(CommonOptions.PrinterOf(result), entry, "Reopened");
                    return 0;
                }
            ),
        };
    }

    public static Option<string> ExportFormat()
    {
        var format = new Option<string>("--format")
        {
            Description = "Format: csv or jsonl.",
            DefaultValueFactory = _ => "csv",
        };
        format.AcceptOnlyFromAmong("csv", "jsonl");
        return format;
    }

    public static void PrintDecision(Printer output, EntryView entry, string word) =>
        output.Print(
            entry,
            new Grid(
                ["entry", "kind", "records", "reason"],
                [
                    [
                        $"{entry.Summary.Number}",
                        entry.Summary.Kind,
                        string.Join(' ', entry.Summary.Records.Select(record => record.Key)),
                        entry.Summary.Reason,
                    ],
                ]
            ),
            $"{word} (history entry {entry.Summary.Number})."
        );

    public static Grid Rows(IEnumerable<PairView> pairs) =>
        new(
            ["id_a", "id_b", "score", "proposed", "rule", "evidence", "words", "strength", "weight"],
            [
                .. pairs.SelectMany(pair =>
                    pair.Evidence.Select(evidence =>
                        (IReadOnlyList<string?>)
                            [
                                pair.A,
                                pair.B,
                                pair.Score.ToString(CultureInfo.InvariantCulture),
                                pair.Proposed ? "true" : "false",
                                pair.Rule,
                                evidence.Name,
                                evidence.Text,
                                evidence.Strength,
                                evidence.Weight.ToString(CultureInfo.InvariantCulture),
                            ]
                    )
                ),
            ]
        );

    public static void Page(Printer page, PairView pair)
    {
        page.Heading(
            $"{pair.A} and {pair.B}: {TextFormat.Percent(pair.Score)} "
                + $"confidence{(pair.Proposed ? $", proposed by the rule '{pair.Rule}'" : ", not proposed")}"
        );
        page.Table(
            new Grid(
                ["Field", "Finding", "Evidence", "Weight"],
                [
                    .. pair.Evidence.Select(evidence =>
                        (IReadOnlyList<string?>)
                            [
                                evidence.Title,
                                evidence.Text,
                                evidence.Strength,
                                evidence.Weight.ToString("+0.0;-0.0;0.0", CultureInfo.InvariantCulture),
                            ]
                    ),
                ],
                [3]
            )
        );
        if (pair.Missing.Count > 0)
            page.Line($"Not compared, a value is missing: {string.Join(", ", pair.Missing)}.");
        foreach (var note in pair.Notes)
            page.Line(note);
    }

    private static (Argument<string> A, Argument<string> B) Keys() =>
        (
            new Argument<string>("a") { Description = "Key of one record." },
            new Argument<string>("b") { Description = "Key of the other." }
        );

    private static (string Name, string Value) Split(string text)
    {
        var equals = text.IndexOf('=', StringComparison.Ordinal);
        return equals > 0
            ? (text[..equals], text[(equals + 1)..])
            : throw new UsageException(
                $"'{text}' is not a value of a field.",
                "Write it as in --value 'name=Gannet Chandlery'."
            );
    }
}
