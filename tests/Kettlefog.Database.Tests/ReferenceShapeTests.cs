using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Reversing;
using Kettlefog.Core.Values;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>
/// Rows that refer to a record in other ways than by its key in a column of their own, and unique keys that are not
/// plain columns.
/// </summary>
public abstract class ReferenceShapeTests(Engine engine)
{
    private const string Schema = """
        CREATE TABLE vessel (id INTEGER PRIMARY KEY, name TEXT, hull TEXT UNIQUE, status TEXT);
        INSERT INTO vessel VALUES (1, 'Petrel', 'H-1', 'ok'), (2, 'Petrel II', 'H-2', 'ok'), (3, 'Fulmar', NULL, 'ok');
        """;

    [Fact]
    public async Task Rows_that_refer_to_another_unique_column_follow_it()
    {
        using var world = await OpenAsync(
            "survey: { table: survey, columns: hull_no, to: hull, amount: fee }",
            "CREATE TABLE survey (id INTEGER PRIMARY KEY, hull_no TEXT REFERENCES vessel (hull), fee "
                + "NUMERIC(9, 2)); INSERT INTO survey VALUES (10, 'H-1', 5), (11, 'H-2', 7.5), (12, NULL, 1);",
            "hull: { kind: code }"
        );
        var before = world.File.Dump();
        var plan = await world.PlanAsync(1, 2);
        plan.Blockers.ShouldBeEmpty();
        plan.Moves.Single().Counts.ShouldBe([1, 1]);
        plan.Figures.Single().After.ToText().ShouldBe("2");
        var entry = await world.Database.ApplyAsync(plan);
        world
            .File.Query("SELECT id, hull_no FROM survey ORDER BY id")
            .Select(row => string.Join(' ', row))
            .ShouldBe(["10 H-1", "11 H-1", "12 "]);
        (
            await world.Database.Records.ReadRelatedAsync(
                world.Type,
                world.Type.References[0],
                plan.Choices.Master,
                null,
                1,
                10,
                default
            )
        ).Total.ShouldBe(2);
        (await world.Database.TakeBackAsync(entry)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);

        (await world.PlanAsync(3, 2))
            .Blockers.Select(blocker => blocker.Message)
            .ShouldContain("1 survey cannot refer to the master 3: it has no hull.");
        (await world.PlanAsync(1, [2], ("hull", "2")))
            .Blockers.Select(blocker => blocker.Message)
            .ShouldContain("Survey refer to the records by hull, which would change from 'H-1' to 'H-2'.");
    }

