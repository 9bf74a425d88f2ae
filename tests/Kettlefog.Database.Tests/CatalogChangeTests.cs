using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Reversing;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Other programs change the tables while Kettlefog is running.</summary>
public abstract class CatalogChangeTests(Engine engine)
{
    private static readonly string Deleting = Ledger.Yaml.Replace(
        "mark: { status: merged }",
        "delete: true",
        StringComparison.Ordinal
    );

    [Fact]
    public async Task A_column_added_while_the_program_runs_is_journaled_with_a_deleted_record()
    {
        using var ledger = await Ledger.OpenAsync(engine, yaml: Deleting);
        await ledger.MergeAsync(3, 4);
        ledger.File.Execute("ALTER TABLE vendor ADD COLUMN rating TEXT");
        ledger.File.Execute("UPDATE vendor SET rating = 'A' || id");
        var before = ledger.File.Dump();
        var merge = await ledger.MergeAsync(1, 2);
        await ledger.ReverseAsync(merge.Number);
        ledger.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_column_added_while_the_program_runs_is_journaled_with_a_row_that_gives_way()
    {
        using var ledger = await Ledger.OpenAsync(
            engine,
            yaml: Ledger
                .Yaml.Replace("amount: amount }", "amount: amount, collision: keep }", StringComparison.Ordinal)
                .Replace(", control: true", "", StringComparison.Ordinal)
        );
        ledger.File.Execute("UPDATE bill SET number = 'same' WHERE id IN (11, 21)");
        await ledger.MergeAsync(3, 4);
        ledger.File.Execute("ALTER TABLE bill ADD COLUMN approved_by TEXT");
        ledger.File.Execute("UPDATE bill SET approved_by = 'approver ' || id");
        var before = ledger.File.Dump();
        var merge = await ledger.MergeAsync(1, 2);
        ledger.File.Count("SELECT COUNT(*) FROM bill WHERE id = 21").ShouldBe(0);
        await ledger.ReverseAsync(merge.Number);
        ledger.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_plan_made_before_a_change_of_the_tables_is_stale_and_says_what_changed()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var choices = Ledger.Choices(1, 2);
        var plan = await ledger.PlanAsync(choices);
        ledger.File.Execute("ALTER TABLE bill ADD COLUMN approved_by TEXT");
        var refusal = await ledger.RefusedAsync(() =>
            ledger.Database.Merges.ApplyAsync(ledger.Request(choices, plan.Fingerprint.Text), default)
        );
        refusal.Code.ShouldBe(ErrorCode.PlanStale);
        refusal.Details.ShouldContain("The tables of the database were changed. bill has a new column approved_by.");
        (await ledger.MergeAsync(1, 2)).Number.ShouldBe(1);
    }

    [Fact]
    public async Task A_reversal_planned_before_a_change_of_the_tables_is_stale()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        await ledger.MergeAsync(1, 2);
        var choices = new ReversalChoices(1, false);
        var plan = await ledger.Database.Reversals.PlanAsync(choices, default);
        ledger.File.Execute("ALTER TABLE bill ADD COLUMN approved_by TEXT");
        (
            await ledger.RefusedAsync(() =>
                ledger.Database.Reversals.ApplyAsync(
                    new(choices, plan.Fingerprint.Text, new("c.weeks", "two firms"), "a reversal"),
                    default
                )
            )
        ).Code.ShouldBe(ErrorCode.PlanStale);
    }

    [Fact]
    public async Task A_new_table_that_refers_to_the_records_is_refused_until_the_map_names_it()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var choices = Ledger.Choices(1, 2);
        var plan = await ledger.PlanAsync(choices);
        ledger.File.Execute(
            "CREATE TABLE quote (id INTEGER PRIMARY KEY, vendor_id INTEGER NOT NULL REFERENCES vendor (id)); "
                + "INSERT INTO quote VALUES (1, 2)"
        );
        var refusal = await ledger.RefusedAsync(() =>
            ledger.Database.Merges.ApplyAsync(ledger.Request(choices, plan.Fingerprint.Text), default)
        );
        refusal.Code.ShouldBe(ErrorCode.MapOutdated);
        refusal.Details[0].ShouldBe("The table quote refers to vendor now.");
        refusal.Details.ShouldContain(detail => detail.StartsWith("ledger.yaml:") && detail.Contains("quote"));
        (await ledger.RefusedAsync(() => ledger.PlanAsync(choices))).Code.ShouldBe(ErrorCode.MapOutdated);

        // The history stays readable, and everything goes on when the table is gone again.
        (await ledger.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
        ledger.File.Execute("DROP TABLE quote");
        (await ledger.MergeAsync(1, 2)).Number.ShouldBe(1);
    }

    [Fact]
    public async Task A_dropped_column_makes_only_its_own_values_irrecoverable()
    {
        using var ledger = await Ledger.OpenAsync(engine, yaml: Deleting);
        var before = Without(ledger, "hidden");
        await ledger.MergeAsync(1, 2);
        ledger.File.Execute("ALTER TABLE vendor DROP COLUMN hidden");
        var plan = await ledger.Database.Reversals.PlanAsync(new ReversalChoices(1, false), default);
        plan.Reversals[0]
            .Drift.Select(drift => drift.Text)
            .ShouldBe(["Vendor 2 is restored without its hidden: vendor no longer has a column hidden."]);
        await ledger.ReverseAsync(1);
        Without(ledger, "hidden").ShouldBe(before);
    }

