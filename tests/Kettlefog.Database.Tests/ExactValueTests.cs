using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>
/// Surviving values are copied by the database itself: not a byte changes, even of texts that no program can read.
/// </summary>
public sealed class ExactValueTests
{
    // "Möwe" as an old program wrote it, in Latin-1: no valid UTF-8.
    private const string Möwe = "CAST(x'4DF67765' AS TEXT)";
    private const string Löwe = "CAST(x'4CF67765' AS TEXT)";

    private const string Schema = """
        CREATE TABLE vendor (id INTEGER PRIMARY KEY, name TEXT, code TEXT UNIQUE, phone TEXT, other TEXT, state TEXT);
        CREATE TABLE further (id INTEGER PRIMARY KEY, vendor_id INTEGER REFERENCES vendor (id), kind TEXT, value TEXT);
        CREATE TABLE price (vendor_id INTEGER REFERENCES vendor (id), item INTEGER, note TEXT,
          PRIMARY KEY (vendor_id, item));
        """;

    [Theory]
    [InlineData("delete: true")]
    [InlineData("mark: { state: merged }")]
    [InlineData("mark: { name: merged, state: merged }")]
    public async Task A_text_that_is_no_valid_utf8_survives_byte_by_byte(string retire)
    {
        using var world = await OpenAsync(
            $"INSERT INTO vendor VALUES (1, NULL, 'A', NULL, NULL, 'active'), (2, {Möwe}, 'B', {Möwe}, NULL, 'active')",
            retire
        );
        var before = world.File.Dump();
        var number = await world.MergeAsync("vendor", "1", "2");
        Hex(world, "SELECT hex(name) FROM vendor WHERE id = 1").ShouldBe("4DF67765");
        Hex(world, "SELECT hex(phone) FROM vendor WHERE id = 1").ShouldBe("4DF67765");
        Hex(world, "SELECT typeof(name) FROM vendor WHERE id = 1").ShouldBe("text");
        await world.Database.TakeBackAsync(number);
        world.File.Dump().ShouldBe(before);
    }

    [Theory]
    [InlineData("delete: true")]
    [InlineData("mark: { state: merged }")]
    public async Task A_value_that_overflows_into_a_field_or_a_row_keeps_its_bytes(string retire)
    {
        using var world = await OpenAsync(
            $"INSERT INTO vendor VALUES (1, 'a', 'A', '1', NULL, 'active'), (2, 'b', 'B', {Möwe}, {Löwe}, 'active')",
            retire
        );
        var before = world.File.Dump();
        var number = await world.MergeAsync("vendor", "1", "2");
        Hex(world, "SELECT hex(other) FROM vendor WHERE id = 1").ShouldBe("4DF67765");
        Hex(world, "SELECT hex(value) FROM further WHERE vendor_id = 1").ShouldBe("4CF67765");
        await world.Database.TakeBackAsync(number);
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_value_of_a_row_that_gives_way_keeps_its_bytes_in_the_one_that_is_kept()
    {
        using var world = await OpenAsync(
            "INSERT INTO vendor VALUES (1, 'a', 'A', NULL, NULL, 'active'), (2, 'b', 'B', NULL, NULL, 'active'); "
                + $"INSERT INTO price VALUES (1, 7, NULL), (2, 7, {Möwe})",
            "delete: true"
        );
        var before = world.File.Dump();
        var number = await world.MergeAsync("vendor", "1", "2");
        Hex(world, "SELECT hex(note) FROM price").ShouldBe("4DF67765");
        await world.Database.TakeBackAsync(number);
        world.File.Dump().ShouldBe(before);
    }

    private static Task<SmallWorld> OpenAsync(string rows, string retire) =>
        SmallWorld.OpenAsync(
            Engine.Sqlite,
            $"{Schema}{rows}",
            $$"""
              vendor:
                table: vendor
                label: "{name}"
                fields:
                  name: {}
                  phone:
                    overflow: [other]
                    overflow_rows: { reference: further, column: value, values: { kind: phone } }
                  other: {}
                references:
                  further: { table: further, columns: vendor_id }
                  prices: { table: price, columns: vendor_id, collision: combine }
                retire: { {{retire}} }
            """
        );

    private static string Hex(SmallWorld world, string sql) => world.Column(sql).Single();
}
