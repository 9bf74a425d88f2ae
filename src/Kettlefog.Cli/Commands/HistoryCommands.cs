using System.CommandLine;
using System.Globalization;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Looking at what was done, and taking it back.</summary>
internal static class HistoryCommands
{
    private static readonly Argument<long> Number = new("number") { Description = "The number of the merge, as the history lists it." };

    public static Command History()
    {
        var type = new Option<string?>("--type") { Description = "Only of this record type." };
        var record = new Option<string?>("--record") { Description = "Only of the record with this key." };
        var actor = new Option<string?>("--by") { Description = "Only of this user." };
        var kind = new Option<string?>("--kind") { Description = "Only entries of a kind: merge, reversal, kept-apart or reopened." };
        kind.AcceptOnlyFromAmong("merge", "reversal", "kept-apart", "reopened");
        var page = RecordCommands.PageOption();
        var size = RecordCommands.SizeOption();
        var list = new Command("list", CommonOptions.WithExample("Lists merges and reversals, latest first.", "history list --record 1001")) { type, record, actor, kind, page, size }.Calling(async (result, client, cancellationToken) =>
        {
            var history = await client.HistoryAsync(result.GetValue(type), result.GetValue(record), result.GetValue(actor), result.GetValue(kind), result.GetValue(page), result.GetValue(size), cancellationToken);
            CommonOptions.PrinterOf(result).Print(history, () => RowsOf(history.Items), output =>
            {
                if (history.Items.Count == 0)
                    output.Line("The history has no such entry.");
                else
                    output.Table(GridOf(history.Items));
            });
            return 0;
        });
        var format = PairCommands.ExportFormat();
        var export = new Command("export", CommonOptions.WithExample("Writes all entries, one a line, latest first.", "history export > history.csv", "history export --kind merge --format jsonl")) { type, record, actor, kind, format }.Calling(async (result, client, cancellationToken) =>
        {
            await using var output = Console.OpenStandardOutput();
            await client.ExportHistoryAsync(result.GetRequiredValue(format), output, result.GetValue(type), result.GetValue(record), result.GetValue(actor), result.GetValue(kind), cancellationToken);
            return 0;
        });
        var show = new Command("show", CommonOptions.WithExample("Shows one merge or reversal, with every old value.", "history show 1")) { Number }.Calling(async (result, client, cancellationToken) =>
        {
            var entry = await client.EntryAsync(result.GetRequiredValue(Number), cancellationToken);
            CommonOptions.PrinterOf(result).Print(
                entry,
                () => entry.Merge is { } merge ? PlanReport.Fields(merge) : CellsOf(entry.Reversal is { } reversal ? [reversal] : []),
                output => PrintEntry(output, entry));
            return 0;
        });
        var check = new Command("check", CommonOptions.WithExample("Checks that the history and its journal were not altered.", "history check")).Calling(async (result, client, cancellationToken) =>
        {
            var found = await client.CheckHistoryAsync(cancellationToken);
            CommonOptions.PrinterOf(result).Print(
                found,
                () => new Grid(["fault"], [.. found.Faults.Select(fault => (IReadOnlyList<string?>)[fault])]),
                output =>
                {
                    foreach (var fault in found.Faults)
                        output.Line(fault);
                    output.Line(found.Faults.Count == 0
                        ? $"The history is whole: {found.Entries} entries, the last with hash {found.Head}."
                        : $"The history was altered: {found.Faults.Count} faults in {found.Entries} entries.");
                });
            return found.Faults.Count == 0 ? 0 : ErrorOutput.Failed;
        });
        return new Command("history", "Looks at what was done.") { list, show, export, check };
    }

