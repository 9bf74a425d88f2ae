using CsCheck;
using Kettlefog.Core;
using Kettlefog.Core.Reversing;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Related rows of tables without any key, among them rows that are equal.</summary>
public abstract class UnkeyedRowsTests(Engine engine)
{
    private const string Schema = """
        CREATE TABLE vendor (id INTEGER PRIMARY KEY, name TEXT, status TEXT);
        INSERT INTO vendor VALUES (1, 'A', 'ok'), (2, 'B', 'ok'), (3, 'C', 'ok');
        CREATE TABLE visit (vendor_id INTEGER, day TEXT, fee NUMERIC(9, 2), remark TEXT);
        """;

    private static string Map(
        string references = "visits: { table: visit, columns: vendor_id, amount: fee }",
        string more = ""
    ) =>
        $$"""
              vendor:
                table: vendor
                label: "{name}"
                fields: { name: }
                references:
                  {{references}}
                figures: { spent: { reference: visits, sum: fee, control: true } }
                retire: { mark: { status: merged } }
                {{more}}
            """;

    [Fact]
    public async Task Equal_rows_move_to_the_master_and_as_many_of_them_are_moved_back()
    {
        using var world = await SmallWorld.OpenAsync(
            engine,
            Schema
                + "INSERT INTO visit VALUES (1, 'Mon', 5, 'x'), (1, 'Mon', 5, 'x'), (2, 'Mon', 5, 'x'), (2, "
                + "'Mon', 5, 'x'), (2, 'Mon', 5, NULL), (2, NULL, 7, ''), (3, 'Mon', 5, 'x'), (NULL, 'Mon', 5, "
                + "'x');",
            Map()
        );
        var before = world.File.Dump();
        var plan = await world.PlanAsync("vendor", "1", "2", "3");
        plan.Blockers.ShouldBeEmpty();
        plan.Figures.Single().After.TryGetDecimal(out var spent).ShouldBeTrue();
        spent.ShouldBe(37);
        var entry = await world.Database.ApplyAsync(plan);
        world.File.Count("SELECT COUNT(*) FROM visit WHERE vendor_id = 1").ShouldBe(7);
        (
            await world.Database.Records.ReadRelatedAsync(
                plan.Type,
                plan.Type.References[0],
                plan.Choices.Master,
                null,
                1,
                3,
                default
            )
        ).Total.ShouldBe(7);
        (await world.Database.TakeBackAsync(new ReversalChoices(entry) { Only = "3" })).ShouldBeEmpty();
        world.File.Count("SELECT COUNT(*) FROM visit WHERE vendor_id = 3").ShouldBe(1);
        (await world.Database.TakeBackAsync(entry)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
        (await world.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }

    [Fact]
    public async Task Rows_changed_since_are_counted_and_left()
    {
        using var world = await SmallWorld.OpenAsync(
            engine,
            Schema
                + "INSERT INTO visit VALUES (2, 'Mon', 5, 'x'), (2, 'Mon', 5, 'x'), (2, 'Tue', 6, 'y'), (2, "
                + "'Wed', 7, 'z');",
            Map()
        );
        var entry = await world.Database.ApplyAsync(await world.PlanAsync("vendor", "1", "2"));
        world.File.Execute("UPDATE visit SET vendor_id = 3 WHERE day = 'Tue'");
        world.File.Execute("UPDATE visit SET remark = 'changed' WHERE day = 'Wed'");
        world.File.Execute("INSERT INTO visit VALUES (1, 'Mon', 5, 'x')");
        (await world.Database.TakeBackAsync(entry))
            .Single()
            .ShouldBe("2 visits were changed, moved elsewhere or deleted since, and are left as they are.");
        world
            .Column("SELECT vendor_id || ' ' || day FROM visit ORDER BY day, vendor_id")
            .ShouldBe(["1 Mon", "2 Mon", "2 Mon", "3 Tue", "1 Wed"]);
    }

    [Fact]
    public async Task Unique_columns_that_are_never_blank_do_for_a_key()
    {
        using var world = await SmallWorld.OpenAsync(
            engine,
            Schema
                + "ALTER TABLE visit ADD COLUMN ticket INTEGER NOT NULL DEFAULT 0; CREATE UNIQUE INDEX "
                + "one_ticket ON visit (ticket); INSERT INTO visit VALUES (2, 'Mon', 5, 'x', 71), (1, 'Mon', 5, "
                + "'x', 72);",
            Map()
        );
        world.Database.Map.Map.RecordTypes[0].References[0].Key.ShouldBe(["ticket"]);
        var before = world.File.Dump();
        var entry = await world.Database.ApplyAsync(await world.PlanAsync("vendor", "1", "2"));
        (await world.Database.TakeBackAsync(entry)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    [Theory]
    [InlineData(
        "CREATE UNIQUE INDEX one ON visit (vendor_id, day);",
        "visits: { table: visit, columns: vendor_id, amount: fee }",
        "",
        "but unique columns by which its rows could collide"
    )]
    [InlineData(
        "ALTER TABLE visit ADD COLUMN guide_id INTEGER;",
        "visits: { table: visit, columns: vendor_id, amount: fee }\n      guides: { table: visit, columns: guide_id }",
        "",
        "and several references use it"
    )]
    [InlineData(
        "",
        "visits: { table: visit, columns: vendor_id, amount: fee }",
        "blockers: { at_most_one: [{ reference: visits, end: { remark: over } }] }",
        "cannot be ended one by one"
    )]
    public async Task What_needs_a_key_is_reported(string change, string references, string more, string message)
    {
        var refusal = await Should.ThrowAsync<KettlefogException>(() =>
            SmallWorld.OpenAsync(engine, Schema + change, Map(references, more))
        );
        refusal.Details.ShouldContain(detail => detail.Contains(message));
    }

    [Fact]
    public void Random_rows_return_to_their_records()
    {
        Gen.Int[0, int.MaxValue - 1]
            .Sample(
                seed => RunAsync(seed).GetAwaiter().GetResult(),
                iter: RandomCases.Of(engine == Engine.Sqlite ? 60 : 10),
                threads: 1
            );
    }

    private async Task RunAsync(int seed)
    {
        var random = new Random(seed);
        string Some(params string[] values) => values[random.Next(values.Length)];
        var rows = Enumerable
            .Range(0, random.Next(1, 30))
            .Select(_ =>
                (
                    $"({Some("1", "2", "3", "NULL")}, {Some("'Mon'", "'mon'", "'Mon '", "NULL", "''")}, "
                    + $"{Some("1", "1.5", "NULL")}, {Some("NULL", "'n'", "'i1,t'")})"
                )
            );
        using var world = await SmallWorld.OpenAsync(
            engine,
            $"{Schema} INSERT INTO visit VALUES {string.Join(", ", rows)};",
            Map()
        );
        var before = world.File.Dump();
        var entry = await world.Database.ApplyAsync(
            await world.PlanAsync("vendor", [.. new[] { "1", "2", "3" }.OrderBy(_ => random.Next())])
        );
        (await world.Database.TakeBackAsync(entry)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    public sealed class OnSqlite() : UnkeyedRowsTests(Engine.Sqlite);

    public sealed class OnPostgres() : UnkeyedRowsTests(Engine.Postgres);
}
