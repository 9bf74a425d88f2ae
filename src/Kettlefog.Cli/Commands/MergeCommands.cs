using System.CommandLine;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Planning and merging.</summary>
internal static class MergeCommands
{
    private static readonly PlanOptions Options = new();

    public static Command Plan() =>
        Options.AddTo(new Command("plan", CommonOptions.WithExample(
            "Shows what a merge would do; changes nothing.",
            "plan vendor 1001 1002",
            "plan vendor 1001 1002 --take email=1002 --set payment_terms_days=30",
            "plan account 4001 4002 --with-linked"))).Calling(async (result, client, cancellationToken) =>
        {
            var (_, plan) = await Options.PlanAsync(result, request => client.PlanAsync(request, cancellationToken));
            CommonOptions.PrinterOf(result).Print(plan, () => PlanReport.Fields(plan), output =>
            {
                PlanReport.Print(output, plan);
                output.Line();
                output.Line($"Fingerprint: {plan.Fingerprint}");
            });
            return 0;
        });

    public static Command Merge()
    {
        var reason = new Option<string>("--reason") { Description = "Why, for the history.", DefaultValueFactory = _ => "" };
        var fingerprint = new Option<string?>("--fingerprint") { Description = "The fingerprint of the plan that was looked at; the merge is refused if anything changed since." };
        var yes = new Option<bool>("--yes") { Description = "Plan and merge at once, without asking." };
        var dryRun = new Option<bool>("--dry-run") { Description = "Do everything in the database, then roll it back, and say what was done." };
        var idempotency = new Option<string?>("--idempotency-key") { Description = "The name of this request: run again under the same name, it merges once." };
        return Options.AddTo(new Command("merge", CommonOptions.WithExample(
            "Merges duplicates into a master. Shows the plan and asks first, unless told otherwise.",
            "merge vendor 1001 1002 --reason 'same firm'",
            "merge vendor 1001 1002 --dry-run",
            "merge vendor 1003 1004 1005 --take email=1004 --reason 'typed three times' --yes"))
        {
            reason, fingerprint, yes, dryRun, idempotency,
        }).Calling(async (result, client, cancellationToken) =>
        {
            var printer = CommonOptions.PrinterOf(result);
            var rollBack = result.GetValue(dryRun);
            var agreed = result.GetValue(fingerprint);
            var ask = agreed is null && !rollBack && !result.GetValue(yes);
            if (ask)
                Confirmation.DemandSomebody(printer, "Look at the plan with 'kettlefog plan', then give its --fingerprint; or give --yes to merge at once.");
            var request = Options.Read(result);
            if (agreed is null || Options.WantsLinked(result))
            {
                (request, var plan) = await Options.PlanAsync(result, request => client.PlanAsync(request, cancellationToken));
                agreed ??= plan.Fingerprint;
                if (ask && plan.Blockers.Count == 0)
                {
                    PlanReport.Print(printer, plan);
                    if (!Confirmation.Ask("Merge now?"))
                        return ErrorOutput.Failed;
                }
            }

            var entry = await JobProgressBar.WhileJobAsync(printer, "Merging", told => client.MergeAsync(
                new MergeBody(request, agreed, result.GetValue(reason) ?? "", rollBack),
                rollBack ? null : result.GetValue(idempotency) ?? Guid.NewGuid().ToString(),
                told,
                cancellationToken));
            var merge = entry.Merge!;
            printer.Print(entry, () => HistoryCommands.RowsOf([entry.Summary]), output =>
            {
                var into = $"{string.Join(", ", merge.Records.Skip(1).Select(record => record.Key))} into {merge.Records[0].Key} ({merge.Records[0].Label})";
                output.Line(rollBack
                    ? $"Rehearsed and rolled back: {into}."
                    : $"Merge {entry.Summary.Number} done: {into}.");
                if (entry.Summary.Linked is { } linked)
                    output.Line($"{(rollBack ? "With" : "Done with")} it: {string.Join(", ", request.Linked!.Reverse().Zip(linked, (each, number) => $"{each.RecordType} {string.Join(", ", each.Duplicates)} into {each.Master}{(rollBack ? "" : $" (merge {number})")}"))}.");
                output.Table(PlanReport.Moves(merge, done: !rollBack));
                if (!rollBack)
                    output.Line($"Take it back with: kettlefog reverse {entry.Summary.Number}");
            });
            return 0;
        });
    }
}
