using CsCheck;
using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Reversing;
using Kettlefog.Database.History;
using Kettlefog.Database.Merging;
using Kettlefog.Database.Reversing;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>
/// Parents and children that turn out to be duplicates of one another, and are merged in the same step.
/// </summary>
public abstract class LinkedMergeTests(Engine engine)
{
    private const string Schema = """
        CREATE TABLE household (id INTEGER PRIMARY KEY, name TEXT, street TEXT, status TEXT);
        CREATE TABLE contact (id INTEGER PRIMARY KEY, household_id INTEGER REFERENCES household (id), name TEXT, born
          TEXT, email TEXT, status TEXT);
        CREATE TABLE account (id INTEGER PRIMARY KEY, name TEXT, status TEXT);
        CREATE TABLE account_contact (account_id INTEGER NOT NULL REFERENCES account (id), contact_id INTEGER NOT NULL
          REFERENCES contact (id), role TEXT, PRIMARY KEY (account_id, contact_id));
        CREATE TABLE vessel (id INTEGER PRIMARY KEY, account_id INTEGER REFERENCES account (id), hull TEXT, status
          TEXT);
        CREATE TABLE charge (id INTEGER PRIMARY KEY, vessel_id INTEGER REFERENCES vessel (id), amount NUMERIC(9, 2));
        """;

    private const string Rows = """
        INSERT INTO household VALUES (1, 'Marrick family', '12 Curlew Lane', 'ok'), (2, 'Mr & Mrs Marrick',
          '12 curlew lane', 'ok'), (3, 'Pellin', '1 Pier', 'ok');
        INSERT INTO contact VALUES (1, 1, 'Rhoda Marrick', '1971-04-09', NULL, 'ok'), (2, 2, 'RHODA MARRICK',
          '1971-04-09', NULL, 'ok'), (3, 3, 'Odd Pellin', NULL, 'odd@p.example', 'ok'), (4, 3, 'O. Pellin', NULL,
          'ODD@P.example', 'ok'), (5, NULL, 'Odd Pellin', NULL, NULL, 'ok');
        INSERT INTO account VALUES (1, 'Kittiwake', 'ok'), (2, 'KITTIWAKE', 'ok'), (3, 'Tern', 'ok');
        INSERT INTO account_contact VALUES (1, 1, 'owner'), (2, 2, 'owner'), (2, 3, 'crew'), (2, 4, 'crew'), (1, 5,
          'crew'), (3, 3, 'crew');
        INSERT INTO vessel VALUES (1, 1, 'SM-1', 'ok'), (2, 2, 'sm 1', 'ok'), (3, 2, NULL, 'ok'), (4, 1, ' ', 'ok'),
          (5, 3, 'SM-1', 'ok'), (6, 1, 'X9', 'ok'), (7, 1, 'X9', 'ok');
        INSERT INTO charge VALUES (1, 1, 10.5), (2, 2, 20.25), (3, 2, 1);
        """;

    private static string Map(string retire = "mark: { status: merged }") =>
        $$"""
              account:
                table: account
                label: "{name}"
                fields: { name:, status: { survivorship: master } }
                references:
                  contacts: { table: account_contact, columns: account_id, collision: keep }
                  vessels: { table: vessel, columns: account_id }
                retire: { {{retire}} }
                linked:
                  contacts: { type: contact, through: contacts, columns: contact_id, same: [[name, born], [email]] }
                  vessels: { type: vessel, through: vessels, same: hull }
              contact:
                table: contact
                label: "{name}"
                fields: { name:, born: { kind: birth-date }, email: { kind: email }, status: { survivorship: master } }
                references:
                  accounts: { table: account_contact, columns: contact_id, collision: keep }
                retire: { {{retire}} }
                linked:
                  households: { type: household, columns: household_id, same: street }
              household:
                table: household
                label: "{name}"
                fields: { name:, street: { kind: street }, status: { survivorship: master } }
                references:
                  members: { table: contact, columns: household_id }
                retire: { {{retire}} }
                linked:
                  members: { type: contact, through: members, same: [[name, born], [email]] }
              vessel:
                table: vessel
                label: "{hull}"
                fields: { hull: { kind: identifier }, status: { survivorship: master } }
                references:
                  charges: { table: charge, columns: vessel_id, amount: amount }
                figures:
                  charged: { reference: charges, sum: amount, control: true }
                retire: { {{retire}} }
            """;

