using Kettlefog.Core;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Database.History;
using Kettlefog.Database.Merging;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>A database without Kettlefog's tables is planned and rehearsed on, and is unchanged afterwards.</summary>
public abstract class TryTests(Engine engine)
{
    [Fact]
    public async Task A_merge_is_planned_and_rehearsed_without_tables_of_our_own()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        RemoveOurs(ledger.File);
        var before = ledger.File.DumpAll();
        using var database = await OperationalDatabase.OpenForPreviewAsync(
            ledger.File.Address,
            MapReader.Read(Ledger.Yaml, "ledger.yaml"),
            TimeProvider.System,
            default
        );
        var choices = Ledger.Choices(1, 2, 3);
        var plan = await database.Merges.PlanAsync(choices, default);
        plan.Moves.Sum(move => move.Count).ShouldBe(8);
        var outcome = await database.Merges.ApplyAsync(
            new MergeRequest(choices, plan.Fingerprint.Text, new AuditContext("m.ashe", ""), null, DryRun: true),
            default
        );
        outcome.Details!.Moves.Sum(move => move.Count).ShouldBe(8);
        ledger.File.DumpAll().ShouldBe(before);
        HasOurs(ledger.File).ShouldBeFalse();

        // A real merge has nowhere to store it.
        (
            await ledger.RefusedAsync(() =>
                database.Merges.ApplyAsync(ledger.Request(choices, plan.Fingerprint.Text), default)
            )
        ).Code.ShouldBe(ErrorCode.NotInitialised);
    }

    [Fact]
    public async Task With_our_tables_what_was_merged_is_known()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        await ledger.MergeAsync(1, 2);
        using var database = await OperationalDatabase.OpenForPreviewAsync(
            ledger.File.Address,
            MapReader.Read(Ledger.Yaml, "ledger.yaml"),
            TimeProvider.System,
            default
        );
        (await ledger.RefusedAsync(() => database.Merges.PlanAsync(Ledger.Choices(3, 2), default))).Code.ShouldBe(
            ErrorCode.RecordRetired
        );
    }

    /// <summary>As somebody who removes Kettlefog by hand would do it.</summary>
    private static void RemoveOurs(TestDatabase file)
    {
        if (file.Engine == Engine.Postgres)
        {
            file.Execute("DROP SCHEMA kettlefog CASCADE");
            return;
        }

        foreach (
            var row in file.Query(
                "SELECT type, name FROM sqlite_schema WHERE name LIKE 'kettlefog%' AND type IN ('view', "
                    + "'table') ORDER BY type DESC"
            )
        )
            file.Execute($"DROP {row[0]} {row[1]}");
    }

    private static bool HasOurs(TestDatabase file) =>
        file.Count(
            file.Engine == Engine.Postgres
                ? "SELECT COUNT(*) FROM pg_namespace WHERE nspname = 'kettlefog'"
                : "SELECT COUNT(*) FROM sqlite_schema WHERE name LIKE 'kettlefog%'"
        ) > 0;

    public sealed class OnSqlite() : TryTests(Engine.Sqlite);

    public sealed class OnPostgres() : TryTests(Engine.Postgres);
}