    public static Command Reverse()
    {
        var reason = new Option<string>("--reason") { Description = "Why, for the history.", DefaultValueFactory = _ => "" };
        var fingerprint = new Option<string?>("--fingerprint") { Description = "The fingerprint of the reversal that was looked at with --dry-run; refused if anything changed since." };
        var yes = new Option<bool>("--yes") { Description = "Take it back without asking." };
        var dryRun = new Option<bool>("--dry-run") { Description = "Show what would come back and what drifted; change nothing." };
        var withLater = new Option<bool>("--with-later") { Description = "Take back first the later merges that stand on it." };
        var takeBack = new Option<string[]>("--take-back") { Description = "Take back too what somebody changed since, by the id that --dry-run shows; may be given several times.", DefaultValueFactory = _ => [] };
        var only = new Option<string?>("--only") { Description = "Take only this duplicate out of the merge, by its key." };
        var keepLinked = new Option<bool>("--keep-linked") { Description = "Let the merges of linked records stand that were done with it." };
        return new Command("reverse", CommonOptions.WithExample(
            "Takes a merge back. Shows what comes back and asks first, unless told otherwise.",
            "reverse 1 --dry-run",
            "reverse 1 --only 1002 --dry-run",
            "reverse 1 --reason 'two firms after all' --yes"))
        {
            Number, reason, fingerprint, yes, dryRun, withLater, takeBack, only, keepLinked,
        }.Calling(async (result, client, cancellationToken) =>
        {
            var printer = CommonOptions.PrinterOf(result);
            var number = result.GetRequiredValue(Number);
            var agreed = result.GetValue(fingerprint);
            var ask = agreed is null && !result.GetValue(dryRun) && !result.GetValue(yes);
            if (ask)
                Confirmation.DemandSomebody(printer, "Look at the reversal with --dry-run, then give its --fingerprint; or give --yes to take it back at once.");
            if (agreed is null || result.GetValue(dryRun))
            {
                var plan = await client.PlanReversalAsync(number, new ReversalPlanBody(result.GetValue(withLater), result.GetValue(takeBack), result.GetValue(only), result.GetValue(keepLinked)), cancellationToken);
                agreed = plan.Fingerprint;
                if (result.GetValue(dryRun))
                {
                    printer.Print(plan, () => CellsOf(plan.Reversals), output =>
                    {
                        PrintPlan(output, plan);
                        output.Line();
                        output.Line($"Fingerprint: {plan.Fingerprint}");
                    });
                    return 0;
                }

                if (ask)
                {
                    PrintPlan(printer, plan);
                    if (!Confirmation.Ask("Take it back now?"))
                        return ErrorOutput.Failed;
                }
            }

            var done = await JobProgressBar.WhileJobAsync(printer, "Taking back", told => client.ReverseAsync(
                number,
                new ReversalBody(agreed, result.GetValue(reason) ?? "", result.GetValue(withLater), UndoDrift: result.GetValue(takeBack), Only: result.GetValue(only), KeepLinked: result.GetValue(keepLinked)),
                Guid.NewGuid().ToString(),
                told,
                cancellationToken));
            printer.Print(done, () => RowsOf(done.Entries), output =>
            {
                foreach (var entry in done.Entries)
                    output.Line(entry.Only is { } alone
                        ? $"{alone} taken out of merge {entry.Reverses} (entry {entry.Number}): {entry.Rows} related rows went back."
                        : $"Merge {entry.Reverses} taken back (entry {entry.Number}): {entry.Rows} related rows went back.");
            });
            return 0;
        });
    }

