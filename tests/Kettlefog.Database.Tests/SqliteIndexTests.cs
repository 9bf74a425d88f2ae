using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Values;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>SQLite shows the expressions of an index only in its CREATE statement, however that is written.</summary>
public class SqliteIndexTests
{
    [Theory]
    [InlineData("(vessel_id, word)", "")]
    [InlineData("(vessel_id, lower(word))", "2>1")]
    [InlineData("( vessel_id ,\n  lower ( word ) COLLATE BINARY DESC )", "2>1")]
    [InlineData("(vessel_id, word COLLATE NOCASE ASC)", "2>1")]
    [InlineData("(vessel_id, replace(lower(word), ')', ','))", "2>1")]
    [InlineData("(lower(\"od,d)\"), vessel_id, lower(word))", "2>1")]
    [InlineData("(vessel_id, lower([od,d)]))", "2>1")]
    [InlineData("(vessel_id, lower(word)) WHERE \"od,d)\" <> ') WHERE ('", "2>1")]
    [InlineData("(vessel_id, lower(word)) WHERE id > 1", "")]
    [InlineData("(vessel_id + 0, lower(word))", "2>1")]
    [InlineData("(vessel_id, lower(word)) WHERE vessel_id = 1", "2>1")]
    [InlineData("(vessel_id, lower(word)) WHERE vessel_id = 2", "")]
    public async Task Collisions_are_found_by_the_index_as_it_is(string index, string collisions)
    {
        using var folder = new TempFolder();
        using var file = new SqliteFile(folder.File("index.db"));
        file.Execute("CREATE TABLE vessel (id INTEGER PRIMARY KEY, name TEXT, status TEXT)");
        file.Execute("INSERT INTO vessel VALUES (1, 'Petrel', 'ok'), (2, 'Petrel II', 'ok')");
        file.Execute("CREATE TABLE tag (id INTEGER PRIMARY KEY, vessel_id INTEGER, word TEXT, \"od,d)\" TEXT)");
        file.Execute($"CREATE UNIQUE INDEX \"one (of, them)\" ON tag {index}");
        file.Execute("INSERT INTO tag VALUES (1, 1, 'Fast', 'x'), (2, 2, 'FAST', 'X'), (4, 2, 'slow', NULL)");
        await OwnTablesMaintenance.InitialiseAsync(file.Address, null, default);
        var map = MapReader.Read(
            TestMap.Of(
                "vessel",
                """
                fields: { name: }
                retire: { mark: { status: merged } }
                references:
                  tags: { table: tag, columns: vessel_id, collision: keep }
                """
            ),
            "indexes.yaml"
        );
        using var database = await OperationalDatabase.OpenAsync(
            file.Address,
            map,
            TimeSpan.FromSeconds(5),
            TimeProvider.System,
            default
        );
        var before = file.Dump();
        var plan = await database.Merges.PlanAsync(
            new MergeChoices(
                "vessel",
                new RecordKey(ColumnValue.Of(1L)),
                [new RecordKey(ColumnValue.Of(2L))],
                new Dictionary<string, FieldChoice>()
            ),
            default
        );
        plan.Blockers.ShouldBeEmpty();
        string.Join(
                ' ',
                plan.Moves.Single()
                    .Collisions.Select(collision => $"{collision.Removed.Single().Key}>{collision.Kept.Key}")
            )
            .ShouldBe(collisions);
        var entry = await database.ApplyAsync(plan);
        file.Count("SELECT COUNT(*) FROM tag WHERE vessel_id = 1").ShouldBe(collisions.Length > 0 ? 2 : 3);
        (await database.TakeBackAsync(entry)).ShouldBeEmpty();
        file.Dump().ShouldBe(before);
    }
}
