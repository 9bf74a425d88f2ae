using System.Diagnostics;
using CsCheck;
using Kettlefog.Core.Map.Checking;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Tests;

/// <summary>No text ends the program without a sentence that says what is wrong with it.</summary>
public class MapFuzzTests
{
    private const string Yaml = """
        kettlefog: 1
        name: Ledger
        record_types:
          vendor:
            table: vendor
            label: "{name}"
            changed: changed_at
            fields:
              code: { kind: code, survivorship: master }
              name: { kind: organisation-name }
              phone:
                kind: phone
                overflow: [other]
                overflow_rows: { reference: notes, column: body, values: { subject_type: vendor } }
              other: { column: other_phone }
            references:
              bills: { table: bill, columns: vendor_id, amount: amount, collision: keep-equal, bookkeeping: [made] }
              notes: { table: note, columns: subject_id, when: { subject_type: vendor } }
            figures:
              billed: { reference: bills, sum: amount, control: true }
            retire: { mark: { status: merged } }
            timeline: { table: note, values: { subject_type: vendor, subject_id: "{key}", body: "{reason}" } }
            blockers:
              must_agree: [code]
              at_most_one: [{ name: open, reference: bills, when: { made: null }, end: { made: "{date}" } }]
            matching: { country: GB, rules: { ready: { when: { name: similar }, from: 0.9 } } }
        """;

    private static readonly string[] Pieces =
    [
        "\"\"",
        "''",
        "{}",
        "[]",
        "{",
        "]",
        ":",
        "- ",
        "null",
        "~",
        "&a",
        "*a",
        "!!binary x",
        "|",
        ">",
        "#",
        "? ",
        "\t",
        "\0",
        "\ud800",
        "99999999999999999999",
        "-1",
        "1e999",
        "true",
        "{key}",
        "{name",
        "\"\\u0000\"",
        "name",
        "vendor",
        "🐳",
        "\u202e",
        "<<: *a",
        "  ",
        "\n",
    ];

    private static readonly DatabaseCatalog Catalog = new([
        Table("vendor", "id", "code", "name", "phone", "other_phone", "status", "changed_at"),
        Table("bill", "id", "vendor_id", "amount", "made"),
        Table("note", "id", "subject_type", "subject_id", "body"),
    ]);

    [Fact]
    public void The_text_that_is_changed_is_a_map_that_fits()
    {
        var report = MapCheck.Report(MapReader.Read(Yaml.Replace("matching:", "#"), "map.yaml"), Catalog);
        report.Findings.Where(finding => finding.Severity == FindingSeverity.Error).ShouldBeEmpty();
    }

    [Fact]
    public void Whatever_is_written_over_a_map_gives_a_map_or_a_sentence() =>
        Gen.Select(
                Gen.Int[0, Yaml.Length - 1],
                Gen.Int[0, 12],
                Gen.Int[0, Pieces.Length - 1].Select(place => Pieces[place]),
                Gen.Int[1, 3]
            )
            .Array[1, 3]
            .Sample(
                changes =>
                {
                    var text = Yaml;
                    foreach (var (at, cut, piece, times) in changes)
                    {
                        var from = Math.Min(at, text.Length);
                        text =
                            text[..from]
                            + string.Concat(Enumerable.Repeat(piece, times))
                            + text[Math.Min(text.Length, from + cut)..];
                    }

                    try
                    {
                        MapCheck.Report(MapReader.Read(text, "map.yaml"), Catalog);
                    }
                    catch (KettlefogException refusal)
                    {
                        refusal.Details.ShouldNotBeEmpty(text);
                    }
                },
                iter: 6_000,
                threads: 2
            );

    [Theory]
    [InlineData('[')]
    [InlineData('{')]
    public void A_hundred_thousand_brackets_are_refused(char bracket) =>
        Should
            .Throw<KettlefogException>(() => MapReader.Read($"a: {new string(bracket, 100_000)}", "map.yaml"))
            .Details.Single()
            .ShouldContain("nested more than");

    [Fact]
    public void A_list_of_values_with_apostrophes_is_read_at_once()
    {
        var values = Enumerable.Range(1, 60).Select(number => $"O'Neill's {number}").ToList();
        var list = string.Join(", ", values.Select(value => $"'{value.Replace("'", "''", StringComparison.Ordinal)}'"));
        var clock = Stopwatch.StartNew();
        AllowedValues.Of($"name IN ({list})")!.Value.Values.ShouldBe(values);
        AllowedValues.Of($"name IN ({list}) OR length(name) > 3").ShouldBeNull();
        AllowedValues.Of($"(name)::text = ANY (ARRAY[{list}, x]::text[])").ShouldBeNull();
        clock.Elapsed.ShouldBeLessThan(TimeSpan.FromSeconds(5), "it took 45 s and more");
    }

    private static TableSchema Table(string name, params string[] columns) =>
        new(
            name,
            [
                .. columns.Select(column => new ColumnSchema(
                    column,
                    column.EndsWith("id", StringComparison.Ordinal) ? "INTEGER" : "TEXT",
                    column.EndsWith("id", StringComparison.Ordinal) ? StorageClass.Integer : StorageClass.Text,
                    false,
                    null,
                    false
                )),
            ],
            ["id"],
            [],
            [],
            false
        );
}
