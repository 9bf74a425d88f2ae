using Kettlefog.Contracts;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Reversing;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Tests;

/// <summary>What is restored, and what is drift.</summary>
public class SingleReversalTests
{
    private static readonly RecordKey Master = new(ColumnValue.Of(1L));
    private static readonly RecordKey Duplicate = new(ColumnValue.Of(2L));

    [Fact]
    public void What_has_not_changed_is_restored()
    {
        var reversal = Reverse(
            [new JournaledRows(1, "bills", "Bills", Duplicate, true, 3, 3, [], [])],
            [
                new JournaledCell(
                    2,
                    "Vendor",
                    Master,
                    "phone",
                    ColumnValue.Of("old"),
                    ColumnValue.Of("new"),
                    ColumnValue.Of("new")
                ),
            ],
            [new JournaledDeletion(3, "Vendor", true, Duplicate, false)]
        );
        reversal.Drift.ShouldBeEmpty();
        reversal.Rows.Single().Intact.ShouldBe(3);
        reversal.Cells.Single().Before.ShouldBe(ColumnValue.Of("old"));
        reversal.Restored.Single().Record.ShouldBe(Duplicate);
    }

    [Fact]
    public void A_value_written_again_is_kept_even_if_only_its_storage_class_changed()
    {
        var reversal = Reverse(
            [],
            [
                new JournaledCell(
                    1,
                    "Vendor",
                    Master,
                    "phone",
                    ColumnValue.Null,
                    ColumnValue.Of("1"),
                    ColumnValue.Of(1L)
                ),
            ],
            []
        );
        reversal.Cells.ShouldBeEmpty();
        reversal.Drift.Single().Text.ShouldContain("is kept");
    }

    [Fact]
    public void What_cannot_be_restored_is_listed()
    {
        var gone = new RecordKey(ColumnValue.Of(21L));
        var moved = new RecordKey(ColumnValue.Of(22L));
        var reversal = Reverse(
            [
                new JournaledRows(1, "bills", "Bills", Duplicate, true, 3, 1, [moved], [gone]),
                new JournaledRows(2, "notes", "Notes", Duplicate, false, 4, 4, [], []),
            ],
            [
                new JournaledCell(
                    3,
                    "Vendor",
                    Duplicate,
                    "status",
                    ColumnValue.Of("active"),
                    ColumnValue.Of("merged"),
                    null
                ),
            ],
            [new JournaledDeletion(4, "Vendor", true, Duplicate, true)]
        );
        reversal
            .Drift.Select(drift => drift.Text)
            .ShouldBe([
                "Vendor 2 cannot be restored: another row has its key now.",
                "Vendor 2 has been deleted since; its status cannot be restored.",
                "Bills 22 refers to another record now, and is left there.",
                "Bills 21 has been deleted since.",
                "4 notes remain with the master: vendor 2 no longer exists.",
            ]);
        reversal.Rows.Single().Reference.ShouldBe("bills");
        reversal.Restored.ShouldBeEmpty();
    }

    [Fact]
    public void Only_chosen_drift_is_undone()
    {
        var (one, two) = (new RecordKey(ColumnValue.Of(21L)), new RecordKey(ColumnValue.Of(22L)));
        var rows = new JournaledRows(1, "bills", "Bills", Duplicate, true, 3, 1, [one, two], []);
        var cell = new JournaledCell(
            3,
            "Vendor",
            Master,
            "phone",
            ColumnValue.Of("old"),
            ColumnValue.Of("new"),
            ColumnValue.Of("newer")
        );
        var reversal = Reverse([rows], [cell, cell with { Column = "name" }], [], ["7.1.22", "7.3.phone"]);
        reversal
            .Drift.Where(drift => drift.Undone)
            .Select(drift => drift.Text)
            .ShouldBe([
                "phone of 1 has changed since: the merge wrote 'new', now it is 'newer', and is undone: it is "
                    + "restored to 'old'.",
                "Bills 22 refers to another record now, and is undone: it is moved back to 2.",
            ]);
        reversal.Cells.Single().Column.ShouldBe("phone");
        reversal.ReclaimedRows.Single().Key.ShouldBe(two);
        reversal.ToDetails("", []).Rows.Single().Count.ShouldBe(2);
        reversal.ToDetails("", []).Cells.Single().ShouldBe(new ReturnedCell("1", "phone", "newer", "old"));
    }

    [Fact]
    public void Unique_values_in_use_are_reported_and_cannot_be_chosen()
    {
        var cell = new JournaledCell(
            3,
            "Vendor",
            Master,
            "code",
            ColumnValue.Of("A"),
            ColumnValue.Of("B"),
            ColumnValue.Of("B"),
            Taken: true
        );
        var reversal = Reverse(
            [],
            [cell],
            [new JournaledDeletion(2, "Vendor", true, Duplicate, false, "code = B")],
            ["7.3.code", "7.2"]
        );
        reversal.Cells.ShouldBeEmpty();
        reversal.Restored.ShouldBeEmpty();
        reversal
            .Drift.Select(drift => drift.Text)
            .ShouldBe([
                "Vendor 2 cannot be restored: another row has code = B now, which must be unique.",
                "code of 1 cannot be restored: another row has 'A' now, which must be unique.",
            ]);
    }

    [Fact]
    public void The_fingerprint_shows_what_changed()
    {
        JournaledRows rows = new(1, "bills", "Bills", Duplicate, true, 3, 3, [], []);
        JournaledCell cell = new(
            2,
            "Vendor",
            Master,
            "phone",
            ColumnValue.Null,
            ColumnValue.Of("new"),
            ColumnValue.Of("new")
        );
        var shown = Of(false, Reverse([rows], [cell], []));
        Of(false, Reverse([rows], [cell], [])).Text.ShouldBe(shown.Text);
        Changes(Reverse([rows with { Intact = 2 }], [cell], []))
            .ShouldBe(["A related row was moved elsewhere, deleted or added."]);
        Changes(Reverse([rows], [cell with { Current = ColumnValue.Of("x") }], []))
            .ShouldBe(["A record of the merge was changed."]);
        Should
            .Throw<KettlefogException>(() => Of(true, Reverse([rows], [cell], [])).EnsureMatches(shown.Text))
            .Code.ShouldBe(ErrorCode.ForeignFingerprint);

        IReadOnlyList<string> Changes(SingleReversal now) =>
            Should.Throw<KettlefogException>(() => Of(false, now).EnsureMatches(shown.Text)).Details;
    }

    private static Fingerprint Of(bool withLater, SingleReversal reversal) =>
        ReversalPlan.FingerprintOf(new ReversalChoices(7, withLater), [reversal]);

    private static SingleReversal Reverse(
        JournaledRows[] rows,
        JournaledCell[] cells,
        JournaledDeletion[] deletions,
        string[]? undoDrift = null
    )
    {
        var entry = new HistoryEntry(
            7,
            EntryKind.Merge,
            "vendor",
            "1",
            DateTimeOffset.UnixEpoch,
            "c.weeks",
            "",
            "by hand",
            null,
            null,
            "{}",
            "",
            HistoryEntry.NoHash
        );
        return SingleReversal.Of(
            new ReversalSnapshot(
                entry,
                MapReader.Read(MapReaderTests.Good, "m").Map.RecordTypes[0],
                [],
                rows,
                cells,
                deletions,
                []
            ),
            new ReversalChoices(7) { UndoDrift = (undoDrift ?? []).ToHashSet() }
        );
    }
}