    [Fact]
    public async Task A_record_without_the_number_that_rows_refer_to_is_merged_and_reversed()
    {
        using var world = await OpenAsync(
            "survey: { table: survey, columns: plate, to: plate }",
            "ALTER TABLE vessel ADD COLUMN plate INTEGER; CREATE UNIQUE INDEX one_plate ON vessel (plate); "
                + "UPDATE vessel SET plate = 70 + id WHERE id < 3; CREATE TABLE survey (id INTEGER PRIMARY KEY, "
                + "plate INTEGER); INSERT INTO survey VALUES (10, 71), (11, 72);"
        );
        var before = world.File.Dump();
        var entry = await world.Database.ApplyAsync(await world.PlanAsync(1, 2, 3));
        world.File.Query("SELECT plate FROM survey").ShouldAllBe(row => (long)row[0]! == 71);
        (await world.Database.TakeBackAsync(new ReversalChoices(entry) { Only = "3" })).ShouldBeEmpty();
        (await world.Database.TakeBackAsync(entry)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_key_inside_a_longer_text_or_in_a_text_column_is_found_and_put_back()
    {
        using var world = await OpenAsync(
            """
            note: { table: note, columns: about, as: "vessel:{key}/log" }
            tag: { table: tag, columns: owner_key }
            """,
            """
            CREATE TABLE note (id INTEGER PRIMARY KEY, about TEXT);
            CREATE TABLE tag (owner_key TEXT, word TEXT, PRIMARY KEY (owner_key, word));
            INSERT INTO note VALUES (1, 'vessel:1/log'), (2, 'vessel:2/log'), (3, 'vessel:22/log'), (4,
              'berth:2/log'), (5, 'vessel:2/log '), (6, 'VESSEL:2/log');
            INSERT INTO tag VALUES ('1', 'fast'), ('2', 'slow'), ('02', 'not ours'), ('2 ', 'nor this');
            """
        );
        var before = world.File.Dump();
        var plan = await world.PlanAsync(1, 2);
        plan.Blockers.ShouldBeEmpty();
        var entry = await world.Database.ApplyAsync(plan);
        world
            .File.Query("SELECT about FROM note ORDER BY id")
            .Select(row => row[0])
            .ShouldBe([
                "vessel:1/log",
                "vessel:1/log",
                "vessel:22/log",
                "berth:2/log",
                "vessel:2/log ",
                "VESSEL:2/log",
            ]);
        world
            .File.Query("SELECT owner_key FROM tag ORDER BY word")
            .Select(row => row[0])
            .ShouldBe(["1", "2 ", "02", "1"]);
        (await world.Database.TakeBackAsync(entry)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task Both_ends_of_a_link_may_be_records_of_one_merge()
    {
        using var world = await OpenAsync(
            """
            from: { table: tow, columns: tug_id, collision: keep }
            to: { table: tow, columns: towed_id, collision: keep }
            """,
            "CREATE TABLE tow (tug_id INTEGER NOT NULL REFERENCES vessel (id), towed_id INTEGER NOT NULL "
                + "REFERENCES vessel (id), fee INTEGER, PRIMARY KEY (tug_id, towed_id)); INSERT INTO tow VALUES (1, "
                + "3, 10), (2, 3, 20), (3, 2, 30), (1, 2, 40), (2, 1, 50);"
        );
        var before = world.File.Dump();
        var plan = await world.PlanAsync(1, 2);
        plan.Blockers.ShouldBeEmpty();
        var entry = await world.Database.ApplyAsync(plan);
        world
            .File.Query("SELECT tug_id, towed_id, fee FROM tow ORDER BY 1, 2")
            .Select(row => string.Join(' ', row))
            .ShouldBe(["1 1 40", "1 3 10", "3 1 30"]);
        (await world.Database.TakeBackAsync(entry)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_record_whose_links_conflict_with_the_others_is_restored_only_with_them()
    {
        using var world = await OpenAsync(
            """
            from: { table: tow, columns: tug_id, collision: keep }
            to: { table: tow, columns: towed_id, collision: keep }
            """,
            "CREATE TABLE tow (tug_id INTEGER NOT NULL, towed_id INTEGER NOT NULL, PRIMARY KEY (tug_id, "
                + "towed_id)); INSERT INTO tow VALUES (2, 1), (2, 3);"
        );
        var before = world.File.Dump();
        var entry = await world.Database.ApplyAsync(await world.PlanAsync(3, 1, 2));
        var merged = world.File.DumpAll();
        var refusal = await Should.ThrowAsync<KettlefogException>(() =>
            world.Database.Reversals.PlanAsync(new ReversalChoices(entry) { Only = "2" }, default)
        );
        refusal.Code.ShouldBe(ErrorCode.NotReversible);
        refusal.Message.ShouldStartWith("The merge cannot be reversed for 2 only: ");
        world.File.DumpAll().ShouldBe(merged);
        (await world.Database.TakeBackAsync(entry)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task Values_that_an_expression_makes_equal_collide()
    {
        using var world = await OpenAsync(
            "tag: { table: tag, columns: vessel_id, collision: keep }",
            "CREATE TABLE tag (id INTEGER PRIMARY KEY, vessel_id INTEGER, word TEXT); CREATE UNIQUE INDEX "
                + "one_word ON tag (vessel_id, lower(trim(word)), (id % 2)); INSERT INTO tag VALUES (1, 1, 'Fast'), "
                + "(3, 2, ' FAST'), (4, 2, 'fast'), (5, 2, NULL), (7, 1, NULL);"
        );
        var plan = await world.PlanAsync(1, 2);
        plan.Moves.Single().Collisions.Single().Removed.Single().Key.ToString().ShouldBe("3");
        await world.Database.ApplyAsync(plan);
        world
            .File.Query("SELECT id FROM tag WHERE vessel_id = 1 ORDER BY id")
            .Select(row => row[0])
            .ShouldBe([1L, 4L, 5L, 7L]);
    }

    [Fact]
    public async Task Values_that_a_collation_takes_for_the_same_collide()
    {
        var (collation, before) =
            engine == Engine.Sqlite
                ? ("NOCASE", "")
                : (
                    "same_case",
                    "CREATE COLLATION same_case (provider = icu, locale = 'und-u-ks-level2', deterministic = false); "
                );
        using var world = await OpenAsync(
            "tag: { table: tag, columns: vessel_id, collision: keep }",
            $"{before}CREATE TABLE tag (id INTEGER PRIMARY KEY, vessel_id INTEGER, word TEXT); CREATE UNIQUE "
                + $"INDEX one_word ON tag (vessel_id, word COLLATE {collation}); INSERT INTO tag VALUES (1, 1, "
                + "'Fast'), (2, 2, 'FAST'), (3, 2, 'slow');"
        );
        var plan = await world.PlanAsync(1, 2);
        plan.Moves.Single().Collisions.Single().Removed.Single().Key.ToString().ShouldBe("2");
        await world.Database.ApplyAsync(plan);
        world.File.Query("SELECT id FROM tag WHERE vessel_id = 1 ORDER BY id").Select(row => row[0]).ShouldBe([1L, 3L]);
    }

    [Fact]
    public async Task A_row_of_no_record_that_has_the_masters_key_conflicts()
    {
        using var world = await OpenAsync(
            "note: { table: note, columns: about_id, when: { kind: vessel }, collision: keep }",
            "CREATE TABLE note (id INTEGER PRIMARY KEY, kind TEXT, about_id INTEGER, subject TEXT, UNIQUE "
                + "(about_id, subject)); INSERT INTO note VALUES (1, 'berth', 1, 'keys'), (2, 'vessel', 2, 'keys'), "
                + "(3, 'berth', 2, 'fees');"
        );
        (await world.PlanAsync(1, 2))
            .Blockers.Single()
            .Message.ShouldStartWith("Note 2 cannot belong to the master: subject = keys must be unique (");
        (await world.PlanAsync(3, 2)).Blockers.ShouldBeEmpty();
    }

    [Fact]
    public async Task More_collisions_than_anybody_looks_at_are_refused_and_not_cut_off()
    {
        using var world = await OpenAsync(
            "tag: { table: tag, columns: vessel_id, collision: keep }",
            """
            CREATE TABLE tag (id INTEGER PRIMARY KEY, vessel_id INTEGER, word INTEGER, UNIQUE (vessel_id, word));
            INSERT INTO tag WITH RECURSIVE n (i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < 11999) SELECT i,
              1 + i % 2, i / 2 FROM n;
            """
        );
        var refusal = await Should.ThrowAsync<KettlefogException>(() => world.PlanAsync(1, 2));
        refusal.Message.ShouldStartWith("More than 10000 rows of tag collide by ");
        refusal.Hint.ShouldStartWith("Merge fewer records at once");
    }

    [Theory]
    [InlineData("note: { table: note, columns: about, to: name }", "Nothing makes name unique in 'vessel'.")]
    [InlineData("note: { table: note, columns: about, to: hul }", "The table 'vessel' has no column 'hul'.")]
    [InlineData("note: { table: note, columns: about, as: vessel }", "which does not contain '{key}' exactly once")]
    [InlineData("note: { table: note, columns: id, as: \"v{key}\" }", "which holds no text")]
    [InlineData("note: { table: note, columns: weight }", "'note.weight' is")]
    public async Task A_reference_that_cannot_work_is_reported_by_the_map_check(string reference, string problem)
    {
        var refusal = await Should.ThrowAsync<KettlefogException>(() =>
            OpenAsync(reference, "CREATE TABLE note (id INTEGER PRIMARY KEY, about TEXT, weight REAL);")
        );
        $"{refusal.Message} {string.Join(' ', refusal.Details)}".ShouldContain(problem);
    }

    private async Task<World> OpenAsync(string references, string sql, string fields = "")
    {
        var folder = new TempFolder();
        var file = TestDatabase.Create(engine, folder, "shapes");
        file.Execute(Schema);
        file.Execute(sql);
        await OwnTablesMaintenance.InitialiseAsync(file.Address, null, default);
        var reference = references[..references.IndexOf(':', StringComparison.Ordinal)];
        var map = MapReader.Read(
            TestMap.Of(
                "vessel",
                $$"""
                fields: { name:, {{fields}} }
                retire: { mark: { status: merged } }
                references:
                  {{references.Replace("\n", "\n  ", StringComparison.Ordinal)}}
                figures:
                  rows: { reference: {{reference}}, count: true, control: false }
                """
            ),
            "shapes.yaml"
        );
        try
        {
            return new World(
                folder,
                file,
                await OperationalDatabase.OpenAsync(
                    file.Address,
                    map,
                    TimeSpan.FromSeconds(5),
                    TimeProvider.System,
                    default
                )
            );
        }
        catch (KettlefogException)
        {
            file.Dispose();
            folder.Dispose();
            throw;
        }
    }

    private sealed record World(TempFolder Folder, TestDatabase File, OperationalDatabase Database) : IDisposable
    {
        public RecordType Type => Database.Map.Map.RecordTypes[0];

        public Task<MergePlan> PlanAsync(long master, params long[] duplicates) => PlanAsync(master, duplicates, []);

        public Task<MergePlan> PlanAsync(long master, long[] duplicates, params (string Field, string From)[] taken) =>
            Database.Merges.PlanAsync(
                new MergeChoices(
                    "vessel",
                    Key(master),
                    [.. duplicates.Select(Key)],
                    taken.ToDictionary(
                        each => each.Field,
                        each => (FieldChoice)new FieldChoice.FromRecord(Database.Records.ReadKey(Type, each.From))
                    )
                ),
                default
            );

        public void Dispose()
        {
            Database.Dispose();
            File.Dispose();
            Folder.Dispose();
        }

        private RecordKey Key(long number) => Database.Records.ReadKey(Type, $"{number}");
    }

    public sealed class OnSqlite() : ReferenceShapeTests(Engine.Sqlite);

    public sealed class OnPostgres() : ReferenceShapeTests(Engine.Postgres);
}
