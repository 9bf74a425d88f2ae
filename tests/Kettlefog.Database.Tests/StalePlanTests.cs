using Kettlefog.Core;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Reversing;
using Kettlefog.Database.History;
using Kettlefog.Database.Reversing;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>What was shown is what is done.</summary>
public abstract class StalePlanTests(Engine engine)
{
    [Theory]
    [InlineData("UPDATE vendor SET phone = '01632 960999' WHERE id = 1", "Vendor 1 (Vendor 1) was changed")]
    [InlineData("UPDATE vendor SET hidden = 'other' WHERE id = 2", "Vendor 2 (Vendor 2) was changed")]
    [InlineData("UPDATE vendor SET changed_at = '2026-02-02' WHERE id = 2", "it was last changed at 2026-02-02")]
    [InlineData("UPDATE bill SET amount = 100.2 WHERE id = 11", "Bills: a related row was added, changed or removed")]
    [InlineData("INSERT INTO bill VALUES (999, 2, 'new', 5)", "there are 7 now")]
    [InlineData("DELETE FROM bill WHERE id = 21", "there are 5 now")]
    [InlineData("UPDATE bill SET vendor_id = 3 WHERE id = 21", "Bills: a related row")]
    [InlineData(
        "UPDATE bill SET amount = (SELECT SUM(b.amount) FROM bill b WHERE b.id IN (21, 22)) - amount WHERE id "
            + "IN (21, 22)",
        "Bills: a related row"
    )]
    [InlineData("UPDATE note SET body = 'changed' WHERE id = 2", "Notes: a related row")]
    [InlineData("UPDATE note SET body = NULL WHERE id = 2", "Notes: a related row")]
    [InlineData("UPDATE note SET body = 'a note ' WHERE id = 2", "Notes: a related row")]
    [InlineData("ALTER TABLE vendor ADD COLUMN late TEXT", "vendor has a new column late.")]
    public async Task A_change_since_the_plan_is_refused_and_named(string change, string named)
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var choices = Ledger.Choices(1, 2);
        var plan = await ledger.PlanAsync(choices);
        ledger.File.Execute(change);
        var refusal = await ledger.RefusedAsync(() =>
            ledger.Database.Merges.ApplyAsync(ledger.Request(choices, plan.Fingerprint.Text), default)
        );
        refusal.Code.ShouldBe(ErrorCode.PlanStale);
        refusal.Details.ShouldContain(detail => detail.Contains(named));
    }

    [Theory]
    [InlineData("UPDATE vendor SET hidden = 'other' WHERE id = 2")]
    [InlineData("UPDATE bill SET amount = 100.2 WHERE id = 11")]
    [InlineData("DELETE FROM note WHERE id = 2")]
    public async Task The_program_that_planned_sees_what_others_changed_since(string change)
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var choices = Ledger.Choices(1, 2);
        var plan = await ledger.PlanAsync(choices);
        (await ledger.PlanAsync(choices)).Fingerprint.Text.ShouldBe(plan.Fingerprint.Text);
        ledger.File.Execute(change);
        (
            await ledger.RefusedAsync(() =>
                ledger.Database.Merges.ApplyAsync(ledger.Request(choices, plan.Fingerprint.Text), default)
            )
        ).Code.ShouldBe(ErrorCode.PlanStale);

        // Its own plans and merges count as well.
        var other = await ledger.PlanAsync(Ledger.Choices(2, 3));
        await ledger.MergeAsync(1, 2);
        (
            await ledger.RefusedAsync(() =>
                ledger.Database.Merges.ApplyAsync(ledger.Request(other.Choices, other.Fingerprint.Text, "2"), default)
            )
        ).Code.ShouldBe(ErrorCode.RecordRetired);
    }

    [Theory]
    [InlineData("UPDATE vendor SET phone = '1' WHERE id = 3")]
    [InlineData("UPDATE bill SET amount = 7 WHERE vendor_id = 3")]
    [InlineData("UPDATE note SET body = 'changed' WHERE subject_type = 'account'")]
    public async Task A_change_of_something_else_does_not_disturb(string change)
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var choices = Ledger.Choices(1, 2);
        var plan = await ledger.PlanAsync(choices);
        ledger.File.Execute(change);
        (
            await ledger.Database.Merges.ApplyAsync(ledger.Request(choices, plan.Fingerprint.Text), default)
        ).Entry.Number.ShouldBe(1);
    }

    [Fact]
    public async Task A_plan_made_under_another_map_is_stale()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var choices = Ledger.Choices(1, 2);
        var plan = await ledger.PlanAsync(choices);
        var database = await ledger.OpenAgainAsync(
            Ledger.Yaml.Replace("name: Ledger", "name: Ledger 2", StringComparison.Ordinal)
        );
        var refusal = await ledger.RefusedAsync(() =>
            database.Merges.ApplyAsync(ledger.Request(choices, plan.Fingerprint.Text), default)
        );
        refusal.Details.ShouldBe(["The record map was changed."]);
    }

    [Fact]
    public async Task A_fingerprint_of_another_request_is_foreign()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var choices = Ledger.Choices(1, 2);
        var plan = await ledger.PlanAsync(choices);
        MergeChoices[] others =
        [
            Ledger.Choices(2, 1),
            Ledger.Choices(1, 2, 3),
            Ledger.With(choices, "phone", new FieldChoice.Typed("01632 960001")),
            Ledger.With(choices, "phone", new FieldChoice.FromRecord(Ledger.Key(2))),
        ];
        foreach (var other in others)
            (
                await ledger.RefusedAsync(() =>
                    ledger.Database.Merges.ApplyAsync(ledger.Request(other, plan.Fingerprint.Text), default)
                )
            ).Code.ShouldBe(ErrorCode.ForeignFingerprint);
    }

    [Theory]
    [InlineData("")]
    [InlineData("kf1")]
    [InlineData("kf1.zz.zz")]
    [InlineData("kf2.00000000000000000000000000000000.AAAA")]
    [InlineData("kf1.00000000000000000000000000000000.?!")]
    [InlineData("kf1.00000000000000000000000000000000.AAAA")]
    public async Task What_is_no_fingerprint_is_foreign(string text)
    {
        using var ledger = await Ledger.OpenAsync(engine);
        (
            await ledger.RefusedAsync(() =>
                ledger.Database.Merges.ApplyAsync(ledger.Request(Ledger.Choices(1, 2), text), default)
            )
        ).Code.ShouldBe(ErrorCode.ForeignFingerprint);
    }

    [Fact]
    public async Task A_reversal_takes_the_fingerprint_of_its_plan_too()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        await ledger.MergeAsync(1, 2);
        var plan = await ledger.Database.Reversals.PlanAsync(new ReversalChoices(1, false), default);
        ledger.File.Execute("UPDATE bill SET vendor_id = 3 WHERE id = 21");
        var request = new ReversalRequest(
            new ReversalChoices(1, false),
            plan.Fingerprint.Text,
            new AuditContext("c.weeks", ""),
            "k"
        );
        var refusal = await ledger.RefusedAsync(() => ledger.Database.Reversals.ApplyAsync(request, default));
        refusal.Code.ShouldBe(ErrorCode.PlanStale);
        refusal.Details.ShouldBe(["A related row was moved elsewhere, deleted or added."]);
    }

    public sealed class OnSqlite() : StalePlanTests(Engine.Sqlite);

    public sealed class OnPostgres() : StalePlanTests(Engine.Postgres);
}
