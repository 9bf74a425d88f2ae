using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Values;
using Kettlefog.Database.Duplicates.Clusters;
using Kettlefog.Database.Duplicates.Scans;
using Kettlefog.Database.History;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Decisions are kept, whatever is scanned, merged and reversed afterwards.</summary>
public class DecisionTests
{
    private static readonly string Yaml = TestMap.Of(
        "holder",
        """
        label: "{given} {family}"
        key: [harbour, no]
        fields:
          given: { kind: given-name }
          family: { kind: family-name }
          mail: { kind: email }
          phone: { kind: phone }
        references:
          moorings: { table: mooring, columns: [harbour, no], amount: fee }
        retire: { mark: { state: merged } }
        matching: { country: GB }
        """
    );

    private const string Schema = """
        CREATE TABLE holder (harbour TEXT NOT NULL, no INTEGER NOT NULL, given TEXT, family TEXT, mail TEXT, phone
          TEXT, state TEXT, PRIMARY KEY (harbour, no));
        CREATE TABLE mooring (id INTEGER PRIMARY KEY, harbour TEXT, no INTEGER, fee NUMERIC);
        """;

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
    ];

    private static readonly string[] Givens =
    [
        "Anna",
        "Corin",
        "Jory",
        "Maud",
        "Silas",
        "Tamsin",
        "Wilf",
        "Edith",
        "Perran",
        "Ruth",
    ];

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task The_number_of_a_cluster_that_disappeared_is_not_given_to_another(Engine engine)
    {
        using var world = await World.OpenAsync(engine);
        world.AddOthers();
        var a = world.Add("Jory", "Skelder", "j.skelder@ebb.example", "01632 960201");
        world.Add("Jory", "Skelder", "j.skelder@ebb.example", "01632 960201");
        await world.ScanAsync();
        var first = (await world.ClusterOfAsync(a))!.Id;
        world.File.Execute(
            "UPDATE holder SET given = 'Maud', family = 'Quill', mail = NULL, phone = NULL WHERE no = 11"
        );
        await world.ScanAsync();
        (await world.ClusterOfAsync(a)).ShouldBeNull();
        var b = world.Add("Tamsin", "Rasten", "t.rasten@ebb.example", "01632 960207");
        world.Add("Tamsin", "Rasten", "t.rasten@ebb.example", "01632 960207");
        await world.ScanAsync();
        (await world.ClusterOfAsync(b))!.Id.ShouldBeGreaterThan(first);
        (
            await Should.ThrowAsync<KettlefogException>(() => world.Database.Clusters.ReadAsync(first, default))
        ).Code.ShouldBe(ErrorCode.UnknownCluster);
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task Non_duplicates_remain_so_through_merges_reversals_and_scans(Engine engine)
    {
        using var world = await World.OpenAsync(engine);
        world.AddOthers();
        var (a, b, c) = (
            world.Add("Jory", "Skelder", "j.skelder@ebb.example", "01632 960201"),
            world.Add("Jory", "Skelder", "j.skelder@ebb.example", "01632 960201"),
            world.Add("Jori", "Skelder", "j.skelder@ebb.example", "01632 960201")
        );
        await world.ScanAsync();
        (await world.ClusterOfAsync(a))!.Members.ShouldBe([a, b, c], ignoreOrder: true);
        await world.Database.NonDuplicates.MarkAsync(
            world.Type,
            world.Key(a),
            world.Key(c),
            new AuditContext("c.weeks", "father and son"),
            default
        );
        await world.ScanAsync();
        await world.TogetherAsync(a, c, false);

        // A record merged into one side is a non-duplicate of the other side as well, also under the new key.
        var merge = await world.MergeAsync(b, a);
        await world.ScanAsync();
        await world.TogetherAsync(b, c, false);
        (await world.Database.NonDuplicates.ListAsync(world.Type, default)).ShouldContain(pair =>
            new[] { pair.A, pair.B }.Order().SequenceEqual(new[] { b, c }.Order())
        );
        (await world.Database.Similar.FindToRecordAsync(world.Type, world.Key(b), 10, default)).ShouldNotContain(
            similar => similar.Key == c
        );

        await world.ReverseAsync(merge);
        await world.ScanAsync(ScanScope.Changed);
        await world.TogetherAsync(a, c, false);
        (await world.Database.NonDuplicates.ListAsync(world.Type, default)).Single().Number.ShouldBe(1);

        await world.Database.NonDuplicates.ReopenAsync(
            world.Type,
            world.Key(c),
            world.Key(a),
            new AuditContext("c.weeks", "one man"),
            default
        );
        await world.ScanAsync();
        await world.TogetherAsync(a, c, true);
        (await world.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task A_scan_of_what_changed_finds_what_a_scan_of_everything_would(Engine engine)
    {
        using var world = await World.OpenAsync(engine);
        var random = new Random(4);
        for (var number = 0; number < 120; number++)
            world.AddSomebody(random);
        await world.ScanAsync();
        for (var round = 0; round < 6; round++)
        {
            for (var change = random.Next(1, 8); change > 0; change--)
            {
                switch (random.Next(3))
                {
                    case 0:
                        world.AddSomebody(random);
                        break;
                    case 1:
                        world.File.Execute(
                            "UPDATE holder SET phone = ?1 WHERE no = ?2",
                            $"01632 9602{random.Next(10, 60)}",
                            (long)random.Next(1, 120)
                        );
                        break;
                    default:
                        world.File.Execute("DELETE FROM holder WHERE no = ?1", (long)random.Next(1, 120));
                        break;
                }
            }

            await world.ScanAsync(ScanScope.Changed);
            var incremental = await world.GroupsAsync();

            // A new database has no earlier scans; only the learned weights may differ, not which records are
            // similar.
            using var fresh = await World.OpenAsync(engine, world.File);
            await fresh.ScanAsync();
            var whole = await fresh.GroupsAsync();
            incremental
                .Except(whole)
                .Concat(whole.Except(incremental))
                .Count()
                .ShouldBeLessThanOrEqualTo(
                    1,
                    $"round {round}: {string.Join(" / ", incremental.Except(whole))} against "
                        + $"{string.Join(" / ", whole.Except(incremental))}"
                );
        }
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task Of_sixteen_who_claim_one_cluster_one_has_it(Engine engine)
    {
        using var world = await World.OpenAsync(engine);
        var a = world.Add("Maud", "Marlow", "maud@ebb.example", "01632 960210");
        world.Add("Maude", "Marlow", "maud@ebb.example", "01632 960210");
        await world.ScanAsync();
        var id = (await world.ClusterOfAsync(a))!.Id;
        var claims = await Task.WhenAll(
            Enumerable
                .Range(0, 16)
                .Select(number =>
                    Task.Run(async () =>
                    {
                        try
                        {
                            return (
                                await world.Database.Clusters.AssignAsync(
                                    id,
                                    $"clerk {number}",
                                    $"clerk {number}",
                                    false,
                                    default
                                )
                            ).Assignee;
                        }
                        catch (KettlefogException refusal)
                        {
                            refusal.Code.ShouldBe(ErrorCode.ClusterTaken);
                            return null;
                        }
                    })
                )
        );
        var winner = claims.OfType<string>().ShouldHaveSingleItem();
        (await world.Database.Clusters.ReadAsync(id, default)).Assignee.ShouldBe(winner);
        await Should.ThrowAsync<KettlefogException>(() =>
            world.Database.NonDuplicates.MarkAsync(id, null, new AuditContext("somebody else", ""), default)
        );
        await world.Database.NonDuplicates.MarkAsync(id, null, new AuditContext(winner, ""), default);
    }

    [Fact]
    public async Task Of_two_services_on_one_database_one_carries_out_a_scan()
    {
        using var world = await World.OpenAsync(Engine.Postgres);
        world.AddOthers();
        using var other = await OperationalDatabase.OpenAsync(
            world.File.Address,
            MapReader.Read(Yaml, "berths.yaml"),
            TimeSpan.FromSeconds(30),
            TimeProvider.System,
            default
        );
        var scan = await world.Database.Scans.AddAsync(world.Type, ScanScope.Whole, "c.weeks", default);
        await world.Database.Scans.MoveAsync(scan.Id, ScanState.Running, default);
        var ran = await Task.WhenAll(
            Enumerable
                .Range(0, 6)
                .Select(number =>
                    Task.Run(() => (number % 2 == 0 ? world.Database : other).Scans.RunAsync(scan, default))
                )
        );
        ran.ShouldContain(true);
        (await other.Scans.ReadAsync(scan.Id, default)).State.ShouldBe(ScanState.Finished);
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task A_postponed_cluster_returns_on_its_date(Engine engine)
    {
        var clock = new TestClock(new DateTimeOffset(2026, 3, 1, 12, 0, 0, TimeSpan.Zero));
        using var world = await World.OpenAsync(engine, clock: clock);
        var a = world.Add("Wilf", "Pendle", "w.pendle@ebb.example", "01632 960220");
        world.Add("Wilfred", "Pendle", "w.pendle@ebb.example", "01632 960220");
        await world.ScanAsync();
        var id = (await world.ClusterOfAsync(a))!.Id;
        (
            await Should.ThrowAsync<KettlefogException>(() =>
                world.Database.Clusters.PostponeAsync(id, new DateOnly(2026, 3, 1), default)
            )
        ).Message.ShouldContain("not in the future");
        await world.Database.Clusters.PostponeAsync(id, new DateOnly(2026, 3, 10), default);
        (await world.OpenClustersAsync()).ShouldBeEmpty();
        await world.ScanAsync();
        (await world.OpenClustersAsync()).ShouldBeEmpty("a scan does not undo it");
        clock.Now = new DateTimeOffset(2026, 3, 9, 23, 59, 59, TimeSpan.Zero);
        (await world.OpenClustersAsync()).ShouldBeEmpty();
        clock.Now = new DateTimeOffset(2026, 3, 10, 0, 0, 0, TimeSpan.Zero);
        (await world.OpenClustersAsync()).Single().Id.ShouldBe(id);
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task A_cluster_keeps_its_number_while_its_records_come_and_go(Engine engine)
    {
        using var world = await World.OpenAsync(engine);
        world.AddOthers();
        var a = world.Add("Edith", "Hollis", "edith@ebb.example", "01632 960230");
        var b = world.Add("Edith", "Hollis", "edith@ebb.example", null);
        await world.ScanAsync();
        var id = (await world.ClusterOfAsync(a))!.Id;
        await world.Database.Clusters.AssignAsync(id, "c.weeks", "c.weeks", false, default);
        var c = world.Add("E.", "Hollis", "edith@ebb.example", "01632 960230");
        await world.ScanAsync(ScanScope.Changed);
        var grown = (await world.ClusterOfAsync(a))!;
        (grown.Id, grown.Assignee).ShouldBe((id, "c.weeks"));
        grown.Members.ShouldBe([a, b, c], ignoreOrder: true);
        world.File.Execute(
            "DELETE FROM holder WHERE no = ?1",
            long.Parse(a.Split('|')[^1], System.Globalization.CultureInfo.InvariantCulture)
        );
        await world.ScanAsync(ScanScope.Changed);
        (await world.ClusterOfAsync(b))!.Id.ShouldBe(id);
    }

    /// <summary>A clock that only moves when it is set.</summary>
    private sealed class TestClock(DateTimeOffset now) : TimeProvider
    {
        public DateTimeOffset Now { get; set; } = now;

        public override DateTimeOffset GetUtcNow() => Now;
    }

    /// <summary>Berth holders with composite keys.</summary>
    private sealed class World : IDisposable
    {
        private readonly TempFolder _folder = new();
        private long _last;

        public TestDatabase File { get; private set; } = null!;

        public OperationalDatabase Database { get; private set; } = null!;

        public RecordType Type => Database.Map.Map.RecordTypes[0];

        public static async Task<World> OpenAsync(Engine engine, TestDatabase? like = null, TimeProvider? clock = null)
        {
            var world = new World();
            world.File = Prepared.Create(engine, world._folder, "berths");
            world.File.Execute(Schema);
            foreach (var row in like?.Query("SELECT * FROM holder") ?? [])
                world.File.Execute("INSERT INTO holder VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)", row);
            world.Database = await OperationalDatabase.OpenAsync(
                world.File.Address,
                MapReader.Read(Yaml, "berths.yaml"),
                TimeSpan.FromSeconds(30),
                clock ?? TimeProvider.System,
                default
            );
            return world;
        }

        public string Add(string given, string family, string? mail, string? phone)
        {
            File.Execute(
                "INSERT INTO holder VALUES ('Salt|marrow', ?1, ?2, ?3, ?4, ?5, 'active')",
                ++_last,
                given,
                family,
                mail,
                phone
            );
            File.Execute("INSERT INTO mooring VALUES (?1, 'Salt|marrow', ?1, 12.5)", _last);
            return @$"Salt\|marrow|{_last}";
        }

        /// <summary>Berth holders without duplicates, which make rare values rare.</summary>
        public void AddOthers()
        {
            foreach (var (given, family) in Givens.Zip(Families))
                Add(given, family + "son", $"{given}@tidenet.example", $"01632 9603{_last + 10}");
        }

        public void AddSomebody(Random random)
        {
            var (given, family) = (Givens[random.Next(Givens.Length)], Families[random.Next(Families.Length)]);
            Add(
                random.Next(6) == 0 ? given[..1] + "." : given,
                family,
                random.Next(4) == 0 ? null : $"{given}.{family}{random.Next(3)}@ebb.example",
                random.Next(4) == 0 ? null : $"01632 9602{random.Next(10, 60)}"
            );
        }

        public RecordKey Key(string text) => Database.Records.ReadKey(Type, text);

        public async Task ScanAsync(ScanScope scope = ScanScope.Whole)
        {
            var scan = await Database.Scans.AddAsync(Type, scope, "c.weeks", default);
            await Database.Scans.MoveAsync(scan.Id, ScanState.Running, default);
            await Database.Scans.RunAsync(scan, default);
            (await Database.Scans.ReadAsync(scan.Id, default)).State.ShouldBe(ScanState.Finished);
        }

        public async Task<Cluster?> ClusterOfAsync(string key) =>
            (
                await Database.Clusters.ListAsync(
                    new ClusterFilter(
                        Type.Name,
                        ClusterState.Open,
                        null,
                        null,
                        null,
                        null,
                        key,
                        ClusterOrder.Confidence
                    ),
                    1,
                    10,
                    default
                )
            ).Items.SingleOrDefault();

        public async Task<IReadOnlyList<Cluster>> OpenClustersAsync() =>
            (
                await Database.Clusters.ListAsync(
                    new ClusterFilter(
                        Type.Name,
                        ClusterState.Open,
                        null,
                        null,
                        null,
                        null,
                        null,
                        ClusterOrder.Confidence
                    ),
                    1,
                    500,
                    default
                )
            ).Items;

        /// <summary>The members of the clusters, without their numbers.</summary>
        public async Task<List<string>> GroupsAsync() =>
            [
                .. (await OpenClustersAsync())
                    .Select(cluster => string.Join(' ', cluster.Members.Order(StringComparer.Ordinal)))
                    .Order(StringComparer.Ordinal),
            ];

        public async Task TogetherAsync(string a, string b, bool expected) =>
            ((await ClusterOfAsync(a))?.Members.Contains(b) ?? false).ShouldBe(expected);

        public async Task<long> MergeAsync(string master, string duplicate)
        {
            var choices = new MergeChoices(
                Type.Name,
                Key(master),
                [Key(duplicate)],
                new Dictionary<string, FieldChoice>()
            );
            var plan = await Database.Merges.PlanAsync(choices, default);
            return await Database.ApplyAsync(plan);
        }

        public async Task ReverseAsync(long number) => await Database.TakeBackAsync(number);

        public void Dispose()
        {
            Database.Dispose();
            File.Dispose();
            _folder.Dispose();
        }
    }
}
