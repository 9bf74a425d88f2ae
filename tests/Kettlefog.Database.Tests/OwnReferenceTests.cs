using Kettlefog.Core.Merging;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>References of a table to itself that form no tree: to the last editor, to who referred somebody.</summary>
public abstract class OwnReferenceTests(Engine engine)
{
    private const string Schema = """
        CREATE TABLE person (id INTEGER PRIMARY KEY, name TEXT, updated_by INTEGER NOT NULL REFERENCES person (id),
                             referrer INTEGER REFERENCES person (id), state TEXT);
        """;

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task A_pointer_at_the_master_itself_or_at_a_third_record_stays(bool delete)
    {
        using var world = await OpenAsync(
            "INSERT INTO person VALUES (1, 'Ida', 1, 3, 'active'), (2, 'Ida', 1, NULL, 'active'), "
                + "(3, 'Jory', 3, 2, 'active'), (4, 'Maud', 2, 2, 'active')",
            delete
        );
        var before = world.File.Dump();
        var number = await world.MergeAsync("person", "1", "2");
        Pointers(world).ShouldBe(delete ? ["1: 1 3", "3: 3 1", "4: 1 1"] : ["1: 1 3", "2: 1 ", "3: 3 1", "4: 1 1"]);
        (await world.Database.TakeBackAsync(number)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task A_record_that_a_duplicate_edited_refers_to_the_master_also_if_it_is_the_master(bool delete)
    {
        using var world = await OpenAsync(
            "INSERT INTO person VALUES (1, 'Ida', 2, 2, 'active'), (2, 'Ida', 2, 1, 'active'), (3, 'I.', 2, 2, "
                + "'active')",
            delete
        );
        var before = world.File.Dump();
        var number = await world.MergeAsync("person", "1", "2", "3");
        Pointers(world).First().ShouldBe("1: 1 1");
        world.File.Count("SELECT COUNT(*) FROM person WHERE updated_by <> 1 OR referrer <> 1").ShouldBe(0);
        (await world.Database.TakeBackAsync(number)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_value_taken_from_a_record_that_refers_to_a_duplicate_refers_to_the_master()
    {
        using var world = await OpenAsync(
            "INSERT INTO person VALUES (1, 'Ida', 1, NULL, 'active'), (2, 'Ida', 2, 3, 'active'), (3, 'I.', 3, 2, "
                + "'active')",
            delete: false
        );
        var before = world.File.Dump();
        var choices = world.Choices("person", "1", "2", "3");
        choices = choices with
        {
            Fields = new Dictionary<string, FieldChoice>
            {
                ["updated_by"] = new FieldChoice.FromRecord(choices.Duplicates[0]),
            },
        };
        var number = await world.Database.ApplyAsync(await world.PlanAsync(choices));
        Pointers(world).First().ShouldBe("1: 1 1");
        (await world.Database.TakeBackAsync(number)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    private Task<SmallWorld> OpenAsync(string rows, bool delete) =>
        SmallWorld.OpenAsync(
            engine,
            $"{Schema}{rows}",
            $$"""
              person:
                table: person
                label: "{name}"
                fields: { name: {}, updated_by: { survivorship: master }, referrer: {} }
                references:
                  edited: { table: person, columns: updated_by, hierarchy: false }
                  referred: { table: person, columns: referrer, hierarchy: false }
                retire: { {{(delete ? "delete: true" : "mark: { state: merged }")}} }
            """
        );

    private static IEnumerable<string> Pointers(SmallWorld world) =>
        world
            .File.Query("SELECT id, updated_by, referrer FROM person ORDER BY id")
            .Select(row => $"{row[0]}: {row[1]} {row[2]}");

    public sealed class OnSqlite() : OwnReferenceTests(Engine.Sqlite);

    public sealed class OnPostgres() : OwnReferenceTests(Engine.Postgres);
}
