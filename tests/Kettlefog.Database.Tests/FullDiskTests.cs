using Kettlefog.Core;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>
/// The disk is full in the middle of a merge: that is reported, nothing is half done, and it goes on by itself.
/// </summary>
public sealed class FullDiskTests
{
    private const int Rows = 20_000;

    private const string Types = """
          vendor:
            table: vendor
            label: "{name}"
            fields: { name: {} }
            references: { bills: { table: bill, columns: vendor_id } }
            retire: { delete: true }
        """;

    private static readonly string Fill = $"""
        INSERT INTO vendor VALUES (1, 'Ardle'), (2, 'Ardle Ltd');
        WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < {Rows})
        INSERT INTO bill SELECT i, 2, 'a bill of the second vendor, with a text that takes its place' FROM n;
        """;

    [Fact]
    public async Task A_disk_of_sqlite()
    {
        using var disk = Disk(24);
        using var file = new SqliteFile(Path.Combine(disk.Path, "books.db"));
        file.Execute(
            "CREATE TABLE vendor (id INTEGER PRIMARY KEY, name TEXT); CREATE TABLE bill (id INTEGER PRIMARY KEY, "
                + "vendor_id INTEGER, body TEXT); CREATE INDEX bill_vendor ON bill (vendor_id);"
                + Fill
        );
        await MergesWhenThereIsRoomAsync(disk, file);
    }

    [Fact]
    public async Task A_disk_of_postgres()
    {
        using var disk = Disk(64);
        using var file = PostgresServer.CreateDatabaseIn(disk.Path, "full");
        try
        {
            file.Execute(
                "CREATE TABLE vendor (id BIGINT PRIMARY KEY, name TEXT); CREATE TABLE bill (id BIGINT PRIMARY KEY, "
                    + "vendor_id BIGINT, body TEXT); CREATE INDEX bill_vendor ON bill (vendor_id);"
                    + Fill
            );
            await MergesWhenThereIsRoomAsync(disk, file);
        }
        finally
        {
            PostgresServer.DropFrom(file);
        }
    }

    private static SmallDisk Disk(int size)
    {
        var disk = SmallDisk.TryCreate(size);
        Assert.SkipWhen(disk is null, "Only the system's administrator can mount a small file system.");
        return disk;
    }

    private static async Task MergesWhenThereIsRoomAsync(SmallDisk disk, TestDatabase file)
    {
        await OwnTablesMaintenance.InitialiseAsync(file.Address, null, default);
        using var database = await OperationalDatabase.OpenAsync(
            file.Address,
            MapReader.Read(TestMap.WithTypes(Types), "full.yaml"),
            TimeSpan.FromSeconds(5),
            TimeProvider.System,
            default
        );
        var type = database.Map.Map.Require("vendor");
        var plan = await database.Merges.PlanAsync(
            new MergeChoices(
                "vendor",
                database.Records.ReadKey(type, "1"),
                [database.Records.ReadKey(type, "2")],
                new Dictionary<string, FieldChoice>()
            ),
            default
        );
        var before = file.DumpAll();
        disk.Fill(free: 256);
        var refusal = await Should.ThrowAsync<KettlefogException>(() => database.ApplyAsync(plan));
        refusal.Code.ShouldBe(ErrorCode.DatabaseUnavailable, refusal.Message);
        refusal.Message.ShouldContain("space");
        refusal.Hint.ShouldStartWith("Nothing was changed.");
        file.DumpAll().ShouldBe(before);
        (await database.AnswersAsync(default)).ShouldBeTrue("it still reads");
        disk.Free();
        var number = await database.ApplyAsync(plan);
        file.Count("SELECT COUNT(*) FROM bill WHERE vendor_id = 1").ShouldBe(Rows);
        (await database.TakeBackAsync(number)).ShouldBeEmpty();
        (await database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }
}
