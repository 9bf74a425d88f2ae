using System.CommandLine;
using System.Globalization;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Shows, exports and verifies the history, and reverses merges.</summary>
internal static class HistoryCommands
{
    private static readonly Argument<long> Number = new("number")
    {
        Description = "Number of the merge, as in 'kettlefog history list'.",
    };

    public static Command History()
    {
        var type = new Option<string?>("--type") { Description = "Only entries of this record type." };
        var record = new Option<string?>("--record") { Description = "Only entries of the record with this key." };
        var actor = new Option<string?>("--by") { Description = "Only entries by this user." };
        var kind = new Option<string?>("--kind")
        {
            Description = "Only entries of this kind: merge, reversal, non-duplicates or reopened.",
        };
        kind.AcceptOnlyFromAmong("merge", "reversal", "non-duplicates", "reopened");
        var before = new Option<long?>("--before") { Description = "Only entries with a smaller number." };
        var page = RecordCommands.PageOption();
        var size = RecordCommands.SizeOption();
        var list = new Command(
            "list",
            CommandHelp.WithExamples("List the history, latest entry first.", "history list --record 1001")
        )
        {
            type,
            record,
            actor,
            kind,
            before,
            page,
            size,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var history = await client.HistoryAsync(
                    result.GetValue(type),
                    result.GetValue(record),
                    result.GetValue(actor),
                    result.GetValue(kind),
                    result.GetValue(page),
                    result.GetValue(size),
                    result.GetValue(before),
                    cancellationToken
                );
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        history,
                        () => RowsOf(history.Items),
                        output =>
                        {
                            if (history.Items.Count == 0)
                                output.Line("The history has no such entry.");
                            else
                                output.Table(GridOf(history.Items));
                        }
                    );
                return 0;
            }
        );
        var format = PairCommands.ExportFormat();
        var export = new Command(
            "export",
            CommandHelp.WithExamples(
                "Export all history entries, one per line, latest first.",
                "history export > history.csv",
                "history export --kind merge --format jsonl"
            )
        )
        {
            type,
            record,
            actor,
            kind,
            format,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                await using var output = Console.OpenStandardOutput();
                await client.ExportHistoryAsync(
                    result.GetRequiredValue(format),
                    output,
                    result.GetValue(type),
                    result.GetValue(record),
                    result.GetValue(actor),
                    result.GetValue(kind),
                    cancellationToken
                );
                return 0;
            }
        );
        var show = new Command(
            "show",
            CommandHelp.WithExamples("Show one history entry with every old value.", "history show 1")
        )
        {
            Number,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var entry = await client.EntryAsync(result.GetRequiredValue(Number), cancellationToken);
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        entry,
                        () =>
                            entry.Merge is { } merge
                                ? PlanReport.Fields(merge)
                                : CellsOf(entry.Reversal is { } reversal ? [reversal] : []),
                        output => PrintEntry(output, entry)
                    );
                return 0;
            }
        );
        var after = new Option<long?>("--after")
        {
            Description = "Number of the last entry of an earlier check: verify only what follows it.",
        };
        var hash = new Option<string?>("--hash") { Description = "Hash of that entry, as the check printed it." };
        var checkpoint = ProofCommands.CheckpointOption("File of a checkpoint with which the history must begin.");
        var check = new Command(
            "verify",
            CommandHelp.WithExamples(
                "Verify that the history and its journal were not altered.",
                "history verify",
                "history verify --checkpoint checkpoint.txt"
            )
        )
        {
            after,
            hash,
            checkpoint,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var found = await client.CheckHistoryAsync(
                    result.GetValue(after),
                    result.GetValue(hash),
                    await ProofCommands.ReadCheckpointAsync(result.GetValue(checkpoint), cancellationToken),
                    cancellationToken
                );
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        found,
                        () => new Grid(["fault"], [.. found.Faults.Select(fault => (IReadOnlyList<string?>)[fault])]),
                        output =>
                        {
                            foreach (var fault in found.Faults)
                                output.Line(fault);
                            output.Line(
                                found.Faults.Count == 0
                                    ? $"History verified: {found.Entries} "
                                        + $"{(found.Entries == 1 ? "entry" : "entries")}"
                                        + $"{(result.GetValue(after) is { } number ? $" after entry {number}" : "")}"
                                        + $", no changes detected. Last entry: {found.Last}, hash {found.Head}."
                                    : $"The history was altered: {found.Faults.Count} "
                                        + $"{(found.Faults.Count == 1 ? "problem" : "problems")} in {found.Entries} "
                                        + "entries."
                            );
                            if (found is { Faults.Count: 0, Checkpoint: { } compared })
                                output.Line(
                                    "It begins with the "
                                        + TextFormat.Counted(compared.Size, "entry", "entries")
                                        + $" of the checkpoint of {TextFormat.Minute(compared.At)}"
                                        + (
                                            compared.IsOwnKey
                                                ? $", which this service signed ({compared.Key})."
                                                : $". It is signed by another key ({compared.Key}), which was not "
                                                    + "verified."
                                        )
                                );
                        }
                    );
                return found.Faults.Count == 0 ? 0 : ErrorOutput.Failed;
            }
        );
        return new Command("history", "Show, export and verify the history.")
        {
            list,
            show,
            export,
            check,
            ProofCommands.Checkpoint(),
            ProofCommands.Prove(),
            ProofCommands.Key(),
        };
    }

    public static Command Reverse()
    {
        var reason = new Option<string>("--reason")
        {
            Description = "Reason, recorded in the history.",
            DefaultValueFactory = _ => "",
        };
        var fingerprint = new Option<string?>("--fingerprint")
        {
            Description = "Fingerprint that --dry-run showed; the reversal is refused if anything changed since.",
        };
        var yes = new Option<bool>("--yes") { Description = "Reverse without asking." };
        var dryRun = new Option<bool>("--dry-run")
        {
            Description = "Show what would be restored and what has changed since; change nothing.",
        };
        var withLater = new Option<bool>("--with-later")
        {
            Description = "Reverse later merges that depend on it first.",
        };
        var undoDrift = new Option<string[]>("--undo-drift")
        {
            Description = "Undo a change made since, by the id that --dry-run shows; repeatable.",
            DefaultValueFactory = _ => [],
        };
        var only = new Option<string?>("--only")
        {
            Description = "Reverse the merge for this duplicate only (its key).",
        };
        var keepLinked = new Option<bool>("--keep-linked") { Description = "Do not reverse the linked merges." };
        return new Command(
            "reverse",
            CommandHelp.WithExamples(
                "Reverse a merge. Show the plan and ask for confirmation, unless --yes is given.",
                "reverse 1 --dry-run",
                "reverse 1 --only 1002 --dry-run",
                "reverse 1 --reason 'two firms after all' --yes"
            )
        )
        {
            Number,
            reason,
            fingerprint,
            yes,
            dryRun,
            withLater,
            undoDrift,
            only,
            keepLinked,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var printer = CommonOptions.PrinterOf(result);
                var number = result.GetRequiredValue(Number);
                var agreed = result.GetValue(fingerprint);
                var ask = agreed is null && !result.GetValue(dryRun) && !result.GetValue(yes);
                if (ask)
                    Confirmation.EnsureInteractive(
                        printer,
                        "Use --yes to reverse without asking, or --fingerprint with the fingerprint that "
                            + "--dry-run shows."
                    );
                if (agreed is null || result.GetValue(dryRun))
                {
                    var plan = await client.PlanReversalAsync(
                        number,
                        new ReversalPlanBody(
                            result.GetValue(withLater),
                            result.GetValue(undoDrift),
                            result.GetValue(only),
                            result.GetValue(keepLinked)
                        ),
                        cancellationToken
                    );
                    agreed = plan.Fingerprint;
                    if (result.GetValue(dryRun))
                    {
                        printer.Print(
                            plan,
                            () => CellsOf(plan.Reversals),
                            output =>
                            {
                                PrintPlan(output, plan);
                                output.Line();
                                output.Line($"Fingerprint: {plan.Fingerprint}");
                            }
                        );
                        return 0;
                    }

                    if (ask)
                    {
                        PrintPlan(printer, plan);
                        if (!Confirmation.Ask("Reverse the merge now?"))
                            return ErrorOutput.Failed;
                    }
                }

                var done = await JobProgressBar.WhileJobAsync(printer, "Reversing", reportProgress =>
                    client.ReverseAsync(
                        number,
                        new ReversalBody(
                            agreed,
                            result.GetValue(reason) ?? "",
                            result.GetValue(withLater),
                            UndoDrift: result.GetValue(undoDrift),
                            Only: result.GetValue(only),
                            KeepLinked: result.GetValue(keepLinked)
                        ),
                        Guid.NewGuid().ToString(),
                        reportProgress,
                        cancellationToken
                    )
                );
                printer.Print(
                    done,
                    () => RowsOf(done.Entries),
                    output =>
                    {
                        foreach (var entry in done.Entries)
                            output.Line(
                                entry.Only is { } alone
                                    ? $"Merge {entry.Reverses} partly reversed: {alone} is a separate record "
                                        + $"again (entry {entry.Number}); related rows moved back: {entry.Rows}."
                                    : $"Merge {entry.Reverses} reversed (entry {entry.Number}); related rows "
                                        + $"returned: {entry.Rows}."
                            );
                    }
                );
                return 0;
            }
        );
    }

    /// <summary>Entries for people.</summary>
    public static Grid GridOf(IReadOnlyList<EntrySummary> entries) =>
        new(
            ["no.", "when (UTC)", "type", "what", "by", "rows", "state", "reason"],
            [
                .. entries.Select(entry =>
                    (IReadOnlyList<string?>)
                        [
                            Text(entry.Number),
                            TextFormat.Minute(entry.At),
                            entry.RecordType,
                            What(entry),
                            entry.Actor,
                            Text(entry.Rows),
                            entry.ReversedBy is { } reversal ? $"reversed by {reversal}"
                            : entry.Kind == "merge" ? "stands"
                            : "",
                            entry.Reason,
                        ]
                ),
            ],
            [0, 5]
        );

    /// <summary>Entries for programs.</summary>
    public static Grid RowsOf(IReadOnlyList<EntrySummary> entries) =>
        new(
            [
                "number",
                "kind",
                "record_type",
                "master",
                "duplicates",
                "at",
                "actor",
                "reason",
                "rule",
                "approved_by",
                "rows",
                "reverses",
                "reversed_by",
                "hash",
            ],
            [
                .. entries.Select(entry =>
                    (IReadOnlyList<string?>)
                        [
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
                            entry.Hash,
                        ]
                ),
            ]
        );

    private static void PrintEntry(Printer output, EntryView entry)
    {
        var summary = entry.Summary;
        output.Line($"Entry {summary.Number}: {What(summary)}");
        output.Line(
            $"  {TextFormat.Second(summary.At)} UTC by {summary.Actor}, "
                + $"{summary.Rule}{(summary.Reason.Length > 0 ? $": {summary.Reason}" : "")}"
        );
        if (summary.ReversedBy is { } reversal)
            output.Line($"  Reversed by entry {reversal}.");
        if (summary.Linked is { } linked)
            output.Line($"  Linked merges: {string.Join(", ", linked)}.");
        if (summary.LinkedTo is { } with)
            output.Line($"  Linked to merge {with}.");
        if (entry.Catalog is { } catalog)
            output.Line($"  State of the tables {catalog}");
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
            output.Line(
                reversal.Only is { } only
                    ? $"Reversing merge {reversal.Number} into {reversal.Records[0].Key} "
                        + $"({reversal.Records[0].Label}) for {only} only; the master keeps the values it took from "
                        + "it"
                    : $"Reversing merge {reversal.Number} into {reversal.Records[0].Key} ({reversal.Records[0].Label})"
            );
            PrintReversal(output, reversal);
        }
    }

    private static void PrintReversal(Printer output, SingleReversalView reversal)
    {
        output.Heading("Related rows to move back");
        output.Table(
            new Grid(
                ["rows", "to", "count", "moved by the merge"],
                [
                    .. reversal.Rows.Select(rows =>
                        (IReadOnlyList<string?>)[rows.Title, rows.Record, Text(rows.Count), Text(rows.Journaled)]
                    ),
                ],
                [2, 3]
            )
        );
        output.Heading("Values to restore");
        output.Table(
            new Grid(
                ["record", "column", "now", "restored to"],
                [
                    .. reversal.Cells.Select(cell =>
                        (IReadOnlyList<string?>)[cell.Record, cell.Column, cell.Now, cell.Back]
                    ),
                ]
            )
        );
        foreach (var key in reversal.Restored)
            output.Line($"The deleted record {key} is restored.");
        foreach (var removed in reversal.Removed)
            output.Line(removed);
        output.Line(
            reversal.Drift.Count == 0
                ? "Nothing has changed since. Everything will be restored exactly."
                : "Changed since the merge:"
        );
        foreach (var drift in reversal.Drift)
        {
            output.Line($"  {drift.Text}");
            if (drift is { Undo: not null, Undone: false, Id.Length: > 0 })
                output.Line($"    To undo it too, add: --undo-drift '{drift.Id}'");
        }
    }

    private static Grid CellsOf(IReadOnlyList<SingleReversalView> reversals) =>
        new(
            ["merge", "record", "column", "now", "back"],
            [
                .. reversals.SelectMany(reversal =>
                    reversal.Cells.Select(cell =>
                        (IReadOnlyList<string?>)[Text(reversal.Number), cell.Record, cell.Column, cell.Now, cell.Back]
                    )
                ),
            ]
        );

    private static string What(EntrySummary entry)
    {
        var keys = string.Join(", ", entry.Records.Select(record => record.Key));
        return entry.Kind switch
        {
            "merge" => $"{string.Join(", ", entry.Records.Skip(1).Select(record => record.Key))} into "
                + $"{entry.Records[0].Key} {entry.Records[0].Label}",
            "reversal" when entry.Only is { } only =>
                $"took {only} out of merge {entry.Reverses} into {entry.Records[0].Key} {entry.Records[0].Label}",
            "reversal" => $"reversed merge {entry.Reverses} into {entry.Records[0].Key} {entry.Records[0].Label}",
            "non-duplicates" => $"marked {keys} as not duplicates",
            _ => $"reopened {keys}",
        };
    }

    private static string Text(long? number) => number?.ToString(CultureInfo.InvariantCulture) ?? "";
}
