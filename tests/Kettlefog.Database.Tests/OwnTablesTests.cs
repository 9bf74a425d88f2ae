using System.IO.Compression;
using Kettlefog.Core;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Reversing;
using Kettlefog.Database.History;
using Kettlefog.Database.Merging;
using Kettlefog.Database.Reversing;
using Kettlefog.Database.Users;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>
/// Kettlefog's tables are created, upgraded from every earlier version, backed up, restored and removed; the
/// operational ones are not affected.
/// </summary>
public abstract class OwnTablesTests(Engine engine)
{
    [Fact]
    public async Task A_backup_restores_everything_and_merges_can_be_reversed_with_it()
    {
        using var folder = new TempFolder();
        using var ledger = await Ledger.OpenAsync(engine);
        var before = ledger.File.Dump();
        await ledger.MergeAsync(1, 2, 3);
        await ledger.MergeAsync(4, 5);
        var all = Ours(ledger.File);
        (
            await OwnTablesMaintenance.BackUpAsync(ledger.File.Address, folder.File("own.jsonl.gz"), default)
        ).ShouldBeGreaterThan(20);
        var last = await OwnTablesMaintenance.UninstallAsync(ledger.File.Address, folder.Path, default);
        Ours(ledger.File).ShouldBeEmpty();
        (
            await OwnTablesMaintenance.RestoreAsync(ledger.File.Address, folder.File("own.jsonl.gz"), default)
        ).ShouldBeGreaterThan(20);
        Ours(ledger.File).ShouldBe(all);
        File.Exists(last).ShouldBeTrue();
        using var again = await ledger.OpenAgainAsync();
        (await again.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
        await ledger.ReverseAsync(2);
        await ledger.ReverseAsync(1);
        ledger.File.Dump().ShouldBe(before);

        // Generated numbers continue after restored ones.
        await again.Users.AddAsync("m.ashe", "M. Ashe", Role.Viewer, null, default);
        await again.Tokens.IssueAsync(new NewSecret("m.ashe", TokenPurpose.Api, "one", null), default);
    }

    [Fact]
    public async Task What_is_removed_leaves_the_operational_database_as_if_we_had_never_been_there()
    {
        using var folder = new TempFolder();
        using var file = TestDatabase.Create(engine, folder, "books");
        file.Execute("CREATE TABLE vendor (id INTEGER PRIMARY KEY, name TEXT); INSERT INTO vendor VALUES (1, 'A')");
        var (rows, schema) = (file.DumpAll(), Schema(file));
        await OwnTablesMaintenance.InitialiseAsync(file.Address, null, default);
        Schema(file).ShouldNotBe(schema);
        await OwnTablesMaintenance.UninstallAsync(file.Address, folder.Path, default);

        // A schema may have been created by an administrator, with rights that only they can give.
        Schema(file).Replace("\nschema kettlefog", "", StringComparison.Ordinal).ShouldBe(schema);
        file.DumpAll().ShouldBe(rows);
        (
            await Should.ThrowAsync<KettlefogException>(() =>
                OwnTablesMaintenance.UninstallAsync(file.Address, folder.Path, default)
            )
        ).Code.ShouldBe(ErrorCode.NotInitialised);
    }

    [Theory]
    [InlineData("cut")]
    [InlineData("foreign")]
    [InlineData("newer")]
    [InlineData("other engine")]
    public async Task A_backup_that_is_none_or_is_cut_off_changes_nothing(string how)
    {
        using var folder = new TempFolder();
        using var ledger = await Ledger.OpenAsync(engine);
        await ledger.MergeAsync(1, 2);
        var backup = folder.File("own.jsonl.gz");
        await OwnTablesMaintenance.BackUpAsync(ledger.File.Address, backup, default);
        await OwnTablesMaintenance.UninstallAsync(ledger.File.Address, folder.Path, default);
        using (var packed = new GZipStream(File.OpenRead(backup), CompressionMode.Decompress))
        {
            var lines = new StreamReader(packed).ReadToEnd().Split('\n');
            using var wrong = new StreamWriter(
                new GZipStream(File.Create(folder.File("wrong")), CompressionLevel.Fastest)
            );
            wrong.Write(
                string.Join(
                    '\n',
                    how switch
                    {
                        "cut" => lines[..^5],
                        "foreign" => ["{}", .. lines[1..]],
                        "newer" =>
                        [
                            lines[0].Replace("\"version\":", "\"version\":9", StringComparison.Ordinal),
                            .. lines[1..],
                        ],
                        _ =>
                        [
                            lines[0]
                                .Replace(
                                    engine == Engine.Sqlite ? "sqlite" : "postgres",
                                    engine == Engine.Sqlite ? "postgres" : "sqlite",
                                    StringComparison.Ordinal
                                ),
                            .. lines[1..],
                        ],
                    }
                )
            );
        }

        var refusal = await ledger.RefusedAsync(() =>
            OwnTablesMaintenance.RestoreAsync(ledger.File.Address, folder.File("wrong"), default)
        );
        refusal.Message.ShouldContain(
            how switch
            {
                "newer" => "but this program knows version",
                "other engine" => "cannot be read by",
                _ => "is no whole backup",
            }
        );
        await OwnTablesMaintenance.RestoreAsync(ledger.File.Address, backup, default);
        (
            await ledger.RefusedAsync(() => OwnTablesMaintenance.RestoreAsync(ledger.File.Address, backup, default))
        ).Message.ShouldContain("has Kettlefog's tables already");
    }

    [Fact]
    public async Task Tables_newer_than_the_program_are_left_alone()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        ledger.File.Execute(
            engine == Engine.Sqlite
                ? "INSERT INTO kettlefog_schema_version (ScriptName, Applied) VALUES ('9999', '2030-01-01')"
                : "INSERT INTO kettlefog.schema_version (scriptname, applied) VALUES ('9999', '2030-01-01')"
        );
        foreach (
            var action in new Func<Task>[]
            {
                () => ledger.OpenAgainAsync(),
                () => OwnTablesMaintenance.InitialiseAsync(ledger.File.Address, null, default),
                () => OwnTablesMaintenance.UpgradeAsync(ledger.File.Address, null, default),
            }
        )
        {
            var refusal = await ledger.RefusedAsync(action);
            refusal.Message.ShouldContain("but this program knows version");
            refusal.Hint!.ShouldContain("Use a newer Kettlefog");
        }
    }

