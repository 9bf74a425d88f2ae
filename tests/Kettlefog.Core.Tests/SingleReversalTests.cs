using Kettlefog.Core.History;
using Kettlefog.Core.Maps;
using Kettlefog.Core.Reversals;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Tests;

/// <summary>What comes back, and what is drift.</summary>
public class SingleReversalTests
{
    private static readonly RecordKey Master = new(ColumnValue.Of(1L));
    private static readonly RecordKey Duplicate = new(ColumnValue.Of(2L));

    [Fact]
    public void What_nobody_touched_comes_back()
    {
        var reversal = Reverse(
            [new JournaledRows(1, "bills", "Bills", Duplicate, true, 3, 3, [], [])],
            [new JournaledCell(2, "Vendor", Master, "phone", ColumnValue.Of("old"), ColumnValue.Of("new"), ColumnValue.Of("new"))],
            [new JournaledDeletion(3, "Vendor", true, Duplicate, false)]);
        reversal.Drift.ShouldBeEmpty();
        reversal.Rows.Single().Intact.ShouldBe(3);
        reversal.Cells.Single().Before.ShouldBe(ColumnValue.Of("old"));
        reversal.Restored.Single().Record.ShouldBe(Duplicate);
    }

    [Fact]
    public void A_value_written_again_stays_even_if_it_only_changed_its_storage_class()
    {
        var reversal = Reverse([], [new JournaledCell(1, "Vendor", Master, "phone", ColumnValue.Null, ColumnValue.Of("1"), ColumnValue.Of(1L))], []);
        reversal.Cells.ShouldBeEmpty();
        reversal.Drift.Single().ShouldContain("so it stays");
    }

    [Fact]
    public void What_cannot_come_back_is_told_one_by_one()
    {
        var gone = new RecordKey(ColumnValue.Of(21L));
        var moved = new RecordKey(ColumnValue.Of(22L));
        var reversal = Reverse(
            [new JournaledRows(1, "bills", "Bills", Duplicate, true, 3, 1, [moved], [gone]), new JournaledRows(2, "notes", "Notes", Duplicate, false, 4, 4, [], [])],
            [new JournaledCell(3, "Vendor", Duplicate, "status", ColumnValue.Of("active"), ColumnValue.Of("merged"), null)],
            [new JournaledDeletion(4, "Vendor", true, Duplicate, true)]);
        reversal.Drift.ShouldBe(
        [
            "Vendor 2 cannot come back: another row has its key now.",
            "Vendor 2 was deleted since; its status cannot come back.",
            "Bills 22 points at another record now, and stays there.",
            "Bills 21 was deleted since.",
            "4 notes stay with the master: vendor 2 is not there to take them back.",
        ]);
        reversal.Rows.Single().Reference.ShouldBe("bills");
        reversal.Restored.ShouldBeEmpty();
    }

    [Fact]
    public void The_fingerprint_tells_what_changed()
    {
        JournaledRows rows = new(1, "bills", "Bills", Duplicate, true, 3, 3, [], []);
        JournaledCell cell = new(2, "Vendor", Master, "phone", ColumnValue.Null, ColumnValue.Of("new"), ColumnValue.Of("new"));
        var shown = Of(false, Reverse([rows], [cell], []));
        Of(false, Reverse([rows], [cell], [])).Text.ShouldBe(shown.Text);
        Changes(Reverse([rows with { Intact = 2 }], [cell], [])).ShouldBe(["A related row was moved on or deleted."]);
        Changes(Reverse([rows], [cell with { Current = ColumnValue.Of("x") }], [])).ShouldBe(["A record of the merge was changed."]);
        Should.Throw<Refusal>(() => Of(true, Reverse([rows], [cell], [])).Demand(shown.Text)).Code.ShouldBe(RefusalCode.ForeignFingerprint);

        IReadOnlyList<string> Changes(SingleReversal now) => Should.Throw<Refusal>(() => Of(false, now).Demand(shown.Text)).Details;
    }

    private static Planning.Fingerprint Of(bool withLater, SingleReversal reversal) => ReversalPlan.FingerprintOf(7, withLater, [reversal]);

    private static SingleReversal Reverse(JournaledRows[] rows, JournaledCell[] cells, JournaledDeletion[] deletions)
    {
        var entry = new HistoryEntry(7, EntryKind.Merge, "vendor", "1", DateTimeOffset.UnixEpoch, "c.weeks", "", "by hand", null, null, "{}", "", HistoryEntry.NoHash);
        return SingleReversal.Of(new ReversalSnapshot(entry, MapReader.Read(MapReaderTests.Good, "m").Map.RecordTypes[0], [], rows, cells, deletions));
    }
}
