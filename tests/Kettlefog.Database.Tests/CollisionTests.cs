using CsCheck;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Reversing;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>
/// Related rows that must not all refer to the master: one is kept, nothing is lost, and everything can be reversed.
/// </summary>
public abstract class CollisionTests(Engine engine)
{
    private static readonly string Yaml = TestMap.Of(
        "account",
        """
        created: created
        fields: { name: }
        retire: RETIRE
        references:
          contacts: { table: account_contact, columns: account_id, collision: COLLISION COMBINE }
          profile: { table: profile, columns: account_id, collision: COLLISION }
          bills: { table: bill, columns: account_id, collision: COLLISION, amount: amount BILLS }
        figures:
          billed: { reference: bills, sum: amount, control: CONTROL }
          links: { reference: contacts, count: true }
        """
    );

    private const string Schema = """
        CREATE TABLE account (id INTEGER PRIMARY KEY, name TEXT, created TEXT, status TEXT);
        CREATE TABLE account_contact (account_id INTEGER NOT NULL REFERENCES account (id) ON DELETE CASCADE,
          contact_id INTEGER NOT NULL, role TEXT, since TEXT, hidden TEXT, PRIMARY KEY (account_id, contact_id));
        CREATE TABLE profile (account_id INTEGER PRIMARY KEY REFERENCES account (id), motto TEXT, visits INTEGER);
        CREATE TABLE bill (id INTEGER PRIMARY KEY, account_id INTEGER NOT NULL REFERENCES account (id), number TEXT,
          series TEXT, amount NUMERIC(12, 2), UNIQUE (account_id, number), UNIQUE (account_id, series));
        CREATE TABLE bill_line (line_id INTEGER PRIMARY KEY, bill_id INTEGER NOT NULL REFERENCES bill (id) ON DELETE
          CASCADE, item TEXT, UNIQUE (bill_id, item));
        CREATE TABLE line_note (id INTEGER PRIMARY KEY, line_id INTEGER REFERENCES bill_line (line_id) ON DELETE
          CASCADE, body TEXT);
        """;

