using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Database.History;
using Microsoft.Data.Sqlite;

namespace Kettlefog.Database.Tests;

/// <summary>Every act is recorded, and an alteration is detected.</summary>
public class HistoryTests
{
    [Fact]
    public async Task An_entry_has_actor_time_reason_and_rule()
    {
        using var ledger = await Ledger.OpenAsync();
        var start = DateTimeOffset.UtcNow.AddSeconds(-1);
        await ledger.MergeAsync(1, 2);
        var recorded = await ledger.Database.History.ReadAsync(1, default);
        recorded.Entry.Actor.ShouldBe("c.weeks");
        recorded.Entry.Reason.ShouldBe("same firm");
        recorded.Entry.Rule.ShouldBe(AuditContext.ByHand);
        recorded.Entry.At.ShouldBeInRange(start, DateTimeOffset.UtcNow);
        recorded.Entry.At.Offset.ShouldBe(TimeSpan.Zero);
        recorded.Hash.ShouldBe(recorded.Entry.ComputeHash());
    }

    [Theory]
    [InlineData("UPDATE kettlefog_history SET reason = 'another'")]
    [InlineData("DELETE FROM kettlefog_history")]
    public async Task The_history_is_append_only(string attack)
    {
        using var ledger = await Ledger.OpenAsync();
        await ledger.MergeAsync(1, 2);
        Should.Throw<SqliteException>(() => ledger.File.Execute(attack)).Message.ShouldContain("append-only");
    }

    [Theory]
    [InlineData("UPDATE kettlefog_history SET reason = 'another' WHERE number = 2", "Entry 2 was altered.")]
    [InlineData(
        "UPDATE kettlefog_history SET at = '2020-01-01T00:00:00.000000Z' WHERE number = 1",
        "Entry 1 was altered."
    )]
    [InlineData("DELETE FROM kettlefog_history WHERE number = 2", "Entry 2 is missing")]
    [InlineData(
        "UPDATE kettlefog_journal_cell SET before = 'forged' WHERE journal = "
            + "(SELECT journal FROM kettlefog_history WHERE number = 1) AND \"column\" = 'status'",
        "The journal of entry 1 was altered."
    )]
    [InlineData(
        "DELETE FROM kettlefog_journal_row WHERE row = 2 AND journal = "
            + "(SELECT journal FROM kettlefog_history WHERE number = 2)",
        "The journal of entry 2 was altered."
    )]
    [InlineData(
        "UPDATE kettlefog_journal_step SET table_name = 'note' WHERE journal = "
            + "(SELECT journal FROM kettlefog_history WHERE number = 1)",
        "The journal of entry 1 was altered."
    )]
    public async Task Whoever_gets_around_that_is_found_out(string attack, string fault)
    {
        using var ledger = await Ledger.OpenAsync();
        await ledger.MergeAsync(1, 2);
        await ledger.MergeAsync(3, 4);
        await ledger.MergeAsync(5, 6);
        (await ledger.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
        ledger.File.Execute(
            "PRAGMA foreign_keys = OFF; DROP TRIGGER kettlefog_history_is_not_changed; DROP TRIGGER "
                + "kettlefog_history_is_not_removed;"
                + attack
        );
        (await ledger.Database.History.VerifyAsync(default)).Faults.ShouldContain(found => found.StartsWith(fault));
    }

    [Fact]
    public async Task A_check_continues_from_an_entry_that_was_checked_before()
    {
        using var ledger = await Ledger.OpenAsync();
        await ledger.MergeAsync(1, 2);
        var checkedBefore = await ledger.Database.History.VerifyAsync(default);
        await ledger.MergeAsync(3, 4);
        await ledger.MergeAsync(5, 6);
        var position = new HistoryPosition(checkedBefore.Last, checkedBefore.Head);
        var rest = await ledger.Database.History.VerifyAsync(position, null, default);
        (rest.Entries, rest.Last).ShouldBe((2, 3));
        rest.Faults.ShouldBeEmpty();
        rest.Head.ShouldBe((await ledger.Database.History.VerifyAsync(default)).Head);

        // Entry 1 is rewritten with all that follows it: the chain is whole, but it is not the one that was checked.
        var forged = (await ledger.Database.History.ReadAsync(1, default)).Entry with { Reason = "another" };
        ledger.File.Execute("DROP TRIGGER kettlefog_history_is_not_changed");
        ledger.File.Execute(
            "UPDATE kettlefog_history SET reason = ?1, hash = ?2 WHERE number = 1",
            forged.Reason,
            forged.ComputeHash()
        );
        (await ledger.Database.History.VerifyAsync(position, null, default))
            .Faults[0]
            .ShouldStartWith("Entry 1 has another hash than it had");
        (
            await Should.ThrowAsync<KettlefogException>(() =>
                ledger.Database.History.VerifyAsync(position with { Number = 9 }, null, default)
            )
        ).Code.ShouldBe(ErrorCode.UnknownEntry);
    }

    [Fact]
    public async Task The_list_is_filtered_and_paged()
    {
        using var ledger = await Ledger.OpenAsync();
        await ledger.MergeAsync(1, 2);
        await ledger.MergeAsync(3, 4);
        await ledger.ReverseAsync(1);
        async Task<string> List(HistoryFilter filter, int page = 1, int size = 50) =>
            string.Join(
                ' ',
                (await ledger.Database.History.ListAsync(filter, page, size, default)).Items.Select(entry =>
                    entry.Entry.Number
                )
            );
        (await List(new HistoryFilter())).ShouldBe("3 2 1");
        (await List(new HistoryFilter(), page: 2, size: 2)).ShouldBe("1");
        (await List(new HistoryFilter(Before: 3), size: 1)).ShouldBe("2");
        (await List(new HistoryFilter(Before: 2))).ShouldBe("1");
        (await List(new HistoryFilter(Record: "2"))).ShouldBe("3 1");
        (await List(new HistoryFilter(Record: "4"))).ShouldBe("2");
        (await List(new HistoryFilter(Kind: EntryKind.Reversal))).ShouldBe("3");
        (await List(new HistoryFilter(Actor: "nobody"))).ShouldBe("");
        (await List(new HistoryFilter(Rule: AuditContext.ByHand))).ShouldBe("3 2 1");
        (await List(new HistoryFilter(Rule: "ready"))).ShouldBe("");
        (await List(new HistoryFilter(Since: DateTimeOffset.UtcNow.AddMinutes(1)))).ShouldBe("");
        (await List(new HistoryFilter(Until: DateTimeOffset.UtcNow.AddMinutes(1)))).ShouldBe("3 2 1");
    }
}
