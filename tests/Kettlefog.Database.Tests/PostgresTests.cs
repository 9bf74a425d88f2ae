using Kettlefog.Core;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Reversing;
using Kettlefog.Database.History;
using Kettlefog.Database.Merging;
using Kettlefog.Database.Reversing;
using Kettlefog.Database.Users;
using Kettlefog.Testing;
using Npgsql;

namespace Kettlefog.Database.Tests;

/// <summary>
/// What only a server can do: drop connections, hold locks, have tables in several schemas, refuse with messages of its
/// own.
/// </summary>
public class PostgresTests
{
    private const string CutAll =
        "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = 'kettlefog' AND "
        + "datname = current_database()";

    [Fact]
    public async Task A_connection_lost_while_idle_is_replaced()
    {
        using var ledger = await Ledger.OpenAsync(Engine.Postgres);
        var plan = await ledger.PlanAsync(Ledger.Choices(1, 2));
        ledger.File.Query(CutAll).ShouldNotBeEmpty();
        (await ledger.PlanAsync(Ledger.Choices(1, 2))).Fingerprint.Text.ShouldBe(plan.Fingerprint.Text);
        await ledger.MergeAsync(1, 2);
        ledger.File.Query(CutAll);
        await ledger.ReverseAsync(1);
        (await ledger.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_connection_that_is_cut_in_the_middle_of_a_merge_leaves_nothing_half_done()
    {
        using var ledger = await Ledger.OpenAsync(Engine.Postgres);
        var before = ledger.File.DumpAll();
        await using (var other = await HoldAsync(ledger, "SELECT 1 FROM vendor WHERE id = 2 FOR UPDATE"))
        {
            var merging = ledger.MergeAsync(1, 2);
            await UntilWaitingAsync(ledger);
            ledger.File.Query(CutAll);
            (await Should.ThrowAsync<KettlefogException>(merging)).Code.ShouldBe(ErrorCode.DatabaseUnavailable);
        }

        ledger.File.DumpAll().ShouldBe(before);
        (await ledger.MergeAsync(1, 2)).Number.ShouldBe(1);
    }

    [Fact]
    public async Task A_record_locked_too_long_blocks_a_merge_which_is_reported()
    {
        using var ledger = await Ledger.OpenAsync(Engine.Postgres);
        using var impatient = await ledger.OpenAgainAsync(busySeconds: 1);
        var plan = await ledger.PlanAsync(Ledger.Choices(1, 2));
        var before = ledger.File.DumpAll();
        await using (var other = await HoldAsync(ledger, "UPDATE vendor SET name = 'changed' WHERE id = 2"))
        {
            var refusal = await Should.ThrowAsync<KettlefogException>(() =>
                impatient.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default)
            );
            refusal.Code.ShouldBe(ErrorCode.DatabaseBusy);
            refusal.Message.ShouldContain("did not release it in time");
        }

        ledger.File.DumpAll().ShouldBe(before, "neither the merge nor what was given up left anything");
        await impatient.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default);
    }

