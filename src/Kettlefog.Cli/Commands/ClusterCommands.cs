using System.CommandLine;
using System.Globalization;
using Kettlefog.Client;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>The queue of clusters.</summary>
internal static class ClusterCommands
{
    public static Command Clusters() =>
        new(
            "clusters",
            CommandHelp.WithExamples(
                "List clusters of suspected duplicates, and decide about them.",
                "clusters list vendor",
                "clusters show 1"
            )
        )
        {
            List(),
            Show(),
            Claim(),
            Assign(),
            Postpone(),
            Resume(),
            NonDuplicates(),
            Reopen(),
            TakeOut(),
            Comment(),
            Export(),
        };

    private static Command List()
    {
        var type = new Argument<string?>("type")
        {
            Description = "Only clusters of this record type.",
            Arity = ArgumentArity.ZeroOrOne,
        };
        var state = new Option<string>("--state")
        {
            Description = "State: open, merged, non-duplicates, postponed or all.",
            DefaultValueFactory = _ => "open",
        };
        var mine = new Option<string?>("--assigned")
        {
            Description = "Only clusters assigned to this user; '*' for any user.",
        };
        var unassigned = new Option<bool>("--unassigned") { Description = "Only clusters assigned to nobody." };
        var rule = new Option<string?>("--rule") { Description = "Only clusters proposed by this rule." };
        var minScore = new Option<double?>("--min-score") { Description = "Only from this confidence on, in percent." };
        var maxScore = new Option<double?>("--max-score")
        {
            Description = "Only below this confidence, in percent; 100 does not limit it.",
        };
        var record = new Option<string?>("--record") { Description = "Only the cluster with this record." };
        var order = new Option<string>("--sort")
        {
            Description = "Order: confidence, impact (related rows), amount or age.",
            DefaultValueFactory = _ => "confidence",
        };
        var reverse = new Option<bool>("--reverse") { Description = "Use the opposite order." };
        var page = RecordCommands.PageOption();
        var size = RecordCommands.SizeOption();
        return new Command(
            "list",
            CommandHelp.WithExamples(
                "List clusters of suspected duplicates.",
                "clusters list vendor",
                "clusters list vendor --sort amount --min-score 90",
                "clusters list --assigned c.weeks"
            )
        )
        {
            type,
            state,
            mine,
            unassigned,
            rule,
            minScore,
            maxScore,
            record,
            order,
            reverse,
            page,
            size,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var found = await client.ClustersAsync(
                    result.GetValue(type),
                    result.GetRequiredValue(state),
                    result.GetValue(unassigned) ? "" : result.GetValue(mine),
                    result.GetValue(rule),
                    result.GetValue(minScore),
                    result.GetValue(maxScore),
                    result.GetValue(record),
                    result.GetRequiredValue(order),
                    result.GetValue(reverse),
                    result.GetValue(page),
                    result.GetValue(size),
                    cancellationToken
                );
                var output = CommonOptions.PrinterOf(result);
                output.Print(
                    found,
                    () =>
                        new Grid(
                            [
                                "id",
                                "record_type",
                                "state",
                                "confidence",
                                "weakest",
                                "records",
                                "labels",
                                "related_rows",
                                "amount",
                                "rule",
                                "assignee",
                                "postponed_until",
                                "found_at",
                                "summary",
                                "comments",
                            ],
                            [
                                .. found.Items.Select(cluster =>
                                    (IReadOnlyList<string?>)
                                        [
                                            $"{cluster.Id}",
                                            cluster.RecordType,
                                            cluster.State,
                                            cluster.Confidence.ToString(CultureInfo.InvariantCulture),
                                            cluster.Weakest.ToString(CultureInfo.InvariantCulture),
                                            string.Join(' ', cluster.Records.Select(each => each.Key)),
                                            string.Join(" | ", cluster.Records.Select(each => each.Label)),
                                            $"{cluster.RelatedRows}",
                                            cluster.Amount,
                                            cluster.Rule,
                                            cluster.Assignee,
                                            cluster.PostponedUntil is { } date ? TextFormat.Date(date) : null,
                                            TextFormat.Timestamp(cluster.FoundAt),
                                            cluster.Summary,
                                            $"{cluster.Comments}",
                                        ]
                                ),
                            ]
                        ),
                    page =>
                    {
                        page.Table(
                            new Grid(
                                ["Cluster", "Confidence", "Records", "", "Rows", "Amount", "Assigned"],
                                [
                                    .. found.Items.Select(cluster =>
                                        (IReadOnlyList<string?>)
                                            [
                                                $"{cluster.Id}",
                                                TextFormat.Percent(cluster.Confidence),
                                                string.Join(", ", cluster.Records.Select(each => each.Key)),
                                                string.Join(" | ", cluster.Records.Select(each => each.Label)),
                                                $"{cluster.RelatedRows}",
                                                TextFormat.Amount(cluster.Amount),
                                                cluster.Assignee ?? (cluster.State is "open" ? "" : cluster.State),
                                            ]
                                    ),
                                ],
                                [1, 4, 5]
                            )
                        );
                        page.Line(
                            found.Total == 0
                                ? "No clusters. 'kettlefog scan TYPE' finds them."
                                : $"{found.Items.Count} of {found.Total}. Show one with 'kettlefog clusters "
                                    + "show NUMBER'."
                        );
                    }
                );
                return 0;
            }
        );
    }

    private static Command Show()
    {
        var id = IdArgument();
        return new Command(
            "show",
            CommandHelp.WithExamples("Show a cluster with the evidence for its pairs.", "clusters show 1")
        )
        {
            id,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var detail = await client.ClusterAsync(result.GetRequiredValue(id), cancellationToken);
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        detail,
                        () => PairCommands.Rows(detail.Pairs),
                        page =>
                        {
                            Head(page, detail.Cluster);
                            Comments(page, detail.Comments ?? []);
                            foreach (var pair in detail.Pairs)
                                PairCommands.Page(page, pair);
                            page.Line();
                            if (detail.Suggestion is { } master)
                            {
                                page.Line(PlanReport.Suggestion(master));
                                var keys = string.Join(
                                    ' ',
                                    detail
                                        .Cluster.Records.Select(record => record.Key)
                                        .OrderBy(key => key != master.Key)
                                );
                                var rule = detail.Cluster.Rule == "ready" ? "" : $" --rule {detail.Cluster.Rule}";
                                page.Line($"Merge them:       kettlefog plan {detail.Cluster.RecordType} {keys}{rule}");
                            }

                            page.Line(
                                $"Not duplicates:   kettlefog clusters non-duplicates {detail.Cluster.Id} "
                                    + "--reason '...'"
                            );
                        }
                    );
                return 0;
            }
        );
    }

    private static Command Claim()
    {
        var id = IdArgument();
        var force = new Option<bool>("--force") { Description = "Take it over from another user." };
        return new Command(
            "claim",
            CommandHelp.WithExamples(
                "Assign a cluster to yourself for ten minutes; claim it again to keep it.",
                "clusters claim 1"
            )
        )
        {
            id,
            force,
        }.Calling(
            (result, client, cancellationToken) =>
                ChangeAsync(
                    result,
                    client.ClaimAsync(result.GetRequiredValue(id), result.GetValue(force), cancellationToken)
                )
        );
    }

    private static Command Assign()
    {
        var id = IdArgument();
        var user = new Argument<string?>("user")
        {
            Description = "User; omit to unassign.",
            Arity = ArgumentArity.ZeroOrOne,
        };
        var force = new Option<bool>("--force")
        {
            Description = "Reassign a cluster that is assigned to somebody else.",
        };
        return new Command(
            "assign",
            CommandHelp.WithExamples(
                "Assign a cluster to a user, or to nobody.",
                "clusters assign 1 c.weeks",
                "clusters assign 1"
            )
        )
        {
            id,
            user,
            force,
        }.Calling(
            (result, client, cancellationToken) =>
                ChangeAsync(
                    result,
                    client.AssignAsync(
                        result.GetRequiredValue(id),
                        new AssignBody(result.GetValue(user), result.GetValue(force)),
                        cancellationToken
                    )
                )
        );
    }

    private static Command Postpone()
    {
        var id = IdArgument();
        var until = new Argument<DateOnly>("until") { Description = "Date, as in 2026-12-01." };
        var reason = new Option<string>("--reason")
        {
            Description = "Reason, shown with the cluster.",
            DefaultValueFactory = _ => "",
        };
        return new Command(
            "postpone",
            CommandHelp.WithExamples(
                "Postpone a cluster until a date.",
                "clusters postpone 1 2030-01-15",
                "clusters postpone 1 2030-01-15 --reason 'waiting for the new bank details'"
            )
        )
        {
            id,
            until,
            reason,
        }.Calling(
            (result, client, cancellationToken) =>
                ChangeAsync(
                    result,
                    client.PostponeAsync(
                        result.GetRequiredValue(id),
                        new PostponeBody(result.GetRequiredValue(until), result.GetRequiredValue(reason)),
                        cancellationToken
                    )
                )
        );
    }

    private static Command Resume()
    {
        var id = IdArgument();
        return new Command("resume", CommandHelp.WithExamples("Resume a postponed cluster.", "clusters resume 1"))
        {
            id,
        }.Calling(
            (result, client, cancellationToken) =>
                ChangeAsync(result, client.ResumeAsync(result.GetRequiredValue(id), cancellationToken))
        );
    }

    private static Command NonDuplicates()
    {
        var id = IdArgument();
        var reason = ReasonOption();
        return new Command(
            "non-duplicates",
            CommandHelp.WithExamples(
                "Mark the records of a cluster as not duplicates.",
                "clusters non-duplicates 1 --reason 'two branches'"
            )
        )
        {
            id,
            reason,
        }.Calling(
            (result, client, cancellationToken) =>
                DecideAsync(
                    result,
                    client,
                    result.GetRequiredValue(id),
                    null,
                    result.GetRequiredValue(reason),
                    cancellationToken
                )
        );
    }

    private static Command Reopen()
    {
        var id = IdArgument();
        var reason = ReasonOption();
        return new Command(
            "reopen",
            CommandHelp.WithExamples(
                "Reopen a cluster that was marked as not duplicates.",
                "clusters reopen 1 --reason 'one branch after all'"
            )
        )
        {
            id,
            reason,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var done = await client.DecideClustersAsync(
                    new ClusterDecisionsBody("reopen", [result.GetRequiredValue(id)], result.GetRequiredValue(reason)),
                    cancellationToken
                );
                if (done[0].Problem is { } problem)
                    throw new ProblemException(problem);
                PairCommands.PrintDecision(
                    CommonOptions.PrinterOf(result),
                    await client.EntryAsync(done[0].Entry!.Value, cancellationToken),
                    "Reopened"
                );
                return 0;
            }
        );
    }

    private static Command TakeOut()
    {
        var id = IdArgument();
        var keys = new Argument<string[]>("keys")
        {
            Description = "Keys of the records to exclude.",
            Arity = ArgumentArity.OneOrMore,
        };
        var reason = ReasonOption();
        return new Command(
            "exclude",
            CommandHelp.WithExamples(
                "Exclude records from a cluster, and mark them as not duplicates of the others.",
                "clusters exclude 2 1005 --reason 'another firm'"
            )
        )
        {
            id,
            keys,
            reason,
        }.Calling(
            (result, client, cancellationToken) =>
                DecideAsync(
                    result,
                    client,
                    result.GetRequiredValue(id),
                    result.GetRequiredValue(keys),
                    result.GetRequiredValue(reason),
                    cancellationToken
                )
        );
    }

    private static Command Comment()
    {
        var id = IdArgument();
        var text = new Argument<string>("text") { Description = "What to say, for others who look at the records." };
        return new Command(
            "comment",
            CommandHelp.WithExamples(
                "Comment on the records of a cluster. The comment stays with the records.",
                "clusters comment 1 'Asked the yard which of the two they invoice from.'"
            )
        )
        {
            id,
            text,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var comments = await client.CommentAsync(
                    result.GetRequiredValue(id),
                    result.GetRequiredValue(text),
                    cancellationToken
                );
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        comments,
                        () =>
                            new Grid(
                                ["id", "author", "at", "text"],
                                [
                                    .. comments.Select(comment =>
                                        (IReadOnlyList<string?>)
                                            [
                                                $"{comment.Id}",
                                                comment.Author,
                                                TextFormat.Timestamp(comment.At),
                                                comment.Text,
                                            ]
                                    ),
                                ]
                            ),
                        page => Comments(page, comments)
                    );
                return 0;
            }
        );
    }

    private static Command Export()
    {
        var type = RecordCommands.TypeArgument();
        var format = PairCommands.ExportFormat();
        return new Command(
            "export",
            CommandHelp.WithExamples(
                "Export the records in open clusters: id, cluster.",
                "clusters export vendor > clusters.csv",
                "clusters export vendor --format jsonl"
            )
        )
        {
            type,
            format,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                await using var output = Console.OpenStandardOutput();
                await client.ExportClustersAsync(
                    result.GetRequiredValue(type),
                    result.GetRequiredValue(format),
                    output,
                    cancellationToken
                );
                return 0;
            }
        );
    }

    public static Option<string> ReasonOption() =>
        new("--reason") { Description = "Reason, recorded in the history.", DefaultValueFactory = _ => "" };

    private static Argument<long> IdArgument() => new("cluster") { Description = "Number of the cluster." };

    private static async Task<int> ChangeAsync(ParseResult result, Task<ClusterView> change)
    {
        var cluster = await change;
        CommonOptions
            .PrinterOf(result)
            .Print(
                cluster,
                () =>
                    new Grid(
                        ["id", "state", "assignee", "postponed_until"],
                        [
                            [
                                $"{cluster.Id}",
                                cluster.State,
                                cluster.Assignee,
                                cluster.PostponedUntil is { } date ? TextFormat.Date(date) : null,
                            ],
                        ]
                    ),
                page => Head(page, cluster)
            );
        return 0;
    }

    private static async Task<int> DecideAsync(
        ParseResult result,
        KettlefogClient client,
        long id,
        IReadOnlyList<string>? records,
        string reason,
        CancellationToken cancellationToken
    )
    {
        var entry = await client.MarkNonDuplicatesAsync(id, new NonDuplicatesBody(records, reason), cancellationToken);
        PairCommands.PrintDecision(CommonOptions.PrinterOf(result), entry, "Not duplicates");
        return 0;
    }

    private static void Comments(Printer page, IReadOnlyList<CommentView> comments)
    {
        foreach (var comment in comments)
            page.Line($"{comment.Author}, {TextFormat.Minute(comment.At)} UTC: {comment.Text}");
    }

    private static void Head(Printer page, ClusterView cluster)
    {
        page.Line(
            $"Cluster {cluster.Id}, {cluster.RecordType}: {TextFormat.Percent(cluster.Confidence)} (weakest pair "
                + $"{TextFormat.Percent(cluster.Weakest)}), {cluster.State.Replace('-', ' ')}"
                + (cluster.Assignee is { } user ? $", assigned to {user}" : "")
                + (cluster.ClaimedUntil is { } claimed ? $" until {TextFormat.Minute(claimed)} UTC" : "")
                + (cluster.PostponedUntil is { } until ? $" until {TextFormat.Date(until)}" : "")
                + (cluster.PostponedBy is { Length: > 0 } by ? $" by {by}" : "")
                + (cluster.PostponedReason is { Length: > 0 } reason ? $" ({reason})" : "")
                + $"; {cluster.RelatedRows} related rows"
                + (cluster.Amount is { } amount ? $", amount {TextFormat.Amount(amount)}." : ".")
        );
        page.Table(
            new Grid(
                ["Key", "Record"],
                [.. cluster.Records.Select(record => (IReadOnlyList<string?>)[record.Key, record.Label])]
            )
        );
    }
}
