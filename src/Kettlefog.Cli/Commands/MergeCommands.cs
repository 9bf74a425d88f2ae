using System.CommandLine;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Planning and merging.</summary>
internal static class MergeCommands
{
    private static readonly PlanOptions Options = new();

    public static Command Plan() =>
        Options.AddTo(new Command("plan", Common.WithExample(
            "Shows what a merge would do; changes nothing.",
            "plan vendor 1001 1002",
            "plan vendor 1001 1002 --take email=1002 --set payment_terms_days=30",
            "plan account 4001 4002 --with-linked"))).Calling(async (result, client, cancel) =>
        {
            var (_, plan) = await Options.PlanAsync(result, request => client.PlanAsync(request, cancel));
            Common.PrinterOf(result).Print(plan, () => PlanPage.Fields(plan), output =>
            {
                PlanPage.Print(output, plan);
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
        return Options.AddTo(new Command("merge", Common.WithExample(
            "Merges duplicates into a master. Shows the plan and asks first, unless told otherwise.",
            "merge vendor 1001 1002 --reason 'same firm'",
            "merge vendor 1001 1002 --dry-run",
            "merge vendor 1003 1004 1005 --take email=1004 --reason 'typed three times' --yes"))
        {
            reason, fingerprint, yes, dryRun, idempotency,
        }).Calling(async (result, client, cancel) =>
        {
            var printer = Common.PrinterOf(result);
            var rehearse = result.GetValue(dryRun);
            var agreed = result.GetValue(fingerprint);
            var ask = agreed is null && !rehearse && !result.GetValue(yes);
            if (ask)
                Confirmation.DemandSomebody(printer, "Look at the plan with 'kettlefog plan', then give its --fingerprint; or give --yes to merge at once.");
            var request = Options.Read(result);
            if (agreed is null || Options.WantsLinked(result))
            {
                (request, var plan) = await Options.PlanAsync(result, request => client.PlanAsync(request, cancel));
                agreed ??= plan.Fingerprint;
                if (ask && plan.Blockers.Count == 0)
                {
                    PlanPage.Print(printer, plan);
                    if (!Confirmation.Ask("Merge now?"))
                        return Complaint.Failed;
                }
            }

            var entry = await Bar.WhileJobAsync(printer, "Merging", told => client.MergeAsync(
                new MergeBody(request, agreed, result.GetValue(reason) ?? "", rehearse),
                rehearse ? null : result.GetValue(idempotency) ?? Guid.NewGuid().ToString(),
                told,
                cancel));
            var merge = entry.Merge!;
            printer.Print(entry, () => HistoryCommands.RowsOf([entry.Summary]), output =>
            {
                var into = $"{string.Join(", ", merge.Records.Skip(1).Select(record => record.Key))} into {merge.Records[0].Key} ({merge.Records[0].Label})";
                output.Line(rehearse
                    ? $"Rehearsed and rolled back: {into}."
                    : $"Merge {entry.Summary.Number} done: {into}.");
                if (entry.Summary.Linked is { } linked)
                    output.Line($"{(rehearse ? "With" : "Done with")} it: {string.Join(", ", request.Linked!.Reverse().Zip(linked, (each, number) => $"{each.RecordType} {string.Join(", ", each.Duplicates)} into {each.Master}{(rehearse ? "" : $" (merge {number})")}"))}.");
                output.Table(PlanPage.Moves(merge, done: !rehearse));
                if (!rehearse)
                    output.Line($"Take it back with: kettlefog reverse {entry.Summary.Number}");
            });
            return 0;
        });
    }
}