    /// <summary>Entries for people.</summary>
    public static Grid GridOf(IReadOnlyList<EntrySummary> entries) => new(
        ["no.", "when (UTC)", "type", "what", "by", "rows", "state", "reason"],
        [.. entries.Select(entry => (IReadOnlyList<string?>)[
            Text(entry.Number),
            entry.At.UtcDateTime.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture),
            entry.RecordType,
            What(entry),
            entry.Actor,
            Text(entry.Rows),
            entry.ReversedBy is { } reversal ? $"taken back by {reversal}" : entry.Kind == "merge" ? "stands" : "",
            entry.Reason])],
        [0, 5]);

    /// <summary>Entries for programs.</summary>
    public static Grid RowsOf(IReadOnlyList<EntrySummary> entries) => new(
        ["number", "kind", "record_type", "master", "duplicates", "at", "actor", "reason", "rule", "approved_by", "rows", "reverses", "reversed_by", "hash"],
        [.. entries.Select(entry => (IReadOnlyList<string?>)[
            Text(entry.Number),
            entry.Kind,
            entry.RecordType,
            entry.Records[0].Key,
            string.Join(' ', entry.Records.Skip(1).Select(record => record.Key)),
            entry.At.UtcDateTime.ToString("O", CultureInfo.InvariantCulture),
            entry.Actor,
            entry.Reason,
            entry.Rule,
            entry.ApprovedBy,
            Text(entry.Rows),
            Text(entry.Reverses),
            Text(entry.ReversedBy),
            entry.Hash])]);

    private static void PrintEntry(Printer output, EntryView entry)
    {
        var summary = entry.Summary;
        output.Line($"Entry {summary.Number}: {What(summary)}");
        output.Line($"  {summary.At.UtcDateTime:yyyy-MM-dd HH:mm:ss} UTC by {summary.Actor}, {summary.Rule}{(summary.Reason.Length > 0 ? $": {summary.Reason}" : "")}");
        if (summary.ReversedBy is { } reversal)
            output.Line($"  Taken back by entry {reversal}.");
        if (summary.Linked is { } linked)
            output.Line($"  Done with merge {string.Join(", ", linked)} of linked records.");
        if (summary.LinkedTo is { } with)
            output.Line($"  Done with merge {with}, which brought it to light.");
        output.Line($"  Hash {summary.Hash}");
        output.Line();
        if (entry.Merge is { } merge)
            PlanReport.Print(output, merge, done: true);
        if (entry.Reversal is { } back)
            PrintReversal(output, back);
    }

    private static void PrintPlan(Printer output, ReversalPlanView plan)
    {
        foreach (var reversal in plan.Reversals)
        {
            output.Line(reversal.Only is { } only
                ? $"Taking {only} out of merge {reversal.Number} into {reversal.Records[0].Key} ({reversal.Records[0].Label}); what the master took from it stays"
                : $"Taking back merge {reversal.Number} into {reversal.Records[0].Key} ({reversal.Records[0].Label})");
            PrintReversal(output, reversal);
        }
    }

    private static void PrintReversal(Printer output, SingleReversalView reversal)
    {
        output.Heading("Related rows that go back");
        output.Table(new Grid(
            ["rows", "to", "count", "moved by the merge"],
            [.. reversal.Rows.Select(rows => (IReadOnlyList<string?>)[rows.Title, rows.Record, Text(rows.Count), Text(rows.Journaled)])],
            [2, 3]));
        output.Heading("Values that come back");
        output.Table(new Grid(
            ["record", "column", "now", "back to"],
            [.. reversal.Cells.Select(cell => (IReadOnlyList<string?>)[cell.Record, cell.Column, cell.Now, cell.Back])]));
        foreach (var key in reversal.Restored)
            output.Line($"The deleted record {key} comes back.");
        foreach (var removed in reversal.Removed)
            output.Line(removed);
        output.Line(reversal.Drift.Count == 0 ? "Nothing drifted: everything comes back as it was." : "Changed since the merge:");
        foreach (var drift in reversal.Drift)
        {
            output.Line($"  {drift.Text}");
            if (drift is { Undo: not null, Undone: false, Id.Length: > 0 })
                output.Line($"    To take it back too, add: --take-back '{drift.Id}'");
        }
    }

    private static Grid CellsOf(IReadOnlyList<SingleReversalView> reversals) => new(
        ["merge", "record", "column", "now", "back"],
        [.. reversals.SelectMany(reversal => reversal.Cells.Select(cell => (IReadOnlyList<string?>)[Text(reversal.Number), cell.Record, cell.Column, cell.Now, cell.Back]))]);

    private static string What(EntrySummary entry)
    {
        var keys = string.Join(", ", entry.Records.Select(record => record.Key));
        return entry.Kind switch
        {
            "merge" => $"{string.Join(", ", entry.Records.Skip(1).Select(record => record.Key))} into {entry.Records[0].Key} {entry.Records[0].Label}",
            "reversal" when entry.Only is { } only => $"took {only} out of merge {entry.Reverses} into {entry.Records[0].Key} {entry.Records[0].Label}",
            "reversal" => $"took back merge {entry.Reverses} into {entry.Records[0].Key} {entry.Records[0].Label}",
            "kept-apart" => $"kept {keys} apart",
            _ => $"reopened {keys}",
        };
    }

    private static string Text(long? number) => number?.ToString(CultureInfo.InvariantCulture) ?? "";
}
