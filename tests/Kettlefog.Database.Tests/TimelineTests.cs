using Kettlefog.Core;
using Kettlefog.Core.Reversing;
using Kettlefog.Database.History;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>The row that a merge adds for the master is removed by its reversal.</summary>
public abstract class TimelineTests(Engine engine)
{
    private const string Timeline = """
            timeline:
              table: happening
              values:
                subject_type: vendor
                subject_id: "{key}"
                said: "{duplicates} became {key} ({label}): {reason}, {actor}, {number}, {date}"
                short: "{reason} {reason}"
                kind: 7
            retire:
        """;

    private const string Yaml =
        "      happenings: { table: happening, columns: subject_id, when: { subject_type: vendor } }\n    "
        + "figures:\n      happened: { reference: happenings, count: true, control: true }\n";

    [Fact]
    public async Task A_merge_adds_a_row_and_its_reversal_removes_it()
    {
        using var ledger = await OpenAsync();
        var before = ledger.File.Dump();
        var entry = await ledger.MergeAsync(1, 2, 3);
        var row = ledger.File.Query("SELECT subject_type, subject_id, said, short, kind FROM happening").Single();
        row[..2].ShouldBe(["vendor", 1L]);
        row[2].ShouldBe($"2, 3 became 1 (Vendor 1): same firm, c.weeks, {entry.Number}, {entry.At:yyyy-MM-dd}");
        row[3].ShouldBe("same firm…");
        row[4].ShouldBe(7L);

        // A later merge moves it like any related row, and is verified with it.
        await ledger.MergeAsync(4, 1);
        ledger.File.Count("SELECT COUNT(*) FROM happening WHERE subject_id = 4").ShouldBe(2);
        var done = await ledger.ReverseAsync(1, withLater: true);
        done[^1].Details.ShouldContain("that the merge added to happening is removed.");
        ledger.File.Dump().ShouldBe(before);
        (await ledger.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_text_is_cut_between_characters_and_measured_as_the_database_does()
    {
        using var ledger = await OpenAsync();
        var plan = await ledger.PlanAsync(Ledger.Choices(1, 2));
        var request = ledger.Request(plan.Choices, plan.Fingerprint.Text) with
        {
            Audit = new AuditContext("c.weeks", "🐳🐳🐳🐳🐳🐳👩‍👧 x"),
        };
        await ledger.Database.Merges.ApplyAsync(request, default);
        ledger.File.Query("SELECT short FROM happening").Single()[0].ShouldBe("🐳🐳🐳🐳🐳🐳👩‍👧…");
    }

    [Fact]
    public async Task A_row_changed_since_is_kept_unless_chosen_and_then_journaled()
    {
        using var ledger = await OpenAsync();
        var before = ledger.File.Dump();
        await ledger.MergeAsync(1, 2);
        ledger.File.Execute("UPDATE happening SET said = 'called them'");
        var drift = (await ledger.Database.Reversals.PlanAsync(new ReversalChoices(1), default))
            .Reversals.Single()
            .Drift.Single();
        drift.Text.ShouldContain("that the merge added to happening was changed since, and is kept.");
        var entry = (
            await ledger.ReverseAsync(new ReversalChoices(1) { UndoDrift = new HashSet<string> { drift.Id } })
        ).Single();
        ledger.File.Dump().ShouldBe(before);
        ledger
            .File.Query(
                $"SELECT before FROM {ledger.File.Own("journal_cell")} WHERE journal = "
                    + $"(SELECT journal FROM {ledger.File.Own("history")} WHERE number = ?1) AND \"column\" = 'said'",
                entry.Number
            )
            .Single()[0]
            .ShouldBe("called them");
        (await ledger.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }

    [Theory]
    [InlineData("{duplicates} became", "{copies} became", "names '{copies}', which is not a known placeholder")]
    [InlineData("table: happening\n      values", "table: happenings\n      values", "has no table 'happenings'")]
    [InlineData("kind: 7", "kind: seven", "'seven' is not what 'kind'")]
    [InlineData("kind: 7", "sort: 7", "has no column 'sort'")]
    public async Task A_timeline_that_does_not_fit_is_reported_with_its_line(string right, string wrong, string message)
    {
        using var ledger = await OpenAsync();
        var yaml = WithTimeline();
        yaml.ShouldContain(right);
        var refusal = await Should.ThrowAsync<KettlefogException>(() =>
            ledger.OpenAgainAsync(yaml.Replace(right, wrong, StringComparison.Ordinal))
        );
        refusal.Details.Single().ShouldContain(message);
    }

    private static string WithTimeline() =>
        Ledger
            .Yaml.Replace("    retire:", Timeline, StringComparison.Ordinal)
            .Replace("    figures:\n", Yaml, StringComparison.Ordinal);

    private Task<Ledger> OpenAsync() =>
        Ledger.OpenAsync(
            engine,
            "CREATE TABLE happening (id "
                + $"{(engine == Engine.Sqlite ? "INTEGER PRIMARY KEY"
                    : "BIGINT GENERATED ALWAYS AS IDENTITY PRIMARY KEY")}, "
                + "subject_type TEXT, subject_id INTEGER, said TEXT, short VARCHAR(10), kind INTEGER NOT NULL, at "
                + "TEXT DEFAULT CURRENT_TIMESTAMP)",
            WithTimeline()
        );

    public sealed class OnSqlite() : TimelineTests(Engine.Sqlite);

    public sealed class OnPostgres() : TimelineTests(Engine.Postgres);
}
