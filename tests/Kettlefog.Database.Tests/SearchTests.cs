using Kettlefog.Core;
using Kettlefog.Database.Records;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Searching, sorting and paging records.</summary>
public abstract class SearchTests(Engine engine)
{
    [Theory]
    [InlineData(null, null, "1 2 3 4 5 6 7 8")]
    [InlineData("hakon", null, "1")]
    [InlineData("name:h*n", null, "1")]
    [InlineData("vendor ?", null, "2 3 4 5 6 7 8")]
    [InlineData("\"Vendor ?\"", null, "2 3 4 5 6 7 8")]
    [InlineData("960005", null, "5")]
    [InlineData("vendor phone:*7", null, "7")]
    [InlineData("code:V3", null, "3")]
    [InlineData("id:4", null, "4")]
    [InlineData("100%", null, "")]
    [InlineData("hidden", null, "")]
    [InlineData(null, "-name", "8 7 6 5 4 3 2 1")]
    [InlineData(null, "phone", "1 3 5 7 2 4 6 8")]
    [InlineData(null, "-phone", "7 5 3 1 2 4 6 8")]
    public async Task Records_are_found_and_sorted(string? text, string? sort, string expected)
    {
        using var ledger = await Ledger.OpenAsync(engine, "UPDATE vendor SET name = 'Håkon' WHERE id = 1");
        (await FindAsync(ledger, text, sort)).ShouldBe(expected);
    }

    [Fact]
    public async Task Retired_records_are_found_when_asked_for_and_lead_on()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        await ledger.MergeAsync(1, 2);
        (await FindAsync(ledger, null, null)).ShouldBe("1 3 4 5 6 7 8");
        var page = await ledger.Database.Records.SearchAsync(
            ledger.Database.Map.Map.RecordTypes[0],
            new RecordSearch("id:2", null, 1, 9, true),
            default
        );
        page.Items.Single().Retired!.Master.ShouldBe("1");
    }

    [Fact]
    public async Task A_page_has_the_total_and_the_figures()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var page = await ledger.Database.Records.SearchAsync(
            ledger.Database.Map.Map.RecordTypes[0],
            new RecordSearch(null, null, 3, 3, false),
            default
        );
        page.Total.ShouldBe(8);
        page.Items.Select(found => found.Record.Key.ToString()).ShouldBe(["7", "8"]);
        page.Items[0].Figures["billed"].ToText().ShouldBe(engine == Engine.Sqlite ? "600.6" : "600.60");
        page.Items[0].Counts["notes"].ShouldBe(1);
    }

    [Fact]
    public async Task Sorting_by_what_is_not_there_is_refused()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        (await ledger.RefusedAsync(() => FindAsync(ledger, null, "hidden"))).Code.ShouldBe(ErrorCode.InvalidQuery);
    }

    private static async Task<string> FindAsync(Ledger ledger, string? text, string? sort)
    {
        var type = ledger.Database.Map.Map.RecordTypes[0];
        var page = await ledger.Database.Records.SearchAsync(type, new RecordSearch(text, sort, 1, 50, false), default);
        return string.Join(' ', page.Items.Select(found => found.Record.Key));
    }

    public sealed class OnSqlite() : SearchTests(Engine.Sqlite);

    public sealed class OnPostgres() : SearchTests(Engine.Postgres);
}
