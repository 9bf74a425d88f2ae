using Kettlefog.Client;
using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>The service when things go wrong around it.</summary>
public class FailureTests
{
    [Theory]
    [InlineData(Engine.Sqlite, "DELETE")]
    [InlineData(Engine.Sqlite, "WAL")]
    [InlineData(Engine.Postgres, null)]
    public async Task Killed_at_any_moment_every_merge_is_whole_or_absent(Engine engine, string? journalMode)
    {
        await using var service = await RunningService.StartAsync(journalMode: journalMode, engine: engine);
        string Own(string table) => service.Database.Own(table);
        var random = new Random(7);
        var rows = service.Database.Count("SELECT COUNT(*) FROM vendor_bill");
        var merges = 0;
        for (var round = 0; round < 10 || (merges < 10 && round < 30); round++)
        {
            // A slow machine gets longer, so that there are merges to cut off at all.
            var patience = merges < 2 * round ? 3 : 1;
            using var stop = new CancellationTokenSource();
            var work = WorkAsync(service.Client, random.Next(), stop.Token);
            await Task.Delay(patience * (engine == Engine.Sqlite ? random.Next(150, 700) : random.Next(400, 1_400)));
            await service.KillAsync();
            await stop.CancelAsync();
            merges += await work;

            // The service comes first: nobody else may have to clean up after it.
            await service.ServeAsync();
            (await service.Client.SearchAsync("vendor", size: 1)).Items.ShouldNotBeEmpty();
            if (engine == Engine.Sqlite)
            {
                service.Database.Query("PRAGMA integrity_check").Single()[0].ShouldBe("ok");
                service.Database.Query("PRAGMA foreign_key_check").ShouldBeEmpty();
            }

            service.Database.Count("SELECT COUNT(*) FROM vendor_bill").ShouldBe(rows);
            service.Database.Count("SELECT COUNT(*) FROM vendor WHERE status = 'merged'").ShouldBe(service.Database.Count($"SELECT COUNT(*) FROM {Own("forward")}"), "what is marked is retired, and what is retired is marked");
            service.Database.Count($"SELECT COUNT(*) FROM vendor_bill b JOIN {Own("forward")} f ON f.old_key = CAST(b.vendor_id AS TEXT)").ShouldBe(0, "no bill points at a duplicate");
            service.Database.Count($"SELECT COUNT(*) FROM {Own("journal_step")} WHERE number NOT IN (SELECT number FROM {Own("history")})").ShouldBe(0, "no journal without its entry");
            (await service.Client.CheckHistoryAsync()).Faults.ShouldBeEmpty("and the service goes on without help");
        }

        merges.ShouldBeGreaterThanOrEqualTo(10);
    }

    [Fact]
    public async Task A_database_held_by_another_program_is_busy_and_a_missing_one_unavailable()
    {
        await using var service = await RunningService.StartAsync(5);
        await service.KillAsync();
        await service.ServeAsync("--busy-timeout", "1");
        var request = new PlanRequest("vendor", "1001", ["1002"]);
        var plan = await service.Client.PlanAsync(request);
        using (var other = service.File.Open())
        {
            using var held = other.BeginTransaction(deferred: false);
            await MergeApiTests.RefusedAsync(() => service.Client.MergeAsync(new MergeBody(request, plan.Fingerprint), "k"), 503, "database-busy");
        }

        (await service.Client.MergeAsync(new MergeBody(request, plan.Fingerprint), "k")).Summary.Number.ShouldBe(1);
        File.Move(service.Database.Address, service.Database.Address + ".away");
        foreach (var rest in Directory.GetFiles(service.Folder, "*.db-*"))
            File.Delete(rest);
        await service.KillAsync();
        var ran = await Programs.RunAsync(Programs.Service, ["serve", "--database", service.Database.Address, "--map", service.MapFile, "--port", "0"]);
        ran.ExitCode.ShouldBe(1);
        ran.Error.ShouldContain("there is no such file");
    }

    [Fact]
    public async Task A_wrong_map_is_told_with_file_and_line_and_the_service_does_not_start()
    {
        await using var service = await RunningService.StartAsync(5);
        var map = await File.ReadAllTextAsync(service.MapFile);
        await File.WriteAllTextAsync(service.MapFile, map.Replace("columns: subject_id", "columns: subjct_id", StringComparison.Ordinal).Replace("survivorship: newest", "survivorship: newst", StringComparison.Ordinal));
        var ran = await Programs.RunAsync(Programs.Service, ["serve", "--database", service.Database.Address, "--map", service.MapFile, "--port", "0"]);
        ran.ExitCode.ShouldBe(1);
        ran.Output.ShouldBeEmpty();
        ran.Error.ShouldContain("saltmarrow.map.yaml:25: 'newst' is not a known value");
        ran.Error.ShouldContain("Write 'newest'.");
        await File.WriteAllTextAsync(service.MapFile, map.Replace("columns: subject_id", "columns: subjct_id", StringComparison.Ordinal));
        (await Programs.RunAsync(Programs.Service, ["check-map", "--database", service.Database.Address, "--map", service.MapFile])).Error.ShouldContain("The table 'note' has no column 'subjct_id'. Write 'subject_id'.");
    }

    [Fact]
    public async Task A_taken_port_is_told()
    {
        await using var service = await RunningService.StartAsync(5);
        var ran = await Programs.RunAsync(Programs.Service, ["serve", "--database", service.Database.Address, "--map", service.MapFile, "--port", $"{service.Address.Port}"]);
        ran.ExitCode.ShouldBe(1);
        ran.Error.ShouldContain("the port is taken");
    }

    private static async Task<int> WorkAsync(KettlefogClient client, int seed, CancellationToken stop)
    {
        var random = new Random(seed);
        var done = 0;
        while (!stop.IsCancellationRequested)
        {
            try
            {
                var request = new PlanRequest("vendor", $"{random.Next(1001, 1045)}", [$"{random.Next(1001, 1045)}"]);
                var plan = await client.PlanAsync(request, stop);
                var entry = await client.MergeAsync(new MergeBody(request, plan.Fingerprint), Guid.NewGuid().ToString(), cancel: stop);
                done++;
                if (random.Next(2) == 0)
                {
                    var back = await client.PlanReversalAsync(entry.Summary.Number, cancel: stop);
                    await client.ReverseAsync(entry.Summary.Number, new ReversalBody(back.Fingerprint), Guid.NewGuid().ToString(), cancel: stop);
                }
            }
            catch (Exception error) when (error is ProblemException or HttpRequestException or OperationCanceledException or IOException)
            {
                // Blocked or retired pairs, and the cut itself: what counts is what the database holds afterwards.
            }
        }

        return done;
    }
}