    /// <summary>Databases as earlier programs left them: a merge, a reversed merge, decisions.</summary>
    [Theory]
    [MemberData(nameof(Earlier))]
    public async Task The_own_tables_of_every_earlier_version_are_upgraded_after_a_backup_and_their_merges_reversed(
        int version
    )
    {
        var name = $"own-v{version}.{(engine == Engine.Sqlite ? "sqlite" : "postgres")}.sql";
        var sql = await File.ReadAllTextAsync(Path.Combine(AppContext.BaseDirectory, "Earlier", name));
        using var folder = new TempFolder();
        using var file = TestDatabase.Create(engine, folder, "books");
        file.Execute(sql);
        var before = Operational(file);
        var map = MapReader.Read(
            await File.ReadAllTextAsync(Path.Combine(AppContext.BaseDirectory, "Earlier", "books.map.yaml")),
            "books.map.yaml"
        );
        (
            await Should.ThrowAsync<KettlefogException>(() =>
                OperationalDatabase.OpenAsync(file.Address, map, TimeSpan.FromSeconds(5), TimeProvider.System, default)
            )
        ).Message.ShouldContain($"tables in version {version}");
        var backup = (await OwnTablesMaintenance.UpgradeAsync(file.Address, folder.Path, default))!;
        Path.GetFileName(backup).ShouldContain($".kettlefog-v{version}-");
        (await OwnTablesMaintenance.UpgradeAsync(file.Address, folder.Path, default)).ShouldBeNull();
        Operational(file).ShouldBe(before);
        string.Join("\n", file.DumpAll()).ShouldNotContain("masterKey");
        using (
            var database = await OperationalDatabase.OpenAsync(
                file.Address,
                map,
                TimeSpan.FromSeconds(5),
                TimeProvider.System,
                default
            )
        )
            await WorksOnAsync(database, file);

        // The backup from before the upgrade is restored, and upgraded again.
        using var other = TestDatabase.Create(engine, folder, "restored");
        other.Execute(sql);
        await OwnTablesMaintenance.UninstallAsync(other.Address, folder.Path, default);
        await OwnTablesMaintenance.RestoreAsync(other.Address, backup, default);
        using var restored = await OperationalDatabase.OpenAsync(
            other.Address,
            map,
            TimeSpan.FromSeconds(5),
            TimeProvider.System,
            default
        );
        await WorksOnAsync(restored, other);
    }

    public static TheoryData<int> Earlier() =>
        [
            .. Directory
                .GetFiles(Path.Combine(AppContext.BaseDirectory, "Earlier"), "own-v*.sqlite.sql")
                .Select(file => int.Parse(Path.GetFileName(file)["own-v".Length].ToString()))
                .Order()
                .Where(version => version > 1),
        ];

