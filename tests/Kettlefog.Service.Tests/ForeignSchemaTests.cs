using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>
/// A database unlike the demo's: composite keys that are awkward in addresses, no declared types, deletion.
/// </summary>
public class ForeignSchemaTests
{
    private const string Schema = """
        CREATE TABLE "Kundin" ("Bezirk" TEXT NOT NULL, "Nr" INTEGER NOT NULL, "Name", "E-Mail" TEXT, PRIMARY KEY
          ("Bezirk", "Nr")) WITHOUT ROWID;
        CREATE TABLE "Beleg" ("Id" TEXT PRIMARY KEY, "Bezirk" TEXT, "Nr" INTEGER, "Betrag" TEXT, FOREIGN KEY
          ("Bezirk", "Nr") REFERENCES "Kundin" ("Bezirk", "Nr") ON DELETE CASCADE);
        INSERT INTO "Kundin" VALUES ('Süd/West|a?b%20', 1, 'Møller & Søn', NULL), ('Süd/West|a?b%20', 2,
          'MØLLER OG SØN', 'post@moeller.example'), ('', -9007199254740993, 'Andere', NULL);
        INSERT INTO "Beleg" VALUES ('b1', 'Süd/West|a?b%20', 1, '0.10'), ('b2', 'Süd/West|a?b%20', 2, '0.20'), ('b3',
          '', -9007199254740993, '1');
        """;

    private static readonly string Map = TestMap.Of(
        "kundin",
        """
        title: Kundin
        plural: Kundinnen
        table: Kundin
        fields:
          name: { column: Name, kind: organisation-name }
          mail: { column: E-Mail, kind: email }
        references:
          belege: { table: Beleg, columns: [Bezirk, Nr], amount: Betrag }
        figures:
          summe: { reference: belege, sum: Betrag, control: true }
        """
    );

