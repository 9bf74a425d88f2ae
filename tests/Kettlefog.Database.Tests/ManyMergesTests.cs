using System.Globalization;
using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Reversing;
using Kettlefog.Database.History;
using Kettlefog.Database.Merging;
using Kettlefog.Database.Reversing;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>
/// Thousands of merges and reversals, one after the other, in one world of linked types: whatever the order in which
/// all are reversed in the end, the world is the one of the start.
/// </summary>
public abstract class ManyMergesTests(Engine engine)
{
    /// <summary>Another world in each long run; <c>KETTLEFOG_TEST_SEED</c> makes one again.</summary>
    private static readonly int Seed = int.TryParse(
        Environment.GetEnvironmentVariable("KETTLEFOG_TEST_SEED"),
        CultureInfo.InvariantCulture,
        out var seed
    )
        ? seed
        : (RandomCases.IsLongRun ? Environment.TickCount : 20_260_411);

    private const int Accounts = 60;
    private const int Contacts = 80;
    private const int Households = 30;

    private const string Schema = """
        CREATE TABLE account (id INTEGER PRIMARY KEY, name TEXT, city TEXT, parent_id INTEGER REFERENCES account (id),
          status TEXT);
        CREATE TABLE household (code VARCHAR(8) PRIMARY KEY, name TEXT, street TEXT);
        CREATE TABLE contact (id INTEGER PRIMARY KEY, household VARCHAR(8) REFERENCES household (code), name TEXT, email
          TEXT, born TEXT, changed_by INTEGER REFERENCES contact (id));
        CREATE TABLE account_contact (account_id INTEGER NOT NULL REFERENCES account (id), contact_id INTEGER NOT NULL
          REFERENCES contact (id), role TEXT, PRIMARY KEY (account_id, contact_id));
        CREATE TABLE bill (id INTEGER PRIMARY KEY, account_id INTEGER NOT NULL REFERENCES account (id), number TEXT,
          amount NUMERIC(9, 2), UNIQUE (account_id, number));
        CREATE TABLE bill_line (id INTEGER PRIMARY KEY, bill_id INTEGER REFERENCES bill (id), item TEXT);
        CREATE TABLE note (id INTEGER PRIMARY KEY, subject_type TEXT, subject_id TEXT, body TEXT);
        CREATE TABLE happening (id INTEGER PRIMARY KEY, about TEXT, said TEXT);
        """;

    private const string Types = """
          account:
            table: account
            label: "{name}"
            survivorship: longest
            fields: { name:, city:, status: { survivorship: master } }
            references:
              contacts: { table: account_contact, columns: account_id, collision: combine }
              bills: { table: bill, columns: account_id, collision: keep, amount: amount }
              children: { table: account, columns: parent_id, hierarchy: true }
              notes: { table: note, columns: subject_id, when: { subject_type: account } }
            figures:
              billed: { reference: bills, sum: amount }
            retire: { mark: { status: merged } }
            linked:
              contacts: { type: contact, through: contacts, columns: contact_id, same: [[name, born], [email]] }
          contact:
            table: contact
            label: "{name}"
            survivorship: most-common
            fields: { name:, email: { kind: email }, born: }
            references:
              accounts: { table: account_contact, columns: contact_id, collision: combine }
              changed: { table: contact, columns: changed_by, hierarchy: false }
              notes: { table: note, columns: subject_id, when: { subject_type: contact } }
            retire: { delete: true }
            linked:
              households: { type: household, columns: household, same: street }
          household:
            table: household
            label: "{name}"
            survivorship: master-unless-blank
            fields: { name:, street: { kind: street } }
            references:
              members: { table: contact, columns: household }
              notes: { table: note, columns: subject_id, when: { subject_type: household } }
            retire: { delete: true }
            timeline: { table: happening, values: { about: "{key}", said: "{number} {duplicates}" } }
        """;

    private readonly Random _random = new(Seed);
    private readonly Dictionary<string, HashSet<string>> _live = [];
    private readonly SortedDictionary<long, (string Type, IReadOnlyList<string> Duplicates)> _inEffect = [];
    private int _requests;

