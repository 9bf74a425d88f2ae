using Kettlefog.Core;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Reversing;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Rows that at most one of the records may have: they block, and can be ended by the merge.</summary>
public abstract class AtMostOneTests(Engine engine)
{
    private const string Schema = """
        CREATE TABLE account (id INTEGER PRIMARY KEY, name TEXT, status TEXT);
        INSERT INTO account VALUES (1, 'A', 'ok'), (2, 'B', 'ok'), (3, 'C', 'ok');
        CREATE TABLE agreement (id INTEGER PRIMARY KEY, account_id INTEGER NOT NULL REFERENCES account (id), berth
          TEXT, state TEXT NOT NULL, ends_on DATE);
        CREATE UNIQUE INDEX one_running ON agreement (account_id) WHERE ends_on IS NULL;
        INSERT INTO agreement VALUES (11, 1, 'A1', 'running', NULL), (12, 1, 'A2', 'over', '2020-01-01'), (21, 2,
          'B1', 'running', NULL), (31, 3, 'C1', 'running', NULL), (32, 3, 'C2', 'over', '2021-01-01');
        CREATE TABLE wish (account_id INTEGER, pier TEXT, state TEXT, PRIMARY KEY (account_id, pier));
        INSERT INTO wish VALUES (1, 'North', 'open'), (2, 'North', 'open'), (2, 'South', 'open'), (3, 'South',
          'closed');
        """;

    private const string Map = """
          account:
            table: account
            label: "{name}"
            fields: { name: }
            references:
              agreements: { table: agreement, columns: account_id }
              wishes: { table: wish, columns: account_id, collision: keep }
            retire: { mark: { status: merged } }
            blockers:
              at_most_one:
                - { name: running, title: Running agreements, reference: agreements, when: { ends_on: null },
                    end: { ends_on: "{date}", state: ended } }
                - { name: wishes, reference: wishes, when: { state: open }, end: { state: closed } }
        """;

    [Fact]
    public async Task Running_rows_of_several_records_block_until_those_of_the_duplicates_end_with_the_merge()
    {
        using var world = await SmallWorld.OpenAsync(engine, Schema, Map);
        var before = world.File.Dump();
        var choices = world.Choices("account", "1", "2", "3");
        var blocked = await world.PlanAsync(choices);
        blocked.Blockers.ShouldContain(blocker =>
            blocker.Message == "Only one record may have running agreements, but 1 has 1, 2 has 1, 3 has 1."
            && blocker.Remedy == "End running agreements of the duplicates (end running)."
            && blocker.Clearings.Single()
                == new Clearing(ClearingKind.End, "running", "End running agreements of the duplicates")
        );
        blocked.Blockers.ShouldContain(blocker =>
            blocker.Message == "Only one record may have wishes, but 1 has 1, 2 has 2."
        );

        choices = choices with
        {
            End = new HashSet<string> { "running", "wishes" },
        };
        var plan = await world.PlanAsync(choices);
        plan.Blockers.ShouldBeEmpty();
        plan.Ended.Select(row => $"{row.Rule.Name} {row.Record} {row.Key}")
            .ShouldBe(["running 1 21", "running 2 31", "wishes 1 2|North", "wishes 1 2|South"]);
        world.File.Dump().ShouldBe(before, "planning changes nothing");
        var entry = await world.Database.ApplyAsync(plan);
        var today = DateTime.UtcNow.ToString("yyyy-MM-dd", null);
        world
            .Column(
                "SELECT id || ' ' || account_id || ' ' || state || ' ' || COALESCE(CAST(ends_on AS TEXT), "
                    + "'-') FROM agreement ORDER BY id"
            )
            .ShouldBe([
                "11 1 running -",
                "12 1 over 2020-01-01",
                $"21 1 ended {today}",
                $"31 1 ended {today}",
                "32 1 over 2021-01-01",
            ]);
        world
            .Column("SELECT account_id || ' ' || pier || ' ' || state FROM wish ORDER BY pier")
            .ShouldBe(["1 North open", "1 South closed"]);
        (await world.Database.TakeBackAsync(entry)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task One_record_is_taken_out_with_its_ended_rows_and_later_changes_are_drift()
    {
        using var world = await SmallWorld.OpenAsync(engine, Schema, Map);
        var before = world.File.Dump();
        var choices = world.Choices("account", "1", "2", "3") with
        {
            End = new HashSet<string> { "running", "wishes" },
        };
        var entry = await world.Database.ApplyAsync(await world.PlanAsync(choices));
        (await world.Database.TakeBackAsync(new ReversalChoices(entry) { Only = "2" })).ShouldBeEmpty();
        world
            .Column("SELECT account_id || ' ' || state FROM agreement WHERE id IN (21, 31) ORDER BY id")
            .ShouldBe(["2 running", "1 ended"]);
        world.File.Execute("UPDATE agreement SET state = 'cancelled' WHERE id = 31");
        (await world.Database.TakeBackAsync(entry))
            .Single()
            .ShouldBe("state of 31 has changed since: the merge wrote 'ended', now it is 'cancelled', which is kept.");
        world.File.Execute("UPDATE agreement SET state = 'running' WHERE id = 31");
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task What_cannot_end_is_refused()
    {
        using var world = await SmallWorld.OpenAsync(
            engine,
            Schema,
            Map.Replace(", end: { state: closed }", "", StringComparison.Ordinal)
        );
        var refusal = await Should.ThrowAsync<KettlefogException>(() =>
            world.PlanAsync(world.Choices("account", "1", "2") with { End = new HashSet<string> { "wishes" } })
        );
        (refusal.Code, refusal.Message, refusal.Hint).ShouldBe(
            (ErrorCode.InvalidChoice, "There is no rule 'wishes' whose rows can be ended.", "The rules are: running.")
        );
    }

    [Theory]
    [InlineData("ends_on: null }", "state: null }", "'agreement.state' is never blank.")]
    [InlineData(
        "state: ended",
        "account_id: 9",
        "'account_id' refers to the record, and cannot be the column that ends a row."
    )]
    [InlineData("state: ended", "stat: ended", "The table 'agreement' has no column 'stat'. Write 'state'.")]
    [InlineData(
        "reference: agreements, when",
        "reference: agrements, when",
        "names the reference 'agrements', which the record type does not have. Write 'agreements'."
    )]
    [InlineData("reference: agreements, when", "reference: agreements, whn", "has no key 'whn'. Write 'when'.")]
    public async Task A_rule_that_does_not_fit_is_reported_with_its_line(string right, string wrong, string message)
    {
        Map.ShouldContain(right);
        var refusal = await Should.ThrowAsync<KettlefogException>(() =>
            SmallWorld.OpenAsync(engine, Schema, Map.Replace(right, wrong, StringComparison.Ordinal))
        );
        refusal.Details.ShouldContain(detail => detail.StartsWith("small.yaml:1") && detail.Contains(message));
    }

    public sealed class OnSqlite() : AtMostOneTests(Engine.Sqlite);

    public sealed class OnPostgres() : AtMostOneTests(Engine.Postgres);
}
