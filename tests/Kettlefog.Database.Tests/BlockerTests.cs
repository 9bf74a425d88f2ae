using Kettlefog.Core;
using Kettlefog.Core.Merging;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>What blocks a merge, and which requests are refused.</summary>
public abstract class BlockerTests(Engine engine)
{
    [Theory]
    [InlineData(
        "UPDATE vendor SET currency = 'EUR' WHERE id = 2",
        "Currency must agree, but 1 has 'GBP', 2 has 'EUR'."
    )]
    [InlineData(
        "UPDATE vendor SET status = 'in dispute' WHERE id = 2",
        "Status of 2 is 'in dispute', and such a vendor may not be merged."
    )]
    [InlineData(
        "UPDATE bill SET number = 'B1-1' WHERE id = 21",
        "Bills 11 and 21 cannot both belong to the master: number = B1-1 must be unique (vendor_id, number)."
    )]
    public async Task A_blocker_has_a_message_and_a_remedy(string change, string message)
    {
        using var ledger = await Ledger.OpenAsync(engine, change);
        var plan = await ledger.PlanAsync(Ledger.Choices(1, 2));
        var blocker = plan.Blockers.ShouldHaveSingleItem();
        blocker
            .Message.Replace("bill_vendor_id_number_key", "vendor_id, number", StringComparison.Ordinal)
            .ShouldBe(message);
        blocker.Remedy.ShouldNotBeEmpty();
        var refusal = await ledger.RefusedAsync(() =>
            ledger.Database.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default)
        );
        refusal.Code.ShouldBe(ErrorCode.PlanBlocked);
        refusal.Details.ShouldBe([blocker.Message]);
    }

    [Fact]
    public async Task Two_duplicates_that_collide_with_each_other_block_too()
    {
        using var ledger = await Ledger.OpenAsync(engine, "UPDATE bill SET number = 'same' WHERE id IN (21, 31)");
        (await ledger.PlanAsync(Ledger.Choices(1, 2, 3))).Blockers.Single().Message.ShouldContain("Bills 21 and 31");
    }

    [Fact]
    public async Task A_unique_value_that_the_retired_record_keeps_cannot_be_taken()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var plan = await ledger.PlanAsync(
            Ledger.With(Ledger.Choices(1, 2), "code", new FieldChoice.FromRecord(Ledger.Key(2)))
        );
        plan.Blockers.Single().Message.ShouldBe("Code must be unique, and the retired record 2 keeps 'V2'.");
    }

    [Theory]
    [InlineData("", "code", "V7", "Code would be 'V7', which 7 has already: code must be unique.")]
    [InlineData(
        "CREATE UNIQUE INDEX by_name ON vendor (LOWER(name))",
        "name",
        "VENDOR 7",
        "Name would be 'VENDOR 7', which 7 has already: lower(name) must be unique."
    )]
    [InlineData(
        "CREATE UNIQUE INDEX by_terms ON vendor (terms, phone) WHERE status = 'active' AND terms > 30; "
            + "UPDATE vendor SET terms = 45 WHERE id IN (1, 7); UPDATE vendor SET phone = 'x' WHERE id = 7",
        "phone",
        "x",
        null
    )]
    [InlineData(
        "CREATE UNIQUE INDEX by_terms ON vendor (terms, hidden) WHERE status = 'active'; "
            + "UPDATE vendor SET terms = 60, hidden = 'hidden 1' WHERE id = 7",
        "terms",
        "60",
        "Terms would be '60', which 7 has already: terms, hidden must be unique."
    )]
    public async Task A_surviving_value_that_another_record_has_although_it_must_be_unique_blocks(
        string change,
        string field,
        string typed,
        string? message
    )
    {
        using var ledger = await Ledger.OpenAsync(engine, change);
        var choices = Ledger.With(Ledger.Choices(1, 2), field, new FieldChoice.Typed(typed));
        if (message is null)
        {
            // A phone number of one letter is none: another record's is taken from there.
            ledger.File.Execute("UPDATE vendor SET phone = '01632 960999' WHERE id IN (2, 7)");
            choices = Ledger.With(Ledger.Choices(1, 2), field, new FieldChoice.FromRecord(Ledger.Key(2)));
            message = "Phone would be '01632 960999', which 7 has already: terms, phone must be unique.";
        }

        var plan = await ledger.PlanAsync(choices);
        plan.Blockers.Single()
            .Message.Replace("lower((name)::text)", "lower(name)", StringComparison.Ordinal)
            .Replace("LOWER(name)", "lower(name)", StringComparison.Ordinal)
            .ShouldBe(message);
        (
            await ledger.RefusedAsync(() =>
                ledger.Database.Merges.ApplyAsync(ledger.Request(choices, plan.Fingerprint.Text), default)
            )
        ).Code.ShouldBe(ErrorCode.PlanBlocked);

        // Merged too, that record is in nobody's way.
        (
            await ledger.PlanAsync(choices with { Duplicates = [.. choices.Duplicates, Ledger.Key(7)] })
        ).Blockers.ShouldAllBe(blocker => !blocker.Message.Contains("has already", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_typed_value_that_a_foreign_key_does_not_find_blocks()
    {
        using var ledger = await Ledger.OpenAsync(
            engine,
            "CREATE TABLE payment_terms (days INTEGER PRIMARY KEY); INSERT INTO payment_terms VALUES (30), (60); "
                + (
                    engine == Engine.Postgres
                        ? "ALTER TABLE vendor ADD FOREIGN KEY (terms) REFERENCES payment_terms (days)"
                        : "ALTER TABLE vendor RENAME COLUMN terms TO old_terms; ALTER TABLE vendor ADD COLUMN terms "
                            + "INTEGER REFERENCES payment_terms (days); UPDATE vendor SET terms = old_terms"
                )
        );
        Task<MergePlan> PlanAsync(string terms) =>
            ledger.PlanAsync(Ledger.With(Ledger.Choices(1, 2), "terms", new FieldChoice.Typed(terms)));
        (await PlanAsync("60")).Blockers.ShouldBeEmpty();
        var blocker = (await PlanAsync("45")).Blockers.ShouldHaveSingleItem();
        blocker.Message.ShouldBe("Terms would be '45', but payment_terms has no such days.");
        blocker.Remedy.ShouldBe("Choose one that payment_terms has.");
    }

    [Fact]
    public async Task Rows_of_an_excluded_reference_are_left_with_the_retired_record()
    {
        var yaml = Ledger
            .Yaml.Replace("notes: { table: note,", "notes: { may_exclude: true, table: note,", StringComparison.Ordinal)
            .Replace("must_agree:", "at_most_one: [notes]\n      must_agree:", StringComparison.Ordinal);
        yaml.ShouldContain("may_exclude");
        using var ledger = await Ledger.OpenAsync(engine, yaml: yaml);
        var before = ledger.File.Dump();
        var blocked = await ledger.PlanAsync(Ledger.Choices(1, 2));
        blocked.Blockers.Single().Message.ShouldBe("Only one record may have notes, but 1 has 1, 2 has 1.");
        blocked.Blockers.Single().Remedy.ShouldBe("Leave notes of the duplicates with them (exclude notes).");

        var choices = Ledger.Choices(1, 2) with { Exclude = new HashSet<string> { "notes" } };
        var plan = await ledger.PlanAsync(choices);
        plan.Blockers.ShouldBeEmpty();
        plan.Warnings.ShouldContain("1 notes stay with the retired records, because you excluded them.");
        plan.Fingerprint.Text.ShouldNotBe(blocked.Fingerprint.Text);
        await ledger.MergeAsync(choices);
        ledger.File.Count("SELECT subject_id FROM note WHERE id = 2").ShouldBe(2);
        ledger.File.Count("SELECT COUNT(*) FROM bill WHERE vendor_id = 2").ShouldBe(0);
        await ledger.ReverseAsync(1);
        ledger.File.Dump().ShouldBe(before);
        (
            await ledger.RefusedAsync(() =>
                ledger.PlanAsync(choices with { Exclude = new HashSet<string> { "bills" } })
            )
        ).Message.ShouldBe("The reference 'bills' may not be excluded from a merge.");
        (
            await ledger.RefusedAsync(() => ledger.PlanAsync(choices with { Exclude = new HashSet<string> { "nots" } }))
        ).Code.ShouldBe(ErrorCode.UnknownReference);
    }

    [Fact]
    public async Task A_deleted_duplicate_gives_its_unique_value_away_and_gets_it_back()
    {
        using var ledger = await Ledger.OpenAsync(
            engine,
            yaml: Ledger.Yaml.Replace("mark: { status: merged }", "delete: true", StringComparison.Ordinal)
        );
        var before = ledger.File.Dump();
        await ledger.MergeAsync(Ledger.With(Ledger.Choices(1, 2), "code", new FieldChoice.FromRecord(Ledger.Key(2))));
        ledger.File.Query("SELECT id, code FROM vendor WHERE id < 3").Single().ShouldBe([1L, "V2"]);
        await ledger.ReverseAsync(1);
        ledger.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_reference_that_blocks_does_so_only_if_there_are_rows()
    {
        var yaml = Ledger.Yaml.Replace("amount: amount }", "amount: amount, policy: block }", StringComparison.Ordinal);
        using var ledger = await Ledger.OpenAsync(engine, "DELETE FROM bill WHERE vendor_id = 4", yaml);
        (await ledger.PlanAsync(Ledger.Choices(1, 2)))
            .Blockers.Single()
            .Message.ShouldBe("The duplicates have 3 bills, which may not be moved.");
        (await ledger.PlanAsync(Ledger.Choices(1, 4))).Blockers.ShouldBeEmpty();
    }

    [Fact]
    public async Task What_contradicts_itself_is_refused()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        await Refused(Ledger.Choices(1), ErrorCode.InvalidChoice, "at least one duplicate");
        await Refused(Ledger.Choices(1, 1), ErrorCode.InvalidChoice, "also among the duplicates");
        await Refused(Ledger.Choices(1, 2, 2), ErrorCode.InvalidChoice, "named twice");
        await Refused(Ledger.Choices(1, 99), ErrorCode.UnknownRecord, "no vendor with the key 99");
        await Refused(Ledger.Choices(1, 2) with { RecordType = "vender" }, ErrorCode.UnknownRecordType, "'vender'");
        await Refused(
            Ledger.With(Ledger.Choices(1, 2), "fax", new FieldChoice.Typed("1")),
            ErrorCode.UnknownField,
            "'fax'"
        );
        await Refused(
            Ledger.With(Ledger.Choices(1, 2), "hidden", new FieldChoice.Typed("1")),
            ErrorCode.UnknownField,
            "'hidden'"
        );
        await Refused(
            Ledger.With(Ledger.Choices(1, 2), "phone", new FieldChoice.FromRecord(Ledger.Key(3))),
            ErrorCode.InvalidChoice,
            "not one of the records"
        );
        await Refused(
            Ledger.With(Ledger.Choices(1, 2), "terms", new FieldChoice.Typed("soon")),
            ErrorCode.InvalidValue,
            "not a whole number"
        );
        await Refused(
            Ledger.With(Ledger.Choices(1, 2), "name", new FieldChoice.Typed(new string('x', 41))),
            ErrorCode.InvalidValue,
            "allows 40"
        );
        await ledger.MergeAsync(1, 2);
        await Refused(Ledger.Choices(3, 2), ErrorCode.RecordRetired, "Vendor 2 was merged into 1 (merge 1).");
        await Refused(Ledger.Choices(2, 3), ErrorCode.RecordRetired, "Vendor 2 was merged into");

        async Task Refused(MergeChoices choices, ErrorCode code, string message)
        {
            var refusal = await ledger.RefusedAsync(() => ledger.PlanAsync(choices));
            refusal.Code.ShouldBe(code);
            refusal.Message.ShouldContain(message);
            refusal.Hint.ShouldNotBeNull();
        }
    }

    public sealed class OnSqlite() : BlockerTests(Engine.Sqlite);

    public sealed class OnPostgres() : BlockerTests(Engine.Postgres);
}
