using Kettlefog.Core.Merging;
using Kettlefog.Database.Records;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Amounts that are no numbers: a figure says why it cannot be computed, and everything else works.</summary>
public abstract class FigureTests(Engine engine)
{
    protected async Task IsSaidAsync(string type, string value, string expected)
    {
        using var world = await OpenAsync(type, value, control: false);
        var records = world.Database.Records;
        var vendor = world.Database.Map.Map.Require("vendor");
        var found = await records.SearchAsync(vendor, new RecordSearch(null, null, 1, 10, false), default);
        found.Items.Select(record => record.Figures["billed"].ToText()).ShouldBe(["1.5", expected], ignoreOrder: true);
        (await records.ReadAsync(vendor, records.ReadKey(vendor, "2"), default))
            .Figures["billed"]
            .ToText()
            .ShouldBe(expected);

        // A merge works, and its figure says the same.
        var before = world.File.Dump();
        var plan = await world.PlanAsync("vendor", "1", "2");
        plan.Blockers.ShouldBeEmpty();
        plan.Figures.Single().After.ToText().ShouldBe(expected);
        var number = await world.Database.ApplyAsync(plan);
        await world.Database.TakeBackAsync(number);
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task Only_a_control_total_over_it_blocks_and_names_the_row()
    {
        using var world = await OpenAsync("TEXT", "'n/a'", control: true);
        var plan = await world.PlanAsync("vendor", "1", "2");
        plan.Blockers.Single()
            .Message.ShouldBe(
                "The control total Billed cannot be computed: amount of bills 22: 'n/a' is not a number."
            );
        (await world.PlanAsync("vendor", "1", "3")).Blockers.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_row_with_such_an_amount_that_is_removed_does_not_hide_it()
    {
        using var world = await OpenAsync("TEXT", "'n/a'", control: false);
        PlannedMove move = (await world.PlanAsync("vendor", "1", "2")).Moves.Single();
        move.Amount.ShouldBeNull();
    }

    private Task<SmallWorld> OpenAsync(string type, string value, bool control) =>
        SmallWorld.OpenAsync(
            engine,
            $"""
            CREATE TABLE vendor (id INTEGER PRIMARY KEY, name TEXT);
            CREATE TABLE bill (id INTEGER PRIMARY KEY, vendor_id INTEGER REFERENCES vendor (id), amount {type});
            INSERT INTO vendor VALUES (1, 'Ardle'), (2, 'Ardle'){(control ? ", (3, 'Ardle')" : "")};
            INSERT INTO bill VALUES (11, 1, '1.5'), (22, 2, {value}), {string.Join(
                ", ",
                Enumerable.Range(23, 20).Select(id => $"({id}, 2, {(value.Contains("9e2") ? value : "NULL")})")
            )};
            """,
            $$"""
              vendor:
                table: vendor
                label: "{name}"
                fields: { name: {} }
                references: { bills: { table: bill, columns: vendor_id, amount: amount } }
                figures: { billed: { reference: bills, sum: amount, control: {{(control ? "true" : "false")}} } }
                retire: { delete: true }
            """
        );

    public sealed class OnSqlite() : FigureTests(Engine.Sqlite)
    {
        [Theory]
        [InlineData("TEXT", "'n/a'", "not computable: 'n/a' is not a number")]
        [InlineData("NUMERIC", "'1,5'", "not computable: '1,5' is not a number")]
        [InlineData("REAL", "9e999", "not computable: 'Infinity' is not a number")]
        [InlineData("BLOB", "x'00'", "not computable: 'a blob' is not a number")]
        [InlineData("TEXT", "'9e27'", "not computable: the sum has more digits than can be computed exactly")]
        public Task What_cannot_be_added_up_is_said_in_its_place(string type, string value, string expected) =>
            IsSaidAsync(type, value, expected);
    }

    public sealed class OnPostgres() : FigureTests(Engine.Postgres)
    {
        [Theory]
        [InlineData("TEXT", "'n/a'", "not computable: 'n/a' is not a number")]
        [InlineData("NUMERIC", "'NaN'", "not computable: 'NaN' is not a number")]
        [InlineData("DOUBLE PRECISION", "'Infinity'", "not computable: 'Infinity' is not a number")]
        [InlineData("REAL", "'NaN'", "not computable: 'NaN' is not a number")]
        [InlineData("TEXT", "'9e28'", "not computable: the sum has more digits than can be computed exactly")]
        public Task What_cannot_be_added_up_is_said_in_its_place(string type, string value, string expected) =>
            IsSaidAsync(type, value, expected);
    }
}
