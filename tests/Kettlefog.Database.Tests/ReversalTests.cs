using CsCheck;
using Kettlefog.Core;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Reversing;
using Kettlefog.Database.History;
using Kettlefog.Database.Reversing;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Merges are reversed exactly, in any valid order, and drift is reported and kept.</summary>
public abstract class ReversalTests(Engine engine)
{
    [Fact]
    public async Task What_drifted_is_reported_and_never_overwritten()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        await ledger.MergeAsync(Ledger.With(Ledger.Choices(1, 2), "phone", new FieldChoice.Typed("01632 960777")));
        ledger.File.Execute("UPDATE vendor SET phone = '01632 960888' WHERE id = 1");
        ledger.File.Execute("UPDATE bill SET vendor_id = 3 WHERE id = 21");
        ledger.File.Execute("DELETE FROM bill WHERE id = 22");
        ledger.File.Execute("UPDATE bill SET amount = 1 WHERE id = 23");
        ledger.File.Execute("INSERT INTO bill VALUES (900, 1, 'since', 5)");
        ledger.File.Execute("UPDATE note SET subject_type = 'account' WHERE id = 2");

        var plan = await ledger.Database.Reversals.PlanAsync(new ReversalChoices(1, false), default);
        plan.Reversals.Single()
            .Drift.Select(drift => drift.Text)
            .ShouldBe([
                "phone of 1 has changed since: the merge wrote '01632 960777', now it is '01632 960888', "
                    + "which is kept.",
                "Bills 21 refers to another record now, and is left there.",
                "Bills 22 has been deleted since.",
                "Notes 2 refers to another record now, and is left there.",
                "Bills 900 was added to the master since, and is left with it.",
            ]);
        await ledger.ReverseAsync(1);
        ledger.File.Query("SELECT phone FROM vendor WHERE id = 1").Single()[0].ShouldBe("01632 960888");
        ledger.File.Query("SELECT status FROM vendor WHERE id = 2").Single()[0].ShouldBe("active");
        ledger
            .File.Query("SELECT id, vendor_id FROM bill WHERE id IN (21, 23, 900) ORDER BY id")
            .Select(row => $"{row[0]}>{row[1]}")
            .ShouldBe(["21>3", "23>2", "900>1"]);
        ledger
            .File.Count("SELECT amount FROM bill WHERE id = 23")
            .ShouldBe(1, "what somebody changed in a row since stays");
    }

    [Fact]
    public async Task Rows_added_to_the_master_since_are_left_unless_chosen_to_move_to_the_duplicate()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        await ledger.MergeAsync(1, 2, 3);
        ledger.File.Execute(
            "INSERT INTO bill VALUES (900, 1, 'since', 5), (901, 4, 'of another', 5), (902, 1, 'since, too', 5)"
        );
        await ledger.MergeAsync(1, 4);
        var whole = (await ledger.Database.Reversals.PlanAsync(new ReversalChoices(1), default))
            .Reversals.Single()
            .Drift;
        whole
            .Select(drift => $"{drift.Id} {drift.Text} {drift.Undo}")
            .ShouldBe([
                "1.bills.900 Bills 900 was added to the master since, and is left with it. ",
                "1.bills.902 Bills 902 was added to the master since, and is left with it. ",
            ]);

        // With several duplicates it is unknown whose row it is; with one that is taken out, the operator decides.
        var choices = new ReversalChoices(1)
        {
            Only = "3",
            UndoDrift = new HashSet<string> { "1.bills.902" },
        };
        var plan = await ledger.Database.Reversals.PlanAsync(choices, default);
        plan.Reversals.Single()
            .Drift.Select(drift => drift.Text)
            .ShouldBe([
                "Bills 900 was added to the master since, and is left with it.",
                "Bills 902 was added to the master since, and is undone: it is moved to 3.",
            ]);
        await ledger.ReverseAsync(choices);
        ledger
            .File.Query("SELECT vendor_id FROM bill WHERE id >= 900 ORDER BY id")
            .Select(row => (long)row[0]!)
            .ShouldBe([1, 1, 3]);
        (await ledger.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
        var stale = await ledger.Database.Reversals.PlanAsync(new ReversalChoices(1), default);
        ledger.File.Execute("INSERT INTO note VALUES (903, 'vendor', 1, 'since')");
        (
            await Should.ThrowAsync<KettlefogException>(() =>
                ledger.Database.Reversals.ApplyAsync(
                    new ReversalRequest(
                        new ReversalChoices(1),
                        stale.Fingerprint.Text,
                        new AuditContext("c.weeks", ""),
                        "stale"
                    ),
                    default
                )
            )
        ).Details.ShouldBe(["A related row was moved elsewhere, deleted or added."]);
        await ledger.ReverseAsync(1);
        ledger
            .File.Query("SELECT vendor_id FROM bill WHERE id IN (21, 31, 900, 902) ORDER BY id")
            .Select(row => (long)row[0]!)
            .ShouldBe([2, 3, 1, 3]);
    }

    [Fact]
    public async Task Drift_is_undone_when_chosen_and_kept_in_the_journal()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var before = ledger.File.Dump();
        await ledger.MergeAsync(Ledger.With(Ledger.Choices(1, 2), "phone", new FieldChoice.Typed("01632 960777")));
        ledger.File.Execute("UPDATE vendor SET phone = '01632 960888' WHERE id = 1");
        ledger.File.Execute("UPDATE bill SET vendor_id = 3 WHERE id IN (21, 22)");
        ledger.File.Execute("UPDATE note SET subject_type = 'account' WHERE id = 2");
        var all = (await ledger.Database.Reversals.PlanAsync(new ReversalChoices(1), default)).Reversals.Single().Drift;
        all.Count.ShouldBe(4);
        var choices = new ReversalChoices(1) { UndoDrift = all.Select(drift => drift.Id).ToHashSet() };
        var plan = await ledger.Database.Reversals.PlanAsync(choices, default);
        plan.Reversals.Single().Drift.ShouldAllBe(drift => drift.Undone);
        plan.Fingerprint.Text.ShouldNotBe(
            (await ledger.Database.Reversals.PlanAsync(new ReversalChoices(1), default)).Fingerprint.Text
        );
        var entry = (await ledger.ReverseAsync(choices)).Single();
        ledger.File.Dump().ShouldBe(before);
        entry.Details.ShouldContain("01632 960888");
        ledger
            .File.Query(
                $"SELECT before FROM {ledger.File.Own("journal_cell")} WHERE journal = "
                    + $"(SELECT journal FROM {ledger.File.Own("history")} WHERE number = ?1) AND \"column\" = 'phone'",
                entry.Number
            )
            .Single()[0]
            .ShouldBe("01632 960888");
        (await ledger.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
        var unknown = await Should.ThrowAsync<KettlefogException>(() =>
            ledger.Database.Reversals.PlanAsync(new ReversalChoices(1), default)
        );
        unknown.Code.ShouldBe(ErrorCode.NotReversible);
    }

    [Fact]
    public async Task One_record_comes_out_of_a_merge_of_several_and_the_rest_later()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var before = ledger.File.Dump();
        await ledger.MergeAsync(1, 2, 3);
        var choices = new ReversalChoices(1) { Only = "2" };
        var plan = await ledger.Database.Reversals.PlanAsync(choices, default);
        plan.Reversals.Single().Rows.ShouldAllBe(rows => rows.From.ToString() == "2");
        var entry = (await ledger.ReverseAsync(choices)).Single();
        entry.Reverses.ShouldBeNull();
        (await ledger.Database.Records.FindRedirectAsync("vendor", "2", default)).ShouldBeNull();
        (await ledger.Database.Records.FindRedirectAsync("vendor", "3", default))!.Master.ShouldBe("1");
        ledger.File.Count("SELECT COUNT(*) FROM bill WHERE vendor_id = 2").ShouldBe(3);
        ledger.File.Count("SELECT COUNT(*) FROM bill WHERE vendor_id = 3").ShouldBe(0);
        (await ledger.RefusedAsync(() => ledger.Database.Reversals.PlanAsync(choices, default))).Message.ShouldContain(
            "was already reversed for 2"
        );
        (
            await ledger.RefusedAsync(() => ledger.Database.Reversals.PlanAsync(choices with { Only = "1" }, default))
        ).Message.ShouldContain("is the master");
        (
            await ledger.RefusedAsync(() => ledger.Database.Reversals.PlanAsync(choices with { Only = "9" }, default))
        ).Message.ShouldContain("is not a record of merge 1");

        await ledger.ReverseAsync(1);
        ledger.File.Dump().ShouldBe(before);
        (await ledger.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_unique_value_that_another_row_has_now_is_reported_in_advance()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        ledger.File.Execute("CREATE UNIQUE INDEX one_phone ON vendor (phone)");
        using var again = await ledger.OpenAgainAsync();
        ledger.File.Execute("UPDATE vendor SET phone = '01632 960001' WHERE id = 1");
        var merge = await again.Merges.PlanAsync(
            Ledger.With(Ledger.Choices(1, 2), "phone", new FieldChoice.Typed("01632 960777")),
            default
        );
        var number = await again.ApplyAsync(merge);
        ledger.File.Execute("UPDATE vendor SET phone = '01632 960001' WHERE id = 5");
        (await again.TakeBackAsync(number)).ShouldBe([
            "phone of 1 cannot be restored: another row has '01632 960001' now, which must be unique.",
        ]);
        ledger
            .File.Query("SELECT phone FROM vendor WHERE id IN (1, 5) ORDER BY id")
            .Select(row => row[0])
            .ShouldBe(["01632 960777", "01632 960001"]);
    }

    [Fact]
    public async Task Rows_remain_with_the_master_if_the_duplicate_was_deleted()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        await ledger.MergeAsync(1, 2);
        ledger.File.Execute("DELETE FROM vendor WHERE id = 2");
        (await ledger.Database.Reversals.PlanAsync(new ReversalChoices(1, false), default))
            .Reversals.Single()
            .Drift.Select(drift => drift.Text)
            .ShouldContain("3 bills remain with the master: vendor 2 no longer exists.");
        await ledger.ReverseAsync(1);
        ledger.File.Count("SELECT COUNT(*) FROM bill WHERE vendor_id = 1").ShouldBe(6);
    }

    [Fact]
    public async Task Other_programs_read_in_a_view_where_old_keys_lead_today()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        await ledger.MergeAsync(2, 3);
        await ledger.MergeAsync(1, 2);
        List<string> Redirects() =>
            [
                .. ledger
                    .File.Query(
                        $"SELECT record_type, old_key, master_key, merge FROM {ledger.File.Own("redirects")} "
                            + "ORDER BY old_key"
                    )
                    .Select(row => string.Join(' ', row)),
            ];
        Redirects().ShouldBe(["vendor 2 1 2", "vendor 3 1 1"]);
        await ledger.ReverseAsync(2);
        Redirects().ShouldBe(["vendor 3 2 1"]);
    }

    [Fact]
    public async Task A_merge_on_which_later_ones_depend_names_them_and_reverses_them_in_order_on_request()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var before = ledger.File.Dump();
        await ledger.MergeAsync(1, 2);
        await ledger.MergeAsync(3, 1);
        await ledger.MergeAsync(5, 6);
        await ledger.MergeAsync(5, 3);
        var refusal = await ledger.RefusedAsync(() => ledger.ReverseAsync(1));
        refusal.Code.ShouldBe(ErrorCode.NotReversible);
        refusal.Message.ShouldContain("4, 2 must be reversed first");
        (await ledger.ReverseAsync(1, withLater: true)).Select(entry => entry.Reverses).ShouldBe([4L, 2L, 1L]);
        await ledger.ReverseAsync(3);
        ledger.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task Merges_into_the_same_master_are_reversed_in_any_order_unless_they_wrote_the_same_field()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var before = ledger.File.Dump();
        await ledger.MergeAsync(1, 2);
        await ledger.MergeAsync(1, 4);
        await ledger.ReverseAsync(1);
        await ledger.ReverseAsync(2);
        ledger.File.Dump().ShouldBe(before);

        await ledger.MergeAsync(Ledger.With(Ledger.Choices(1, 2), "phone", new FieldChoice.Typed("01632 960111")));
        await ledger.MergeAsync(Ledger.With(Ledger.Choices(1, 4), "phone", new FieldChoice.Typed("01632 960222")));
        (await ledger.RefusedAsync(() => ledger.ReverseAsync(5))).Message.ShouldContain("6 must be reversed first");
        await ledger.ReverseAsync(5, withLater: true);
        ledger.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_merge_is_reversed_once_and_a_reversal_never()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        await ledger.MergeAsync(1, 2);
        await ledger.ReverseAsync(1);
        (await ledger.RefusedAsync(() => ledger.ReverseAsync(1))).Message.ShouldContain("already reversed, by entry 2");
        (await ledger.RefusedAsync(() => ledger.ReverseAsync(2))).Message.ShouldContain("is a reversal");
        (await ledger.RefusedAsync(() => ledger.ReverseAsync(77))).Code.ShouldBe(ErrorCode.UnknownEntry);
        (await ledger.MergeAsync(1, 2)).Number.ShouldBe(3, "and can be done again by planning anew");
    }

    /// <summary>Random merges and reversals against a model: the masters, and the state before each merge.</summary>
    [Fact]
    public void Old_keys_lead_to_todays_master_through_any_merges_and_reversals() =>
        Gen.Int[0, 1_000_000]
            .Sample(
                seed => RunAsync(new Random(seed)).GetAwaiter().GetResult(),
                iter: RandomCases.Of(engine == Engine.Sqlite ? 25 : 12),
                threads: 2
            );

    private async Task RunAsync(Random random)
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var first = ledger.File.Dump();
        var into = new Dictionary<long, (long Master, long Number)>();
        for (var step = 0; step < 14; step++)
        {
            var alive = Enumerable
                .Range(1, 8)
                .Select(id => (long)id)
                .Where(id => !into.ContainsKey(id))
                .OrderBy(_ => random.Next())
                .ToList();
            var standing = into.Values.Select(redirect => redirect.Number).Distinct().ToList();
            if (standing.Count > 0 && (alive.Count < 2 || random.Next(3) == 0))
            {
                foreach (var entry in await ledger.ReverseAsync(standing[random.Next(standing.Count)], withLater: true))
                {
                    foreach (var back in into.Where(pair => pair.Value.Number == entry.Reverses).ToList())
                        into.Remove(back.Key);
                }
            }
            else
            {
                var duplicates = alive.Skip(1).Take(random.Next(1, 3)).ToArray();
                var entry = await ledger.MergeAsync(alive[0], duplicates);
                foreach (var duplicate in duplicates)
                    into[duplicate] = (alive[0], entry.Number);
            }

            for (var id = 1L; id <= 8; id++)
            {
                var master = id;
                while (into.TryGetValue(master, out var next))
                    master = next.Master;
                var found = await ledger.Database.Records.FindRedirectAsync("vendor", $"{id}", default);
                (found?.Master ?? $"{id}").ShouldBe($"{master}");
                ledger
                    .File.Count("SELECT COUNT(*) FROM bill b WHERE b.id / 10 = ?1 AND b.vendor_id = ?2", id, master)
                    .ShouldBe(3, "and the bills are there");
            }
        }

        foreach (var number in into.Values.Select(redirect => redirect.Number).Distinct().OrderDescending())
            await ledger.ReverseAsync(number, withLater: true);
        ledger.File.Dump().ShouldBe(first);
        (await ledger.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }

    public sealed class OnSqlite() : ReversalTests(Engine.Sqlite);

    public sealed class OnPostgres() : ReversalTests(Engine.Postgres);
}
