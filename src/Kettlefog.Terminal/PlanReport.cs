using System.Globalization;
using Kettlefog.Contracts;

namespace Kettlefog.Terminal;

/// <summary>Prints a plan, or a merge that was done.</summary>
public static class PlanReport
{
    private const string Blank = "—";

    /// <summary>Prints all of it.</summary>
    public static void Print(Printer output, PlanView plan, bool done = false)
    {
        output.Line($"Master:     {Name(plan.Records[0])}");
        foreach (var duplicate in plan.Records.Skip(1))
            output.Line($"Duplicate:  {Name(duplicate)}");
        if (plan.Suggestion is { } suggestion && suggestion.Key != plan.Records[0].Key)
            output.Line(Suggestion(suggestion));
        PrintFields(output, plan);
        output.Heading("Related rows");
        output.Table(Moves(plan, done));
        foreach (var move in plan.Moves)
        {
            foreach (var collision in move.Collisions)
                output.Line(Collision(move, collision, done));
        }

        foreach (var ended in (plan.Ended ?? []).GroupBy(row => (row.Title, row.Record)))
            output.Line(
                $"{ended.Key.Title} of {ended.Key.Record} {(done ? "ended" : "end")} before: "
                    + $"{string.Join(", ", ended.Select(row => row.Key))}."
            );
        foreach (var pair in done ? plan.Reopened ?? [] : [])
            output.Line(
                $"Reopened: {pair.A} and {pair.B} had been marked as not duplicates (history entry {pair.Number})."
            );
        foreach (var added in plan.Added ?? [])
            output.Line(
                $"{added.Field} '{added.Value}' of {added.Record} {(done ? "was" : "is")} added to the "
                    + $"master's {added.Rows.ToLowerInvariant()}."
            );
        if (plan.Timeline is { } timeline)
            output.Line($"A row {(done ? "was" : "is")} added to {timeline} for the master.");
        if (plan.Figures.Count > 0)
        {
            output.Heading("Figures");
            output.Table(
                new Grid(
                    ["figure", .. plan.Records.Select(record => record.Key), "after", "check"],
                    [
                        .. plan.Figures.Select(figure =>
                            (IReadOnlyList<string?>)
                                [
                                    figure.Title,
                                    .. figure.Before.Select(value => Figure(figure.Operation, value)),
                                    Figure(figure.Operation, figure.After),
                                    figure.Control ? "control total" : "",
                                ]
                        ),
                    ],
                    [.. Enumerable.Range(1, plan.Records.Count + 1)]
                )
            );
        }

        PrintLinked(output, plan);
        foreach (var warning in plan.Warnings)
            output.Line($"Warning: {warning}");
        foreach (var blocker in plan.Blockers)
        {
            output.Line($"Blocked: {blocker.Message}");
            output.Line($"  To clear it: {blocker.Remedy}");
            foreach (var clearing in blocker.Clearings ?? [])
                output.Line($"    {clearing.Title}: --{clearing.Kind} {clearing.Name}");
        }
    }

    /// <summary>The linked merges that are included, and those that are offered.</summary>
    private static void PrintLinked(Printer output, PlanView plan)
    {
        if (plan.Linked is { Count: > 0 })
        {
            output.Heading("Linked merges, in the same transaction");
            foreach (var linked in plan.Linked)
            {
                var rows = linked.Moves.Where(move => move.Policy == "reassign").Sum(move => move.Moved);
                var values = linked.Fields.Count(field => field.Changes);
                output.Line(
                    $"{linked.RecordType} "
                        + $"{string.Join(", ", linked.Records.Skip(1).Select(record => record.Key))} into "
                        + $"{linked.Records[0].Key} {linked.Records[0].Label}: "
                        + $"{TextFormat.Counted(rows, "related row moves", "related rows move")}, "
                        + $"{TextFormat.Counted(values, "value of the master changes", "values of the master change")}."
                );
            }
        }

        var offered = (plan.Offers ?? []).Where(offer => !offer.Chosen).ToList();
        if (offered.Count == 0)
            return;
        output.Heading("Related duplicates");
        foreach (var offer in offered)
        {
            output.Line(
                $"{offer.Title}: "
                    + $"{string.Join(" and ", offer.Records.Select(record => $"{record.Key} {record.Label}"))} "
                    + $"({offer.Reason})"
            );
            output.Line($"  To include them, add: --link '{Link(offer)}'");
        }

        if (offered.Count > 1)
            output.Line("To include all of them, and their own related duplicates, add: --with-linked");
    }

    /// <summary>An offer as <c>--link</c> takes it, with the suggested master first.</summary>
    public static string Link(OfferView offer)
    {
        var duplicates = offer.Records.Select(record => record.Key).Where(key => key != offer.Suggestion.Key);
        return $"{offer.RecordType} {offer.Suggestion.Key} {string.Join(' ', duplicates)}";
    }

    /// <summary>The surviving value of each field, one row per field.</summary>
    public static Grid Fields(PlanView plan) =>
        new(
            ["field", "value", "from", "chosen_by", "rule", "changes", .. plan.Records.Select(record => record.Key)],
            [
                .. plan.Fields.Select(field =>
                    (IReadOnlyList<string?>)
                        [
                            field.Name,
                            field.Value,
                            field.From is { } from ? plan.Records[from].Key
                            : field.ChosenBy == "typed" ? "typed"
                            : "several",
                            field.ChosenBy,
                            field.Rule,
                            field.Changes ? "true" : "false",
                            .. field.Values,
                        ]
                ),
            ]
        );

