using System.CommandLine;
using Kettlefog.Client;
using Kettlefog.Contracts;

namespace Kettlefog.Cli.Commands;

/// <summary>Planning and merging.</summary>
internal static class MergeCommands
{
    private static readonly Argument<string> Type = RecordCommands.TypeArgument();

    private static readonly Argument<string> Master = new("master") { Description = "The key of the record that stays." };

    private static readonly Argument<string[]> Duplicates = new("duplicates") { Description = "The keys of the others.", Arity = ArgumentArity.OneOrMore };

    private static readonly Option<string[]> Take = new("--take") { Description = "Take a field's value from a record: --take phone=1002. May be repeated.", AllowMultipleArgumentsPerToken = false };

    private static readonly Option<string[]> Set = new("--set") { Description = "Type a field's value in: --set 'name=Gannet Chandlery'. May be repeated; nothing after '=' leaves it blank.", AllowMultipleArgumentsPerToken = false };

    private static readonly Option<string[]> By = new("--by") { Description = "Let another survivorship rule choose for a field: --by remark=append. May be repeated.", AllowMultipleArgumentsPerToken = false };

    private static readonly Option<string?> Rule = new("--rule") { Description = "The match rule by which the records were found: its survivorship holds." };

    private static readonly Option<string[]> Exclude = new("--exclude") { Description = "Let the rows of a reference stay with the retired records, where the map allows it. May be repeated.", AllowMultipleArgumentsPerToken = false };

    private static readonly Option<string[]> End = new("--end") { Description = "Let the duplicates' rows end of which one record at most may have any, where the map says how. May be repeated.", AllowMultipleArgumentsPerToken = false };

    private static readonly Option<string[]> Links = new("--link") { Description = "Merge linked records along that the plan offers: --link 'vessel 12 13', the master first. May be repeated; what another of them offered comes after it.", AllowMultipleArgumentsPerToken = false };

    private static readonly Option<bool> WithLinked = new("--with-linked") { Description = "Merge along all linked records that the plan offers, and what they bring to light in turn, into the suggested masters." };

    public static Command Plan() =>
        new Command("plan", Common.WithExample(
            "Shows what a merge would do; changes nothing.",
            "plan vendor 1001 1002",
            "plan vendor 1001 1002 --take email=1002 --set payment_terms_days=30",
            "plan account 4001 4002 --with-linked"))
        {
            Type, Master, Duplicates, Take, Set, By, Rule, Exclude, End, Links, WithLinked,
        }.Calling(async (result, client, cancel) =>
        {
            var (_, plan) = await PlanAsync(client, result, cancel);
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
        return new Command("merge", Common.WithExample(
            "Merges duplicates into a master. Shows the plan and asks first, unless told otherwise.",
            "merge vendor 1001 1002 --reason 'same firm'",
            "merge vendor 1001 1002 --dry-run",
            "merge vendor 1003 1004 1005 --take email=1004 --reason 'typed three times' --yes"))
        {
            Type, Master, Duplicates, Take, Set, By, Rule, Exclude, End, Links, WithLinked, reason, fingerprint, yes, dryRun, idempotency,
        }.Calling(async (result, client, cancel) =>
        {
            var printer = Common.PrinterOf(result);
            var rehearse = result.GetValue(dryRun);
            var agreed = result.GetValue(fingerprint);
            var ask = agreed is null && !rehearse && !result.GetValue(yes);
            if (ask)
                Confirmation.DemandSomebody(printer, "Look at the plan with 'kettlefog plan', then give its --fingerprint; or give --yes to merge at once.");
            var request = RequestOf(result);
            if (agreed is null || result.GetValue(WithLinked))
            {
                (request, var plan) = await PlanAsync(client, result, cancel);
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

    /// <summary>The plan; with all that it offers and that what was chosen offers in turn, if that was asked for.</summary>
    private static async Task<(PlanRequest Request, PlanView Plan)> PlanAsync(KettlefogClient client, ParseResult result, CancellationToken cancel)
    {
        var request = RequestOf(result);
        for (; ; )
        {
            var plan = await client.PlanAsync(request, cancel);
            var more = result.GetValue(WithLinked) ? (plan.Offers ?? []).Where(offer => !offer.Chosen).Select(offer => new LinkedMerge(offer.RecordType, offer.Suggestion.Key, [.. offer.Records.Select(record => record.Key).Where(key => key != offer.Suggestion.Key)])).ToList() : [];
            if (more.Count == 0)
                return (request, plan);
            request = request with { Linked = [.. request.Linked ?? [], .. more] };
        }
    }

    private static LinkedMerge ReadLink(string text)
    {
        var words = text.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        return words.Length < 3
            ? throw new UsageException($"'{text}' after {Links.Name} does not name a record type, a master and a duplicate.", $"Write it as in {Links.Name} 'vessel 12 13'.")
            : new LinkedMerge(words[0], words[1], words[2..]);
    }

    private static PlanRequest RequestOf(ParseResult result)
    {
        var fields = new Dictionary<string, FieldChoiceView>();
        foreach (var (option, choice) in Pairs(result, Take).Select(pair => (pair, new FieldChoiceView(From: pair.Value)))
            .Concat(Pairs(result, Set).Select(pair => (pair, new FieldChoiceView(Typed: pair.Value))))
            .Concat(Pairs(result, By).Select(pair => (pair, new FieldChoiceView(Rule: pair.Value)))))
        {
            if (!fields.TryAdd(option.Field, choice))
                throw new UsageException($"The field {option.Field} is chosen twice.", "Give one --take, --set or --by for each field.");
        }

        return new PlanRequest(result.GetRequiredValue(Type), result.GetRequiredValue(Master), result.GetRequiredValue(Duplicates), fields, result.GetValue(Rule), result.GetValue(Exclude), [.. (result.GetValue(Links) ?? []).Select(ReadLink)], result.GetValue(End));
    }

    private static IEnumerable<(string Field, string Value)> Pairs(ParseResult result, Option<string[]> option) =>
        (result.GetValue(option) ?? []).Select(text =>
        {
            var at = text.IndexOf('=', StringComparison.Ordinal);
            return at > 0
                ? (text[..at], text[(at + 1)..])
                : throw new UsageException($"'{text}' after {option.Name} is not of the form field=value.", $"Write it as in {option.Name} phone=1002.");
        });
}
