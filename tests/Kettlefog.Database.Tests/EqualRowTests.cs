using Kettlefog.Core.History;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Rows that must not both refer to the master become one only if they say the same.</summary>
public abstract class EqualRowTests(Engine engine)
{
    private const string Schema = """
        CREATE TABLE vendor (id INTEGER PRIMARY KEY, name TEXT);
        CREATE TABLE price (id INTEGER PRIMARY KEY, vendor_id INTEGER NOT NULL REFERENCES vendor (id), item INTEGER,
                            agreed INTEGER, note TEXT, created_at TEXT, UNIQUE (vendor_id, item));
        INSERT INTO vendor VALUES (1, 'Ardle'), (2, 'Ardle');
        """;

    [Theory]
    [InlineData("(11, 1, 7, 20, 'a', 'x'), (12, 2, 7, 20, 'a', 'x')")]
    [InlineData("(11, 1, 7, 20, NULL, 'x'), (12, 2, 7, 20, NULL, 'y')")]
    public async Task Equal_rows_become_one_whatever_their_bookkeeping_says(string prices)
    {
        using var world = await OpenAsync(prices);
        var before = world.File.Dump();
        var plan = await world.PlanAsync("vendor", "1", "2");
        plan.Blockers.ShouldBeEmpty();
        plan.Moves[0].Collisions.Single().Differences.Single().ShouldBeEmpty();
        var number = await world.Database.ApplyAsync(plan);
        world.Column("SELECT id FROM price").ShouldBe(["11"]);
        await world.Database.TakeBackAsync(number);
        world.File.Dump().ShouldBe(before);
    }

    [Theory]
    [InlineData("(11, 1, 7, 20, 'a', 'x'), (12, 2, 7, 35, 'a', 'x')", "they differ in agreed ('20', '35')")]
    [InlineData(
        "(11, 1, 7, 20, NULL, 'x'), (12, 2, 7, 20, 'by phone', 'x')",
        "they differ in note (a blank, 'by phone')"
    )]
    [InlineData("(11, 1, 7, 20, '', 'x'), (12, 2, 7, 35, NULL, 'x')", "they differ in agreed ('20', '35'), note")]
    public async Task Rows_that_differ_block_the_merge_and_say_in_what(string prices, string expected)
    {
        using var world = await OpenAsync(prices);
        var plan = await world.PlanAsync("vendor", "1", "2");
        plan.Blockers.Single().Message.ShouldContain(expected);
    }

    [Fact]
    public async Task What_a_row_that_gives_way_says_otherwise_is_in_the_plan_and_it_is_not_counted_as_moved()
    {
        using var world = await OpenAsync(
            "(11, 1, 7, 20, 'a', 'x'), (12, 2, 7, 35, 'b', 'x'), (13, 2, 8, 5, 'c', 'x')",
            "keep"
        );
        var plan = await world.PlanAsync("vendor", "1", "2");
        var move = MergeDetails.Of(plan, world.Database.Map.Map).Moves.Single();
        (move.Count, move.Removed, move.Amount).ShouldBe((2, 1, "5"));
        move.Collisions.Single()
            .Removed.Single()
            .Differences!.Select(each => $"{each.Column} {each.Kept} {each.Removed}")
            .ShouldBe(["agreed 20 35", "note a b"]);
    }

    private Task<SmallWorld> OpenAsync(string prices, string collision = "keep-equal, bookkeeping: created_at") =>
        SmallWorld.OpenAsync(
            engine,
            $"{Schema} INSERT INTO price VALUES {prices}",
            $$"""
              vendor:
                table: vendor
                label: "{name}"
                fields: { name: {} }
                references: { prices: { table: price, columns: vendor_id, amount: agreed, collision: {{collision}} } }
                retire: { delete: true }
            """
        );

    public sealed class OnSqlite() : EqualRowTests(Engine.Sqlite);

    public sealed class OnPostgres() : EqualRowTests(Engine.Postgres);
}
