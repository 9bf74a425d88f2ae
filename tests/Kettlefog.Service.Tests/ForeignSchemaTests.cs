using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>A database that is nothing like the demo's: composite keys that no address likes, no declared types, deletion.</summary>
public class ForeignSchemaTests
{
    private const string Schema = """
        CREATE TABLE "Kundin" ("Bezirk" TEXT NOT NULL, "Nr" INTEGER NOT NULL, "Name", "E-Mail" TEXT, PRIMARY KEY ("Bezirk", "Nr")) WITHOUT ROWID;
        CREATE TABLE "Beleg" ("Id" TEXT PRIMARY KEY, "Bezirk" TEXT, "Nr" INTEGER, "Betrag" TEXT, FOREIGN KEY ("Bezirk", "Nr") REFERENCES "Kundin" ("Bezirk", "Nr") ON DELETE CASCADE);
        INSERT INTO "Kundin" VALUES ('Süd/West|a?b%20', 1, 'Møller & Søn', NULL), ('Süd/West|a?b%20', 2, 'MØLLER OG SØN', 'post@moeller.example'), ('', -9007199254740993, 'Andere', NULL);
        INSERT INTO "Beleg" VALUES ('b1', 'Süd/West|a?b%20', 1, '0.10'), ('b2', 'Süd/West|a?b%20', 2, '0.20'), ('b3', '', -9007199254740993, '1');
        """;

    private const string Map = """
        kettlefog: 1
        name: Hafenkasse
        record_types:
          kundin:
            title: Kundin
            plural: Kundinnen
            table: Kundin
            label: "{name}"
            fields:
              name: { column: Name, kind: organisation-name }
              mail: { column: E-Mail, kind: email }
            references:
              belege: { table: Beleg, columns: [Bezirk, Nr], amount: Betrag }
            figures:
              summe: { reference: belege, sum: Betrag, control: true }
            retire: { delete: true }
        """;

    [Fact]
    public async Task Records_with_awkward_composite_keys_are_found_merged_and_taken_back()
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
        service.Database.Count("""SELECT COUNT(*) FROM "Beleg" WHERE "Nr" = 1""").ShouldBe(2, "the cascade took nothing");
        (await MergeApiTests.RefusedAsync(() => client.RecordAsync("kundin", duplicate), 409, "record-retired")).Title.ShouldContain("it became " + master);
        (await client.HistoryAsync(record: duplicate)).Items.Single().Number.ShouldBe(1);
        (await client.RecordHistoryAsync("kundin", duplicate)).Retired!.Master.ShouldBe(master);

        var back = await client.PlanReversalAsync(1);
        back.Reversals.Single().Restored.ShouldBe([duplicate]);
        await client.ReverseAsync(1, new ReversalBody(back.Fingerprint), "two");
        service.Database.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_column_that_holds_no_amount_is_told_and_nothing_is_done()
    {
        await using var service = await RunningService.StartOnAsync(Schema + """UPDATE "Beleg" SET "Betrag" = 'zehn' WHERE "Id" = 'b3'""", Map);
        var problem = await MergeApiTests.RefusedAsync(() => service.Client.RecordAsync("kundin", "|-9007199254740993"), 409, "database-refused");
        problem.Title.ShouldContain("'zehn' is not an amount");
        (await service.Client.RecordAsync("kundin", @"Süd/West\|a?b%20|1")).Figures["summe"].ShouldBe("0.10");
    }
}
