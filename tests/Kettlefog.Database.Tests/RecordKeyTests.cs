using Kettlefog.Core;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Reversing;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Records whose key in the map is not the primary key of their table.</summary>
public abstract class RecordKeyTests(Engine engine)
{
    private const string Schema = """
        CREATE TABLE account (id INTEGER PRIMARY KEY, code TEXT NOT NULL UNIQUE, name TEXT,
                              parent_code TEXT REFERENCES account (code));
        """;

    private const string Types = """
          account:
            table: account
            key: [code]
            label: "{name}"
            fields: { name: {} }
            references: { children: { table: account, columns: parent_code, hierarchy: true } }
            retire: { delete: true }
        """;

    [Theory]
    [InlineData("")]
    [InlineData("INSERT INTO account VALUES (14, 'A4', 'Bexhold', 'A3')")]
    [InlineData("INSERT INTO account VALUES (14, 'A4', 'Bexhold', 'A3'), (15, 'A5', 'Bexhold', 'A2')")]
    public async Task A_deleted_record_below_another_one_comes_back_below_it(string more)
    {
        using var world = await SmallWorld.OpenAsync(
            engine,
            $"{Schema} INSERT INTO account VALUES (11, 'A1', 'Ardle', NULL), (13, 'A3', 'Ardle', NULL), "
                + $"(12, 'A2', 'Ardle', 'A3'); {more}",
            Types
        );
        var before = world.File.Dump();
        var number = await world.MergeAsync("account", "A1", "A2", "A3");
        world.File.Count("SELECT COUNT(*) FROM account WHERE code IN ('A2', 'A3')").ShouldBe(0);
        (await world.Database.TakeBackAsync(number)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    private const string Unguarded = """
        CREATE TABLE vendor (code TEXT, name TEXT, phone TEXT);
        CREATE TABLE bill (id INTEGER PRIMARY KEY, vendor TEXT, amount INTEGER);
        INSERT INTO vendor VALUES ('A', 'Ardle', NULL), ('B', 'Ardle', '01632 960001'), ('C', 'Bexhold', NULL),
          (NULL, 'nobody', NULL);
        INSERT INTO bill VALUES (1, 'A', 10), (2, 'B', 20), (3, 'B', 30), (4, 'C', 40);
        """;

    private const string UnguardedTypes = """
          vendor:
            table: vendor
            key: [code]
            label: "{name}"
            fields: { name: {}, phone: {} }
            references: { bills: { table: bill, columns: vendor } }
            retire: { delete: true }
        """;

    [Fact]
    public async Task A_key_that_nothing_keeps_unique_is_guarded_by_every_merge_and_reversal()
    {
        using var world = await SmallWorld.OpenAsync(engine, Unguarded, UnguardedTypes);
        var before = world.File.Dump();
        var finding = (await world.Database.Maps.CheckAsync(default)).Findings.Single(each =>
            each.Message.StartsWith("Nothing in the database makes code unique", StringComparison.Ordinal)
        );
        finding.Severity.ShouldBe(FindingSeverity.Warning);
        finding.Statement.ShouldBe("CREATE UNIQUE INDEX vendor_code ON vendor (code);");
        var number = await world.MergeAsync("vendor", "A", "B");
        world.File.Count("SELECT COUNT(*) FROM bill WHERE vendor = 'A'").ShouldBe(3);
        (await world.Database.TakeBackAsync(number)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);

        // A repeat of the key appears: nothing is merged or reversed by it.
        var plan = await world.PlanAsync("vendor", "A", "B");
        world.File.Execute("INSERT INTO vendor VALUES ('A', 'another', NULL)");
        var repeated = world.File.Dump();
        foreach (
            var attempt in new Func<Task>[]
            {
                () => world.PlanAsync("vendor", "A", "B"),
                () => world.PlanAsync("vendor", "C", "A"),
                () => world.Database.ApplyAsync(plan),
                () =>
                    world.Database.Records.ReadAsync(
                        world.Database.Map.Map.Require("vendor"),
                        plan.Choices.Master,
                        default
                    ),
            }
        )
            (await Should.ThrowAsync<KettlefogException>(attempt)).Code.ShouldBe(ErrorCode.AmbiguousKey);
        world.File.Dump().ShouldBe(repeated);
        (await world.Database.Maps.CheckAsync(default)).Findings.ShouldContain(each =>
            each.Severity == FindingSeverity.Error && each.Message.StartsWith("2 rows of 'vendor' have the key A")
        );
        world.File.Execute("DELETE FROM vendor WHERE name = 'another'");
        number = await world.Database.ApplyAsync(plan);
        world.File.Execute("INSERT INTO vendor VALUES ('A', 'another', NULL)");
        (await Should.ThrowAsync<KettlefogException>(() => world.Database.TakeBackAsync(number))).Code.ShouldBe(
            ErrorCode.AmbiguousKey
        );
        world.File.Execute("DELETE FROM vendor WHERE name = 'another'");
        (await world.Database.TakeBackAsync(number)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task What_is_not_restored_as_it_was_is_said()
    {
        using var world = await SmallWorld.OpenAsync(
            engine,
            $"{Schema} INSERT INTO account VALUES (11, 'A1', 'Ardle', NULL), (12, 'A2', 'Ardle', NULL)",
            Types
        );
        var number = await world.MergeAsync("account", "A1", "A2");
        world.File.Execute(
            engine == Engine.Sqlite
                ? "CREATE TRIGGER shout AFTER INSERT ON account BEGIN UPDATE account SET name = upper(name) WHERE id = "
                    + "new.id; END"
                : "CREATE FUNCTION shout() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN new.name := upper(new.name); "
                    + "RETURN new; END $$; CREATE TRIGGER shout BEFORE INSERT ON account FOR EACH ROW EXECUTE FUNCTION "
                    + "shout()"
        );
        var choices = new ReversalChoices(number);
        var plan = await world.Database.Reversals.PlanAsync(choices, default);
        var outcome = await world.Database.Reversals.ApplyAsync(
            new(choices, plan.Fingerprint.Text, new("c.weeks", "two"), "back"),
            default
        );
        outcome.Entry.Details.ShouldContain(
            "name of A2 is 'ARDLE' after the reversal and was 'Ardle' before the merge: a trigger of the database may "
                + "have changed it."
        );
    }

    public sealed class OnSqlite() : RecordKeyTests(Engine.Sqlite);

    public sealed class OnPostgres() : RecordKeyTests(Engine.Postgres);
}
