using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Values;
using Kettlefog.Database.Duplicates.Clusters;
using Kettlefog.Database.Duplicates.Finding;
using Kettlefog.Database.Duplicates.Scans;
using Kettlefog.Database.History;
using Kettlefog.Database.Users;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Decisions are kept, whatever is scanned, merged and reversed afterwards.</summary>
public class DecisionTests
{
    private static readonly AuditContext Who = new("c.weeks", "");

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
            var incremental = await world.PairsAsync();

            // A new database has no earlier scans: its weights are learned from what there is now. They tell only what
            // lies near the line apart.
            using var fresh = await World.OpenAsync(engine, world.File);
            await fresh.ScanAsync();
            var whole = await fresh.PairsAsync();
            whole.Values.Count(pair => pair.Proposed).ShouldBeGreaterThan(10);
            foreach (var key in whole.Keys.Union(incremental.Keys))
            {
                var (one, other) = (incremental.GetValueOrDefault(key), whole.GetValueOrDefault(key));
                if ((one?.Proposed ?? false) != (other?.Proposed ?? false))
                {
                    (one?.Score ?? 0).ShouldBeInRange(0.5, 0.85, $"round {round}: {key}");
                    (other?.Score ?? 0).ShouldBeInRange(0.5, 0.85, $"round {round}: {key}");
                }
            }
        }
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task Non_duplicates_merge_only_if_the_decision_is_reopened_and_a_reversal_restores_it(Engine engine)
    {
        using var world = await World.OpenAsync(engine);
        var (a, b, c) = (
            world.Add("Jory", "Skelder", "j.skelder@ebb.example", null),
            world.Add("Jory", "Skelder", "j.skelder@ebb.example", null),
            world.Add("Jory", "Skelder", "j.skelder@ebb.example", null)
        );
        await world.Database.NonDuplicates.MarkAsync(
            world.Type,
            world.Key(a),
            world.Key(c),
            new AuditContext("n.quill", "father and son"),
            default
        );
        var before = await world.Database.NonDuplicates.ListAsync(world.Type, default);

        // Of a record merged into another, what was decided about it is decided about its master.
        await world.MergeAsync(b, a);
        var choices = new MergeChoices(
            world.Type.Name,
            world.Key(b),
            [world.Key(c)],
            new Dictionary<string, FieldChoice>()
        );
        var plan = await world.Database.Merges.PlanAsync(choices, default);
        var blocker = plan.Blockers.ShouldHaveSingleItem();
        blocker.Message.ShouldStartWith($"{b} and {c} were marked as not duplicates by n.quill on ");
        blocker.Message.ShouldEndWith("(history entry 1), with the reason “father and son”.");
        blocker.Clearings.ShouldHaveSingleItem().Kind.ShouldBe(ClearingKind.Reopen);
        (await Should.ThrowAsync<KettlefogException>(() => world.Database.ApplyAsync(plan))).Code.ShouldBe(
            ErrorCode.PlanBlocked
        );

        var reopening = await world.Database.Merges.PlanAsync(choices with { Reopen = true }, default);
        reopening.Fingerprint.Text.ShouldNotBe(plan.Fingerprint.Text);
        reopening.Blockers.ShouldBeEmpty();
        reopening.Warnings.ShouldContain(warning => warning.StartsWith("The merge reopens a decision: "));
        var merge = await world.Database.ApplyAsync(reopening);
        (await world.Database.NonDuplicates.ListAsync(world.Type, default)).ShouldBeEmpty();

        await world.ReverseAsync(merge);
        (await world.Database.Merges.PlanAsync(choices, default)).Blockers.ShouldHaveSingleItem();
        await world.ReverseAsync(2);
        (await world.Database.NonDuplicates.ListAsync(world.Type, default)).ShouldBe(before);
        (await world.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task Records_marked_as_not_duplicates_after_the_plan_are_not_merged(Engine engine)
    {
        using var world = await World.OpenAsync(engine);
        var a = world.Add("Maud", "Marlow", "maud@ebb.example", null);
        var b = world.Add("Maud", "Marlow", "maud@ebb.example", null);
        var plan = await world.Database.Merges.PlanAsync(
            new MergeChoices(world.Type.Name, world.Key(a), [world.Key(b)], new Dictionary<string, FieldChoice>()),
            default
        );
        await world.Database.NonDuplicates.MarkAsync(
            world.Type,
            world.Key(a),
            world.Key(b),
            new AuditContext("n.quill", ""),
            default
        );
        (await Should.ThrowAsync<KettlefogException>(() => world.Database.ApplyAsync(plan))).Code.ShouldBeOneOf(
            ErrorCode.PlanStale,
            ErrorCode.PlanBlocked
        );
        world.File.Count("SELECT COUNT(*) FROM mooring WHERE no = 2 OR id = 2").ShouldBeGreaterThan(0);
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task A_cluster_that_is_assigned_to_somebody_is_merged_by_nobody_else(Engine engine)
    {
        using var world = await World.OpenAsync(engine);
        world.AddOthers();
        var a = world.Add("Maud", "Marlow", "maud@ebb.example", "01632 960210");
        var b = world.Add("Maude", "Marlow", "maud@ebb.example", "01632 960210");
        await world.ScanAsync();
        var id = (await world.ClusterOfAsync(a))!.Id;
        await world.Database.Clusters.AssignAsync(id, "n.quill", "n.quill", false, default);
        var refusal = await Should.ThrowAsync<KettlefogException>(() => world.MergeAsync(a, b));
        refusal.Code.ShouldBe(ErrorCode.ClusterTaken);
        refusal.Message.ShouldBe($"Cluster {id} is assigned to n.quill.");
        await world.Database.Clusters.AssignAsync(id, "c.weeks", "c.weeks", true, default);
        var merge = await world.MergeAsync(a, b);
        (await world.Database.Clusters.FindDecisionAsync(id, default)).ShouldBe(merge);
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task Comments_and_views_outlive_a_group_that_goes_and_comes_and_a_backup_and_its_restoring(
        Engine engine
    )
    {
        using var folder = new TempFolder();
        using var world = await World.OpenAsync(engine);
        world.AddOthers();
        var a = world.Add("Maud", "Marlow", "maud@ebb.example", "01632 960210");
        world.Add("Maude", "Marlow", "maud@ebb.example", "01632 960210");
        await world.ScanAsync();
        var first = (await world.ClusterOfAsync(a))!;
        var comment = (
            await world.Database.Clusters.CommentAsync(first.Id, "c.weeks", "one person, two berths", default)
        ).ShouldHaveSingleItem();
        await world.Database.Users.AddAsync("c.weeks", "Corin Weeks", Role.Operator, null, default);
        await world.Database.SavedViews.SaveAsync("c.weeks", "mine", "order=age", true, default);

        // A scan finds the group no more; a later one finds it again, under another number.
        world.File.Execute("UPDATE holder SET mail = NULL, phone = NULL, family = 'Quill' WHERE given = 'Maude'");
        await world.ScanAsync();
        (await world.ClusterOfAsync(a)).ShouldBeNull();
        world.File.Execute(
            "UPDATE holder SET mail = 'maud@ebb.example', phone = '01632 960210', family = 'Marlow' "
                + "WHERE given = 'Maude'"
        );
        await world.ScanAsync();
        var again = (await world.ClusterOfAsync(a))!;
        again.Id.ShouldNotBe(first.Id);
        again.Comments.ShouldBe(1);
        (await world.Database.Clusters.ListCommentsAsync(again.Id, default)).ShouldBe([comment]);

        var backup = folder.File("own.jsonl.gz");
        await OwnTablesMaintenance.BackUpAsync(world.File.Address, backup, default);
        await OwnTablesMaintenance.UninstallAsync(world.File.Address, folder.Path, default);
        await OwnTablesMaintenance.RestoreAsync(world.File.Address, backup, default);
        using var restored = await world.OpenAgainAsync();
        (await restored.Clusters.ListCommentsAsync(again.Id, default)).ShouldBe([comment]);
        (await restored.SavedViews.ListAsync("m.ashe", default)).ShouldHaveSingleItem().Query.ShouldBe("order=age");

        // Generated numbers continue after restored ones.
        (await restored.Clusters.CommentAsync(again.Id, "m.ashe", "yes", default)).Count.ShouldBe(2);
        await restored.Clusters.RemoveCommentAsync(comment.Id, "c.weeks", default);
        (await restored.Clusters.ListCommentsAsync(again.Id, default)).ShouldHaveSingleItem().Author.ShouldBe("m.ashe");

        // Whoever watches the queue is told of one that takes the place of another.
        var before = (await restored.ReadChangeMarkersAsync(default)).Queue;
        var last = (await restored.Clusters.ListCommentsAsync(again.Id, default)).Single();
        await restored.Clusters.RemoveCommentAsync(last.Id, null, default);
        await restored.Clusters.CommentAsync(again.Id, "m.ashe", "no", default);
        (await restored.ReadChangeMarkersAsync(default)).Queue.ShouldNotBe(before);
    }

    [Theory]
    [InlineData(Engine.Sqlite, ClusterOrder.Confidence)]
    [InlineData(Engine.Postgres, ClusterOrder.Amount)]
    [InlineData(Engine.Sqlite, ClusterOrder.Age)]
    public async Task The_neighbours_of_a_cluster_are_those_of_the_list(Engine engine, ClusterOrder order)
    {
        using var world = await World.OpenAsync(engine);
        var random = new Random(9);
        for (var number = 0; number < 150; number++)
            world.AddSomebody(random);
        await world.ScanAsync();
        var filter = new ClusterFilter(world.Type.Name, Order: order);
        var list = (await world.Database.Clusters.ListAsync(filter, 1, 500, default)).Items;
        list.Count.ShouldBeGreaterThan(8);
        for (var place = 0; place < list.Count; place++)
        {
            var found = await world.Database.Clusters.FindPlaceAsync(list[place].Id, filter, "c.weeks", [], default);
            found.Position.ShouldBe(place + 1);
            found.Total.ShouldBe(list.Count);
            (found.Previous?.Id).ShouldBe(place == 0 ? null : list[place - 1].Id);
            (found.Next?.Id).ShouldBe(place == list.Count - 1 ? null : list[place + 1].Id);
        }

        // A decided cluster keeps its place; those of others and those skipped are passed over.
        await world.Database.NonDuplicates.MarkAsync(list[2].Id, null, new AuditContext("c.weeks", ""), default);
        await world.Database.Clusters.AssignAsync(list[3].Id, "n.quill", "n.quill", false, default);
        var decided = await world.Database.Clusters.FindPlaceAsync(
            list[2].Id,
            filter,
            "c.weeks",
            [list[4].Id],
            default
        );
        decided.Position.ShouldBeNull();
        decided.Total.ShouldBe(list.Count - 1);
        decided.Previous?.Id.ShouldBe(list[1].Id);
        decided.Next?.Id.ShouldBe(list[5].Id);
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
                            )
                                .Cluster
                                .Assignee;
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
                world.Database.Clusters.PostponeAsync(
                    id,
                    new Postponement(new DateOnly(2026, 3, 1), "c.weeks", ""),
                    default
                )
            )
        ).Message.ShouldContain("not in the future");
        var waiting = new Postponement(new DateOnly(2026, 3, 10), "c.weeks", "asked the harbour office");
        (await world.Database.Clusters.PostponeAsync(id, waiting, default)).Postponed.ShouldBe(waiting);
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
    public async Task A_claim_lapses_without_a_sign_of_life_and_an_assignment_does_not(Engine engine)
    {
        var clock = new TestClock(new DateTimeOffset(2026, 3, 1, 12, 0, 0, TimeSpan.Zero));
        using var world = await World.OpenAsync(engine, clock: clock);
        var a = world.Add("Wilf", "Pendle", "w.pendle@ebb.example", "01632 960220");
        world.Add("Wilfred", "Pendle", "w.pendle@ebb.example", "01632 960220");
        await world.ScanAsync();
        var (clusters, id) = (world.Database.Clusters, (await world.ClusterOfAsync(a))!.Id);
        async Task<string?> AssigneeAsync() => (await clusters.ReadAsync(id, default)).Assignee;
        async Task RefusedAsync(Func<Task> decide) =>
            (await Should.ThrowAsync<KettlefogException>(decide)).Code.ShouldBe(ErrorCode.ClusterTaken);
        async Task<int> ListedAsync(AssigneeFilter of) =>
            (await clusters.ListAsync(new ClusterFilter(world.Type.Name, Assignee: of), 1, 10, default)).Items.Count;
        async Task<long> CountedAsync() =>
            (await clusters.CountAsync(new Dictionary<string, double>(), default))
                .Where(count => count.IsAssigned)
                .Sum(count => count.Clusters);

        var claimed = await clusters.ClaimAsync(id, "c.weeks", false, default);
        claimed.ClaimedUntil.ShouldBe(clock.Now + ClusterService.ClaimLasts);
        clock.Now += ClusterService.ClaimLasts - TimeSpan.FromSeconds(1);
        await RefusedAsync(() => clusters.ClaimAsync(id, "m.ashe", false, default));
        await RefusedAsync(() => clusters.AssignAsync(id, "m.ashe", "m.ashe", false, default));
        await RefusedAsync(() =>
            clusters.PostponeAsync(id, new Postponement(new DateOnly(2026, 4, 1), "m.ashe", ""), default)
        );
        await RefusedAsync(() =>
            world.Database.NonDuplicates.MarkAsync(id, null, new AuditContext("m.ashe", ""), default)
        );
        (await ListedAsync(AssigneeFilter.Somebody), await ListedAsync(AssigneeFilter.Nobody)).ShouldBe((1, 0));
        (await CountedAsync()).ShouldBe(1);

        // A sign of life renews it, and is no change of the queue.
        var marker = await world.Database.ReadChangeMarkersAsync(default);
        await clusters.ClaimAsync(id, "c.weeks", false, default);
        (await world.Database.ReadChangeMarkersAsync(default)).ShouldBe(marker);
        clock.Now += TimeSpan.FromMinutes(9);
        (await AssigneeAsync()).ShouldBe("c.weeks");
        clock.Now += TimeSpan.FromMinutes(1);
        (await AssigneeAsync()).ShouldBeNull();
        (await ListedAsync(AssigneeFilter.Somebody), await ListedAsync(AssigneeFilter.Nobody)).ShouldBe((0, 1));
        (await CountedAsync()).ShouldBe(0);
        await clusters.ClaimAsync(id, "m.ashe", false, default);

        // It is taken over, and released by whoever has it then.
        await clusters.ClaimAsync(id, "c.weeks", true, default);
        await clusters.ReleaseAsync(id, "m.ashe", default);
        (await AssigneeAsync()).ShouldBe("c.weeks");
        await clusters.ReleaseAllAsync("c.weeks", default);
        (await AssigneeAsync()).ShouldBeNull();

        // What was assigned stays: a claim by the assignee does not limit it, nor does leaving it end it.
        await clusters.AssignAsync(id, "c.weeks", "h.pike", false, default);
        (await clusters.ClaimAsync(id, "c.weeks", false, default)).ClaimedUntil.ShouldBeNull();
        await clusters.ReleaseAsync(id, "c.weeks", default);
        clock.Now += TimeSpan.FromDays(3);
        (await AssigneeAsync()).ShouldBe("c.weeks");
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task What_an_entry_decided_is_reopened_whole_and_once(Engine engine)
    {
        using var world = await World.OpenAsync(engine);
        world.AddOthers();
        var records = Enumerable
            .Range(0, 3)
            .Select(_ => world.Add("Edith", "Hollis", "edith@ebb.example", "01632 960230"))
            .ToList();
        await world.ScanAsync();
        var id = (await world.ClusterOfAsync(records[0]))!.Id;
        var decisions = world.Database.NonDuplicates;
        (
            await Should.ThrowAsync<KettlefogException>(() => decisions.ReopenClusterAsync(id, Who, default))
        ).Message.ShouldContain("is not marked");
        var excluded = await decisions.MarkAsync(id, [records[2]], Who, default);
        var marked = await decisions.MarkAsync(id, null, Who, default);
        (await decisions.ListAsync(world.Type, default)).Count.ShouldBe(3);

        // The cluster comes back as it was before the last decision, and the earlier one can be reopened by its entry.
        var reopened = await decisions.ReopenClusterAsync(id, Who with { Reason = "one holder after all" }, default);
        (reopened.Kind, reopened.Reason).ShouldBe((EntryKind.Reopened, "one holder after all"));
        (await world.ClusterOfAsync(records[0]))!.Members.ShouldBe(records[..2], ignoreOrder: true);
        (await decisions.ListAsync(world.Type, default)).ShouldAllBe(pair => pair.Number == excluded.Number);
        foreach (var (number, says) in new[] { (marked.Number, "is reopened already"), (reopened.Number, "did not") })
            (
                await Should.ThrowAsync<KettlefogException>(() => decisions.ReopenAsync(number, Who, default))
            ).Message.ShouldContain(says);
        await decisions.ReopenAsync(excluded.Number, Who, default);
        (await world.ClusterOfAsync(records[0]))!.Members.ShouldBe(records, ignoreOrder: true);
        (await decisions.ListAsync(world.Type, default)).ShouldBeEmpty();
        (await world.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
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
            world.Database = await world.OpenAgainAsync(clock);
            return world;
        }

        public Task<OperationalDatabase> OpenAgainAsync(TimeProvider? clock = null) =>
            OperationalDatabase.OpenAsync(
                File.Address,
                MapReader.Read(Yaml, "berths.yaml"),
                TimeSpan.FromSeconds(30),
                clock ?? TimeProvider.System,
                default
            );

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

        /// <summary>The stored pairs by their keys.</summary>
        public async Task<Dictionary<(string A, string B), StoredPair>> PairsAsync() =>
            await Database
                .Scans.ReadPairsAsync(Type, 0, default)
                .ToDictionaryAsync(pair =>
                    string.CompareOrdinal(pair.A, pair.B) < 0 ? (pair.A, pair.B) : (pair.B, pair.A)
                );

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
