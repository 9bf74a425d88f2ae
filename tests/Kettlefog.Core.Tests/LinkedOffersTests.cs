using CsCheck;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Testing;

namespace Kettlefog.Core.Tests;

/// <summary>Which linked merges are offered.</summary>
public class LinkedOffersTests
{
    private static readonly RecordType Type = MapReader
        .Read(
            TestMap.Of(
                "vessel",
                """
                blank: [unknown]
                fields:
                  name: { kind: text }
                  hull: { kind: identifier }
                  mail: { kind: email }
                  length: { kind: number }
                """
            ),
            "m.yaml"
        )
        .Map.RecordTypes[0];

    private static readonly string[] Hulls = ["H1", "h 1", "H2", "", "unknown"];

    private static readonly TableSchema Table = new(
        "vessel",
        [
            .. new[] { "id", "name", "hull", "mail", "length" }.Select(name => new ColumnSchema(
                name,
                "TEXT",
                StorageClass.Text,
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

    [Theory]
    [InlineData("hull", "SM-40 217k", "sm40217K", true)]
    [InlineData("hull", "SM40217", "SM40218", false)]
    [InlineData("hull", "unknown", "Unknown", false)]
    [InlineData("hull", "", " ", false)]
    [InlineData("hull", "--", "--", false)]
    [InlineData("name", "Søren  Ebb", "SOREN EBB", true)]
    [InlineData("name", "Ebb", "Ebb II", false)]
    [InlineData("mail", "A@Ebb.example", "a@ebb.example ", true)]
    [InlineData("length", "9.40", "9.4", true)]
    [InlineData("length", "9.4", "94", false)]
    public void Values_agree_in_the_normal_form_of_their_kind(string field, string a, string b, bool same) =>
        Groups([field], [], (a, 0), (b, 1)).Count.ShouldBe(same ? 1 : 0);

    [Fact]
    public void Earlier_duplicates_within_one_record_are_not_offered()
    {
        Groups(["hull"], [], ("H1", 0), ("H1", 0)).ShouldBeEmpty();
        Groups(["hull"], [], ("H1", 0), ("H1", 0), ("H1", 2)).Single().Records.Count.ShouldBe(3);
        LinkedOffers
            .Groups(
                new LinkedSnapshot(Link([]), Type, [Record(1, "hull", "x", 0), Record(2, "hull", "y", 1)], Apart([]))
            )
            .Single()
            .Because.ShouldBe("they belong to the merged records");
    }

    [Fact]
    public void Groups_contain_agreeing_records_once_each_and_no_non_duplicates() =>
        Gen.Select(
                Gen.Select(Gen.Int[0, 4].Select(place => Hulls[place]), Gen.Int[0, 2]).Array[0, 9],
                Gen.Select(Gen.Int[1, 9], Gen.Int[1, 9]).Array[0, 5]
            )
            .Sample(
                (rows, nonDuplicates) =>
                {
                    var pairs = nonDuplicates
                        .Where(pair => pair.Item1 != pair.Item2)
                        .Select(pair =>
                            pair.Item1 < pair.Item2
                                ? ($"{pair.Item1}", $"{pair.Item2}")
                                : ($"{pair.Item2}", $"{pair.Item1}")
                        )
                        .ToArray();
                    var groups = Groups(["hull"], pairs, rows);
                    groups.SelectMany(group => group.Records).Select(record => record.Key).ShouldBeUnique();
                    foreach (var group in groups)
                    {
                        group.Records.Count.ShouldBeGreaterThan(1);
                        group
                            .Records.Select(record =>
                                record["hull"].ToText()!.Replace(" ", "", StringComparison.Ordinal).ToUpperInvariant()
                            )
                            .Distinct()
                            .Single()
                            .ShouldStartWith("H");
                        pairs.ShouldNotContain(pair =>
                            group.Records.Any(record => record.Key.ToString() == pair.Item1)
                            && group.Records.Any(record => record.Key.ToString() == pair.Item2)
                        );
                    }

                    if (pairs.Length == 0)
                        groups.Count.ShouldBe(
                            rows.Select(
                                    (row, place) =>
                                        (
                                            Hull: row.Item1.Replace(" ", "", StringComparison.Ordinal)
                                                .ToUpperInvariant(),
                                            row.Item2
                                        )
                                )
                                .Where(row => row.Hull.StartsWith('H'))
                                .GroupBy(row => row.Hull)
                                .Count(group => group.Select(row => row.Item2).Distinct().Count() > 1)
                        );
                }
            );

    private static IReadOnlyList<LinkedGroup> Groups(
        string[] same,
        (string, string)[] nonDuplicates,
        params (string Value, int Holder)[] rows
    ) =>
        LinkedOffers.Groups(
            new LinkedSnapshot(
                Link([same]),
                Type,
                [.. rows.Select((row, place) => Record(place + 1, same[0], row.Value, row.Holder))],
                Apart(nonDuplicates)
            )
        );

    private static LinkedRecords Link(IReadOnlyList<IReadOnlyList<string>> same) =>
        new("vessels", "Vessels", "vessel", "vessels", [], same);

    private static HashSet<(string, string)> Apart((string, string)[] pairs) => [.. pairs];

    private static LinkedRecord Record(int id, string field, string value, int holder) =>
        new(
            new RecordSnapshot(
                Table,
                new RecordKey(ColumnValue.Of($"{id}")),
                [
                    .. Table.Columns.Select(column =>
                        column.Name == "id" ? ColumnValue.Of($"{id}")
                        : column.Name == field ? ColumnValue.Of(value)
                        : ColumnValue.Null
                    ),
                ]
            ),
            new HashSet<int> { holder }
        );
}
