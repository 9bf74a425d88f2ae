using System.CommandLine;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Plans and applies merges.</summary>
internal static class MergeCommands
{
    private static readonly PlanOptions Options = new();

    public static Command Plan() =>
        Options
            .AddTo(
                new Command(
                    "plan",
                    CommandHelp.WithExamples(
                        "Plan a merge; nothing is changed.",
                        "plan vendor 1001 1002",
                        "plan vendor 1001 1002 --take email=1002 --set payment_terms_days=30",
                        "plan account 4001 4002 --with-linked"
                    )
                )
            )
            .Calling(
                async (result, client, cancellationToken) =>
                {
                    var (_, plan) = await Options.PlanAsync(result, request =>
                        client.PlanAsync(request, cancellationToken)
                    );
                    CommonOptions
                        .PrinterOf(result)
                        .Print(
                            plan,
                            () => PlanReport.Fields(plan),
                            output =>
                            {
                                PlanReport.Print(output, plan);
                                output.Line();
                                output.Line($"Fingerprint: {plan.Fingerprint}");
                            }
                        );
                    return 0;
                }
            );

    public static Command Merge()
    {
        var reason = new Option<string>("--reason")
        {
            Description = "Reason, recorded in the history.",
            DefaultValueFactory = _ => "",
        };
        var fingerprint = new Option<string?>("--fingerprint")
        {
            Description = "Fingerprint that the plan showed; the merge is refused if anything changed since.",
        };
        var yes = new Option<bool>("--yes") { Description = "Merge without asking." };
        var dryRun = new Option<bool>("--dry-run")
        {
            Description = "Carry out the merge in the database, then roll it back.",
        };
        var idempotency = new Option<string?>("--idempotency-key")
        {
            Description = "Key of this request: run again with the same key, it merges only once.",
        };
        return Options
            .AddTo(
                new Command(
                    "merge",
                    CommandHelp.WithExamples(
                        "Merge duplicates into a master. Show the plan and ask for confirmation, unless --yes "
                            + "is given.",
                        "merge vendor 1001 1002 --reason 'same firm'",
                        "merge vendor 1001 1002 --dry-run",
                        "merge vendor 1003 1004 1005 --take email=1004 --reason 'typed three times' --yes"
                    )
                )
                {
                    reason,
                    fingerprint,
                    yes,
                    dryRun,
                    idempotency,
                }
            )
            .Calling(
                async (result, client, cancellationToken) =>
                {
                    var printer = CommonOptions.PrinterOf(result);
                    var rollBack = result.GetValue(dryRun);
                    var agreed = result.GetValue(fingerprint);
                    var ask = agreed is null && !rollBack && !result.GetValue(yes);
                    if (ask)
                        Confirmation.EnsureInteractive(
                            printer,
                            "Use --yes to merge without asking, or --fingerprint with the fingerprint that "
                                + "'kettlefog plan' shows."
                        );
                    var request = Options.Read(result);
                    if (agreed is null || Options.WantsLinked(result))
                    {
                        (request, var plan) = await Options.PlanAsync(result, request =>
                            client.PlanAsync(request, cancellationToken)
                        );
                        agreed ??= plan.Fingerprint;
                        if (ask && plan.Blockers.Count == 0)
                        {
                            PlanReport.Print(printer, plan);
                            if (!Confirmation.Ask("Merge now?"))
                                return ErrorOutput.Failed;
                        }
                    }

                    var entry = await JobProgressBar.WhileJobAsync(printer, "Merging", reportProgress =>
                        client.MergeAsync(
                            new MergeBody(request, agreed, result.GetValue(reason) ?? "", rollBack),
                            rollBack ? null : result.GetValue(idempotency) ?? Guid.NewGuid().ToString(),
                            reportProgress,
                            cancellationToken
                        )
                    );
                    var merge = entry.Merge!;
                    printer.Print(
                        entry,
                        () => HistoryCommands.RowsOf([entry.Summary]),
                        output =>
                        {
                            var into =
                                $"{string.Join(", ", merge.Records.Skip(1).Select(record => record.Key))} into "
                                + $"{merge.Records[0].Key} ({merge.Records[0].Label})";
                            output.Line(
                                rollBack ? $"Dry run, rolled back: {into}." : $"Merge {entry.Summary.Number}: {into}."
                            );
                            if (entry.Summary.Linked is { } linked)
                            {
                                var merges = request
                                    .Linked!.Reverse()
                                    .Zip(linked, (each, number) =>
                                        $"{each.RecordType} {string.Join(", ", each.Duplicates)} into {each.Master}"
                                        + (rollBack ? "" : $" (merge {number})")
                                    );
                                output.Line($"Linked merges in the same step: {string.Join(", ", merges)}.");
                            }

                            output.Table(PlanReport.Moves(merge, done: !rollBack));
                            if (!rollBack)
                                output.Line($"To reverse it: kettlefog reverse {entry.Summary.Number}");
                        }
                    );
                    return 0;
                }
            );
    }
}
