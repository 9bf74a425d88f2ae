using Kettlefog.Core;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Database.Duplicates.Clusters;
using Kettlefog.Database.Duplicates.Scans;
using Kettlefog.Database.History;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Scans that are stopped, interrupted and resumed end as if nothing had happened.</summary>
public class ScanTests
{
    [Fact]
    public async Task A_stopped_scan_that_continues_in_another_program_finds_the_same()
    {
        using var folder = new TempFolder();
        await Programs.RunAsync(Programs.Demo, ["people", folder.Path, "3000", "5"]);
        var straight = Path.Combine(folder.Path, "straight.db");
        File.Copy(Path.Combine(folder.Path, "people.db"), straight);
        var whole = await RunWholeAsync(straight, folder.Path);
        whole.Count.ShouldBeGreaterThan(200);

        var stopped = Path.Combine(folder.Path, "people.db");
        await OwnTablesMaintenance.InitialiseAsync(stopped, null, default);

        // Without a write-ahead log the scan's many small commits would block the test's reads.
        new SqliteFile(stopped).Query("PRAGMA journal_mode = WAL");
        long id;
        using (var database = await OpenAsync(stopped, folder.Path))
        {
            database.Scans.CheckpointInterval = 5;
            var scan = await database.Scans.AddAsync(
                database.Map.Map.Require("person"),
                ScanScope.Whole,
                "c.weeks",
                CancellationToken.None
            );
            id = scan.Id;
            (
                await Should.ThrowAsync<KettlefogException>(() =>
                    database.Scans.AddAsync(
                        database.Map.Map.Require("person"),
                        ScanScope.Changed,
                        "c.weeks",
                        CancellationToken.None
                    )
                )
            ).Code.ShouldBe(ErrorCode.ScanRunning);
            await database.Scans.MoveAsync(id, ScanState.Running, CancellationToken.None);
            var running = Task.Run(() => database.Scans.RunAsync(scan, CancellationToken.None));
            await UntilComparingAsync(database, id, running, beyond: 14);
            await database.Scans.MoveAsync(id, ScanState.Stopped, CancellationToken.None);
            await running;
            var now = await database.Scans.ReadAsync(id, CancellationToken.None);
            now.State.ShouldBe(ScanState.Stopped);
            now.Done.ShouldBeInRange(15, 2_999);
        }

        // Interrupted a second time, in the middle, without notice.
        using (var database = await OpenAsync(stopped, folder.Path))
        {
            database.Scans.CheckpointInterval = 5;
            using var crash = new CancellationTokenSource();
            await database.Scans.MoveAsync(id, ScanState.Waiting, CancellationToken.None);
            await database.Scans.MoveAsync(id, ScanState.Running, CancellationToken.None);
            var before = (await database.Scans.ReadAsync(id, CancellationToken.None)).Done;
            var running = Task.Run(async () =>
                await database.Scans.RunAsync(await database.Scans.ReadAsync(id, CancellationToken.None), crash.Token)
            );
            await UntilComparingAsync(database, id, running, before);
            await crash.CancelAsync();
            await Should.ThrowAsync<OperationCanceledException>(running);
        }

        using (var database = await OpenAsync(stopped, folder.Path))
        {
            await database.Scans.RunAsync(
                await database.Scans.ReadAsync(id, CancellationToken.None),
                CancellationToken.None
            );
            (await database.Scans.ReadAsync(id, CancellationToken.None)).State.ShouldBe(ScanState.Finished);
            (await MembersAsync(database)).ShouldBe(whole);
        }
    }

