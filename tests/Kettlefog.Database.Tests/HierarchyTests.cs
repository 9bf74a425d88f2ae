using CsCheck;
using Kettlefog.Core;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Values;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>
/// Records that refer to records of their own type: children follow, and no record becomes its own ancestor.
/// </summary>
public abstract class HierarchyTests(Engine engine)
{
    private static readonly string Yaml = TestMap.Of(
        "account",
        """
        fields: { name: FIELD }
        retire: RETIRE
        references:
          children: { table: account, columns: parent, hierarchy: true }
        figures:
          child_count: { reference: children, count: true, control: true }
        """
    );

    [Theory]
    [InlineData("1>2, 3>1", "1", "2", "2>- 3>1", "parent and child")]
    [InlineData("2>1, 3>2", "1", "2", "1>- 3>1", "a child into its parent")]
    [InlineData("1>2, 2>9, 3>2", "1", "2", "1>9 3>1", "a parent into its child, which takes its place")]
    [InlineData(
        "1>4, 4>2, 2>9",
        "1",
        "2",
        "1>9 4>1",
        "a grandparent into its grandchild: what was between comes below"
    )]
    [InlineData("1>2, 2>3, 3>9", "1", "2 3", "1>9", "a whole line")]
    [InlineData("1>8, 2>9", "1", "2", "1>8", "each its own parent: the master's stays")]
    [InlineData("1>2, 2>1", "1", "2", "1>-", "a loop that was there already is gone")]
    [InlineData("1>1, 5>2", "1", "2", "1>- 5>1", "its own parent already")]
    public async Task Everybody_finds_a_place(
        string links,
        string master,
        string duplicates,
        string expected,
        string what
    )
    {
        using var world = await World.OpenAsync(engine, delete: false, withField: false);
        foreach (var account in Enumerable.Range(1, 9))
            world.File.Execute("INSERT INTO account VALUES (?1, ?2, NULL, 'ok')", (long)account, $"A{account}");
        foreach (var link in links.Split(", ").Select(link => link.Split('>')))
            world.File.Execute(
                "UPDATE account SET parent = ?1 WHERE id = ?2",
                long.Parse(link[1], null),
                long.Parse(link[0], null)
            );
        var before = world.File.Dump();
        var entry = await world.MergeAsync([.. duplicates.Split(' ').Prepend(master).Select(long.Parse)]);
        foreach (
            var check in expected
                .Split(' ')
                .Select(check => check.Split('>'))
                .Where(check => check[0] is not "2" || !duplicates.Contains('2', StringComparison.Ordinal))
        )
            $"{world.File.Query("SELECT parent FROM account WHERE id = ?1", long
                .Parse(check[0], null))[0][0] ?? "-"}".ShouldBe(
                check[1],
                $"{what}: {check[0]}"
            );
        world.File.Count("SELECT COUNT(*) FROM account WHERE parent = 2 OR parent = id").ShouldBe(0, what);
        await world.ReverseAsync(entry);
        world.File.Dump().ShouldBe(before);
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task A_place_that_a_later_merge_moved_on_waits_for_its_reversal(bool delete)
    {
        using var world = await World.OpenAsync(engine, delete, withField: false);
        world.File.Execute(
            "INSERT INTO account VALUES (3, 'A3', NULL, 'ok'), (4, 'A4', NULL, 'ok'), (2, 'A2', 3, 'ok'), "
                + "(1, 'A1', 2, 'ok')"
        );
        var before = world.File.Dump();
        var first = await world.MergeAsync([1, 2]);
        ParentOf(1).ShouldBe("3");
        var second = await world.MergeAsync([4, 3]);
        ParentOf(1).ShouldBe("4", "it moved on");
        var refusal = await Should.ThrowAsync<KettlefogException>(() => world.ReverseAsync(first));
        refusal.Code.ShouldBe(ErrorCode.NotReversible);
        refusal.Details.ShouldContain(detail => detail.Contains($"{second}", StringComparison.Ordinal));
        await world.ReverseAsync(second);
        await world.ReverseAsync(first);
        world.File.Dump().ShouldBe(before);

        string ParentOf(long id) => $"{world.File.Query("SELECT parent FROM account WHERE id = ?1", id)[0][0]}";
    }

    [Fact]
    public async Task A_parent_that_an_operator_chose_below_the_master_blocks()
    {
        using var world = await World.OpenAsync(engine, delete: false, withField: true);
        world.File.Execute("INSERT INTO account VALUES (1, 'A', NULL, 'ok'), (3, 'C', 1, 'ok'), (2, 'B', 3, 'ok')");
        var plan = await world.PlanAsync(
            [1, 2],
            new Dictionary<string, FieldChoice> { ["parent"] = new FieldChoice.FromRecord(world.Key(2)) }
        );
        plan.Blockers.ShouldHaveSingleItem().Message.ShouldContain("would put the master below itself");

        // By rule alone the duplicate's parent, which is below the master, is not chosen.
        var byRule = await world.PlanAsync([1, 2], []);
        byRule.Blockers.ShouldBeEmpty();
        byRule.Fields.Single(field => field.Field.Name == "parent").Value.IsNull.ShouldBeTrue();
    }

    /// <summary>
    /// Random forests, some with loops: records that were not merged keep their parent, and no new loop appears.
    /// </summary>
    [Fact]
    public void No_record_becomes_its_own_ancestor_and_a_reversal_restores_every_byte() =>
        Gen.Select(Gen.Int[0, int.MaxValue - 1], Gen.Bool, Gen.Bool)
            .Sample(
                (seed, delete, withField) => RunAsync(new Random(seed), delete, withField).GetAwaiter().GetResult(),
                iter: RandomCases.Of(engine == Engine.Sqlite ? 150 : 20),
                threads: 2
            );

    private async Task RunAsync(Random random, bool delete, bool withField)
    {
        using var world = await World.OpenAsync(engine, delete, withField);
        const int Size = 9;
        for (var account = 1L; account <= Size; account++)
            world.File.Execute("INSERT INTO account VALUES (?1, ?2, NULL, 'ok')", account, $"A{account}");
        for (var account = 2L; account <= Size; account++)
        {
            if (random.Next(4) > 0)
                world.File.Execute(
                    "UPDATE account SET parent = ?1 WHERE id = ?2",
                    random.NextInt64(1, account),
                    account
                );
        }

        var before = world.File.Dump();
        var was = Parents(world);
        var keys = Enumerable
            .Range(1, Size)
            .OrderBy(_ => random.Next())
            .Take(random.Next(2, 6))
            .Select(key => (long)key)
            .ToArray();
        var entry = await world.MergeAsync(keys);
        var now = Parents(world);
        foreach (var (account, parent) in was.Where(pair => !keys.Contains(pair.Key)))
            now[account].ShouldBe(parent is { } old && keys.Contains(old) ? keys[0] : parent);
        foreach (var account in now.Keys)
        {
            var seen = new HashSet<long>();
            for (long? at = account; at is { } here; at = now.GetValueOrDefault(here))
                seen.Add(here).ShouldBeTrue($"{account} comes round to {here}");
        }

        now.Where(pair => pair.Value is { } parent && keys.Skip(1).Contains(parent))
            .ShouldBeEmpty("nobody hangs on a duplicate");
        await world.ReverseAsync(entry);
        world.File.Dump().ShouldBe(before);
    }

    private static Dictionary<long, long?> Parents(World world) =>
        world.File.Query("SELECT id, parent FROM account").ToDictionary(row => (long)row[0]!, row => (long?)row[1]);

    public sealed class OnSqlite() : HierarchyTests(Engine.Sqlite);

    public sealed class OnPostgres() : HierarchyTests(Engine.Postgres);

    private sealed class World : IDisposable
    {
        private readonly TempFolder _folder = new();

        public TestDatabase File { get; private set; } = null!;

        private OperationalDatabase Database { get; set; } = null!;

        public static async Task<World> OpenAsync(Engine engine, bool delete, bool withField)
        {
            var world = new World();
            world.File = Prepared.Create(engine, world._folder, "tree");
            world.File.Execute(
                "CREATE TABLE account (id INTEGER PRIMARY KEY, name TEXT, parent INTEGER REFERENCES account "
                    + "(id), status TEXT)"
            );
            var yaml = Yaml.Replace(
                    "RETIRE",
                    delete ? "{ delete: true }" : "{ mark: { status: merged } }",
                    StringComparison.Ordinal
                )
                .Replace("FIELD", withField ? ", parent: " : "", StringComparison.Ordinal);
            world.Database = await OperationalDatabase.OpenAsync(
                world.File.Address,
                MapReader.Read(yaml, "tree.yaml"),
                TimeSpan.FromSeconds(5),
                TimeProvider.System,
                default
            );
            return world;
        }

        public RecordKey Key(long key) => Database.Records.ReadKey(Database.Map.Map.RecordTypes[0], $"{key}");

        public Task<MergePlan> PlanAsync(long[] keys, Dictionary<string, FieldChoice> fields) =>
            Database.Merges.PlanAsync(
                new MergeChoices("account", Key(keys[0]), [.. keys[1..].Select(Key)], fields),
                default
            );

        public async Task<long> MergeAsync(long[] keys)
        {
            var plan = await PlanAsync(keys, []);
            plan.Blockers.ShouldBeEmpty();
            return await Database.ApplyAsync(plan);
        }

        public async Task ReverseAsync(long number) => (await Database.TakeBackAsync(number)).ShouldBeEmpty();

        public void Dispose()
        {
            Database.Dispose();
            File.Dispose();
            _folder.Dispose();
        }
    }
}