    /// <summary>The related rows, one row per reference and record.</summary>
    public static Grid Moves(PlanView plan, bool done = false) =>
        new(
            ["rows", "table", "action", "count", "removed", "amount"],
            [
                .. plan
                    .Moves.Where(move => move.Count > 0)
                    .Select(move =>
                        (IReadOnlyList<string?>)
                            [
                                move.Title,
                                move.Table,
                                move.Policy switch
                                {
                                    "reassign" => done ? "moved to the master" : "move to the master",
                                    "leave" => done ? "stayed" : "stay",
                                    _ => done ? "there were none" : "must be none",
                                },
                                move.Moved.ToString(CultureInfo.InvariantCulture),
                                move.Removed == 0 ? "" : move.Removed.ToString(CultureInfo.InvariantCulture),
                                TextFormat.Amount(move.Amount),
                            ]
                    ),
            ],
            [3, 4, 5]
        );

    /// <summary>A figure for people: sums as amounts, everything else as it is.</summary>
    public static string? Figure(string operation, string? value) =>
        operation == "sum" ? TextFormat.Amount(value) : value;

    /// <summary>The suggested master in one line.</summary>
    public static string Suggestion(SuggestedMasterView suggestion) =>
        $"Suggested master: {suggestion.Key}. {string.Join(' ', suggestion.Reasons)}".TrimEnd();

    private static string Collision(PlanMove move, PlanCollision collision, bool done)
    {
        var removed = string.Join(" and ", collision.Removed.Select(row => row.Key));
        var changes = string.Join(", ", collision.Changes.Select(change => $"{change.Key} {ValueOf(change.Value)}"));
        var differences = collision
            .Removed.SelectMany(row => row.Differences ?? [], (row, each) => (row.Key, Difference: each))
            .Select(each =>
                $"{each.Difference.Column} of {each.Key} "
                + $"{(done ? "was" : "is")} {ValueOf(each.Difference.Removed)}, and "
                + $"{ValueOf(each.Difference.Kept)} {(done ? "was" : "is")} kept"
            )
            .ToList();
        var dependents = TextFormat.Counted(collision.DependentsMoved, "row that refers", "rows that refer");
        var several = collision.Removed.Count > 1;
        var are = (done, several) switch
        {
            (true, true) => "were",
            (true, false) => "was",
            (false, true) => "are",
            _ => "is",
        };
        var moves = (done, collision.DependentsMoved) switch
        {
            (true, _) => "moved",
            (false, 1) => "moves",
            _ => "move",
        };
        return $"{move.Title}: {collision.Kept} {(done ? "was" : "is")} kept"
            + (changes.Length == 0 ? "" : $" with {changes}")
            + $", {removed} {are} removed as {(several ? "repeats" : "a repeat")} ({collision.Values} must be unique)"
            + (
                collision.DependentsMoved == 0
                    ? "."
                    : $"; {dependents} to {(several ? "them" : "it")} {moves} to {collision.Kept}."
            )
            + (differences.Count == 0 ? "" : $" They differ: {string.Join("; ", differences)}.");
    }

    private static string ValueOf(string? value) => string.IsNullOrEmpty(value) ? Blank : $"'{value}'";

    private static void PrintFields(Printer output, PlanView plan)
    {
        var differing = plan
            .Fields.Where(field => (field.Differs || field.Changes) && field.Kind != "unmapped")
            .ToList();
        output.Heading(
            differing.Count == 0
                ? "All fields have the same values"
                : $"Fields that differ: {differing.Count} of {plan.Fields.Count(field => field.Kind != "unmapped")}"
        );
        if (differing.Count == 0)
            return;
        output.Table(
            new Grid(
                ["field", .. plan.Records.Select(record => record.Key), "result", "reason"],
                [
                    .. differing.Select(field =>
                        (IReadOnlyList<string?>)
                            [
                                field.Title,
                                .. field.Values.Select(value => string.IsNullOrEmpty(value) ? Blank : value),
                                (field.Changes ? "* " : "") + (string.IsNullOrEmpty(field.Value) ? Blank : field.Value),
                                Because(plan, field),
                            ]
                    ),
                ]
            )
        );
        if (differing.Any(field => field.Changes))
            output.Line("* The master's value changes.");
    }

    private static string Because(PlanView plan, PlanField field) =>
        field.ChosenBy switch
        {
            "typed" => "typed in",
            "overflow" => "moved here from another field",
            "operator" when field.From is not null => $"taken from {plan.Records[field.From!.Value].Key}",
            "operator" => $"{field.Rule}, as chosen",
            _ => field.Rule,
        };

    private static string Name(PlanRecord record) =>
        $"{record.Key}  {record.Label}"
        + $" (created {Day(record.Created)}, changed "
        + $"{Day(record.Changed)}{(record.Source is null ? "" : $", from {record.Source}")})";

    private static string Day(string? moment) => moment?.Split('T')[0] ?? "unknown";
}
