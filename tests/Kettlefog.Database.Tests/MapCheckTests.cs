using Kettlefog.Core;

namespace Kettlefog.Database.Tests;

/// <summary>A map that does not fit its database is refused, with the line.</summary>
public class MapCheckTests
{
    [Theory]
    [InlineData("table: vendor\n", "table: vendr\n", 5, "The database has no table 'vendr'. Write 'vendor'.")]
    [InlineData(
        "phone: { kind: phone }",
        "phone: { kind: phone, column: fon }",
        11,
        "The table 'vendor' has no column 'fon'."
    )]
    [InlineData(
        "columns: vendor_id",
        "columns: vender_id",
        16,
        "The table 'bill' has no column 'vender_id'. Write 'vendor_id'."
    )]
    [InlineData(
        "columns: vendor_id",
        "columns: [vendor_id, number]",
        16,
        "The reference has 2 column(s), but the key of 'vendor' has 1."
    )]
    [InlineData("changed: changed_at", "changed: changed_on", 7, "has no column 'changed_on'. Write 'changed_at'.")]
    [InlineData("sum: amount", "sum: amont", 20, "has no column 'amont'. Write 'amount'.")]
    [InlineData("table: vendor\n", "table: vendor\n    key: nam\n", 6, "has no column 'nam'. Write 'name'.")]
    [InlineData("phone: { kind: phone }", "id: { kind: code }", 11, "'id' is part of the key")]
    [InlineData(
        "mark: { status: merged }",
        "mark: { terms: merged }",
        21,
        "'merged' is not what 'terms' (INTEGER) holds."
    )]
    [InlineData(
        "bills: { table: bill, columns: vendor_id, amount: amount }",
        "bills: { table: note, columns: subject_id }",
        15,
        "The database has a foreign key bill (vendor_id) to 'vendor', which the map does not name."
    )]
    public async Task A_misfit_is_reported_with_its_line(string right, string wrong, int line, string message)
    {
        Ledger.Yaml.ShouldContain(right);
        using var ledger = await Ledger.OpenAsync();
        var refusal = await ledger.RefusedAsync(() =>
            ledger.OpenAgainAsync(Ledger.Yaml.Replace(right, wrong, StringComparison.Ordinal))
        );
        refusal.Code.ShouldBe(ErrorCode.InvalidMap);
        refusal.Details.ShouldContain(detail => detail.StartsWith($"ledger.yaml:{line}: ") && detail.Contains(message));
    }

    [Theory]
    [InlineData(
        "bills: { type: vendor, through: bills, same: name }",
        "The rows of 'bills' are of the table 'bill', not of 'vendor'."
    )]
    [InlineData(
        "vendors: { type: vendor, columns: hiden }",
        "The table 'vendor' has no column 'hiden'. Write 'hidden'."
    )]
    [InlineData(
        "vendors: { type: vendor, through: bills, columns: [amount, number], same: name }",
        "The reference has 2 column(s), but the key of 'vendor' has 1."
    )]
    public async Task A_link_that_leads_nowhere_is_reported(string linked, string message)
    {
        using var ledger = await Ledger.OpenAsync();
        var refusal = await ledger.RefusedAsync(() =>
            ledger.OpenAgainAsync($"{Ledger.Yaml}\n    linked:\n      {linked}\n")
        );
        refusal.Details.ShouldContain(detail => detail.StartsWith("ledger.yaml:26: ") && detail.Contains(message));
    }

    [Fact]
    public async Task A_view_and_a_table_without_a_key_cannot_be_merged()
    {
        using var ledger = await Ledger.OpenAsync(
            "CREATE VIEW vendors AS SELECT * FROM vendor; CREATE TABLE bare (name TEXT); CREATE VIRTUAL TABLE "
                + "words USING fts5(name)"
        );
        (
            await ledger.RefusedAsync(() =>
                ledger.OpenAgainAsync(
                    Ledger.Yaml.Replace("table: vendor\n", "table: vendors\n", StringComparison.Ordinal)
                )
            )
        ).Details.ShouldContain(detail => detail.Contains("is a view"));
        (
            await ledger.RefusedAsync(() =>
                ledger.OpenAgainAsync(
                    Ledger.Yaml.Replace("table: vendor\n", "table: words\n", StringComparison.Ordinal)
                )
            )
        ).Details.ShouldContain(detail => detail.Contains("a virtual table, whose rows cannot be merged"));
        (
            await ledger.RefusedAsync(() =>
                ledger.OpenAgainAsync(Ledger.Yaml.Replace("table: vendor\n", "table: bare\n", StringComparison.Ordinal))
            )
        ).Details.ShouldContain(detail => detail.Contains("has no primary key"));
    }

    [Fact]
    public async Task A_type_that_cannot_be_a_key_is_named()
    {
        using var ledger = await Ledger.OpenAsync("CREATE TABLE berth (place REAL PRIMARY KEY, name TEXT)");
        var yaml =
            $"{Ledger.Yaml}\n  berth:\n    table: berth\n    label: \"{{name}}\"\n    fields: {{ name: }}\n    "
            + $"retire: {{ delete: true }}\n";
        (await ledger.RefusedAsync(() => ledger.OpenAgainAsync(yaml)))
            .Details.ShouldHaveSingleItem()
            .ShouldContain("'place' is REAL, a type whose values are not exact and so cannot be keys.");
    }
}
