using Kettlefog.Core;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Risks of a map are found before anything is merged, with what to do about them.</summary>
public abstract class MapRisksTests(Engine engine)
{
    [Fact]
    public async Task A_reference_without_an_index_comes_with_the_statement_that_makes_one()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var found = (await CheckAsync(ledger)).Single(finding => finding.Statement is not null);
        found.Severity.ShouldBe(FindingSeverity.Warning);
        found.Line.ShouldBe(17);
        ledger.File.Execute(found.Statement!);
        (await CheckAsync(ledger)).ShouldNotContain(finding => finding.Statement != null);
    }

    [Fact]
    public async Task A_trigger_that_writes_elsewhere_is_reported_with_the_table()
    {
        using var ledger = await Ledger.OpenAsync(
            engine,
            engine == Engine.Sqlite
                ? """
                CREATE TABLE audit (at TEXT);
                CREATE TRIGGER noted AFTER UPDATE OF vendor_id ON bill BEGIN INSERT INTO audit VALUES ('now'); END;
                CREATE TRIGGER idle AFTER DELETE ON vendor BEGIN INSERT INTO audit VALUES ('gone'); END;
                CREATE TRIGGER guard BEFORE UPDATE ON vendor BEGIN SELECT RAISE(ABORT, 'closed') WHERE NEW.terms = 0;
                  END;
                """
                : """
                CREATE TABLE audit (at TEXT);
                CREATE FUNCTION noted() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN INSERT INTO audit VALUES ('now');
                  RETURN NEW; END $$;
                CREATE FUNCTION guarded() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN IF NEW.terms = 0 THEN RAISE
                  EXCEPTION 'closed'; END IF; RETURN NEW; END $$;
                CREATE TRIGGER noted AFTER UPDATE OF vendor_id ON bill FOR EACH ROW EXECUTE FUNCTION noted();
                CREATE TRIGGER idle AFTER DELETE ON vendor FOR EACH ROW EXECUTE FUNCTION noted();
                CREATE TRIGGER guard BEFORE UPDATE ON vendor FOR EACH ROW EXECUTE FUNCTION guarded();
                """
        );
        var found = (await CheckAsync(ledger)).Where(finding => finding.Message.Contains("trigger")).ToList();
        var only = found.ShouldHaveSingleItem();
        only.Message.ShouldBe("The trigger 'noted' of 'bill' runs when rows are merged, and writes to 'audit'.");
        only.Line.ShouldBe(16);
    }

    [Fact]
    public async Task A_trigger_that_sets_a_column_of_its_row_is_reported()
    {
        using var ledger = await Ledger.OpenAsync(
            engine,
            engine == Engine.Sqlite
                ? "CREATE TRIGGER touch AFTER UPDATE ON vendor BEGIN UPDATE vendor SET changed_at = 'now' WHERE "
                    + "id = NEW.id; END"
                : """
                CREATE FUNCTION touch() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN NEW.changed_at := 'now'; RETURN
                  NEW; END $$;
                CREATE TRIGGER touch BEFORE UPDATE ON vendor FOR EACH ROW EXECUTE FUNCTION touch();
                """
        );
        (await CheckAsync(ledger)).ShouldContain(finding =>
            finding.Message == "The trigger 'touch' of 'vendor' changes the rows that are merged."
        );
    }

    [Fact]
    public async Task What_the_database_does_to_rows_that_refer_to_related_ones_is_reported()
    {
        var yaml = Ledger.Yaml.Replace(
            "      notes:",
            "      roles: { table: role, columns: vendor_id, collision: keep }\n      notes:",
            StringComparison.Ordinal
        );
        using var ledger = await Ledger.OpenAsync(
            engine,
            """
            CREATE TABLE role (vendor_id INTEGER NOT NULL REFERENCES vendor (id), name VARCHAR(10) NOT NULL, PRIMARY
              KEY (vendor_id, name));
            CREATE TABLE duty (id INTEGER PRIMARY KEY, vendor_id INTEGER, name VARCHAR(10), FOREIGN KEY (vendor_id,
              name) REFERENCES role (vendor_id, name) ON DELETE CASCADE);
            INSERT INTO role VALUES (2, 'buyer');
            INSERT INTO duty VALUES (1, 2, 'buyer');
            """,
            yaml
        );
        var found = (await CheckAsync(ledger, yaml)).Where(finding => finding.Line == 17).ToList();
        found.Select(finding => finding.Severity).ShouldBe([FindingSeverity.Warning, FindingSeverity.Advice]);
        found[0]
            .Message.ShouldStartWith(
                "Rows of 'duty' refer to the key of 'role', which changes when its rows are reassigned"
            );
        found[1]
            .Message.ShouldBe(
                "Rows of 'duty' would be deleted with rows of 'role' that are removed in a conflict, "
                    + "by a foreign key of the database."
            );

        // The prediction comes true.
        using var database = await ledger.OpenAgainAsync(yaml);
        var plan = await database.Merges.PlanAsync(Ledger.Choices(1, 2), default);
        (
            await ledger.RefusedAsync(() =>
                database.Merges.ApplyAsync(ledger.Request(Ledger.Choices(1, 2), plan.Fingerprint.Text), default)
            )
        ).Code.ShouldBe(ErrorCode.DatabaseRefused);
    }

    [Fact]
    public async Task A_name_by_which_duplicates_are_not_found_is_reported()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        string WithPerson(string field) =>
            Ledger.Yaml.Replace(
                "terms: { kind: integer }",
                $"{field}: {{ column: terms, kind: person-name }}",
                StringComparison.Ordinal
            );
        var found = await CheckAsync(ledger, WithPerson("signed_by"));
        var advice = found
            .Where(finding => finding.Message.Contains("not compared", StringComparison.Ordinal))
            .ToList();
        advice.Count.ShouldBe(1);
        advice[0].Severity.ShouldBe(FindingSeverity.Advice);
        advice[0]
            .Message.ShouldBe(
                "Duplicates of 'vendor' are found as those of organisations: the name in 'signed_by' is not compared."
            );

        // A contact person is no name of the organisation, and nobody expects it.
        (await CheckAsync(ledger, WithPerson("contact"))).ShouldNotContain(finding =>
            finding.Message.Contains("not compared", StringComparison.Ordinal)
        );
        (await CheckAsync(ledger)).ShouldNotContain(finding =>
            finding.Message.Contains("not compared", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task References_that_only_the_data_shows_are_reported_with_the_line_to_add()
    {
        using var ledger = await Ledger.OpenAsync(
            engine,
            """
            CREATE TABLE visit (id INTEGER PRIMARY KEY, vendor_id INTEGER, said TEXT);
            INSERT INTO visit VALUES (1, 1, 'a'), (2, 5, 'b');
            CREATE TABLE task (id INTEGER PRIMARY KEY, subject_type TEXT, subject_id INTEGER);
            INSERT INTO task VALUES (1, 'vendor', 3), (2, 'account', 999);
            CREATE TABLE shelf (id INTEGER PRIMARY KEY, vendor_id INTEGER);
            INSERT INTO shelf VALUES (1, 4711), (2, 4712);
            """
        );
        var found = (await CheckAsync(ledger)).Where(finding => finding.Message.Contains("seems to refer")).ToList();
        found
            .Select(finding => finding.Remedy)
            .ShouldBe(
                [
                    "If it does, add under 'references': 'task_subject_id: { table: task, columns: "
                        + "subject_id, when: { subject_type: vendor } }'.",
                    "If it does, add under 'references': 'visit_vendor_id: { table: visit, columns: vendor_id }'.",
                ],
                ignoreOrder: true
            );
        found.ShouldAllBe(finding => finding.Line == 15);

        // Once the proposal is in the map, nothing is proposed again.
        var lines = string.Concat(found.Select(finding => $"      {finding.Remedy.Split('\'')[3]}\n"));
        (
            await CheckAsync(
                ledger,
                Ledger.Yaml.Replace("    figures:", lines + "    figures:", StringComparison.Ordinal)
            )
        ).ShouldNotContain(finding => finding.Message.Contains("seems to refer"));
    }

    [Fact]
    public async Task Columns_too_short_for_combined_or_overflowing_texts_are_reported()
    {
        using var ledger = await Ledger.OpenAsync(engine, "ALTER TABLE vendor ADD COLUMN other VARCHAR(10)");
        var yaml = Ledger
            .Yaml.Replace(
                "name: { kind: organisation-name }",
                "name: { kind: organisation-name, survivorship: append }",
                StringComparison.Ordinal
            )
            .Replace(
                "phone: { kind: phone }",
                "phone: { kind: phone, overflow: other }\n      other: { kind: phone }",
                StringComparison.Ordinal
            );
        var found = await CheckAsync(ledger, yaml);
        found.ShouldContain(finding =>
            finding.Line == 10
            && finding.Message.StartsWith("'name' holds 40 characters, and combined texts may be longer")
        );
        found.ShouldContain(finding =>
            finding.Line == 11 && finding.Message.StartsWith("'other' holds 10 characters, fewer than 'phone'")
        );
    }

    [Fact]
    public async Task A_sum_of_values_that_are_not_numbers_is_reported()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        (
            await CheckAsync(ledger, Ledger.Yaml.Replace("sum: amount", "sum: number", StringComparison.Ordinal))
        ).ShouldContain(finding =>
            finding.Line == 20
            && finding.Message.StartsWith("'billed' adds up 'number', which contains 'B")
            && finding.Severity == FindingSeverity.Warning
        );
    }

    [Fact]
    public async Task A_mark_that_a_check_forbids_and_a_row_that_lacks_a_value_cannot_work()
    {
        using var ledger = await Ledger.OpenAsync(
            engine,
            """
            CREATE TABLE client (id INTEGER PRIMARY KEY, name TEXT, state VARCHAR(10) CHECK (state IN ('open',
              'gone')));
            CREATE TABLE happening (id INTEGER PRIMARY KEY, said TEXT NOT NULL, kind TEXT NOT NULL, at TEXT NOT NULL
              DEFAULT 'now');
            """
        );
        var yaml =
            Ledger.Yaml
            + """

                  client:
                    table: client
                    label: "{name}"
                    fields: { name: , state: }
                    retire: { mark: { state: merged } }
                    timeline: { table: happening, values: { id: 1, said: "{label}" } }
                """;
        var refusal = await ledger.RefusedAsync(() => ledger.OpenAgainAsync(yaml));
        refusal.Details.ShouldBe([
            "ledger.yaml:29: 'state' may only be 'open', 'gone', not 'merged'. Write one of them.",
            "ledger.yaml:30: A new row of 'happening' needs a value for kind. Add 'kind: ...' to 'values'.",
        ]);
    }

    private static async Task<IReadOnlyList<MapFinding>> CheckAsync(Ledger ledger, string yaml = Ledger.Yaml)
    {
        var before = ledger.File.DumpAll();
        var report = await UninitialisedDatabase.CheckMapAsync(
            ledger.File.Address,
            MapReader.Read(yaml, "ledger.yaml"),
            default
        );
        ledger.File.DumpAll().ShouldBe(before, "a check writes nothing");
        report.RequireMap();
        return report.Findings;
    }

    public sealed class OnSqlite() : MapRisksTests(Engine.Sqlite);

    public sealed class OnPostgres() : MapRisksTests(Engine.Postgres)
    {
        [Fact]
        public async Task Rights_that_are_missing_come_with_the_statement_that_grants_them()
        {
            using var ledger = await Ledger.OpenAsync(Engine.Postgres);
            var clerk = $"clerk_{Guid.NewGuid():N}";
            ledger.File.Execute(
                $"CREATE ROLE {clerk} LOGIN; GRANT SELECT ON vendor, note TO {clerk}; GRANT UPDATE "
                    + $"(subject_id) ON note TO {clerk}"
            );
            var address = ledger.File.Address.Replace("kettlefog@", $"{clerk}@", StringComparison.Ordinal);
            var document = MapReader.Read(Ledger.Yaml, "ledger.yaml");
            var errors = (await UninitialisedDatabase.CheckMapAsync(address, document, default))
                .Findings.Where(finding => finding.Severity == FindingSeverity.Error)
                .ToList();
            errors
                .Select(finding => finding.Message)
                .ShouldContain($"The user {clerk} has no right to SELECT on bill.");
            errors
                .Select(finding => finding.Message)
                .ShouldNotContain($"The user {clerk} has no right to UPDATE on note.");
            foreach (var error in errors)
                ledger.File.Execute(error.Statement!);
            (await UninitialisedDatabase.CheckMapAsync(address, document, default)).Worst.ShouldBe(
                FindingSeverity.Warning
            );
            using var database = await OperationalDatabase.OpenAsync(
                address,
                document,
                TimeSpan.FromSeconds(5),
                TimeProvider.System,
                default
            );
            var plan = await database.Merges.PlanAsync(Ledger.Choices(1, 2), default);
            (
                await database.Merges.ApplyAsync(ledger.Request(Ledger.Choices(1, 2), plan.Fingerprint.Text), default)
            ).Entry.Number.ShouldBe(1);
        }

        [Fact]
        public async Task Rows_that_a_policy_hides_are_reported()
        {
            using var ledger = await Ledger.OpenAsync(Engine.Postgres);
            var clerk = $"clerk_{Guid.NewGuid():N}";
            ledger.File.Execute(
                $"CREATE ROLE {clerk} LOGIN; GRANT ALL ON vendor, note, bill TO {clerk}; ALTER TABLE bill "
                    + "ENABLE ROW LEVEL SECURITY"
            );
            var address = ledger.File.Address.Replace("kettlefog@", $"{clerk}@", StringComparison.Ordinal);
            (
                await UninitialisedDatabase.CheckMapAsync(address, MapReader.Read(Ledger.Yaml, "ledger.yaml"), default)
            ).Findings.ShouldContain(finding =>
                finding.Message.StartsWith("The database shows the service's user only some rows of 'bill'")
            );
        }
    }
}