    private const string Prices = """
        CREATE TABLE supplier (id INTEGER PRIMARY KEY, name VARCHAR(40), city VARCHAR(40), phone VARCHAR(20));
        CREATE TABLE price (id INTEGER PRIMARY KEY, supplier_id INTEGER NOT NULL REFERENCES supplier (id), item
          VARCHAR(9), UNIQUE (supplier_id, item));
        CREATE TABLE price_step (id INTEGER PRIMARY KEY, price_id INTEGER, above INTEGER);
        CREATE TABLE attachment (id INTEGER PRIMARY KEY, subject_type VARCHAR(9), subject_id INTEGER);
        INSERT INTO supplier VALUES (1, 'Ardle Ropes', 'Saltmarrow', '01632 960001'), (2, 'Ardle Ropes Ltd',
          'Saltmarrow', '01632 960001'), (3, 'Bexhold Sails', 'Kelp Point', '01632 960003');
        INSERT INTO price VALUES (10, 1, 'rope'), (20, 2, 'rope'), (21, 2, 'twine'), (30, 3, 'rope');
        INSERT INTO price_step VALUES (1, 10, 5), (2, 20, 6), (3, 21, 7), (4, 30, 8), (5, NULL, 9);
        INSERT INTO attachment VALUES (1, 'price', 20), (2, 'supplier', 20), (3, 'price', 21), (4, 'price', 10);
        """;

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task What_refers_to_a_removed_row_without_a_foreign_key_follows_it(bool drafted)
    {
        var types = """
              supplier:
                table: supplier
                label: "{name}"
                fields: { name: {} }
                references:
                  prices:
                    table: price
                    columns: supplier_id
                    collision: keep
                    dependents:
                      steps: { table: price_step, columns: price_id }
                      attachments: { table: attachment, columns: subject_id, when: { subject_type: price } }
                retire: { delete: true }
            """;
        if (drafted)
        {
            using var folder = new TempFolder();
            using var file = TestDatabase.Create(engine, folder, "prices");
            file.Execute(Prices);
            var draft = await UninitialisedDatabase.DraftMapAsync(file.Address, ["supplier"], default);
            draft.Yaml.ShouldContain("price_step_price_id: { table: price_step, columns: price_id }");
            draft.Yaml.ShouldContain(
                "attachment_subject_id: { table: attachment, columns: subject_id, when: { subject_type: price } }"
            );
            types = draft.Yaml[(draft.Yaml.IndexOf("record_types:", StringComparison.Ordinal) + 14)..];
        }

        using var world = await SmallWorld.OpenAsync(engine, Prices, types);
        var before = world.File.Dump();
        var number = await world.MergeAsync("supplier", "1", "2");
        world.Column("SELECT supplier_id FROM price ORDER BY id").ShouldBe(["1", "1", "3"]);
        world.Column("SELECT price_id FROM price_step ORDER BY id").ShouldBe(["10", "10", "21", "30", ""]);
        world.Column("SELECT subject_id FROM attachment ORDER BY id").ShouldBe(["10", "20", "21", "10"]);
        (await world.Database.TakeBackAsync(number)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task Of_a_link_that_both_have_the_masters_stays()
    {
        using var world = await World.OpenAsync(
            engine,
            "keep",
            """
            INSERT INTO account VALUES (1, 'Ternhaven Yard', '2019', 'ok'), (2, 'Ternhaven Yard Ltd', '2020', 'ok'),
              (3, 'Ternhaven Yard', '2021', 'ok');
            INSERT INTO account_contact VALUES (1, 10, 'owner', '2019', 'h1'), (2, 10, 'crew', '2020', 'h2'), (2, 11,
              'clerk', NULL, 'h3'), (3, 11, 'agent', '2021', 'h4'), (3, 10, 'x', NULL, NULL);
            """
        );
        var before = world.File.Dump();
        var plan = await world.PlanAsync(1, 2, 3);
        plan.Blockers.ShouldBeEmpty();
        var contacts = plan.Moves.Single(move => move.Reference.Name == "contacts");
        contacts
            .Collisions.Select(collision =>
                (collision.Values, $"{collision.Kept.Key}", string.Join(" ", collision.Removed.Select(row => row.Key)))
            )
            .ShouldBe(
                [("contact_id = 10", "1|10", "2|10 3|10"), ("contact_id = 11", "2|11", "3|11")],
                ignoreOrder: true
            );
        plan.Figures.Single(figure => figure.Figure.Name == "links").After.ToText().ShouldBe("2");
        var entry = await world.MergeAsync(plan);
        world
            .File.Query("SELECT account_id, contact_id, role FROM account_contact ORDER BY 2")
            .Select(row => string.Join(' ', row))
            .ShouldBe(["1 10 owner", "1 11 clerk"]);

        // The history shows every value of the removed rows.
        var gone = DetailsJson
            .Read<MergeDetails>((await world.Database.History.ReadAsync(entry, default)).Entry.Details)
            .Moves[0]
            .Collisions!.SelectMany(collision => collision.Removed)
            .ToList();
        gone.Select(row => row.Values["hidden"]).ShouldBe(["h2", null, "h4"], ignoreOrder: true);
        await world.ReverseAsync(entry);
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task Rows_that_are_combined_take_what_the_other_has_more()
    {
        using var world = await World.OpenAsync(
            engine,
            "combine",
            """
            INSERT INTO account VALUES (1, 'A', '2019', 'ok'), (2, 'B', '2020', 'ok');
            INSERT INTO account_contact VALUES (1, 10, 'owner', NULL, NULL), (2, 10, 'crew', '2020', 'kept');
            INSERT INTO profile VALUES (1, NULL, 3), (2, 'Fair winds', 4);
            """
        );
        var before = world.File.Dump();
        var entry = await world.MergeAsync(await world.PlanAsync(1, 2));
        world
            .File.Query("SELECT role, since, hidden FROM account_contact")
            .Single()
            .ShouldBe(["owner, crew", "2020", "kept"]);
        world.File.Query("SELECT account_id, motto, visits FROM profile").Single().ShouldBe([1L, "Fair winds", 3L]);
        await world.ReverseAsync(entry);
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task Rows_that_refer_to_a_removed_row_move_with_it_and_no_cascade_deletes_them()
    {
        using var world = await World.OpenAsync(
            engine,
            "combine",
            """
            INSERT INTO account VALUES (1, 'A', '2019', 'ok'), (2, 'B', '2020', 'ok');
            INSERT INTO bill VALUES (100, 1, 'B1', 's1', 10.10), (200, 2, 'B1', 's2', 0.20), (201, 2, 'B2', 's1', 5);
            INSERT INTO bill_line VALUES (1, 100, 'rope'), (2, 200, 'tar'), (3, 201, 'oil');
            INSERT INTO line_note VALUES (7, 2, 'of the tar');
            """,
            bills: ", combine: { amount: total }",
            control: "true"
        );
        var before = world.File.Dump();
        var plan = await world.PlanAsync(1, 2);

        // 200 conflicts with 100 by its number, 201 by its series: two rows of one record conflict with one.
        plan.Blockers.Select(blocker => blocker.Message)
            .ShouldHaveSingleItem()
            .ShouldContain("200 and 201 of one record");
        world.File.Execute("UPDATE bill SET series = 's3' WHERE id = 201");
        before = world.File.Dump();
        plan = await world.PlanAsync(1, 2);
        plan.Blockers.ShouldBeEmpty();
        var entry = await world.MergeAsync(plan);
        world
            .File.Query("SELECT id, account_id, amount FROM bill ORDER BY id")
            .Select(row => FormattableString.Invariant($"{row[0]} {row[1]} {Convert.ToDecimal(row[2], null):0.00}"))
            .ShouldBe(["100 1 10.30", "201 1 5.00"]);
        world
            .File.Query("SELECT line_id, bill_id FROM bill_line ORDER BY 1")
            .Select(row => $"{row[0]}>{row[1]}")
            .ShouldBe(["1>100", "2>100", "3>201"]);
        world.File.Count("SELECT COUNT(*) FROM line_note").ShouldBe(1);
        await world.ReverseAsync(entry);
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_collision_that_would_cost_money_or_collide_further_down_blocks()
    {
        const string Data = """
            INSERT INTO account VALUES (1, 'A', '2019', 'ok'), (2, 'B', '2020', 'ok');
            INSERT INTO bill VALUES (100, 1, 'B1', 's1', 10), (200, 2, 'B1', 's2', 20);
            """;
        using (var world = await World.OpenAsync(engine, "keep", Data, control: "true"))
        {
            var blocker = (await world.PlanAsync(1, 2)).Blockers.ShouldHaveSingleItem();
            blocker.Message.ShouldContain("The control total Billed would become 10");
            blocker.Remedy.ShouldContain("'total'");
        }

        using (
            var world = await World.OpenAsync(
                engine,
                "keep",
                Data + "INSERT INTO bill_line VALUES (1, 100, 'rope'), (2, 200, 'rope');"
            )
        )
            (await world.PlanAsync(1, 2))
                .Blockers.ShouldHaveSingleItem()
                .Message.ShouldContain("item = rope must be unique in bill_line");
        using (var world = await World.OpenAsync(engine, "block", Data))
            (await world.PlanAsync(1, 2))
                .Blockers.ShouldHaveSingleItem()
                .Message.ShouldContain("Bills 100 and 200 cannot both belong to the master");
    }

    [Theory]
    [InlineData("combine", "NULL", "s1", true)]
    [InlineData("combine", "NULL", "s2", true)]
    [InlineData("combine, combine: { amount: master }", "NULL", "s1", false)]
    [InlineData("combine, combine: { amount: total }", "3", "s2", false)]
    [InlineData("keep", "NULL", "s1", false)]
    public async Task A_row_that_combining_puts_under_a_partial_unique_key_may_collide_with_others_there(
        string collision,
        string amount,
        string series,
        bool blocked
    )
    {
        using var world = await SmallWorld.OpenAsync(
            engine,
            $"""
            CREATE TABLE account (id INTEGER PRIMARY KEY, name TEXT);
            CREATE TABLE bill (id INTEGER PRIMARY KEY, account_id INTEGER NOT NULL, number TEXT, series TEXT,
              amount NUMERIC(12, 2), UNIQUE (account_id, number));
            CREATE UNIQUE INDEX paid ON bill (account_id, series) WHERE amount > 0;
            INSERT INTO account VALUES (1, 'Ardle Ropes'), (2, 'Ardle Ropes Ltd');
            INSERT INTO bill VALUES (100, 1, 'B1', 's1', {amount}), (200, 2, 'B1', 's1', 10), (201, 2, 'B2', '{series}',
              -5), (202, 2, 'B3', 's4', 5);
            UPDATE bill SET series = 's3' WHERE id = 200 AND '{amount}' = 'NULL';
            UPDATE bill SET amount = 5 WHERE id = 201;
            """,
            $$"""
              account:
                table: account
                label: "{name}"
                fields: { name: {} }
                references: { bills: { table: bill, columns: account_id, collision: {{collision}} } }
                retire: { delete: true }
            """
        );
        var before = world.File.Dump();
        var plan = await world.PlanAsync("account", "1", "2");
        if (blocked)
        {
            // 100 gets the amount of 200, and with it a place under the key, where 201 may have its series.
            var blocker = plan.Blockers.ShouldHaveSingleItem();
            blocker.Message.ShouldStartWith("Bills 100 and 200 cannot be combined: amount = '10");
            blocker.Message.ShouldEndWith(
                "would decide whether account_id, series must be unique (paid), and another row may have the same."
            );
            blocker.Remedy.ShouldContain("give amount another rule in the map");
            return;
        }

        plan.Blockers.ShouldBeEmpty();
        var number = await world.Database.ApplyAsync(plan);
        world.File.Count("SELECT COUNT(*) FROM bill WHERE account_id = 1").ShouldBe(3);
        (await world.Database.TakeBackAsync(number)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_reversal_restores_the_removed_row_whatever_happened_to_the_kept_one()
    {
        using var world = await World.OpenAsync(
            engine,
            "combine",
            """
            INSERT INTO account VALUES (1, 'A', '2019', 'ok'), (2, 'B', '2020', 'ok');
            INSERT INTO account_contact VALUES (1, 10, 'owner', NULL, 'a'), (2, 10, 'crew', '2020', 'b');
            """
        );
        var entry = await world.MergeAsync(await world.PlanAsync(1, 2));
        world.File.Execute("UPDATE account_contact SET role = 'changed since' WHERE account_id = 1");
        var back = await world.Database.Reversals.PlanAsync(new ReversalChoices(entry, false), default);
        back.Reversals.Single().Drift.ShouldHaveSingleItem().Text.ShouldContain("role of 1|10 has changed since");
        await world.ReverseAsync(entry);
        world
            .File.Query("SELECT account_id, role, since, hidden FROM account_contact ORDER BY 1")
            .Select(row => string.Join(' ', row))
            .ShouldBe(["1 changed since  a", "2 crew 2020 b"]);
    }

    /// <summary>
    /// Random links, profiles and bills: an independent model says what is kept, and a reversal restores every byte.
    /// </summary>
    [Fact]
    public void No_row_is_lost_no_key_is_broken_and_a_reversal_restores_every_byte() =>
        Gen.Select(Gen.Int[0, int.MaxValue - 1], Gen.Bool, Gen.Bool)
            .Sample(
                (seed, combine, delete) => RunAsync(new Random(seed), combine, delete).GetAwaiter().GetResult(),
                iter: RandomCases.Of(engine == Engine.Sqlite ? 120 : 20),
                threads: 2
            );

    private async Task RunAsync(Random random, bool combine, bool delete)
    {
        using var world = await World.OpenAsync(
            engine,
            combine ? "combine" : "keep",
            "",
            delete ? "{ delete: true }" : "{ mark: { status: merged } }",
            ", combine: { amount: total }".Where(_ => combine).Aggregate("", (text, letter) => text + letter)
        );
        for (var account = 1L; account <= 5; account++)
        {
            world.File.Execute(
                "INSERT INTO account VALUES (?1, ?2, ?3, 'ok')",
                account,
                $"A{account}",
                $"20{random.Next(10, 30)}"
            );
            for (var contact = 10L; contact < 14; contact++)
            {
                if (random.Next(2) == 0)
                    world.File.Execute(
                        "INSERT INTO account_contact VALUES (?1, ?2, ?3, ?4, ?5)",
                        account,
                        contact,
                        random.Next(3) == 0 ? null : $"r{random.Next(3)}",
                        random.Next(2) == 0 ? null : "2020",
                        $"h{account}{contact}"
                    );
            }

            if (random.Next(2) == 0)
                world.File.Execute(
                    "INSERT INTO profile VALUES (?1, ?2, ?3)",
                    account,
                    random.Next(2) == 0 ? null : $"m{account}",
                    (long)random.Next(9)
                );
            for (var bill = 0L; bill < random.Next(4); bill++)
            {
                var id = (account * 10) + bill;
                world.File.Execute(
                    "INSERT INTO bill VALUES (?1, ?2, ?3, ?4, ?5)",
                    id,
                    account,
                    $"B{bill + (random.Next(3) == 0 ? 0 : account * 10)}",
                    null,
                    random.Next(1, 400) / 4.0
                );
                for (var line = 0L; line < random.Next(3); line++)
                {
                    world.File.Execute(
                        "INSERT INTO bill_line VALUES (?1, ?2, ?3)",
                        (id * 10) + line,
                        id,
                        $"item {random.Next(12)} {line}"
                    );
                    world.File.Execute(
                        "INSERT INTO line_note VALUES (?1, ?2, 'n')",
                        (id * 10) + line,
                        (id * 10) + line
                    );
                }
            }
        }

        var before = world.File.Dump();
        var keys = Enumerable
            .Range(1, 5)
            .OrderBy(_ => random.Next())
            .Take(random.Next(2, 5))
            .Select(key => (long)key)
            .ToArray();
        var links = world
            .File.Query($"SELECT account_id, contact_id FROM account_contact")
            .Select(row => (Account: (long)row[0]!, Contact: (long)row[1]!))
            .ToList();
        var billed = Billed(world, keys);
        var (lines, notes) = (
            world.File.Count("SELECT COUNT(*) FROM bill_line"),
            world.File.Count("SELECT COUNT(*) FROM line_note")
        );
        var plan = await world.PlanAsync(keys);
        if (plan.Blockers.Count > 0)
        {
            // Only lines with one item on bills with one number can conflict here.
            plan.Blockers.ShouldAllBe(blocker =>
                blocker.Message.Contains("must be unique in bill_line", StringComparison.Ordinal)
            );
            return;
        }

        var entry = await world.MergeAsync(plan);
        var merged = links
            .Select(link => (Account: keys.Contains(link.Account) ? keys[0] : link.Account, link.Contact))
            .Distinct()
            .Order()
            .ToList();
        world
            .File.Query("SELECT account_id, contact_id FROM account_contact")
            .Select(row => (Account: (long)row[0]!, Contact: (long)row[1]!))
            .Order()
            .ShouldBe(merged);
        world.File.Count("SELECT COUNT(*) FROM bill_line").ShouldBe(lines);
        world.File.Count("SELECT COUNT(*) FROM line_note").ShouldBe(notes);
        if (combine)
            Billed(world, [keys[0]]).ShouldBe(billed);
        foreach (var duplicate in keys[1..])
        {
            foreach (var table in new[] { "account_contact", "profile", "bill" })
                world.File.Count($"SELECT COUNT(*) FROM {table} WHERE account_id = ?1", duplicate).ShouldBe(0, table);
        }

        (await world.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
        await world.ReverseAsync(entry);
        world.File.Dump().ShouldBe(before);
    }

    private static decimal Billed(World world, long[] accounts) =>
        accounts.Sum(account =>
            world
                .File.Query("SELECT amount FROM bill WHERE account_id = ?1", account)
                .Sum(row => Convert.ToDecimal(row[0], System.Globalization.CultureInfo.InvariantCulture))
        );

    public sealed class OnSqlite() : CollisionTests(Engine.Sqlite);

    public sealed class OnPostgres() : CollisionTests(Engine.Postgres);

    private sealed class World : IDisposable
    {
        private readonly TempFolder _folder = new();

        public TestDatabase File { get; private set; } = null!;

        public OperationalDatabase Database { get; private set; } = null!;

        public static async Task<World> OpenAsync(
            Engine engine,
            string collision,
            string data,
            string retire = "{ mark: { status: merged } }",
            string bills = "",
            string control = "false"
        )
        {
            var world = new World();
            world.File = Prepared.Create(engine, world._folder, "links");
            world.File.Execute(Schema + data);
            var yaml = Yaml.Replace("RETIRE", retire, StringComparison.Ordinal)
                .Replace("COLLISION", collision, StringComparison.Ordinal)
                .Replace("BILLS", bills, StringComparison.Ordinal)
                .Replace("CONTROL", control, StringComparison.Ordinal)
                .Replace(
                    "COMBINE",
                    collision == "combine" ? ", combine: { role: union }" : "",
                    StringComparison.Ordinal
                );
            world.Database = await OperationalDatabase.OpenAsync(
                world.File.Address,
                MapReader.Read(yaml, "links.yaml"),
                TimeSpan.FromSeconds(5),
                TimeProvider.System,
                default
            );
            return world;
        }

        public Task<MergePlan> PlanAsync(params long[] keys)
        {
            var read = keys.Select(key => Database.Records.ReadKey(Database.Map.Map.RecordTypes[0], $"{key}")).ToList();
            return Database.Merges.PlanAsync(
                new MergeChoices("account", read[0], read[1..], new Dictionary<string, FieldChoice>()),
                default
            );
        }

        public Task<long> MergeAsync(MergePlan plan) => Database.ApplyAsync(plan);

        public async Task ReverseAsync(long number) => await Database.TakeBackAsync(number);

        public void Dispose()
        {
            Database.Dispose();
            File.Dispose();
            _folder.Dispose();
        }
    }
}