    [Fact]
    public async Task What_turns_out_to_be_the_same_is_offered_and_merged_in_one_transaction_to_any_depth()
    {
        using var world = await SmallWorld.OpenAsync(engine, Schema + Rows, Map());
        var before = world.File.Dump();
        var everything = world.File.DumpAll();
        var choices = world.Choices("account", "1", "2");
        var plan = await world.PlanAsync(choices);
        Offered(plan)
            .ShouldBe([
                "contact 1 2 of account 1: same name RHODA MARRICK, same born 1971-04-09",
                "vessel 1 2 of account 1: same hull sm 1",
            ]);

        // 3 and 4 share a mailbox, but were duplicates within one account before; blank hull numbers do not agree.
        choices = choices with { Linked = [world.Choices("contact", "2", "1")] };
        plan = await world.PlanAsync(choices);
        Offered(plan)
            .ShouldBe(
                [
                    "contact 1 2 of account 1: same name RHODA MARRICK, same born 1971-04-09",
                    "vessel 1 2 of account 1: same hull sm 1",
                    "household 1 2 of contact 2: same street 12 curlew lane",
                ],
                ignoreOrder: true
            );
        plan.Offers.Single(offer => offer.Chosen).Type.Name.ShouldBe("contact");
        choices = choices with
        {
            Linked = [.. choices.Linked, world.Choices("household", "1", "2"), world.Choices("vessel", "1", "2")],
        };
        plan = await world.PlanAsync(choices);
        plan.Offers.ShouldAllBe(offer => offer.Chosen);
        plan.Linked.Select(linked => $"{linked.Type.Name} {linked.Master.Key}")
            .ShouldBe(["vessel 1", "household 1", "contact 2"]);
        plan.Linked[0].Figures.Single().After.ToText().ShouldBe("31.75");
        plan.Blockers.ShouldBeEmpty();
        (await world.PlanAsync(choices)).Fingerprint.Text.ShouldBe(plan.Fingerprint.Text);
        world.File.DumpAll().ShouldBe(everything, "planning changes nothing");

        var outcome = await world.Database.Merges.ApplyAsync(
            new MergeRequest(choices, plan.Fingerprint.Text, new AuditContext("c.weeks", "one"), "key"),
            default
        );
        outcome.Entries.Select(entry => entry.RecordType).ShouldBe(["vessel", "household", "contact", "account"]);
        outcome.Entry.Number.ShouldBe(4);
        outcome.Details!.Linked.ShouldBe([1, 2, 3]);
        outcome.Entries.SkipLast(1).ShouldAllBe(entry => DetailsJson.Read<MergeDetails>(entry.Details).LinkedTo == 4);
        world.Column("SELECT household_id FROM contact WHERE id <= 2").ShouldAllBe(id => id == "1");
        world
            .File.Query("SELECT account_id, contact_id FROM account_contact ORDER BY 1, 2")
            .Select(row => string.Join(' ', row))
            .ShouldBe(["1 2", "1 3", "1 4", "1 5", "3 3"]);
        world.Column("SELECT vessel_id FROM charge").ShouldAllBe(id => id == "1");
        (await world.Database.Records.FindRedirectAsync("contact", "1", default))!.Master.ShouldBe("2");
        (
            await world.Database.Merges.ApplyAsync(
                new MergeRequest(choices, plan.Fingerprint.Text, new AuditContext("c.weeks", "one"), "key"),
                default
            )
        ).Repeated.ShouldBeTrue();

        var back = await world.Database.Reversals.PlanAsync(new ReversalChoices(4), default);
        back.Reversals.Select(reversal => reversal.Snapshot.Merge.Number).ShouldBe([4, 3, 2, 1]);
        back.Reversals.SelectMany(reversal => reversal.Drift).ShouldBeEmpty();
        var reversed = await world.Database.Reversals.ApplyAsync(
            new ReversalRequest(
                new ReversalChoices(4),
                back.Fingerprint.Text,
                new AuditContext("c.weeks", "not one"),
                "back"
            ),
            default
        );
        (reversed.Entries.Count, reversed.Entry.Reverses).ShouldBe((4, 4));
        world.File.Dump().ShouldBe(before);
        (await world.Database.Records.FindRedirectAsync("contact", "1", default)).ShouldBeNull();
        (await world.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_merge_can_be_reversed_without_its_linked_merges()
    {
        using var world = await SmallWorld.OpenAsync(engine, Schema + Rows, Map());
        var before = world.File.Dump();
        var choices = world.Choices("account", "1", "2") with { Linked = [world.Choices("vessel", "1", "2")] };
        var entry = await world.Database.ApplyAsync(await world.PlanAsync(choices));
        (await world.Database.TakeBackAsync(new ReversalChoices(entry) { KeepLinked = true })).ShouldBeEmpty();
        world.Column("SELECT account_id FROM vessel WHERE id <= 2 ORDER BY id").ShouldBe(["1", "2"]);
        world.Column("SELECT vessel_id FROM charge").ShouldAllBe(id => id == "1");
        (await world.Database.TakeBackAsync(entry - 1)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_later_merge_that_depends_on_a_linked_one_is_reversed_first()
    {
        using var world = await SmallWorld.OpenAsync(engine, Schema + Rows, Map());
        var before = world.File.Dump();
        var choices = world.Choices("account", "1", "2") with { Linked = [world.Choices("vessel", "1", "2")] };
        var entry = await world.Database.ApplyAsync(await world.PlanAsync(choices));
        var later = await world.Database.ApplyAsync(await world.PlanAsync("vessel", "5", "1"));
        (
            await Should.ThrowAsync<KettlefogException>(() =>
                world.Database.Reversals.PlanAsync(new ReversalChoices(entry), default)
            )
        ).Message.ShouldBe(
            $"Later merges depend on merge {entry} and the merges linked to it: {later} must be reversed first."
        );
        var back = new ReversalChoices(entry, WithLater: true);
        var plan = await world.Database.Reversals.PlanAsync(back, default);
        plan.DependentMerges.ShouldBe([later]);
        await world.Database.Reversals.ApplyAsync(
            new ReversalRequest(back, plan.Fingerprint.Text, new AuditContext("c.weeks", ""), "back"),
            default
        );
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task Non_duplicates_and_retired_records_are_not_offered_and_what_is_not_offered_is_refused()
    {
        using var world = await SmallWorld.OpenAsync(engine, Schema + Rows, Map());
        var vessel = world.Database.Map.Map.Require("vessel");
        await world.Database.NonDuplicates.MarkAsync(
            vessel,
            world.Database.Records.ReadKey(vessel, "1"),
            world.Database.Records.ReadKey(vessel, "2"),
            new AuditContext("c.weeks", "two boats"),
            default
        );
        await world.Database.ApplyAsync(await world.PlanAsync("contact", "3", "2"));
        var plan = await world.PlanAsync("account", "1", "2");
        plan.Offers.ShouldBeEmpty();
        var choices = plan.Choices with { Linked = [world.Choices("vessel", "1", "2")] };
        var refusal = await Should.ThrowAsync<KettlefogException>(() => world.PlanAsync(choices));
        (refusal.Code, refusal.Message, refusal.Hint).ShouldBe(
            (
                ErrorCode.InvalidChoice,
                "vessel 1, 2 are not offered as a linked merge.",
                "This merge has no linked merges."
            )
        );
        (
            await Should.ThrowAsync<KettlefogException>(() =>
                world.PlanAsync(plan.Choices with { Linked = [world.Choices("account", "3", "2")] })
            )
        ).Message.ShouldBe("The account 2 is in two merges of the same request.");
        var nested = world.Choices("vessel", "1", "2") with { Linked = [world.Choices("vessel", "6", "7")] };
        (
            await Should.ThrowAsync<KettlefogException>(() => world.PlanAsync(plan.Choices with { Linked = [nested] }))
        ).Message.ShouldBe("A linked merge has linked merges of its own.");
    }

    [Fact]
    public async Task What_changed_in_a_linked_record_makes_the_whole_plan_stale_and_what_blocks_it_blocks_all()
    {
        using var world = await SmallWorld.OpenAsync(
            engine,
            Schema + Rows,
            Map()
                .Replace(
                    "hull: { kind: identifier }, status: { survivorship: master } }",
                    "hull: { kind: identifier }, status: { survivorship: master } }\n    blockers: { forbid: "
                        + "{ status: [seized] } }",
                    StringComparison.Ordinal
                )
        );
        var choices = world.Choices("account", "1", "2") with { Linked = [world.Choices("vessel", "1", "2")] };
        var plan = await world.PlanAsync(choices);
        world.File.Execute("UPDATE vessel SET status = 'seized' WHERE id = 2");
        var before = world.File.DumpAll();
        var stale = await Should.ThrowAsync<KettlefogException>(() => world.Database.ApplyAsync(plan));
        stale.Code.ShouldBe(ErrorCode.PlanStale);
        stale.Details.ShouldContain("Vessel 2 (sm 1) was changed.");
        plan = await world.PlanAsync(choices);
        plan.Blockers.Single()
            .Message.ShouldBe("Vessel 1: Status of 2 is 'seized', and such a vessel may not be merged.");
        (await Should.ThrowAsync<KettlefogException>(() => world.Database.ApplyAsync(plan))).Code.ShouldBe(
            ErrorCode.PlanBlocked
        );
        world.File.DumpAll().ShouldBe(before);
    }

    [Fact]
    public async Task What_would_clear_a_linked_merge_is_not_offered_as_a_choice_of_the_one_it_goes_with()
    {
        using var world = await SmallWorld.OpenAsync(
            engine,
            Schema + Rows,
            Map()
                .Replace(
                    "charges: { table: charge, columns: vessel_id, amount: amount }",
                    "charges: { table: charge, columns: vessel_id, amount: amount }\n    blockers: { "
                        + "at_most_one: [{ reference: charges, end: { amount: 0 } }] }",
                    StringComparison.Ordinal
                )
        );
        var blocker = (
            await world.PlanAsync(
                world.Choices("account", "1", "2") with
                {
                    Linked = [world.Choices("vessel", "1", "2")],
                }
            )
        ).Blockers.Single();
        blocker.Message.ShouldBe("Vessel 1: Only one record may have charges, but 1 has 1, 2 has 2.");
        blocker.Clearings.ShouldBeEmpty();
        blocker.Remedy.ShouldStartWith("Merge them separately first");
    }

    [Fact]
    public async Task Children_that_collide_are_merged_out_of_each_others_way()
    {
        using var world = await SmallWorld.OpenAsync(
            engine,
            Schema
                + Rows
                + "CREATE UNIQUE INDEX one_hull ON vessel (account_id, lower(replace(replace(hull, ' ', ''), "
                + "'-', ''))) WHERE id < 6;",
            Map("delete: true")
        );
        var before = world.File.Dump();
        var choices = world.Choices("account", "1", "2");
        (await world.PlanAsync(choices)).Blockers.Count.ShouldBe(1);
        var plan = await world.PlanAsync(choices with { Linked = [world.Choices("vessel", "1", "2")] });
        plan.Blockers.ShouldBeEmpty();
        var entry = await world.Database.ApplyAsync(plan);
        world.Column("SELECT id FROM vessel WHERE account_id = 1 ORDER BY id").ShouldBe(["1", "3", "4", "6", "7"]);
        var back = await world.Database.Reversals.PlanAsync(new ReversalChoices(entry), default);
        await world.Database.Reversals.ApplyAsync(
            new ReversalRequest(
                new ReversalChoices(entry),
                back.Fingerprint.Text,
                new AuditContext("c.weeks", ""),
                "back"
            ),
            default
        );
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task Too_many_linked_records_are_not_compared_and_the_plan_warns()
    {
        using var world = await SmallWorld.OpenAsync(
            engine,
            $"{Schema}{Rows}INSERT INTO vessel WITH RECURSIVE n (i) AS (SELECT 100 UNION ALL SELECT i + 1 FROM "
                + "n WHERE i < 5100) SELECT i, 2, 'H' || i, 'ok' FROM n;",
            Map()
        );
        var plan = await world.PlanAsync("account", "1", "2");
        plan.Offers.Select(offer => offer.Type.Name).ShouldBe(["contact"]);
        plan.Warnings.ShouldContain("Vessels are too many (more than 5000) to find duplicates among them.");
        plan.Blockers.ShouldBeEmpty();
    }

    [Fact]
    public void Random_worlds_are_merged_with_all_that_is_linked_and_restored()
    {
        var (cases, merged) = (RandomCases.Of(engine == Engine.Sqlite ? 120 : 20), 0);
        Gen.Int[0, int.MaxValue - 1]
            .Sample(
                seed =>
                {
                    merged += RunAsync(seed).GetAwaiter().GetResult();
                },
                iter: cases,
                threads: 1
            );
        merged.ShouldBeGreaterThan(cases / 20, "many worlds have something linked");
    }

    private async Task<int> RunAsync(int seed)
    {
        var random = new Random(seed);
        string Some(params string?[] values) => values[random.Next(values.Length)] is { } value ? $"'{value}'" : "NULL";
        string Id(int most) => random.Next(5) == 0 ? "NULL" : $"{random.Next(1, most + 1)}";
        string Rows(int count, Func<int, string> row) =>
            string.Join(", ", Enumerable.Range(1, count).Select(id => $"({id}, {row(id)})"));
        var links = Enumerable
            .Range(0, 12)
            .Select(_ => (Account: random.Next(1, 5), Contact: random.Next(1, 9)))
            .Distinct()
            .Select(link => $"({link.Account}, {link.Contact}, 'crew')");
        using var world = await SmallWorld.OpenAsync(
            engine,
            $"""
            {Schema}
            INSERT INTO household VALUES {Rows(4, _ =>
                $"'Household', {Some("1 Pier", "1 pier", "2 Quay", null)}, 'ok'"
            )};
            INSERT INTO contact VALUES {Rows(8, _ =>
                $"{Id(4)}, {Some("Ann Lee", "ANN LEE", "Bo")}, {Some("1971-04-09", null)}, "
                    + $"{Some("a@b.example", "A@B.example", null, null)}, 'ok'"
            )};
            INSERT INTO account VALUES {Rows(4, _ => "'Account', 'ok'")};
            INSERT INTO account_contact VALUES {string.Join(", ", links)};
            INSERT INTO vessel VALUES {Rows(8, _ => $"{Id(4)}, {Some("H1", "h 1", "H2", null)}, 'ok'")};
            INSERT INTO charge VALUES {Rows(10, _ => $"{Id(8)}, {random.Next(1, 9999)} / 100.0")};
            """,
            Map(random.Next(2) == 0 ? "delete: true" : "mark: { status: merged }")
        );
        var before = world.File.Dump();
        var type = random.Next(3) switch
        {
            0 => "account",
            1 => "contact",
            _ => "household",
        };
        var choices = world.Choices(
            type,
            [.. Enumerable.Range(1, 4).OrderBy(_ => random.Next()).Take(random.Next(2, 4)).Select(id => $"{id}")]
        );
        var plan = await world.PlanAsync(choices);
        var refused = new HashSet<string>();
        while (
            plan.Offers.FirstOrDefault(offer =>
                !offer.Chosen && !refused.Contains($"{offer.Type.Name} {offer.Records[0].Key}")
            )
                is { } offer
        )
        {
            if (random.Next(4) == 0)
            {
                refused.Add($"{offer.Type.Name} {offer.Records[0].Key}");
                continue;
            }

            var keys = offer
                .Records.Select(record => record.Key.ToString())
                .OrderBy(_ => random.Next())
                .Take(random.Next(2, offer.Records.Count + 1));
            choices = choices with { Linked = [.. choices.Linked, world.Choices(offer.Type.Name, [.. keys])] };
            plan = await world.PlanAsync(choices);
        }

        plan.Blockers.ShouldBeEmpty();
        var entry = await world.Database.ApplyAsync(plan);
        foreach (var merge in choices.InOrder)
        {
            foreach (var duplicate in merge.Duplicates)
            {
                (
                    await world.Database.Records.FindRedirectAsync(merge.RecordType, duplicate.ToString(), default)
                )!.Master.ShouldBe(merge.Master.ToString());
                foreach (var reference in world.Database.Map.Map.Require(merge.RecordType).References)
                    world
                        .File.Count(
                            $"SELECT COUNT(*) FROM {reference.Table} WHERE {reference.Columns[0]} = ?1",
                            long.Parse(duplicate.ToString(), null)
                        )
                        .ShouldBe(0);
            }
        }

        var back = await world.Database.Reversals.PlanAsync(new ReversalChoices(entry), default);
        back.Reversals.SelectMany(reversal => reversal.Drift.Select(drift => drift.Text)).ShouldBeEmpty();
        await world.Database.Reversals.ApplyAsync(
            new ReversalRequest(
                new ReversalChoices(entry),
                back.Fingerprint.Text,
                new AuditContext("c.weeks", ""),
                "back"
            ),
            default
        );
        world.File.Dump().ShouldBe(before);
        return choices.Linked.Count;
    }

    private static List<string> Offered(MergePlan plan) =>
        [
            .. plan.Offers.Select(offer =>
                (
                    $"{offer.Type.Name} {string.Join(' ', offer.Records.Select(record => record.Key))} of "
                    + $"{offer.Of.RecordType} {offer.Of.Master}: {offer.Reason}"
                )
            ),
        ];

    public sealed class OnSqlite() : LinkedMergeTests(Engine.Sqlite);

    public sealed class OnPostgres() : LinkedMergeTests(Engine.Postgres);
}
