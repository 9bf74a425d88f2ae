using CsCheck;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Testing;

namespace Kettlefog.Core.Tests;

/// <summary>Which record is suggested as the master, and how a match rule changes a plan.</summary>
public class MasterSuggesterTests
{
    private const string Type = """
        created: created
        changed: changed
        source: source
        fields: { name: , city: , phone: { survivorship: newest } }
        references:
          bills: { table: bill, columns: vendor_id }
          agreements: { table: agreement, columns: vendor_id }
        matching:
          rules:
            same_phone:
              any_of: [[{ field: phone, is: same-digits }]]
              master: [{ has: agreements }, newest]
              survivorship: { phone: oldest, name: longest }
        """;

    private static readonly string[] Columns = ["id", "name", "city", "phone", "created", "changed", "source"];

    private static readonly TableSchema Table = new(
        "vendor",
        [.. Columns.Select(name => new ColumnSchema(name, "TEXT", StorageClass.Text, false, null, false))],
        ["id"],
        [],
        [],
        false
    );

    [Fact]
    public void Without_a_word_the_record_with_most_history_goes_first_then_the_fullest_then_the_oldest()
    {
        Suggest("", Record("1", bills: 3), Record("2", bills: 7)).ShouldBe(("2", "It has the most related rows: 7."));
        Suggest("", Record("1"), Record("2", city: "Ternhaven"))
            .ShouldBe(("2", "It has the most fields filled in: 2 of 3."));
        Suggest("", Record("1", created: "2024-01-01"), Record("2", created: "2019-05-05"))
            .ShouldBe(("2", "It was created first: 2019-05-05."));
        Suggest("", Record("1", created: null), Record("2", created: "2019-05-05"))
            .ShouldBe(("2", "It was created first: 2019-05-05."));
        Suggest("", Record("2"), Record("1")).ShouldBe(("1", ""));
    }

    [Fact]
    public void The_map_defines_what_counts_and_in_which_order()
    {
        const string Master = "master: [{ source: [ledger, import] }, { has: agreements }, last-changed]";
        Suggest(Master, Record("1", source: "import", bills: 50), Record("2", source: "Ledger"))
            .ShouldBe(("2", "It comes from Ledger, the most trusted source."));
        Suggest(Master, Record("1", source: "web"), Record("2", source: "import"))
            .ShouldBe(("2", "It comes from import, the most trusted source."));
        Suggest(Master, Record("1"), Record("2", agreements: 2)).ShouldBe(("2", "It has agreements: 2."));
        Suggest(Master, Record("1", changed: "2026-01-02"), Record("2", changed: "2026-01-01"))
            .ShouldBe(("1", "It was changed last: 2026-01-02."));
    }

    [Fact]
    public void Every_reason_in_which_it_is_best_is_given() =>
        Suggest(
                "",
                Record("1", bills: 9, city: "Oystergate", created: "2001-01-01"),
                Record("2", created: "2020-01-01")
            )
            .ShouldBe(
                (
                    "1",
                    "It has the most related rows: 9. It has the most fields filled in: 2 of 3. It was "
                        + "created first: 2001-01-01."
                )
            );

    [Fact]
    public void The_order_of_the_records_does_not_matter() =>
        Gen.Select(
                Gen.Int[0, 2],
                Gen.Int[0, 2],
                Gen.Int[0, 2].Select(which => which == 0 ? null : $"{2018 + which}"),
                Gen.Bool.Select(known => known ? "Ternhaven" : null)
            )
            .Array[2, 6]
            .Sample(all =>
            {
                var records = all.Select(
                        (each, index) =>
                            Record(
                                $"{index}",
                                bills: each.Item1,
                                agreements: each.Item2,
                                created: each.Item3,
                                city: each.Item4
                            )
                    )
                    .ToArray();
                var suggested = Suggest("", records);
                Suggest("", [.. records.Reverse()]).ShouldBe(suggested);
                var chosen = records.Single(record => record.Snapshot.Key.ToString() == suggested.Key);
                records.ShouldAllBe(record => record.Bills + record.Agreements <= chosen.Bills + chosen.Agreements);
            });