    [Fact]
    public async Task Merges_that_wait_for_rows_of_others_are_numbered_when_they_are_done()
    {
        using var ledger = await Ledger.OpenAsync(Engine.Postgres);
        var before = ledger.File.Dump();
        var locked = new TaskCompletionSource();
        var release = new TaskCompletionSource();
        var holder = Task.Run(() =>
            ledger.File.Together(statements =>
            {
                statements("UPDATE bill SET number = number WHERE vendor_id IN (2, 4)", []);
                locked.SetResult();
                release.Task.Wait(TimeSpan.FromSeconds(30));
            })
        );
        await locked.Task;
        var waiting = Task.WhenAll(ledger.MergeAsync(1, 2), ledger.MergeAsync(3, 4));
        (await ledger.MergeAsync(5, 6)).Number.ShouldBe(1);
        (await ledger.ReverseAsync(1)).Single().Number.ShouldBe(2);
        await ledger.Database.Users.AddAsync("m.ashe", "M. Ashe", Role.Viewer, null, default);
        waiting.IsCompleted.ShouldBeFalse();
        release.SetResult();
        await holder;
        (await waiting).Select(entry => entry.Number).Order().ShouldBe([3, 4]);
        (await ledger.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
        await ledger.ReverseAsync(3);
        await ledger.ReverseAsync(4);
        ledger.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task Who_changes_a_record_while_a_merge_waits_makes_the_plan_stale()
    {
        using var ledger = await Ledger.OpenAsync(Engine.Postgres);
        var plan = await ledger.PlanAsync(Ledger.Choices(1, 2));
        Task<MergeOutcome> merging;
        await using (var other = await HoldAsync(ledger, "UPDATE vendor SET name = 'changed' WHERE id = 2"))
        {
            merging = ledger.Database.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default);
            await UntilWaitingAsync(ledger);
            await other.Transaction.CommitAsync();
        }

        var refusal = await Should.ThrowAsync<KettlefogException>(merging);
        refusal.Code.ShouldBe(ErrorCode.PlanStale);
        refusal.Details.ShouldHaveSingleItem().ShouldContain("Vendor 2");
    }

    [Fact]
    public async Task A_trigger_that_refuses_is_quoted_and_everything_rolls_back()
    {
        using var ledger = await Ledger.OpenAsync(
            Engine.Postgres,
            """
            CREATE FUNCTION closed() RETURNS trigger LANGUAGE plpgsql AS
            $$ BEGIN IF OLD.number = 'B2-3' THEN RAISE EXCEPTION 'the period of bill % is closed', OLD.number; END IF;
              RETURN NEW; END $$;
            CREATE TRIGGER closed BEFORE UPDATE ON bill FOR EACH ROW EXECUTE FUNCTION closed();
            """
        );
        var refusal = await ledger.RefusedAsync(() => ledger.MergeAsync(1, 2));
        refusal.Code.ShouldBe(ErrorCode.DatabaseRefused);
        refusal.Message.ShouldContain("the period of bill B2-3 is closed");
    }

    [Theory]
    [InlineData("bill")]
    [InlineData("kettlefog.journal_row")]
    [InlineData("kettlefog.history")]
    public async Task A_full_disk_at_any_step_is_reported_and_nothing_is_half_done(string fullAt)
    {
        using var ledger = await Ledger.OpenAsync(Engine.Postgres);
        ledger.File.Execute(
            "CREATE FUNCTION full_disk() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN RAISE EXCEPTION 'could "
                + "not extend file' USING ERRCODE = 'disk_full'; END $$"
        );
        ledger.File.Execute(
            $"CREATE TRIGGER full_disk BEFORE INSERT OR UPDATE ON {fullAt} FOR EACH ROW EXECUTE FUNCTION full_disk()"
        );
        var refusal = await ledger.RefusedAsync(() => ledger.MergeAsync(1, 2));
        refusal.Code.ShouldBe(ErrorCode.DatabaseUnavailable);
        refusal.Message.ShouldContain("no space left");
        ledger.File.Execute($"DROP TRIGGER full_disk ON {fullAt}");
        (await ledger.MergeAsync(1, 2)).Number.ShouldBe(1, "it goes on when there is room again");
    }

    [Fact]
    public async Task Tables_of_other_schemas_capitals_uuids_and_identities_are_merged_and_restored()
    {
        var yaml = TestMap.Of(
            "kunde",
            """
            table: verkauf.Kunde
            fields:
              name: { column: Name, kind: organisation-name }
              since: { column: Seit, kind: date, survivorship: smallest }
              active: { column: Aktiv, kind: flag }
            references:
              belege: { table: verkauf.Beleg, columns: KundeId, amount: Betrag }
            figures:
              summe: { reference: belege, sum: Betrag, control: true }
            """
        );
        using var folder = new TempFolder();
        using var file = TestDatabase.Create(Engine.Postgres, folder, "schemas");
        file.Execute(
            """
            CREATE SCHEMA verkauf;
            CREATE TABLE verkauf."Kunde" ("Id" uuid PRIMARY KEY, "Name" varchar(40), "Seit" date, "Aktiv" boolean,
              "Nr" int GENERATED ALWAYS AS IDENTITY, "Gross" text GENERATED ALWAYS AS (upper("Name")) STORED);
            CREATE TABLE verkauf."Beleg" ("Id" int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, "KundeId" uuid REFERENCES
              verkauf."Kunde" ("Id") ON DELETE CASCADE, "Betrag" numeric(10, 2));
            INSERT INTO verkauf."Kunde" ("Id", "Name", "Seit", "Aktiv") VALUES
              ('a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11', 'Möwe', '2020-05-01', true),
              ('A0EEBC99-9C0B-4EF8-BB6D-6BB9BD380A12', 'Möwe GmbH', '2019-02-03', NULL);
            INSERT INTO verkauf."Beleg" ("KundeId", "Betrag") VALUES ('a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11', 1.10),
              ('a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a12', 2.20);
            """
        );
        await OwnTablesMaintenance.InitialiseAsync(file.Address, null, default);
        using var database = await OperationalDatabase.OpenAsync(
            file.Address,
            MapReader.Read(yaml, "schemas.yaml"),
            TimeSpan.FromSeconds(5),
            TimeProvider.System,
            default
        );
        string Dump() =>
            string.Join(
                '\n',
                file.Query(
                        "SELECT k::text FROM verkauf.\"Kunde\" k "
                            + "UNION ALL SELECT b::text FROM verkauf.\"Beleg\" b ORDER BY 1"
                    )
                    .Select(row => row[0])
            );
        var before = Dump();
        var type = database.Map.Map.RecordTypes[0];
        var choices = new MergeChoices(
            "kunde",
            database.Records.ReadKey(type, "A0EEBC99-9C0B-4EF8-BB6D-6BB9BD380A11"),
            [database.Records.ReadKey(type, "a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a12")],
            new Dictionary<string, FieldChoice> { ["active"] = new FieldChoice.Typed("0") }
        );
        var plan = await database.Merges.PlanAsync(choices, default);
        plan.Warnings.ShouldContain(warning => warning.Contains("no index on verkauf.Beleg (KundeId)"));

        // The tables outside the search path are watched like the others.
        file.Execute("ALTER TABLE verkauf.\"Kunde\" ADD COLUMN \"Ort\" text DEFAULT 'Ebbhaven'");
        var request = new MergeRequest(choices, plan.Fingerprint.Text, new AuditContext("c.weeks", ""), "1");
        (await Should.ThrowAsync<KettlefogException>(() => database.Merges.ApplyAsync(request, default))).Code.ShouldBe(
            ErrorCode.PlanStale
        );
        before = Dump();
        plan = await database.Merges.PlanAsync(choices, default);
        await database.Merges.ApplyAsync(request with { Fingerprint = plan.Fingerprint.Text }, default);
        file.Query("""SELECT "Name", "Seit"::text, "Aktiv", "Gross" FROM verkauf."Kunde" """)
            .ShouldHaveSingleItem()
            .ShouldBe(["Möwe", "2019-02-03", false, "MÖWE"]);
        file.Count("""SELECT COUNT(*) FROM verkauf."Beleg" WHERE "KundeId" = 'a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11'""")
            .ShouldBe(2);
        var back = await database.Reversals.PlanAsync(new ReversalChoices(1, false), default);
        await database.Reversals.ApplyAsync(
            new ReversalRequest(
                new ReversalChoices(1, false),
                back.Fingerprint.Text,
                new AuditContext("c.weeks", ""),
                "2"
            ),
            default
        );
        Dump().ShouldBe(before);
    }

    [Theory]
    [InlineData("postgres://", "names no host or no database")]
    [InlineData("postgres:///books", "names no host or no database")]
    [InlineData("postgres://host:port/books", "cannot be read")]
    [InlineData("postgres://host/books?sslmode=sometimes", "cannot be read")]
    [InlineData("Host=x;Prot=5", "cannot be read")]
    [InlineData("postgres://kettlefog@127.0.0.1:1/books?connect_timeout=2", "is not responding")]
    public async Task An_address_that_leads_nowhere_is_reported_without_its_secrets(string address, string message)
    {
        var refusal = await Should.ThrowAsync<KettlefogException>(() =>
            UninitialisedDatabase.CheckMapAsync(address, MapReader.Read(Ledger.Yaml, "ledger.yaml"), default)
        );
        refusal.Code.ShouldBe(ErrorCode.DatabaseUnavailable);
        refusal.Message.ShouldContain(message);
        (refusal.Hint ?? "").ShouldNotBeEmpty();
    }

    [Fact]
    public async Task A_table_named_as_one_of_ours_is_the_operational_one_also_for_a_user_named_as_our_schema()
    {
        using var world = await SmallWorld.OpenAsync(
            Engine.Postgres,
            """
            CREATE TABLE vendor (id INTEGER PRIMARY KEY, name TEXT, status TEXT);
            CREATE TABLE history (id INTEGER PRIMARY KEY, vendor_id INTEGER);
            CREATE FUNCTION noted() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN INSERT INTO history (id, vendor_id)
              VALUES (100, NULL); RETURN NEW; END $$;
            CREATE TRIGGER noted AFTER UPDATE ON vendor FOR EACH ROW WHEN (NEW.status = 'merged') EXECUTE FUNCTION
              noted();
            INSERT INTO vendor VALUES (1, 'A', 'ok'), (2, 'B', 'ok');
            INSERT INTO history VALUES (1, 1), (2, 2);
            """,
            """
              vendor:
                table: vendor
                label: "{name}"
                fields: { name: }
                references: { history: { table: history, columns: vendor_id } }
                retire: { mark: { status: merged } }
            """
        );
        world.Column("SELECT current_user").Single().ShouldBe("kettlefog");
        await world.Database.ApplyAsync(await world.PlanAsync("vendor", "1", "2"));
        world
            .Column("SELECT concat_ws(' ', id, vendor_id) FROM public.history ORDER BY id")
            .ShouldBe(["1 1", "2 1", "100"]);
    }

    [Fact]
    public async Task Rows_of_partitioned_and_inherited_tables_follow_wherever_they_are_kept()
    {
        using var world = await SmallWorld.OpenAsync(
            Engine.Postgres,
            """
            CREATE TABLE vendor (id INTEGER PRIMARY KEY, name TEXT, status TEXT);
            INSERT INTO vendor VALUES (1, 'A', 'ok'), (2, 'B', 'ok');
            CREATE TABLE bill (id BIGINT NOT NULL, billed_on DATE NOT NULL, vendor_id INTEGER REFERENCES vendor (id),
              amount NUMERIC(9, 2), PRIMARY KEY (id, billed_on)) PARTITION BY RANGE (billed_on);
            CREATE TABLE bill_2024 PARTITION OF bill FOR VALUES FROM ('2024-01-01') TO ('2025-01-01');
            CREATE TABLE bill_rest PARTITION OF bill DEFAULT;
            INSERT INTO bill SELECT i, DATE '2024-06-01' + (i * 30)::int, 1 + i % 2, i FROM generate_series(1, 40) i;
            CREATE TABLE share (vendor_id INTEGER NOT NULL, part TEXT NOT NULL, PRIMARY KEY (vendor_id, part))
              PARTITION BY LIST (vendor_id);
            CREATE TABLE share_1 PARTITION OF share FOR VALUES IN (1);
            CREATE TABLE share_rest PARTITION OF share DEFAULT;
            INSERT INTO share VALUES (1, 'a'), (2, 'b'), (2, 'c');
            CREATE TABLE note (id INTEGER PRIMARY KEY, vendor_id INTEGER, body TEXT);
            CREATE TABLE letter (stamp TEXT) INHERITS (note);
            INSERT INTO note VALUES (1, 2, 'n');
            INSERT INTO letter VALUES (2, 2, 'l', 's'), (3, 1, 'l', 's');
            CREATE TABLE trace (vendor_id INTEGER, what TEXT) PARTITION BY LIST (what);
            CREATE TABLE trace_x PARTITION OF trace FOR VALUES IN ('x');
            CREATE TABLE trace_rest PARTITION OF trace DEFAULT;
            INSERT INTO trace VALUES (2, 'x'), (2, 'y'), (2, 'y'), (1, 'y');
            """,
            """
              vendor:
                table: vendor
                label: "{name}"
                fields: { name: }
                references:
                  bills: { table: bill, columns: vendor_id, amount: amount }
                  shares: { table: share, columns: vendor_id }
                  notes: { table: note, columns: vendor_id, key: id }
                  traces: { table: trace, columns: vendor_id }
                figures: { billed: { reference: bills, sum: amount, control: true } }
                retire: { mark: { status: merged } }
            """
        );
        var before = world.File.Dump();
        var plan = await world.PlanAsync("vendor", "1", "2");
        plan.Blockers.ShouldBeEmpty();
        plan.Moves.Select(move => move.Count).ShouldBe([20, 2, 2, 3]);
        var entry = await world.Database.ApplyAsync(plan);
        foreach (var table in new[] { "bill", "share", "note", "trace" })
            world.File.Count($"SELECT COUNT(*) FROM {table} WHERE vendor_id = 2").ShouldBe(0, table);
        world
            .Column("SELECT part FROM share_1 ORDER BY part")
            .ShouldBe(["a", "b", "c"], "a row moves to another partition");
        world.Column("SELECT stamp FROM letter WHERE vendor_id = 1").ShouldBe(["s", "s"]);
        (await world.Database.TakeBackAsync(entry)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_read_only_database_is_read_and_planned_and_a_merge_is_refused()
    {
        using var ledger = await Ledger.OpenAsync(Engine.Postgres);
        var plan = await ledger.PlanAsync(Ledger.Choices(1, 2));
        ledger.File.Execute(
            $"ALTER DATABASE {ledger.File.Query("SELECT current_database()")[0][0]} SET "
                + "default_transaction_read_only = on"
        );
        using var reader = await ledger.OpenAgainAsync();
        (await reader.Merges.PlanAsync(plan.Choices, default)).Fingerprint.Text.ShouldBe(plan.Fingerprint.Text);
        var refusal = await Should.ThrowAsync<KettlefogException>(() =>
            reader.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default)
        );
        refusal.Code.ShouldBe(ErrorCode.DatabaseUnavailable);
        refusal.Message.ShouldContain("read-only");
        (refusal.Hint ?? "").ShouldNotBeEmpty();
    }

    /// <summary>Runs statements in a transaction that is open until it is disposed, and is then rolled back.</summary>
    [Fact]
    public async Task A_reversal_of_several_merges_locks_all_their_records_in_one_order()
    {
        using var ledger = await Ledger.OpenAsync(Engine.Postgres);
        await ledger.MergeAsync(1, 2);
        await ledger.MergeAsync(8, 1);
        await using var other = await HoldAsync(
            ledger,
            "SET LOCAL deadlock_timeout = '50ms'; SELECT 1 FROM vendor WHERE id = 2 FOR UPDATE"
        );
        var reversing = ledger.ReverseAsync(1, withLater: true);
        await UntilWaitingAsync(ledger);

        // Who locks in the order of the keys meets nobody who holds a later one and waits for an earlier one.
        await using (
            var command = new NpgsqlCommand(
                "SELECT 1 FROM vendor WHERE id = 8 FOR UPDATE",
                other.Connection,
                other.Transaction
            )
        )
            await command.ExecuteNonQueryAsync();
        await other.Transaction.CommitAsync();
        (await reversing).Count.ShouldBe(2);
    }

    [Fact]
    public async Task A_reversal_that_grows_while_it_waits_locks_all_its_records_in_order_again()
    {
        using var ledger = await Ledger.OpenAsync(Engine.Postgres);
        await ledger.MergeAsync(5, 6);

        // A later merge holds its records 1 and 5, and cannot go on; the reversal waits for 5.
        await using var bill = await HoldAsync(ledger, "SELECT 1 FROM bill WHERE vendor_id = 5 FOR UPDATE");
        var merging = ledger.MergeAsync(1, 5);
        await UntilWaitingAsync(ledger);
        var reversing = ledger.ReverseAsync(1, withLater: true);
        await UntilWaitingAsync(ledger, 2);
        await using var other = await HoldAsync(ledger, "SET LOCAL deadlock_timeout = '50ms'");
        async Task LockAsync(int vendor)
        {
            await using var command = new NpgsqlCommand(
                $"SELECT 1 FROM vendor WHERE id = {vendor} FOR UPDATE",
                other.Connection,
                other.Transaction
            );
            await command.ExecuteNonQueryAsync();
        }

        var locking = LockAsync(1);
        await UntilWaitingAsync(ledger, 3);
        await bill.Transaction.RollbackAsync();
        await merging;
        await locking;

        // Now the later merge is to be reversed, too: whoever holds 1 gets 5, for which the reversal waited before.
        await UntilWaitingAsync(ledger);
        await LockAsync(5);
        await other.Transaction.CommitAsync();
        (await Should.ThrowAsync<KettlefogException>(() => reversing)).Code.ShouldBe(ErrorCode.PlanStale);
    }

    private static async Task<Held> HoldAsync(Ledger ledger, string sql)
    {
        var connection = new NpgsqlConnection(((PostgresDatabase)ledger.File).ConnectionString);
        await connection.OpenAsync();
        var transaction = await connection.BeginTransactionAsync();
        await using var command = new NpgsqlCommand(sql, connection, transaction);
        await command.ExecuteNonQueryAsync();
        return new Held(connection, transaction);
    }

    private static async Task UntilWaitingAsync(Ledger ledger, int sessions = 1)
    {
        while (
            ledger.File.Count(
                "SELECT COUNT(*) FROM pg_stat_activity WHERE datname = current_database() AND wait_event_type = 'Lock'"
            ) < sessions
        )
            await Task.Delay(10);
    }

    private sealed record Held(NpgsqlConnection Connection, NpgsqlTransaction Transaction) : IAsyncDisposable
    {
        public async ValueTask DisposeAsync()
        {
            await Transaction.DisposeAsync();
            await Connection.DisposeAsync();
        }
    }
}
