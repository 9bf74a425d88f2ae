using Kettlefog.Core;
using Kettlefog.Database.Users;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Two and sixteen merges at once.</summary>
public abstract class ConcurrencyTests(Engine engine)
{
    private static readonly ErrorCode[] Expected =
    [
        ErrorCode.PlanStale,
        ErrorCode.RecordRetired,
        ErrorCode.DatabaseBusy,
        ErrorCode.NotReversible,
    ];

    [Fact]
    public async Task Sixteen_writers_and_a_foreign_program_lose_nothing_and_merge_nothing_twice()
    {
        using var ledger = await Ledger.OpenAsync(engine, engine == Engine.Sqlite ? "PRAGMA journal_mode = WAL" : "");
        var done = 0;
        var writers = Enumerable
            .Range(0, 16)
            .Select(writer =>
                Task.Run(async () =>
                {
                    var random = new Random(writer);
                    for (var attempt = 0; attempt < 12; attempt++)
                    {
                        try
                        {
                            var master = random.NextInt64(1, 9);
                            var duplicate = (master % 8) + 1;
                            var entry = await ledger.MergeAsync(master, duplicate);
                            Interlocked.Increment(ref done);
                            if (random.Next(2) == 0)
                                await ledger.ReverseAsync(entry.Number, withLater: true);
                        }
                        catch (KettlefogException refusal)
                        {
                            Expected.ShouldContain(refusal.Code, refusal.Message);
                        }
                    }
                })
            );
        var foreign = Task.Run(async () =>
        {
            for (var number = 0; number < 40; number++)
            {
                ledger.File.Execute(
                    "INSERT INTO bill VALUES (?1, ?2, ?3, 1)",
                    1000L + number,
                    (number % 8) + 1,
                    $"F{number}"
                );
                await Task.Delay(5);
            }
        });
        await Task.WhenAll(writers.Append(foreign));
        done.ShouldBeGreaterThan(0);
        ledger.File.Count("SELECT COUNT(*) FROM bill").ShouldBe(24 + 40, "no row is lost");
        ledger
            .File.Count(
                "SELECT COUNT(*) FROM bill b WHERE b.id < 1000 AND b.vendor_id IN (SELECT id FROM vendor "
                    + "WHERE status = 'merged')"
            )
            .ShouldBe(0, "no bill of before points at a duplicate");
        (await ledger.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
        ledger
            .File.Count("SELECT COUNT(*) FROM vendor WHERE status = 'merged'")
            .ShouldBe(
                ledger.File.Count($"SELECT COUNT(*) FROM {ledger.File.Own("redirect")}"),
                "whoever is marked has one redirect"
            );
    }

    [Fact]
    public async Task Many_writers_wait_for_one_another_however_long_all_of_them_take()
    {
        using var ledger = await Ledger.OpenAsync(engine, engine == Engine.Sqlite ? "PRAGMA journal_mode = WAL" : "");
        using var impatient = await ledger.OpenAgainAsync(busySeconds: 3);
        ledger.File.Execute(
            engine == Engine.Sqlite
                ? $"CREATE TRIGGER slow BEFORE INSERT ON {ledger.File.Own("user")} BEGIN SELECT COUNT(*) FROM "
                    + "(WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 1000000) SELECT i "
                    + "FROM n); END"
                : "CREATE FUNCTION wait() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN PERFORM pg_sleep(0.15); "
                    + $"RETURN NEW; END $$; CREATE TRIGGER slow BEFORE INSERT ON {ledger.File.Own("user")} FOR EACH "
                    + "ROW EXECUTE FUNCTION wait()"
        );
        var added = await Task.WhenAll(
            Enumerable
                .Range(0, 30)
                .Select(number =>
                    Task.Run(() => impatient.Users.AddAsync($"u{number}", "U", Role.Viewer, null, default))
                )
        );
        added.Length.ShouldBe(30);
    }

    [Fact]
    public async Task Plans_and_small_writes_beside_each_other_stop_neither()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        using var impatient = await ledger.OpenAgainAsync(busySeconds: 3);
        var done = false;
        var planners = Enumerable
            .Range(0, 3)
            .Select(planner =>
                Task.Run(async () =>
                {
                    while (!Volatile.Read(ref done))
                        await impatient.Merges.PlanAsync(Ledger.Choices(planner + 1, planner + 4), default);
                })
            )
            .ToList();
        var writer = Task.Run(async () =>
        {
            for (var number = 0; number < 60; number++)
                await impatient.Users.AddAsync($"u{number}", "U", Role.Viewer, null, default);
        });
        await Task.WhenAny(writer, Task.WhenAll(planners));
        Volatile.Write(ref done, true);
        await Task.WhenAll(planners.Append(writer));
    }

    [Fact]
    public async Task The_same_request_sent_to_two_instances_at_once_is_done_once()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        using var other = await ledger.OpenAgainAsync();
        var plan = await ledger.PlanAsync(Ledger.Choices(1, 2));
        var request = ledger.Request(plan.Choices, plan.Fingerprint.Text, "once");
        var outcomes = await Task.WhenAll(
            Enumerable
                .Range(0, 6)
                .Select(number =>
                    Task.Run(() => (number % 2 == 0 ? ledger.Database : other).Merges.ApplyAsync(request, default))
                )
        );
        outcomes.ShouldAllBe(outcome => outcome.Entry.Number == 1);
        outcomes.Count(outcome => !outcome.Repeated).ShouldBe(1);
    }

    public sealed class OnSqlite() : ConcurrencyTests(Engine.Sqlite);

    public sealed class OnPostgres() : ConcurrencyTests(Engine.Postgres);
}