    [Fact]
    public void A_match_rule_brings_its_own_survivorship_and_preferences()
    {
        var records = new[]
        {
            Record("1", bills: 9, phone: "1", created: "2010", changed: "2025", name: "Gannet"),
            Record("2", agreements: 1, phone: "2", created: "2020", changed: "2020", name: "Gannet Chandlery"),
        };
        var plain = Plan("", null, records);
        var byRule = Plan("", "same_phone", records);
        plain.Suggestion.Key.ToString().ShouldBe("1");
        byRule.Suggestion.Key.ToString().ShouldBe("2");
        byRule.Suggestion.Reasons.ShouldBe(["It has agreements: 1.", "It was created last: 2020."]);
        (string?, SurvivorshipRule) Of(MergePlan plan, string name)
        {
            var field = plan.Fields.Single(each => each.Field.Name == name);
            return (field.Value.ToText(), field.Rule);
        }

        Of(plain, "name").ShouldBe(("Gannet", SurvivorshipRule.MasterUnlessBlank));
        Of(byRule, "name").ShouldBe(("Gannet Chandlery", SurvivorshipRule.Longest));
        Of(plain, "phone").Item2.ShouldBe(SurvivorshipRule.Newest);
        Of(byRule, "phone").Item2.ShouldBe(SurvivorshipRule.Oldest);
        byRule.Fingerprint.Text.ShouldNotBe(plain.Fingerprint.Text);
    }

    [Theory]
    [InlineData("[most-relatd]", "'most-relatd' is not a preference for the master.")]
    [InlineData("[{ has: bils }]", "The record type has no reference 'bils'.")]
    [InlineData("[{ has: bills, source: [a] }]", "A preference for the master must have exactly one key.")]
    [InlineData("[source]", "'source' is not a preference for the master.")]
    [InlineData("[{ sorce: [a] }]", "has no key 'sorce'")]
    public void A_mistake_is_reported_with_its_line(string master, string message)
    {
        var refusal = Should.Throw<KettlefogException>(() =>
            MapReader.Read(TestMap.Of("vendor", $"master: {master}\n{Type}"), "m.yaml")
        );
        refusal.Details.ShouldContain(detail =>
            detail.StartsWith("m.yaml:", StringComparison.Ordinal) && detail.Contains(message, StringComparison.Ordinal)
        );
    }

    private static (string Key, string Reasons) Suggest(string master, params TestRecord[] records)
    {
        var suggestion = Plan(master, null, records).Suggestion;
        return (suggestion.Key.ToString(), string.Join(' ', suggestion.Reasons));
    }

    private static MergePlan Plan(string master, string? rule, TestRecord[] records)
    {
        var map = MapReader.Read(TestMap.Of("vendor", $"{master}\n{Type}"), "m.yaml").Map;
        var type = map.RecordTypes[0];
        RelatedRows Rows(long count) => new(count, null, new Dictionary<string, ColumnValue>(), "");
        var references = type
            .References.Select(reference => new ReferenceSnapshot(
                reference,
                [.. records.Select(record => record.Snapshot.Key)],
                [.. records.Select(record => Rows(reference.Name == "bills" ? record.Bills : record.Agreements))],
                Table,
                [],
                []
            ))
            .ToList();
        var keys = records.Select(record => record.Snapshot.Key).ToList();
        return MergePlanner.Plan(
            new MergeChoices("vendor", keys[0], keys[1..], new Dictionary<string, FieldChoice>(), rule),
            new MergeSnapshot(
                map,
                type,
                [.. records.Select(record => record.Snapshot)],
                references,
                type.Matching.Rules.FirstOrDefault(each => each.Name == rule)
            )
        );
    }

    private static TestRecord Record(
        string key,
        string name = "Gannet",
        string? city = null,
        string? phone = null,
        string? created = "2020-01-01",
        string? changed = null,
        string? source = null,
        long bills = 0,
        long agreements = 0
    ) =>
        new(
            new RecordSnapshot(
                Table,
                new RecordKey(ColumnValue.Of(key)),
                [.. new[] { key, name, city, phone, created, changed, source }.Select(ColumnValue.Of)]
            ),
            bills,
            agreements
        );

    private sealed record TestRecord(RecordSnapshot Snapshot, long Bills, long Agreements);
}
