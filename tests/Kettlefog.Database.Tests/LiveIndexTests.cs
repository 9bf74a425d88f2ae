using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Database.History;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>
/// Similar records are found whatever the times of change say, and whatever instance changed the rules.
/// </summary>
public abstract class LiveIndexTests(Engine engine)
{
    private static readonly string[] Families =
    [
        "Tilling",
        "Trewin",
        "Skelder",
        "Ashgrove",
        "Marlow",
        "Pendle",
        "Quill",
        "Rasten",
        "Hollis",
        "Venning",
        "Wells",
        "Berg",
    ];

    private const string Types = """
          person:
            table: person
            label: "{given} {family}"
            changed: changed_at
            fields:
              given: { kind: given-name }
              family: { kind: family-name }
              mail: { kind: email }
              area: {}
            retire: { delete: true }
            matching: { country: GB, partition: area }
        """;

    [Theory]
    [InlineData("2026-05-01T00:00:00Z", "2026-05-02T00:00:00Z")]
    [InlineData("2999-01-01T00:00:00Z", "2026-05-02T00:00:00Z")]
    [InlineData("2026-05-01T00:00:00Z", "1999-01-01T00:00:00Z")]
    public async Task A_record_that_is_added_is_found_whatever_its_time_of_change(string before, string added)
    {
        using var world = await OpenAsync();
        var type = world.Database.Map.Map.Require("person");
        (await SimilarAsync(world, type, "1")).ShouldBeEmpty();
        Add(world, 50, "Ada", "Other", "a.other@ebb.example", before);
        (await SimilarAsync(world, type, "1")).ShouldBeEmpty();
        Add(world, 51, "Ida", "Tilling", "i.tilling0@ebb.example", added);
        (await SimilarAsync(world, type, "1")).ShouldBe(["51"]);
    }

    [Fact]
    public async Task Values_without_a_partition_are_compared_with_the_records_of_all()
    {
        using var world = await OpenAsync();
        var type = world.Database.Map.Map.Require("person");
        var values = new Dictionary<string, string?>
        {
            ["given"] = "Ida",
            ["family"] = "Tilling",
            ["mail"] = "i.tilling0@ebb.example",
        };
        (await world.Database.Similar.FindToValuesAsync(type, values, 5, default))
            .Select(each => each.Key)
            .ShouldBe(["1"]);
        values["area"] = "south";
        (await world.Database.Similar.FindToValuesAsync(type, values, 5, default)).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_rule_saved_at_another_instance_reaches_the_index()
    {
        using var world = await OpenAsync();
        var type = world.Database.Map.Map.Require("person");
        Add(world, 51, "Ida", "Tilling", "i.tilling0@ebb.example", "2026-05-02T00:00:00Z");
        (await SimilarAsync(world, type, "1")).ShouldBe(["51"]);
        using var other = await OperationalDatabase.OpenAsync(
            world.File.Address,
            MapReader.Read(TestMap.WithTypes(Types), "small.yaml"),
            TimeSpan.FromSeconds(5),
            TimeProvider.System,
            default
        );
        await other.Rules.SaveAsync(
            type,
            "ready",
            "scope: [{ field: area, in: [south] }]",
            new AuditContext("m.ashe", "only there"),
            default
        );
        (await SimilarAsync(world, type, "1")).ShouldBeEmpty();
    }

    [Fact]
    public async Task An_index_that_was_asked_about_too_much_is_built_again()
    {
        // Without a time of change, only a new index has the record that was added.
        using var world = await OpenAsync(Types.Replace("changed: changed_at", "", StringComparison.Ordinal));
        var type = world.Database.Map.Map.Require("person");
        (await SimilarAsync(world, type, "1")).ShouldBeEmpty();
        Add(world, 51, "Ida", "Tilling", "i.tilling0@ebb.example", "2026-05-02T00:00:00Z");
        (await SimilarAsync(world, type, "1")).ShouldBeEmpty();
        var words = string.Join(' ', Enumerable.Range(0, 100_000).Select(number => $"w{number}"));
        for (var asked = 0; asked < 4_100_000; asked += words.Length)
            await world.Database.Similar.FindToValuesAsync(
                type,
                new Dictionary<string, string?> { ["given"] = words },
                5,
                default
            );
        (await SimilarAsync(world, type, "1")).ShouldBe(["51"]);
    }

    private async Task<SmallWorld> OpenAsync(string types = Types)
    {
        var world = await SmallWorld.OpenAsync(
            engine,
            "CREATE TABLE person (id INTEGER PRIMARY KEY, given TEXT, family TEXT, mail TEXT, area TEXT, "
                + "changed_at TEXT)",
            types
        );
        for (var id = 1; id <= Families.Length; id++)
            Add(
                world,
                id,
                "Ida",
                Families[id - 1],
                $"i.{Families[id - 1].ToLowerInvariant()}{id - 1}@ebb.example",
                "2026-04-01T00:00:00Z"
            );
        return world;
    }

    private static void Add(SmallWorld world, long id, string given, string family, string mail, string changed) =>
        world.File.Execute("INSERT INTO person VALUES (?1, ?2, ?3, ?4, 'north', ?5)", id, given, family, mail, changed);

    private static async Task<List<string>> SimilarAsync(SmallWorld world, RecordType type, string key) =>
        [
            .. (
                await world.Database.Similar.FindToRecordAsync(
                    type,
                    world.Database.Records.ReadKey(type, key),
                    5,
                    default
                )
            ).Select(each => each.Key),
        ];

    public sealed class OnSqlite() : LiveIndexTests(Engine.Sqlite);

    public sealed class OnPostgres() : LiveIndexTests(Engine.Postgres);
}
