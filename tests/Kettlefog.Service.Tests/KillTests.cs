using Kettlefog.Client;
using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>
/// The service is killed in the middle of merges and reversals, linked ones among them. One after the other: each keeps
/// the disk busy.
/// </summary>
[Collection("Killed services")]
public abstract class KillTests(Engine engine, string? journalMode, int longRunKills)
{
    [Fact]
    public async Task Killed_at_any_moment_every_merge_is_whole_or_absent()
    {
        await using var service = await RunningService.StartAsync(journalMode: journalMode, engine: engine);
        string Own(string table) => service.Database.Own(table);
        var random = new Random(7);
        var rows = service.Database.Count("SELECT COUNT(*) FROM vendor_bill");
        var pairs = service
            .Database.Query(
                "SELECT a.vendor_id, b.vendor_id FROM vendor a JOIN vendor b ON a.vendor_id < b.vendor_id AND "
                    + "a.vendor_id < 1045 AND b.vendor_id < 1045 AND a.legal_entity = b.legal_entity AND a.currency "
                    + "= b.currency"
            )
            .Select(pair => ($"{pair[0]}", $"{pair[1]}"))
            .ToList();
        var done = 0;
        var kills = RandomCases.IsLongRun ? longRunKills : 3;
        for (var kill = 0; kill < kills; kill++)
        {
            // Somewhere in the middle of a merge or reversal, once the service has warmed up.
            using var stop = new CancellationTokenSource();
            using var enough = new SemaphoreSlim(0);
            var before = done;
            var most = random.Next(3, 20);
            var work = WorkAsync(
                service.Client,
                pairs,
                random.Next(),
                () =>
                {
                    if (++done == before + most)
                        enough.Release();
                },
                stop.Token
            );
            (await enough.WaitAsync(TimeSpan.FromMinutes(3))).ShouldBeTrue("merges and reversals go on");
            await Task.Delay(random.Next(0, 40));
            await service.KillAsync();
            await stop.CancelAsync();
            await work;

            // The service is restarted first: no other program may have to clean up after it.
            await service.ServeAsync();
            (await service.Client.SearchAsync("vendor", size: 1)).Items.ShouldNotBeEmpty();
            if (engine == Engine.Sqlite)
            {
                service.Database.Query("PRAGMA integrity_check").Single()[0].ShouldBe("ok");
                service.Database.Query("PRAGMA foreign_key_check").ShouldBeEmpty();
            }

            service.Database.Count("SELECT COUNT(*) FROM vendor_bill").ShouldBe(rows);
            foreach (var type in new[] { "vendor", "account", "contact", "household", "vessel" })
                service
                    .Database.Count($"SELECT COUNT(*) FROM {type} WHERE status = 'merged'")
                    .ShouldBe(
                        service.Database.Count($"SELECT COUNT(*) FROM {Own("redirect")} WHERE record_type = '{type}'"),
                        "what is marked is retired, and what is retired is marked"
                    );
            service
                .Database.Count(
                    $"SELECT COUNT(*) FROM vendor_bill b JOIN {Own("redirect")} f ON f.record_type = 'vendor' "
                        + "AND f.old_key = CAST(b.vendor_id AS TEXT)"
                )
                .ShouldBe(0, "no bill points at a duplicate");
            service
                .Database.Count(
                    $"SELECT COUNT(*) FROM {Own("journal_step")} WHERE journal NOT IN (SELECT journal FROM "
                        + $"{Own("history")})"
                )
                .ShouldBe(0, "no journal without its entry");
            (await service.Client.CheckHistoryAsync()).Faults.ShouldBeEmpty("and the service goes on without help");
            await ReverseAllAsync(service.Client);
        }
    }

    /// <summary>So that there are records left to merge, however often the service is killed.</summary>
    private static async Task ReverseAllAsync(KettlefogClient client)
    {
        var inEffect = (await client.HistoryAsync(kind: "merge", size: 200)).Items.Where(entry => entry.IsInEffect);
        foreach (var entry in inEffect.Where(entry => entry.LinkedTo is null).ToList())
        {
            var back = await client.PlanReversalAsync(entry.Number);
            await client.ReverseAsync(entry.Number, new ReversalBody(back.Fingerprint), Guid.NewGuid().ToString());
        }
    }

    private static async Task WorkAsync(
        KettlefogClient client,
        List<(string, string)> pairs,
        int seed,
        Action done,
        CancellationToken stop
    )
    {
        var random = new Random(seed);
        while (!stop.IsCancellationRequested)
        {
            try
            {
                // Accounts 1 and 2 have linked merges: the vessel, its owners, their household.
                var linked = random.Next(8) == 0;
                var (master, duplicate) = pairs[random.Next(pairs.Count)];
                var request = linked
                    ? new PlanRequest("account", "1", ["2"], End: ["running"])
                    : new PlanRequest("vendor", master, [duplicate]);
                var plan = await client.PlanAsync(request, stop);
                while (
                    linked
                    && plan.Offers!.Where(offer => !offer.Chosen)
                        .Select(offer => new LinkedMerge(
                            offer.RecordType,
                            offer.Records[0].Key,
                            [.. offer.Records.Skip(1).Select(record => record.Key)]
                        ))
                        .ToList()
                        is { Count: > 0 } more
                )
                {
                    request = request with { Linked = [.. request.Linked ?? [], .. more] };
                    plan = await client.PlanAsync(request, stop);
                }

                var entry = await client.MergeAsync(
                    new MergeBody(request, plan.Fingerprint),
                    Guid.NewGuid().ToString(),
                    cancellationToken: stop
                );
                done();
                if (linked || random.Next(5) > 0)
                {
                    var back = await client.PlanReversalAsync(entry.Summary.Number, cancellationToken: stop);
                    await client.ReverseAsync(
                        entry.Summary.Number,
                        new ReversalBody(back.Fingerprint),
                        Guid.NewGuid().ToString(),
                        cancellationToken: stop
                    );
                    done();
                }
            }
            catch (Exception error)
                when (error is ProblemException or HttpRequestException or OperationCanceledException or IOException)
            {
                // Blocked or retired pairs, and the kill itself: what counts is the database afterwards.
            }
        }
    }

    public sealed class WithRollbackJournal() : KillTests(Engine.Sqlite, "DELETE", 150);

    public sealed class WithWriteAheadLog() : KillTests(Engine.Sqlite, "WAL", 150);

    public sealed class OnPostgres() : KillTests(Engine.Postgres, null, 300);
}