    [Fact]
    public async Task A_renamed_column_of_a_reference_leaves_the_rest_of_the_reversal_possible()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var vendors = ledger.File.Rows("vendor").Select(Text).Order().ToList();
        await ledger.MergeAsync(1, 2);
        ledger.File.Execute("ALTER TABLE bill RENAME COLUMN vendor_id TO supplier_id");
        (await ledger.RefusedAsync(() => ledger.ReverseAsync(1))).Code.ShouldBe(ErrorCode.MapOutdated);
        var yaml = Ledger.Yaml.Replace("columns: vendor_id", "columns: supplier_id", StringComparison.Ordinal);
        using var again = await ledger.OpenAgainAsync(yaml);
        var choices = new ReversalChoices(1, false);
        var plan = await again.Reversals.PlanAsync(choices, default);
        plan.Reversals[0]
            .Drift.Select(drift => drift.Text)
            .ShouldBe(["3 bills cannot be moved back: bill no longer has a column vendor_id."]);
        await again.Reversals.ApplyAsync(
            new(choices, plan.Fingerprint.Text, new("c.weeks", "two firms"), "a reversal"),
            default
        );
        ledger.File.Rows("vendor").Select(Text).Order().ShouldBe(vendors);
        ledger.File.Count("SELECT COUNT(*) FROM note WHERE subject_type = 'vendor' AND subject_id = 2").ShouldBe(1);
        ledger.File.Count("SELECT COUNT(*) FROM bill WHERE supplier_id = 1").ShouldBe(6);
        (await again.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_dropped_table_leaves_the_rest_of_the_reversal_possible()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        await ledger.MergeAsync(1, 2);
        ledger.File.Execute("DROP TABLE note");
        var yaml = Ledger.Yaml.Replace(
            "      notes: { table: note, columns: subject_id, when: { subject_type: vendor } }\n",
            "",
            StringComparison.Ordinal
        );
        using var again = await ledger.OpenAgainAsync(yaml);
        var choices = new ReversalChoices(1, false);
        var plan = await again.Reversals.PlanAsync(choices, default);
        plan.Reversals[0]
            .Drift.Select(drift => drift.Text)
            .ShouldBe(["1 note cannot be moved back: the table note no longer exists."]);
        await again.Reversals.ApplyAsync(
            new(choices, plan.Fingerprint.Text, new("c.weeks", "two firms"), "a reversal"),
            default
        );
        ledger.File.Count("SELECT COUNT(*) FROM bill WHERE vendor_id = 2").ShouldBe(3);
    }

    [Fact]
    public async Task A_restored_row_gets_the_default_of_a_column_that_is_new_and_this_is_said()
    {
        using var ledger = await Ledger.OpenAsync(engine, yaml: Deleting);
        await ledger.MergeAsync(1, 2);
        ledger.File.Execute("ALTER TABLE vendor ADD COLUMN tier INTEGER DEFAULT 3");
        var plan = await ledger.Database.Reversals.PlanAsync(new ReversalChoices(1, false), default);
        plan.Reversals[0]
            .Drift.Select(drift => drift.Text)
            .ShouldBe([
                "Vendor 2 is restored with the default value of tier: vendor did not have this column at the time "
                    + "of the merge.",
            ]);
        await ledger.ReverseAsync(1);
        ledger.File.Count("SELECT tier FROM vendor WHERE id = 2").ShouldBe(3);
    }

    [Fact]
    public async Task Rows_without_a_key_are_found_although_their_table_got_a_column()
    {
        using var ledger = await Ledger.OpenAsync(
            engine,
            "CREATE TABLE visit (vendor_id INTEGER, purpose TEXT); INSERT INTO visit VALUES (1, 'a'), (2, 'a'), (2, "
                + "'b')",
            Ledger.Yaml.Replace(
                "    figures:",
                "      visits: { table: visit, columns: vendor_id }\n    figures:",
                StringComparison.Ordinal
            )
        );
        await ledger.MergeAsync(1, 2);
        ledger.File.Execute("ALTER TABLE visit ADD COLUMN minutes INTEGER DEFAULT 5");
        await ledger.ReverseAsync(1);
        ledger
            .File.Query("SELECT purpose FROM visit WHERE vendor_id = 2 ORDER BY purpose")
            .Select(row => row[0])
            .ShouldBe(["a", "b"]);
    }

    [Fact]
    public async Task The_history_names_the_state_of_the_tables_that_a_merge_was_made_in()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var first = await ledger.MergeAsync(1, 2);
        ledger.File.Execute("CREATE TABLE unrelated (id INTEGER PRIMARY KEY)");
        var second = await ledger.MergeAsync(3, 4);
        ledger.File.Execute("ALTER TABLE bill ADD COLUMN approved_by TEXT");
        var third = await ledger.MergeAsync(5, 6);
        string Of(HistoryEntry entry) => DetailsJson.Read<MergeDetails>(entry.Details).Catalog!;
        Of(second).ShouldBe(Of(first));
        Of(third).ShouldNotBe(Of(first));
        var reversal = (await ledger.ReverseAsync(3)).Single();
        DetailsJson.Read<ReversalDetails>(reversal.Details).Catalog.ShouldBe(Of(third));
    }

    private static string Text(Dictionary<string, object?> row) => string.Join(", ", row);

    private static List<string> Without(Ledger ledger, string column) =>
        [
            .. ledger
                .File.Rows("vendor")
                .Select(row => Text(row.Where(cell => cell.Key != column).ToDictionary()))
                .Order(),
        ];

    public sealed class OnSqlite() : CatalogChangeTests(Engine.Sqlite);

    public sealed class OnPostgres() : CatalogChangeTests(Engine.Postgres);
}