    [Fact]
    public async Task All_can_be_reversed_in_any_order_and_leave_the_world_of_the_start()
    {
        var steps = RandomCases.Of(engine == Engine.Sqlite ? 450 : 60);
        using var world = await SmallWorld.OpenAsync(engine, $"{SchemaOf()} {Rows()}", Types);
        var before = world.File.Dump();
        _live["account"] = [.. Enumerable.Range(1, Accounts).Select(id => $"{id}")];
        _live["contact"] = [.. Enumerable.Range(1, Contacts).Select(id => $"{id}")];
        _live["household"] = [.. Enumerable.Range(1, Households).Select(id => $"H{id}")];
        var (merged, reversed, linked, waiting) = (0, 0, 0, 0);
        for (var step = 0; step < steps; step++)
        {
            // The more merges are in effect, the more are reversed.
            if (_inEffect.Count > 0 && _random.Next(100) < 20 + _inEffect.Count)
            {
                if (await ReverseAsync(world, _random.Next(2) == 0))
                    reversed++;
                else
                    waiting++;
            }
            else if (await MergeAsync(world) is > 0 and var entries)
            {
                merged++;
                linked += entries - 1;
            }

            if (step % 100 == 0)
                NobodyRefersToWhatIsGone(world);
        }

        NobodyRefersToWhatIsGone(world);
        while (_inEffect.Count > 0)
            (await ReverseAsync(world, withLater: true)).ShouldBeTrue();
        world.File.Dump().ShouldBe(before, $"KETTLEFOG_TEST_SEED={Seed}");
        (await world.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
        merged.ShouldBeGreaterThan(steps / 4);
        reversed.ShouldBeGreaterThan(steps / 8);
        linked.ShouldBeGreaterThan(steps / 50, "some have linked merges");
        waiting.ShouldBeGreaterThan(steps / 100, "some cannot be reversed before later ones are");
    }

    /// <summary>Merges some records, with what is linked.</summary>
    /// <returns>How many entries that made; 0 if it is blocked.</returns>
    private async Task<int> MergeAsync(SmallWorld world)
    {
        var type = Pick("account", "contact", "contact", "household");
        if (_live[type].Count < 4)
            return 0;
        var choices = world.Choices(
            type,
            [.. _live[type].Order(StringComparer.Ordinal).OrderBy(_ => _random.Next()).Take(_random.Next(2, 4))]
        );
        var plan = await world.PlanAsync(choices);
        if (_random.Next(2) == 0)
        {
            var offered = plan.Offers.Where(offer => offer.Of == (type, choices.Master.ToString()));
            choices = choices with
            {
                Linked =
                [
                    .. offered.Select(offer =>
                        world.Choices(offer.Type.Name, [.. offer.Records.Select(record => record.Key.ToString())])
                    ),
                ],
            };
            plan = await world.PlanAsync(choices);
        }

        if (plan.Blockers.Count > 0)
            return 0;
        var outcome = await world.Database.Merges.ApplyAsync(
            new MergeRequest(choices, plan.Fingerprint.Text, new AuditContext("c.weeks", "same"), $"{_requests++}"),
            default
        );
        foreach (var (entry, merge) in outcome.Entries.Zip(choices.InOrder))
        {
            IReadOnlyList<string> duplicates = [.. merge.Duplicates.Select(key => key.ToString())];
            entry.Master.ShouldBe(merge.Master.ToString());
            _live[merge.RecordType].ExceptWith(duplicates);
            _inEffect[entry.Number] = (merge.RecordType, duplicates);
        }

        return outcome.Entries.Count;
    }

    /// <summary>Reverses some merge; false if later ones must be reversed first.</summary>
    private async Task<bool> ReverseAsync(SmallWorld world, bool withLater)
    {
        var choices = new ReversalChoices(_inEffect.Keys.ElementAt(_random.Next(_inEffect.Count)), withLater);
        try
        {
            var plan = await world.Database.Reversals.PlanAsync(choices, default);
            plan.Reversals.SelectMany(reversal => reversal.Drift)
                .Select(drift => drift.Text)
                .ShouldBeEmpty($"merge {choices.Number} of the world of KETTLEFOG_TEST_SEED={Seed}");
            var outcome = await world.Database.Reversals.ApplyAsync(
                new ReversalRequest(
                    choices,
                    plan.Fingerprint.Text,
                    new AuditContext("c.weeks", "two"),
                    $"{_requests++}"
                ),
                default
            );
            foreach (var entry in outcome.Entries)
            {
                DetailsJson.Read<ReversalDetails>(entry.Details).Drift.ShouldBeEmpty();
                var (type, duplicates) = _inEffect[entry.Reverses!.Value];
                _live[type].UnionWith(duplicates);
                _inEffect.Remove(entry.Reverses.Value);
            }

            return true;
        }
        catch (KettlefogException refused) when (refused.Code == ErrorCode.NotReversible && !withLater)
        {
            return false;
        }
    }

    private void NobodyRefersToWhatIsGone(SmallWorld world)
    {
        void AllIn(string type, string sql) => world.Column(sql).Except(_live[type]).ShouldBeEmpty(sql);
        AllIn("account", "SELECT account_id FROM bill");
        AllIn("account", "SELECT account_id FROM account_contact");
        AllIn("account", "SELECT parent_id FROM account WHERE parent_id IS NOT NULL AND status <> 'merged'");
        AllIn("account", "SELECT subject_id FROM note WHERE subject_type = 'account'");
        AllIn("contact", "SELECT contact_id FROM account_contact");
        AllIn("contact", "SELECT changed_by FROM contact WHERE changed_by IS NOT NULL");
        AllIn("contact", "SELECT subject_id FROM note WHERE subject_type = 'contact'");
        AllIn("household", "SELECT household FROM contact WHERE household IS NOT NULL");
        AllIn("household", "SELECT subject_id FROM note WHERE subject_type = 'household'");
        world.Column("SELECT id FROM account WHERE status <> 'merged'").ShouldBe(_live["account"], ignoreOrder: true);
        world.Column("SELECT id FROM contact").ShouldBe(_live["contact"], ignoreOrder: true);
        world.Column("SELECT code FROM household").ShouldBe(_live["household"], ignoreOrder: true);
    }

    private string SchemaOf() =>
        engine == Engine.Sqlite
            ? Schema
            : Schema.Replace(
                "happening (id INTEGER PRIMARY KEY",
                "happening (id INTEGER GENERATED BY DEFAULT AS IDENTITY PRIMARY KEY",
                StringComparison.Ordinal
            );

    private string Rows()
    {
        string All(string table, int count, Func<int, string> row) =>
            $"INSERT INTO {table} VALUES {string.Join(", ", Enumerable.Range(1, count).Select(id => $"({row(id)})"))};";
        string Some(params string[] values) => Pick([.. values.Select(value => $"'{value}'"), "NULL"]);
        string Pairs(int count, Func<(int, int)> pair) =>
            string.Join(
                ", ",
                Enumerable
                    .Range(0, count)
                    .Select(_ => pair())
                    .Distinct()
                    .Select(each => $"({each.Item1}, {each.Item2}, {Some("owner", "crew", "agent")})")
            );
        return string.Concat(
            All("account", Accounts, id =>
                $"{id}, 'Account {id % 7}', {Some("Saltmarrow", "Kelp Point", "Ternhaven")}, "
                + $"{(id > 3 && _random.Next(2) == 0 ? $"{_random.Next(1, id)}" : "NULL")}, 'ok'"
            ),
            All("household", Households, id => $"'H{id}', 'Household {id}', {Some("1 Pier", "2 Quay", "1 pier")}"),
            All("contact", Contacts, id =>
                $"{id}, {(_random.Next(4) == 0 ? "NULL" : $"'H{_random.Next(1, Households + 1)}'")}, "
                + $"{Some("Ann Lee", "ANN LEE", "Bo Crane", "Odd Pellin")}, {Some("a@b.example", "c@d.example")}, "
                + $"{Some("1971-04-09", "1980-01-01")}, {(id > 5 ? $"{_random.Next(1, id + 1)}" : "NULL")}"
            ),
            "INSERT INTO account_contact VALUES "
                + Pairs(220, () => (_random.Next(1, Accounts + 1), _random.Next(1, Contacts + 1)))
                + ";",
            All("bill", 200, id =>
                $"{id}, {1 + (id % Accounts)}, '{Pick("A", "B")}{id / Accounts}', {_random.Next(1, 9999)} / 100.0"
            ),
            All("bill_line", 300, id => $"{id}, {_random.Next(1, 201)}, 'item'"),
            All("note", 200, id =>
                Pick(
                    $"{id}, 'account', '{_random.Next(1, Accounts + 1)}', 'a'",
                    $"{id}, 'contact', '{_random.Next(1, Contacts + 1)}', 'b'",
                    $"{id}, 'household', 'H{_random.Next(1, Households + 1)}', 'c'"
                )
            )
        );
    }

    private T Pick<T>(params T[] values) => values[_random.Next(values.Length)];

    public sealed class OnSqlite() : ManyMergesTests(Engine.Sqlite);

    public sealed class OnPostgres() : ManyMergesTests(Engine.Postgres);
}
