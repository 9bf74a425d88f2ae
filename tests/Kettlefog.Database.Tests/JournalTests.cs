using Kettlefog.Core.Merging;
using Kettlefog.Core.Reversing;
using Kettlefog.Core.Values;
using Kettlefog.Database.History;
using Kettlefog.Database.Reversing;

namespace Kettlefog.Database.Tests;

/// <summary>Nothing is lost: every overwritten or removed value is in the journal, exactly.</summary>
public class JournalTests
{
    [Fact]
    public async Task Every_value_overwritten_is_in_the_journal_as_it_was()
    {
        using var ledger = await Ledger.OpenAsync(
            "UPDATE vendor SET phone = x'00ff', terms = 9007199254740993 WHERE id = 1"
        );
        var choices = Ledger.With(Ledger.Choices(1, 2), "phone", new FieldChoice.Typed("01632 960777"));
        await ledger.MergeAsync(Ledger.With(choices, "terms", new FieldChoice.Typed("")));
        var cells = ledger.File.Query(
            "SELECT \"column\", typeof(before), hex(before), typeof(after), after FROM kettlefog_journal_cell "
                + "WHERE step = (SELECT MAX(step) FROM kettlefog_journal_step) ORDER BY 1"
        );
        cells[0].ShouldBe(["phone", "blob", "00FF", "text", "01632 960777"]);
        cells[1].ShouldBe(["terms", "integer", Convert.ToHexString("9007199254740993"u8), "null", null]);
    }

    [Fact]
    public async Task A_deleted_duplicate_is_in_the_journal_with_all_columns()
    {
        using var ledger = await Ledger.OpenAsync(
            yaml: Ledger.Yaml.Replace("mark: { status: merged }", "delete: true", StringComparison.Ordinal)
        );
        await ledger.MergeAsync(1, 2);
        ledger
            .File.Query(
                "SELECT \"column\", before FROM kettlefog_journal_cell c JOIN kettlefog_journal_step s USING "
                    + "(journal, step) WHERE s.operation = 'delete' ORDER BY 1"
            )
            .Select(cell => $"{cell[0]}={cell[1]}")
            .ShouldBe([
                "changed_at=2026-01-01",
                "code=V2",
                "currency=GBP",
                "hidden=hidden 2",
                "id=2",
                "name=Vendor 2",
                "phone=",
                "status=active",
                "terms=30",
            ]);
    }

    [Fact]
    public async Task Each_row_moved_is_in_the_journal_with_where_it_was()
    {
        using var ledger = await Ledger.OpenAsync();
        await ledger.MergeAsync(1, 2, 3);
        ledger
            .File.Query(
                """
                SELECT s.reference, r.key_1, c.before, c.after FROM kettlefog_journal_step s
                JOIN kettlefog_journal_row r USING (journal, step) JOIN kettlefog_journal_cell c USING (journal, step)
                WHERE s.reference = 'bills' AND c."column" = 'vendor_id' ORDER BY r.key_1
                """
            )
            .Select(row => string.Join(' ', row))
            .ShouldBe(["bills 21 2 1", "bills 22 2 1", "bills 23 2 1", "bills 31 3 1", "bills 32 3 1", "bills 33 3 1"]);
    }

    [Fact]
    public async Task Fifty_records_and_a_very_wide_table_are_no_matter()
    {
        using var ledger = await Ledger.OpenAsync(
            string.Concat(
                Enumerable
                    .Range(0, 240)
                    .Select(number => $"ALTER TABLE vendor ADD COLUMN wide_{number} TEXT DEFAULT 'w{number}';")
            )
                + string.Concat(
                    Enumerable
                        .Range(9, 60)
                        .Select(id =>
                            (
                                $"INSERT INTO vendor (id, name, currency, status) VALUES ({id}, 'Vendor {id}', "
                                + $"'GBP', 'active'); INSERT INTO bill VALUES ({id * 10}, {id}, 'B{id}', 1.5);"
                            )
                        )
                )
        );
        var before = ledger.File.Dump();
        await ledger.MergeAsync(1, [.. Enumerable.Range(9, 60).Select(id => (long)id)]);
        ledger.File.Count("SELECT COUNT(*) FROM bill WHERE vendor_id = 1").ShouldBe(63);
        await ledger.ReverseAsync(1);
        ledger.File.Dump().ShouldBe(before);
        var deleting = await ledger.OpenAgainAsync(
            Ledger.Yaml.Replace("mark: { status: merged }", "delete: true", StringComparison.Ordinal)
        );
        var plan = await deleting.Merges.PlanAsync(Ledger.Choices(2, 9, 10), default);
        await deleting.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default);
        var back = await deleting.Reversals.PlanAsync(new ReversalChoices(3, false), default);
        await deleting.Reversals.ApplyAsync(
            new ReversalRequest(
                new ReversalChoices(3, false),
                back.Fingerprint.Text,
                new AuditContext("c.weeks", ""),
                "wide"
            ),
            default
        );
        ledger.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_statement_that_looks_like_a_value_is_a_value()
    {
        const string attack = "x'); DROP TABLE bill; --";
        using var ledger = await Ledger.OpenAsync();
        await ledger.MergeAsync(Ledger.With(Ledger.Choices(1, 2), "name", new FieldChoice.Typed(attack)));
        ledger.File.Query("SELECT name FROM vendor WHERE id = 1").Single()[0].ShouldBe(attack);
        ledger.File.Count("SELECT COUNT(*) FROM bill").ShouldBe(24);
        (await ledger.Database.Records.FindRedirectAsync("vendor", attack, default)).ShouldBeNull();
        ColumnValue.Of(attack).ToText().ShouldBe(attack);
    }
}
