using Kettlefog.Core;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Testing;
using Microsoft.Data.Sqlite;

namespace Kettlefog.Database.Tests;

/// <summary>All or nothing, whatever interferes.</summary>
public class AtomicityTests
{
    [Theory]
    [InlineData(
        "CREATE TRIGGER closed BEFORE UPDATE ON bill WHEN old.id = 23 BEGIN SELECT RAISE (ABORT, 'period "
            + "2026-02 is closed'); END",
        ErrorCode.DatabaseRefused,
        "period 2026-02 is closed"
    )]
    [InlineData(
        "CREATE TRIGGER closed BEFORE UPDATE ON vendor BEGIN SELECT RAISE (ABORT, 'vendors are frozen'); END",
        ErrorCode.DatabaseRefused,
        "vendors are frozen"
    )]
    [InlineData(
        "CREATE TRIGGER round AFTER UPDATE ON bill BEGIN UPDATE bill SET amount = round(amount) WHERE id = new.id; END",
        ErrorCode.ProofFailed,
        "The control total Billed would be 1200.6 instead of 1201.2."
    )]
    [InlineData(
        "CREATE TRIGGER steal AFTER UPDATE ON bill WHEN new.id = 23 BEGIN UPDATE bill SET vendor_id = 5 WHERE "
            + "id = 11; END",
        ErrorCode.ProofFailed,
        "The master would have 5 bills instead of 6."
    )]
    [InlineData(
        "CREATE TRIGGER back AFTER UPDATE ON bill WHEN new.id = 23 AND new.vendor_id = 1 BEGIN UPDATE bill "
            + "SET vendor_id = 2 WHERE id = 21; END",
        ErrorCode.ProofFailed,
        "Bills would still refer to a duplicate."
    )]
    public async Task A_trigger_that_refuses_or_meddles_rolls_everything_back(
        string trigger,
        ErrorCode code,
        string message
    )
    {
        using var ledger = await Ledger.OpenAsync(trigger);
        var plan = await ledger.PlanAsync(Ledger.Choices(1, 2));
        var refusal = await ledger.RefusedAsync(() =>
            ledger.Database.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default)
        );
        refusal.Code.ShouldBe(code);
        refusal.Message.ShouldContain(message);
    }

    [Fact]
    public async Task A_request_sent_twice_is_done_once()
    {
        using var ledger = await Ledger.OpenAsync();
        var plan = await ledger.PlanAsync(Ledger.Choices(1, 2));
        var request = ledger.Request(plan.Choices, plan.Fingerprint.Text, "once");
        var first = await ledger.Database.Merges.ApplyAsync(request, default);
        var second = await ledger.Database.Merges.ApplyAsync(request, default);
        second.Repeated.ShouldBeTrue();
        second.Entry.ShouldBe(first.Entry);
        var other = await ledger.PlanAsync(Ledger.Choices(3, 4));
        (
            await ledger.RefusedAsync(() =>
                ledger.Database.Merges.ApplyAsync(
                    ledger.Request(other.Choices, other.Fingerprint.Text, "once"),
                    default
                )
            )
        ).Code.ShouldBe(ErrorCode.IdempotencyKeyReused);
    }

    [Fact]
    public async Task A_database_that_another_program_holds_is_busy_and_nothing_is_changed()
    {
        using var ledger = await Ledger.OpenAsync();
        var database = await ledger.OpenAgainAsync(busySeconds: 1);
        var plan = await database.Merges.PlanAsync(Ledger.Choices(1, 2), default);
        using (var other = ((SqliteFile)ledger.File).Open())
        {
            using var writing = other.BeginTransaction(deferred: false);
            var refusal = await Should.ThrowAsync<KettlefogException>(() =>
                database.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default)
            );
            refusal.Code.ShouldBe(ErrorCode.DatabaseBusy);
            refusal.Hint.ShouldNotBeNull().ShouldContain("Try again");
        }

        (
            await database.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default)
        ).Entry.Number.ShouldBe(1, "and works when it lets go");
    }

    [Fact]
    public async Task Missing_foreign_and_uninitialised_databases_are_distinguished()
    {
        using var folder = new TempFolder();
        var map = MapReader.Read(Ledger.Yaml, "ledger.yaml");
        Task<OperationalDatabase> Open(string file) =>
            OperationalDatabase.OpenAsync(file, map, TimeSpan.FromSeconds(1), TimeProvider.System, default);
        (await Should.ThrowAsync<KettlefogException>(() => Open(folder.File("none.db")))).Message.ShouldContain(
            "there is no such file"
        );
        File.Exists(folder.File("none.db")).ShouldBeFalse("opening must not create it");
        await File.WriteAllTextAsync(
            folder.File("text.db"),
            new string('x', 4096),
            TestContext.Current.CancellationToken
        );
        (await Should.ThrowAsync<KettlefogException>(() => Open(folder.File("text.db")))).Message.ShouldContain(
            "not an SQLite database"
        );
        (
            await Should.ThrowAsync<KettlefogException>(() =>
                OwnTablesMaintenance.InitialiseAsync(folder.File("none.db"), null, default)
            )
        ).Code.ShouldBe(ErrorCode.DatabaseUnavailable);
        (
            await Should.ThrowAsync<KettlefogException>(() =>
                OwnTablesMaintenance.InitialiseAsync(folder.File("text.db"), null, default)
            )
        ).Message.ShouldContain("not an SQLite database");
        using var ledger = await Ledger.OpenAsync();
        File.Copy(ledger.File.Address, folder.File("bare.db"));
        new SqliteFile(folder.File("bare.db")).Execute("DROP TABLE kettlefog_schema_version");
        (await Should.ThrowAsync<KettlefogException>(() => Open(folder.File("bare.db")))).Code.ShouldBe(
            ErrorCode.NotInitialised
        );
    }

    [Fact]
    public async Task A_database_that_cannot_be_written_is_read_all_the_same()
    {
        using var ledger = await Ledger.OpenAsync();
        var plan = await ledger.PlanAsync(Ledger.Choices(1, 2));
        SqliteConnection.ClearAllPools();

        // File rights do not stop root, so the header gets a version that no program can write (file format, section
        // 1.3.3).
        using (var stream = File.OpenWrite(ledger.File.Address))
        {
            stream.Position = 18;
            stream.WriteByte(3);
        }

        var database = await ledger.OpenAgainAsync();
        (await database.Merges.PlanAsync(plan.Choices, default)).Blockers.ShouldBeEmpty();
        var refusal = await Should.ThrowAsync<KettlefogException>(() =>
            database.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default)
        );
        refusal.Code.ShouldBe(ErrorCode.DatabaseUnavailable);
        refusal.Message.ShouldContain("is read-only");
    }

    [Fact]
    public async Task A_replaced_file_is_opened_again_and_a_missing_one_is_reported()
    {
        using var ledger = await Ledger.OpenAsync();
        using var other = await Ledger.OpenAsync("UPDATE vendor SET name = 'Replaced' WHERE id = 1");
        (await ledger.PlanAsync(Ledger.Choices(1, 2))).Master.Label.ShouldBe("Vendor 1");
        File.Move(ledger.File.Address, ledger.File.Address + ".away");
        (await Should.ThrowAsync<KettlefogException>(() => ledger.PlanAsync(Ledger.Choices(1, 2)))).Code.ShouldBe(
            ErrorCode.DatabaseUnavailable
        );
        File.Copy(other.File.Address, ledger.File.Address);
        (await ledger.PlanAsync(Ledger.Choices(1, 2))).Master.Label.ShouldBe("Replaced");
    }

    [Fact]
    public async Task A_plan_made_on_one_file_is_not_applied_to_another_that_took_its_place()
    {
        using var ledger = await Ledger.OpenAsync();
        using var other = await Ledger.OpenAsync("UPDATE bill SET amount = 1 WHERE id = 21");
        var plan = await ledger.PlanAsync(Ledger.Choices(1, 2));
        File.Delete(ledger.File.Address);
        File.Copy(other.File.Address, ledger.File.Address);
        (
            await Should.ThrowAsync<KettlefogException>(() =>
                ledger.Database.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default)
            )
        ).Code.ShouldBe(ErrorCode.PlanStale);
    }

    [Fact]
    public async Task What_a_writer_left_that_died_is_rolled_back_by_the_first_reader()
    {
        using var ledger = await Ledger.OpenAsync();
        using var folder = new TempFolder();
        var torn = folder.File("torn.db");
        using (var writer = ((SqliteFile)ledger.File).Open())
        {
            using var command = writer.CreateCommand();
            command.CommandText = """
                PRAGMA cache_size = 5; BEGIN IMMEDIATE; UPDATE vendor SET name = 'torn';
                WITH RECURSIVE n (i) AS (SELECT 1000 UNION ALL SELECT i + 1 FROM n WHERE i < 9000) INSERT INTO note
                  SELECT i, 'vendor', 1, hex(randomblob(50)) FROM n;
                """;
            command.ExecuteNonQuery();
            File.Copy(ledger.File.Address, torn);
            File.Copy(ledger.File.Address + "-journal", torn + "-journal");
        }

        using var database = await OperationalDatabase.OpenAsync(
            torn,
            MapReader.Read(Ledger.Yaml, "ledger.yaml"),
            TimeSpan.FromSeconds(5),
            TimeProvider.System,
            default
        );
        (await database.Merges.PlanAsync(Ledger.Choices(1, 2), default)).Master.Label.ShouldBe("Vendor 1");
        File.Exists(torn + "-journal").ShouldBeFalse();
    }

    [Fact]
    public async Task Initialising_again_changes_nothing()
    {
        using var ledger = await Ledger.OpenAsync();
        await ledger.MergeAsync(1, 2);
        var before = ledger.File.DumpAll();
        await OwnTablesMaintenance.InitialiseAsync(ledger.File.Address, null, default);
        ledger.File.DumpAll().ShouldBe(before);
    }
}
