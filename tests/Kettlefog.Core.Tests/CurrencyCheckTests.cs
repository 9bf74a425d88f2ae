using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Testing;

namespace Kettlefog.Core.Tests;

/// <summary>An amount of money keeps its currency.</summary>
public class CurrencyCheckTests
{
    private static readonly string Yaml = TestMap.Of(
        "account",
        """
        key: id
        label: "{id}"
        fields:
          id:
          deposit: { kind: money, currency: currency, survivorship: total }
          limit: { kind: money, currency: currency }
          currency: { kind: currency }
        retire: { mark: { status: merged } }
        """
    );

    private static readonly TableSchema Table = new(
        "account",
        [
            .. new[] { "id", "deposit", "limit", "currency", "status" }.Select(name => new ColumnSchema(
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

    [Fact]
    public void Amounts_of_one_currency_are_added_up_exactly()
    {
        var plan = Plan([], ["0.10", "5", "GBP"], ["0.20", "9", "gbp"]);
        plan.Blockers.ShouldBeEmpty();
        plan.Fields.Single(field => field.Field.Name == "deposit").Value.ToText().ShouldBe("0.30");
    }

    [Fact]
    public void Amounts_of_different_currencies_are_not_added_up()
    {
        Plan([], ["10", "5", "GBP"], ["20", null, "NOK"])
            .Blockers.ShouldHaveSingleItem()
            .Message.ShouldBe("Deposit cannot be added up: A has 10 GBP, B has 20 NOK.");
        Plan([("deposit", new FieldChoice.Typed("11"))], ["10", "5", "GBP"], ["20", null, "NOK"])
            .Blockers.ShouldBeEmpty("the operator reckoned");
    }

    [Fact]
    public void An_amount_does_not_land_in_another_currency()
    {
        Plan([], [null, null, "GBP"], [null, "700", "NOK"])
            .Blockers.ShouldHaveSingleItem()
            .Message.ShouldBe("Limit would be 700 of B, which is in NOK, but the currency of the result is GBP.");
        Plan([("currency", new FieldChoice.FromRecord(Key("B")))], [null, null, "GBP"], [null, "700", "NOK"])
            .Blockers.ShouldBeEmpty();
        Plan([], [null, null, null], [null, "700", "NOK"]).Blockers.ShouldBeEmpty("both come from the same record");
    }

    [Fact]
    public void Only_money_has_a_currency_and_the_field_must_exist()
    {
        Should
            .Throw<KettlefogException>(() =>
                MapReader.Read(
                    Yaml.Replace("kind: money, currency: currency }", "currency: currency }", StringComparison.Ordinal),
                    "m.yaml"
                )
            )
            .Details.ShouldHaveSingleItem()
            .ShouldContain("m.yaml:10: The field 'limit' has a currency, but is not of the kind money.");
        Should
            .Throw<KettlefogException>(() =>
                MapReader.Read(
                    Yaml.Replace("currency: currency, ", "currency: curency, ", StringComparison.Ordinal),
                    "m.yaml"
                )
            )
            .Details.ShouldHaveSingleItem()
            .ShouldContain("the field 'curency', which the record type does not have. Write 'currency'.");
    }

    private static MergePlan Plan((string Field, FieldChoice Choice)[] fields, params string?[][] records)
    {
        var map = MapReader.Read(Yaml, "m.yaml").Map;
        var rows = records
            .Select(
                (values, index) =>
                    new RecordSnapshot(
                        Table,
                        Key($"{(char)('A' + index)}"),
                        [.. values.Prepend($"{(char)('A' + index)}").Append("open").Select(ColumnValue.Of)]
                    )
            )
            .ToList();
        var choices = new MergeChoices(
            "account",
            rows[0].Key,
            [.. rows.Skip(1).Select(row => row.Key)],
            fields.ToDictionary(pair => pair.Field, pair => pair.Choice)
        );
        return MergePlanner.Plan(choices, new MergeSnapshot(map, map.RecordTypes[0], rows, []));
    }

    private static RecordKey Key(string id) => new(ColumnValue.Of(id));
}