    [Fact]
    public async Task What_is_decided_while_a_scan_runs_stays_decided_after_it()
    {
        using var folder = new TempFolder();
        await Programs.RunAsync(Programs.Demo, ["people", folder.Path, "3000", "5"]);
        var file = Path.Combine(folder.Path, "people.db");
        await RunWholeAsync(file, folder.Path);
        new SqliteFile(file).Query("PRAGMA journal_mode = WAL");
        using var database = await OpenAsync(file, folder.Path);
        var type = database.Map.Map.Require("person");
        var open = new ClusterFilter("person", ClusterState.Open);
        var pairs = (await database.Clusters.ListAsync(open, 1, 200, default))
            .Items.Where(cluster => cluster.Members.Count == 2)
            .ToList();
        var (merged, marked) = (pairs[0], pairs[1]);
        var keys = merged.Members.Select(key => database.Records.ReadKey(type, key)).ToList();
        var plan = await database.Merges.PlanAsync(
            new MergeChoices("person", keys[0], [keys[1]], new Dictionary<string, FieldChoice>()),
            default
        );
        database.Scans.CheckpointInterval = 1;
        var scan = await database.Scans.AddAsync(type, ScanScope.Whole, "c.weeks", default);
        await database.Scans.MoveAsync(scan.Id, ScanState.Running, default);
        var running = Task.Run(() => database.Scans.RunAsync(scan, default));
        await UntilComparingAsync(database, scan.Id, running);
        await database.NonDuplicates.MarkAsync(marked.Id, null, new AuditContext("c.weeks", "twins"), default);
        await database.ApplyAsync(plan);
        (await database.Scans.ReadAsync(scan.Id, default)).Phase.ShouldBe("comparing");
        await running;
        (await database.Scans.ReadAsync(scan.Id, default)).State.ShouldBe(ScanState.Finished);
        (await database.Clusters.ReadAsync(merged.Id, default)).State.ShouldBe(ClusterState.Merged);
        (await database.Clusters.ReadAsync(marked.Id, default)).State.ShouldBe(ClusterState.NonDuplicates);
        var members = (await MembersAsync(database)).Select(member => member.Split(' ')[0]).ToList();
        members.ShouldNotContain(merged.Members[1]);
        foreach (var key in marked.Members)
            members.ShouldNotContain(key, "they are no duplicates of anything else");
    }

    [Fact]
    public async Task Finding_writes_nothing_and_needs_no_tables_of_ours()
    {
        using var folder = new TempFolder();
        await Programs.RunAsync(Programs.Demo, ["organisations", folder.Path, "800", "5"]);
        var file = Path.Combine(folder.Path, "organisations.db");
        var before = await File.ReadAllBytesAsync(file);
        var found = await UninitialisedDatabase.FindDuplicatesAsync(
            file,
            await MapAsync(folder.Path, "organisations"),
            "organisation",
            (_, _) => { },
            CancellationToken.None
        );
        found.Clusters.Count.ShouldBeGreaterThan(50);
        found.Pairs.ShouldAllBe(pair => pair.Score >= 0 && pair.Score <= 1);
        (await File.ReadAllBytesAsync(file)).ShouldBe(before);
    }

    private static async Task<List<string>> RunWholeAsync(string file, string folder)
    {
        await OwnTablesMaintenance.InitialiseAsync(file, null, default);
        using var database = await OpenAsync(file, folder);
        var scan = await database.Scans.AddAsync(
            database.Map.Map.Require("person"),
            ScanScope.Whole,
            "c.weeks",
            CancellationToken.None
        );
        await database.Scans.MoveAsync(scan.Id, ScanState.Running, CancellationToken.None);
        await database.Scans.RunAsync(scan, CancellationToken.None);
        return await MembersAsync(database);
    }

    private static async Task<List<string>> MembersAsync(OperationalDatabase database)
    {
        var members = new List<string>();
        await foreach (
            var (key, cluster) in database.Clusters.ReadMembersAsync(
                database.Map.Map.Require("person"),
                CancellationToken.None
            )
        )
            members.Add($"{key} {cluster}");
        return members;
    }

    private static async Task UntilComparingAsync(OperationalDatabase database, long id, Task running, long beyond = 0)
    {
        for (var tries = 0; tries < 2_000; tries++)
        {
            var scan = await database.Scans.ReadAsync(id, CancellationToken.None);
            if (scan.Phase == "comparing" && scan.Done > beyond)
                return;
            if (running.IsCompleted)
                await running;
            running.IsCompleted.ShouldBeFalse();
            await Task.Delay(2);
        }

        throw new TimeoutException("The scan does not begin to compare.");
    }

    private static async Task<OperationalDatabase> OpenAsync(string file, string folder) =>
        await OperationalDatabase.OpenAsync(
            file,
            await MapAsync(folder, "people"),
            TimeSpan.FromSeconds(5),
            TimeProvider.System,
            CancellationToken.None
        );

    private static async Task<MapDocument> MapAsync(string folder, string what) =>
        MapReader.Read(await File.ReadAllTextAsync(Path.Combine(folder, what + ".map.yaml")), "people.map.yaml");
}
