using Kettlefog.Database.Duplicates.Scans;
using Kettlefog.Database.History;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>A saved rule that names a field which the map lost is data, and stops nothing.</summary>
public abstract class BrokenRuleTests(Engine engine)
{
    [Fact]
    public async Task It_is_listed_as_broken_left_out_and_can_be_removed()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var type = ledger.Database.Map.Map.Require("vendor");
        await ledger.Database.Rules.SaveAsync(
            type,
            "by_phone",
            "any_of: [{ field: phone, is: same-phone }]",
            new AuditContext("m.ashe", "phones"),
            default
        );
        using var database = await ledger.OpenAgainAsync(
            Ledger.Yaml.Replace("      phone: { kind: phone }\n", "", StringComparison.Ordinal)
        );
        type = database.Map.Map.Require("vendor");
        var rules = await database.Rules.ReadAsync(type, default);
        rules.InForce.Single().Rule.Name.ShouldBe("ready");
        var broken = rules.Broken.Single();
        broken.Saved.Name.ShouldBe("by_phone");
        broken.Faults.Single().ShouldContain("phone");

        // Similarity, scans and plans do without it.
        await database.Similar.FindToRecordAsync(type, database.Records.ReadKey(type, "1"), 5, default);
        var scan = await database.Scans.AddAsync(type, ScanScope.Whole, "m.ashe", default);
        await database.Scans.MoveAsync(scan.Id, ScanState.Running, default);
        await database.Scans.RunAsync(scan, default);
        (await database.Scans.ReadAsync(scan.Id, default)).State.ShouldBe(ScanState.Finished);
        await database.Rules.SaveAsync(type, "by_phone", null, new AuditContext("m.ashe", "gone"), default);
        (await database.Rules.ReadAsync(type, default)).Broken.ShouldBeEmpty();
    }

    public sealed class OnSqlite() : BrokenRuleTests(Engine.Sqlite);

    public sealed class OnPostgres() : BrokenRuleTests(Engine.Postgres);
}
