using CsCheck;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Testing;

namespace Kettlefog.Core.Tests;

/// <summary>Values that do not survive move to a further field, or the plan warns that they do not fit.</summary>
public class OverflowTests
{
    private static readonly string Yaml = TestMap.Of(
        "contact",
        """
        blank: [n/a, none]
        fields:
          name:
          phone: { kind: phone, overflow: [phone_2, phone_3] }
          phone_2: { kind: phone }
          phone_3: { kind: phone }
          mail: { kind: email, overflow: mail_2 }
          mail_2: { kind: email }
        """
    );

    private static readonly string[] Columns = ["id", "name", "phone", "phone_2", "phone_3", "mail", "mail_2"];

    private static readonly TableSchema Table = new(
        "contact",
        [.. Columns.Select(name => new ColumnSchema(name, "TEXT", StorageClass.Text, false, null, false))],
        ["id"],
        [],
        [],
        false
    );

    [Fact]
    public void A_losing_number_goes_to_the_next_free_place()
    {
        var plan = Plan(Row("1", "01632 960001", null, null), Row("2", "01632 960002", "01632 960003", null));
        Phones(plan).ShouldBe(["01632 960001", "01632 960002", "01632 960003"]);
        plan.Fields.Single(field => field.Field.Name == "phone_2").ChosenBy.ShouldBe(ChosenBy.Overflow);
        plan.Warnings.ShouldBeEmpty();
    }

    [Fact]
    public void One_number_in_two_spellings_is_kept_once()
    {
        Phones(Plan(Row("1", "01632 960001", null, null), Row("2", "+44 (0)1632 960001", "01632-960002", null)))
            .ShouldBe(["01632 960001", "01632-960002", null]);
        var mails = Plan(
            Row("1", null, null, null, "Anna@Ebb.example"),
            Row("2", null, null, null, "anna@ebb.example", "a@ebb.example")
        );
        mails.Fields.Single(field => field.Field.Name == "mail_2").Value.ToText().ShouldBe("a@ebb.example");
    }

    [Fact]
    public void Other_values_are_the_same_only_but_for_their_case()
    {
        var map = Yaml.Replace("mail: { kind: email,", "mail: { kind: url,", StringComparison.Ordinal);
        var plan = Plan(
            map,
            [],
            Row("1", null, null, null, "https://ebb.example/a-b"),
            Row("2", null, null, null, "https://ebb.example/a_b", "HTTPS://EBB.example/a-b")
        );
        plan.Fields.Single(field => field.Field.Name == "mail_2").Value.ToText().ShouldBe("https://ebb.example/a_b");
    }

    [Fact]
    public void What_does_not_fit_anywhere_is_reported()
    {
        var plan = Plan(Row("1", "1001", "1002", "1003"), Row("2", "1004", "n/a", "1001"));
        Phones(plan).ShouldBe(["1001", "1002", "1003"]);
        plan.Warnings.ShouldHaveSingleItem()
            .ShouldBe("Phone '1004' of 2 does not fit in any further field; it is kept only in the merge history.");
    }

    [Fact]
    public void A_placeholder_counts_as_blank()
    {
        Phones(Plan(Row("1", "N/A", "none", null), Row("2", "1001", "1002", null))).ShouldBe(["1001", "1002", null]);
        Phones(Plan(Row("1", "1001", "none", null), Row("2", "1001", null, null))).ShouldBe(["1001", "none", null]);
    }

    [Fact]
    public void What_the_operator_chose_is_left_alone()
    {
        var choices = new Dictionary<string, FieldChoice>
        {
            ["phone_2"] = new FieldChoice.Typed(""),
            ["phone"] = new FieldChoice.FromRecord(Key("2")),
        };
        Phones(Plan(choices, Row("1", "1001", null, null), Row("2", "1002", null, null)))
            .ShouldBe(["1002", null, "1001"]);
    }

    [Fact]
    public void No_number_is_lost_without_a_word_and_none_is_kept_twice() =>
        Gen.Int[0, 7]
            .Array[3]
            .Array[2, 6]
            .Sample(records =>
            {
                var rows = records
                    .Select((phones, at) => Row($"{at}", Number(phones[0]), Number(phones[1]), Number(phones[2])))
                    .ToArray();
                var plan = Plan(rows);
                var kept = Phones(plan).OfType<string>().Where(phone => phone != "n/a").ToList();
                kept.ShouldBeUnique();
                foreach (
                    var number in records
                        .SelectMany(phones => phones)
                        .Select(Number)
                        .OfType<string>()
                        .Distinct()
                        .Where(number => number != "n/a")
                )
                    (
                        kept.Contains(number)
                        || plan.Warnings.Any(warning => warning.Contains($"'{number}'", StringComparison.Ordinal))
                    ).ShouldBeTrue(number);
                plan.Warnings.Count.ShouldBe(plan.Warnings.Distinct().Count());

                static string? Number(int which) =>
                    which switch
                    {
                        0 => null,
                        1 => "n/a",
                        _ => $"01632 96000{which}",
                    };
            });

    private static List<string?> Phones(MergePlan plan) =>
        [
            .. new[] { "phone", "phone_2", "phone_3" }.Select(name =>
                plan.Fields.Single(field => field.Field.Name == name).Value.ToText()
            ),
        ];

    private static MergePlan Plan(params RecordSnapshot[] records) => Plan([], records);

    private static MergePlan Plan(Dictionary<string, FieldChoice> choices, params RecordSnapshot[] records) =>
        Plan(Yaml, choices, records);

    private static MergePlan Plan(string yaml, Dictionary<string, FieldChoice> choices, params RecordSnapshot[] records)
    {
        var map = MapReader.Read(yaml, "m.yaml").Map;
        var keys = records.Select(record => record.Key).ToList();
        return MergePlanner.Plan(
            new MergeChoices("contact", keys[0], keys[1..], choices),
            new MergeSnapshot(map, map.RecordTypes[0], records, [])
        );
    }

    private static RecordKey Key(string key) => new(ColumnValue.Of(key));

    private static RecordSnapshot Row(
        string key,
        string? phone,
        string? second,
        string? third,
        string? mail = null,
        string? secondMail = null
    ) =>
        new(Table, Key(key), [.. new[] { key, "Anna", phone, second, third, mail, secondMail }.Select(ColumnValue.Of)]);
}