    [Fact]
    public async Task Records_with_awkward_composite_keys_are_found_merged_and_reversed()
    {
        await using var service = await RunningService.StartOnAsync(Schema, Map);
        var client = service.Client;
        var before = service.Database.Dump();
        var found = await client.SearchAsync("kundin", "moller");
        found.Items.Select(record => record.Key).ShouldBe([@"Süd/West\|a?b%20|1", @"Süd/West\|a?b%20|2"]);
        var (master, duplicate) = (found.Items[0].Key, found.Items[1].Key);
        (await client.RecordAsync("kundin", master)).Figures["summe"].ShouldBe("0.10");
        (await client.RecordAsync("kundin", "|-9007199254740993")).Label.ShouldBe("Andere");
        (await client.RelatedAsync("kundin", duplicate, "belege")).Rows.Single()[0].ShouldBe("b2");

        var request = new PlanRequest("kundin", master, [duplicate]);
        var plan = await client.PlanAsync(request);
        plan.Figures.Single().After.ShouldBe("0.30");
        var entry = await client.MergeAsync(new MergeBody(request, plan.Fingerprint), "one");
        entry.Merge!.Fields.Single(field => field.Name == "mail").Value.ShouldBe("post@moeller.example");
        service
            .Database.Count("""SELECT COUNT(*) FROM "Beleg" WHERE "Nr" = 1""")
            .ShouldBe(2, "the cascade took nothing");
        (
            await MergeApiTests.RefusedAsync(() => client.RecordAsync("kundin", duplicate), 409, "record-retired")
        ).Title.ShouldContain("was merged into " + master);
        (await client.HistoryAsync(record: duplicate)).Items.Single().Number.ShouldBe(1);
        (await client.RecordHistoryAsync("kundin", duplicate)).Retired!.Master.ShouldBe(master);

        var back = await client.PlanReversalAsync(1);
        back.Reversals.Single().Restored.ShouldBe([duplicate]);
        await client.ReverseAsync(1, new ReversalBody(back.Fingerprint), "two");
        service.Database.Dump().ShouldBe(before);
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task Where_the_map_requires_a_reason_nothing_is_merged_or_reversed_without(Engine engine)
    {
        var strict = TestMap.Of(
            "kunde",
            """
            fields: { name: }
            require_reason: true
            """
        );
        await using var service = await RunningService.StartOnAsync(
            "CREATE TABLE kunde (id INTEGER PRIMARY KEY, name TEXT); INSERT INTO kunde VALUES (1, 'Berg'), "
                + "(2, 'Berg');",
            strict,
            engine
        );
        var client = service.Client;
        (await client.MapAsync()).RecordTypes.Single().RequireReason.ShouldBeTrue();
        var request = new PlanRequest("kunde", "1", ["2"]);
        var plan = await client.PlanAsync(request);
        foreach (var none in new[] { "", "  " })
            (
                await MergeApiTests.RefusedAsync(
                    () => client.MergeAsync(new MergeBody(request, plan.Fingerprint, none), $"one {none}"),
                    422,
                    "reason-missing"
                )
            ).Title.ShouldContain("require a reason");
        (
            await client.MergeAsync(new MergeBody(request, plan.Fingerprint, "", DryRun: true), null)
        ).Summary.Number.ShouldBe(1, "a rehearsal needs none");
        (
            await client.MergeAsync(new MergeBody(request, plan.Fingerprint, "same party"), "two")
        ).Summary.Reason.ShouldBe("same party");
        var back = await client.PlanReversalAsync(1);
        await MergeApiTests.RefusedAsync(
            () => client.ReverseAsync(1, new ReversalBody(back.Fingerprint), "three"),
            422,
            "reason-missing"
        );
        service.Database.Count("SELECT COUNT(*) FROM kunde").ShouldBe(1);
        await client.ReverseAsync(1, new ReversalBody(back.Fingerprint, "two parties"), "four");
        service.Database.Count("SELECT COUNT(*) FROM kunde").ShouldBe(2);
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task Related_rows_are_searched_as_records_are(Engine engine)
    {
        await using var service = await RunningService.StartAsync(60, engine: engine);
        var all = await service.Client.RelatedAsync("vendor", "1001", "bills", size: 200);
        all.Total.ShouldBeGreaterThan(3);
        var number = all.Rows[1][all.Columns.ToList().FindIndex(column => column.Name == "bill_number")]!;
        async Task<IEnumerable<string?>> FoundAsync(string text) =>
            (await service.Client.RelatedAsync("vendor", "1001", "bills", size: 200, text: text)).Rows.Select(row =>
                row[0]
            );
        (await FoundAsync(number.ToLowerInvariant())).ShouldContain(all.Rows[1][0]);
        (await FoundAsync($"bill_number:{number}")).ShouldBe([all.Rows[1][0]]);
        (await FoundAsync($"{number[..1]}*")).Count().ShouldBeGreaterThan(1);
        (await FoundAsync("nobody has this")).ShouldBeEmpty();
        (await FoundAsync("100%")).ShouldBeEmpty("a percent sign is but a percent sign");
        (await service.Client.RelatedAsync("vendor", "1001", "bills", size: 1, text: $"{number[..1]}*")).Total.ShouldBe(
            (await FoundAsync($"{number[..1]}*")).Count()
        );
    }

    [Fact]
    public async Task A_column_without_amounts_is_reported_where_the_figure_would_be()
    {
        await using var service = await RunningService.StartOnAsync(
            Schema + """UPDATE "Beleg" SET "Betrag" = 'zehn' WHERE "Id" = 'b3'""",
            Map
        );
        (await service.Client.RecordAsync("kundin", "|-9007199254740993"))
            .Figures["summe"]
            .ShouldBe("not computable: 'zehn' is not a number");
        (await service.Client.RecordAsync("kundin", @"Süd/West\|a?b%20|1")).Figures["summe"].ShouldBe("0.10");
    }
}