    private static async Task WorksOnAsync(OperationalDatabase database, TestDatabase file)
    {
        (await database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
        (await database.Records.FindRedirectAsync("vendor", "2", default))!.Master.ShouldBe("1");
        var choices = new ReversalChoices(1);
        var back = await database.Reversals.PlanAsync(choices, default);
        back.Reversals.Single().Drift.ShouldBeEmpty();
        await database.Reversals.ApplyAsync(
            new ReversalRequest(choices, back.Fingerprint.Text, new AuditContext("m.ashe", "two firms"), "back"),
            default
        );
        file.Query("SELECT name, phone, status FROM vendor WHERE id IN (1, 2) ORDER BY id")
            .Select(row => string.Join('|', row))
            .ShouldBe(["Gannet Chandlery Ltd|01632 960118|active", "Gannett Chandlery Limited|01632 960119|active"]);
        file.Query("SELECT vendor_id FROM bill ORDER BY id").Select(row => row[0]).ShouldBe([1L, 2L, 2L, 3L, 4L]);

        // And the work continues.
        var again = new MergeChoices(
            "vendor",
            database.Records.ReadKey(database.Map.Map.RecordTypes[0], "1"),
            [database.Records.ReadKey(database.Map.Map.RecordTypes[0], "2")],
            new Dictionary<string, FieldChoice>()
        );
        var plan = await database.Merges.PlanAsync(again, default);
        await database.Merges.ApplyAsync(
            new MergeRequest(again, plan.Fingerprint.Text, new AuditContext("m.ashe", ""), "again"),
            default
        );
        (await database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }

    /// <summary>Without SQLite's counter of the version table.</summary>
    private static IEnumerable<string> Operational(TestDatabase file) =>
        file.Dump().Where(line => !line.StartsWith("sqlite_sequence", StringComparison.Ordinal));

    private static List<string> Ours(TestDatabase file) =>
        [
            .. file.DumpAll()
                .Except(file.Dump())
                .Where(line => !line.Contains("schema_version", StringComparison.Ordinal)),
        ];

    private static string Schema(TestDatabase file) =>
        string.Join(
            '\n',
            file.Query(
                    file.Engine == Engine.Sqlite
                        ? "SELECT type || ' ' || name || ' ' || COALESCE(sql, '') FROM sqlite_schema WHERE name "
                            + "<> 'sqlite_sequence' ORDER BY 1"
                        : "SELECT nspname || '.' || relname || ' ' || relkind::text FROM pg_class c JOIN "
                            + "pg_namespace n ON n.oid = relnamespace WHERE nspname NOT LIKE 'pg\\_%' AND nspname "
                            + "<> 'information_schema' UNION ALL SELECT 'schema ' || nspname FROM pg_namespace "
                            + "UNION ALL SELECT 'function ' || proname FROM pg_proc p JOIN pg_namespace n ON n.oid "
                            + "= pronamespace WHERE nspname NOT LIKE 'pg\\_%' AND nspname <> 'information_schema' "
                            + "ORDER BY 1"
                )
                .Select(row => row[0])
        );

    public sealed class OnSqlite() : OwnTablesTests(Engine.Sqlite)
    {
        [Fact]
        public Task The_first_version_was_on_SQLite_only() =>
            The_own_tables_of_every_earlier_version_are_upgraded_after_a_backup_and_their_merges_reversed(1);
    }

    public sealed class OnPostgres() : OwnTablesTests(Engine.Postgres)
    {
        [Fact]
        public async Task The_documented_least_rights_are_enough_to_remove_and_restore()
        {
            using var folder = new TempFolder();
            using var file = (PostgresDatabase)TestDatabase.Create(Engine.Postgres, folder, "least");
            var clerk = $"clerk_{Guid.NewGuid():N}";
            file.Execute(
                "CREATE TABLE vendor (id INTEGER PRIMARY KEY, name TEXT, state TEXT); "
                    + "INSERT INTO vendor VALUES (1, 'Ardle', 'active'), (2, 'Ardle', 'active'); "
                    + $"CREATE ROLE {clerk} LOGIN; CREATE SCHEMA kettlefog AUTHORIZATION {clerk}; "
                    + $"GRANT SELECT, UPDATE ON vendor TO {clerk}"
            );
            var address = file.Address.Replace("kettlefog@", $"{clerk}@", StringComparison.Ordinal);
            await OwnTablesMaintenance.InitialiseAsync(address, null, default);
            var before = file.DumpAll();
            var backup = await OwnTablesMaintenance.UninstallAsync(address, folder.Path, default);
            var cut = folder.File("cut.jsonl.gz");
            await File.WriteAllBytesAsync(cut, (await File.ReadAllBytesAsync(backup))[..^20]);
            await Should.ThrowAsync<KettlefogException>(() => OwnTablesMaintenance.RestoreAsync(address, cut, default));
            file.Count("SELECT COUNT(*) FROM pg_namespace WHERE nspname = 'kettlefog'").ShouldBe(1);
            file.Count("SELECT COUNT(*) FROM pg_tables WHERE schemaname = 'kettlefog'").ShouldBe(0);
            await OwnTablesMaintenance.RestoreAsync(address, backup, default);
            file.DumpAll().ShouldBe(before);
        }
    }
}
