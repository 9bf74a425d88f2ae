using CsCheck;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Testing;

namespace Kettlefog.Core.Tests;

/// <summary>A plan is pure computation on a snapshot.</summary>
public class MergePlannerTests
{
    private static readonly string Yaml = TestMap.Of(
        "vendor",
        """
        key: id
        label: "{name} ({city})"
        created: created
        changed: changed
        fields:
          name:
          city:
          phone: { kind: phone, survivorship: newest }
          code: { survivorship: master }
          limit: { column: credit, kind: money, survivorship: largest }
        references:
          bills: { table: bill, columns: vendor_id, amount: amount }
          files: { table: file, columns: vendor_id, policy: leave }
          runs: { table: run, columns: vendor_id, policy: block }
        figures:
          billed: { reference: bills, sum: amount, control: true }
          last: { reference: bills, last: day }
          first: { reference: bills, first: day }
          kept: { reference: files, count: true }
        retire: { mark: { status: merged } }
        blockers: { must_agree: city, forbid: { code: [locked] }, at_most_one: runs }
        """
    );

    private static readonly string[] Columns =
    [
        "id",
        "name",
        "city",
        "phone",
        "code",
        "credit",
        "status",
        "created",
        "changed",
        "extra",
    ];

    private static readonly TableSchema Table = new(
        "vendor",
        [
            .. Columns.Select(
                (name, place) =>
                    new ColumnSchema(
                        name,
                        place == 0 ? "INTEGER" : "TEXT",
                        place == 0 ? StorageClass.Integer : StorageClass.Text,
                        name == "name",
                        null,
                        false
                    )
            ),
        ],
        ["id"],
        [UniqueKey.Of("one_code", "code")],
        [],
        false
    );

    private static readonly RecordMap Map = MapReader.Read(Yaml, "m.yaml").Map;

    [Fact]
    public void A_merge_of_more_records_than_anybody_could_review_is_refused_and_the_most_allowed_is_not()
    {
        MergeChoices Of(int records) =>
            new(
                "vendor",
                new RecordKey(ColumnValue.Of(0)),
                [.. Enumerable.Range(1, records - 1).Select(key => new RecordKey(ColumnValue.Of(key)))],
                new Dictionary<string, FieldChoice>()
            );
        Of(MergeChoices.MaxRecords).Check();
        MergeChoices.MaxRecords.ShouldBeGreaterThanOrEqualTo(500);
        var refusal = Should.Throw<KettlefogException>(() => Of(20_000).Check());
        refusal.Code.ShouldBe(ErrorCode.InvalidChoice);
        refusal.Message.ShouldBe("A merge of 20000 records is too large: at most 1000 are merged at once.");
    }

    [Fact]
    public void A_placeholder_does_not_win_over_a_value_and_a_chosen_one_is_warned_about()
    {
        RecordSnapshot[] rows =
        [
            Row(1, "Gannet", "Ternhaven", "01632 960201", "A", "5", changed: "2020"),
            Row(2, "Gannet", "Ternhaven", "000000", "A", "5", changed: "2024"),
        ];
        Field(Plan(Choices(), rows), "phone").ShouldBe(("01632 960201", 0, ChosenBy.Rule));
        var chosen = Plan(Choices(("phone", new FieldChoice.FromRecord(Key(2)))), rows);
        Field(chosen, "phone").ShouldBe(("000000", 1, ChosenBy.Operator));
        chosen.Warnings.ShouldContain(
            "Phone will be '000000', which stands for a missing value, although 1 has '01632 960201'."
        );
    }

    [Theory]
    [InlineData(FieldKind.Street, "n/a", true)]
    [InlineData(FieldKind.Street, " UNKNOWN ", true)]
    [InlineData(FieldKind.Email, "noemail", true)]
    [InlineData(FieldKind.Email, "--", true)]
    [InlineData(FieldKind.Phone, "0000000", true)]
    [InlineData(FieldKind.City, "?", true)]
    [InlineData(FieldKind.Text, "-", true)]
    [InlineData(FieldKind.Text, "no", false)]
    [InlineData(FieldKind.GivenName, "Na", false)]
    [InlineData(FieldKind.GivenName, "n/a", true)]
    [InlineData(FieldKind.FamilyName, "Nowak", false)]
    [InlineData(FieldKind.Country, "NA", false)]
    [InlineData(FieldKind.Code, "AA", false)]
    [InlineData(FieldKind.Integer, "11", false)]
    [InlineData(FieldKind.Postcode, "1111", false)]
    [InlineData(FieldKind.OrganisationName, "☎", true)]
    [InlineData(FieldKind.OrganisationName, "نورس", false)]
    [InlineData(FieldKind.OrganisationName, "🚢", false)]
    public void Only_what_cannot_be_a_value_of_a_field_counts_as_missing(
        FieldKind kind,
        string value,
        bool isMissing
    ) => Placeholder.Is(kind, value).ShouldBe(isMissing);

    [Fact]
    public void Values_come_from_rules_records_and_the_keyboard()
    {
        var plan = Plan(
            Choices(("city", new FieldChoice.FromRecord(Key(2))), ("name", new FieldChoice.Typed("  Gannet  "))),
            Row(1, "Gannett", "Ternhaven", "1", "A", "5", changed: "2020"),
            Row(2, "Gannet Ltd", "Ternhaven", "2", "B", "40", changed: "2024")
        );
        Field(plan, "name").ShouldBe(("Gannet", null, ChosenBy.Typed));
        Field(plan, "city").ShouldBe(("Ternhaven", 1, ChosenBy.Operator));
        Field(plan, "phone").ShouldBe(("2", 1, ChosenBy.Rule));
        Field(plan, "code").ShouldBe(("A", 0, ChosenBy.Rule));
        Field(plan, "limit").ShouldBe(("40", 1, ChosenBy.Rule));
        plan.Blockers.ShouldBeEmpty();
        plan.Records[0].Label.ShouldBe("Gannett (Ternhaven)");
        plan.Unmapped.Select(column => column.Column.Name).ShouldBe(["status", "extra"]);
    }

    [Fact]
    public void Values_are_joined_united_or_added_up_where_the_operator_wants_it()
    {
        MergePlan With(string field, SurvivorshipRule rule) =>
            Plan(
                Choices((field, new FieldChoice.ByRule(rule))),
                Row(1, "Gannet", phone: "1; 2", limit: "5.10", code: "A"),
                Row(2, "Gannet & Daughters", phone: "2; 3", limit: "0.2", code: "B")
            );
        Field(With("name", SurvivorshipRule.Append), "name")
            .ShouldBe(("Gannet\n\n[2] Gannet & Daughters", null, ChosenBy.Operator));
        Field(With("phone", SurvivorshipRule.Union), "phone").ShouldBe(("1; 2; 3", null, ChosenBy.Operator));
        Field(With("limit", SurvivorshipRule.Total), "limit").ShouldBe(("5.30", null, ChosenBy.Operator));
        Field(With("limit", SurvivorshipRule.Smallest), "limit").ShouldBe(("0.2", 1, ChosenBy.Operator));
        With("limit", SurvivorshipRule.Total)
            .Fields.Single(field => field.Field.Name == "limit")
            .Rule.ShouldBe(SurvivorshipRule.Total);
        With("limit", SurvivorshipRule.Total)
            .Fingerprint.ShouldNotBe(With("limit", SurvivorshipRule.Largest).Fingerprint);
        With("code", SurvivorshipRule.Total).Blockers.Single().Message.ShouldStartWith("Code cannot be added up");
        Field(With("city", SurvivorshipRule.Append), "city").ShouldBe(("Ternhaven", 0, ChosenBy.Operator));
    }

    [Fact]
    public void A_value_that_several_have_counts_as_the_masters()
    {
        var plan = Plan(Choices(), Row(1, "A", phone: "7", changed: "2020"), Row(2, "A", phone: "7", changed: "2024"));
        Field(plan, "phone").ShouldBe(("7", 0, ChosenBy.Rule));
        plan.Fields.ShouldAllBe(field => !field.Changes);
    }

    [Fact]
    public void Figures_add_up_or_take_the_extreme_and_follow_the_rows()
    {
        var plan = Plan(Choices(), [Row(1, "A"), Row(2, "A"), Row(3, "A")], record => record switch
            {
                0 => Rows(2, 10.10m, "2021-05-01", "2020-01-01", 1),
                1 => Rows(1, 0.2m, "2024-02-02", "2023-01-01", 2),
                _ => Rows(0, 0m, null, null, 0),
            });
        string? After(string name) => plan.Figures.Single(figure => figure.Figure.Name == name).After.ToText();
        After("billed").ShouldBe("10.30");
        After("last").ShouldBe("2024-02-02");
        After("first").ShouldBe("2020-01-01");
        After("kept").ShouldBe("1", "what is left behind does not come to the master");
        var move = plan.Moves.Single(each => each.Reference.Name == "bills");
        move.Count.ShouldBe(1);
        move.Amount.ShouldBe(0.2m);
        plan.Warnings.ShouldContain("2 files stay with the retired records, as defined in the map.");
    }

    [Fact]
    public void Each_blocker_is_reported()
    {
        var plan = Plan(
            Choices(("name", new FieldChoice.FromRecord(Key(2)))),
            [Row(1, "A", city: "Ternhaven"), Row(2, null, city: "Oystergate", code: "locked")],
            _ => Rows(1, 1m, null, null, 0, running: 3)
        );
        plan.Blockers.Select(blocker => blocker.Message)
            .ShouldBe([
                "City must agree, but 1 has 'Ternhaven', 2 has 'Oystergate'.",
                "Code of 2 is 'locked', and such a vendor may not be merged.",
                "Only one record may have runs, but 1 has 3, 2 has 3.",
                "The duplicates have 3 runs, which may not be moved.",
                "Name would be blank, which the column name does not allow.",
            ]);
        plan.Blockers.ShouldAllBe(blocker => blocker.Remedy.Length > 0);
    }

    [Fact]
    public void What_must_agree_is_said_value_by_value_where_there_are_many_records()
    {
        var rows = Enumerable
            .Range(1, 60)
            .Select(id =>
                Row(
                    id,
                    "A",
                    city: id == 7 ? "Oystergate"
                        : id % 20 == 0 ? "Nordhamn"
                        : "Ternhaven"
                )
            );
        Plan(Choices(), [.. rows])
            .Blockers.Select(blocker => blocker.Message)
            .ShouldContain(
                "City must agree, but 1, 2, 3 and 53 more have 'Ternhaven', 7 has 'Oystergate', "
                    + "20, 40, 60 have 'Nordhamn'."
            );
    }

    [Fact]
    public void Of_what_may_run_once_only_one_record_may_have_any()
    {
        MergePlan With(params long[] running) =>
            Plan(Choices(), [Row(1, "A"), Row(2, "A"), Row(3, "A")], record =>
                Rows(0, 0, null, null, 0, running: running[record])
            );
        With(1, 0, 0).Blockers.ShouldBeEmpty();
        With(1, 2, 0)
            .Blockers.Select(blocker => blocker.Message)
            .ShouldContain("Only one record may have runs, but 1 has 1, 2 has 2.");
        With(0, 0, 4).Blockers.ShouldHaveSingleItem().Message.ShouldContain("may not be moved");
    }

    [Fact]
    public void A_duplicate_with_more_history_and_a_value_made_blank_give_warnings()
    {
        var plan = Plan(Choices(("phone", new FieldChoice.Typed(""))), [Row(1, "A", phone: "7"), Row(2, "A")], record =>
            Rows(record == 0 ? 1 : 9, 1m, null, null, 0)
        );
        plan.Warnings.Where(warning => !warning.Contains("no index", StringComparison.Ordinal))
            .ShouldBe([
                "2 has more history (9 related rows) than the master 1 (1).",
                "Phone of the master will be blank; it is '7' now.",
            ]);
    }

    [Fact]
    public void The_same_input_gives_the_same_fingerprint_and_any_other_column_another_one() =>
        Gen.Select(Gen.Int[0, 1], Gen.Int[1, Columns.Length - 1], ColumnValueTests.AnyValue)
            .Sample(
                (record, column, value) =>
                {
                    RecordSnapshot[] records = [Row(1, "A"), Row(2, "A")];
                    var before = Plan(Choices(), records, _ => Rows(0, 0, null, null, 0)).Fingerprint;
                    Plan(Choices(), records, _ => Rows(0, 0, null, null, 0)).Fingerprint.Text.ShouldBe(before.Text);
                    var row = records[record].Row.ToArray();
                    var same = row[column] == value;
                    row[column] = value;
                    records[record] = records[record] with { Row = row };
                    var after = Plan(Choices(), records, _ => Rows(0, 0, null, null, 0)).Fingerprint;
                    (after.Text == before.Text).ShouldBe(same);
                    if (!same)
                        Should
                            .Throw<KettlefogException>(() => after.EnsureMatches(before.Text))
                            .Details.Single()
                            .ShouldStartWith($"Vendor {record + 1} ");
                }
            );

    [Fact]
    public void A_choice_that_names_no_record_of_the_merge_is_refused()
    {
        var choices = Choices(("phone", new FieldChoice.FromRecord(Key(9))));
        Should
            .Throw<KettlefogException>(() => Plan(choices, Row(1, "A"), Row(2, "A")))
            .Message.ShouldContain("is to come from 9");
    }

    private static MergePlan Plan(MergeChoices choices, params RecordSnapshot[] records) =>
        Plan(choices, records, _ => Rows(0, 0, null, null, 0));

    private static MergePlan Plan(
        MergeChoices choices,
        RecordSnapshot[] records,
        Func<int, Dictionary<string, RelatedRows>> rows
    )
    {
        var type = Map.RecordTypes[0];
        var all = choices with { Duplicates = [.. records.Skip(1).Select(record => record.Key)] };
        var references = type
            .References.Select(reference => new ReferenceSnapshot(
                reference,
                [.. records.Select(record => record.Key)],
                [.. records.Select((_, index) => rows(index)[reference.Name])],
                Table,
                [],
                []
            ))
            .ToList();
        var active = type
            .Blockers.AtMostOne.Select(rule => new ActiveRows(
                rule,
                [.. records.Select((_, index) => rows(index)[rule.Reference].Count)]
            ))
            .ToList();
        return MergePlanner.Plan(all, new MergeSnapshot(Map, type, records, references) { Active = active });
    }

    private static MergeChoices Choices(params (string Field, FieldChoice Choice)[] fields) =>
        new("vendor", Key(1), [], fields.ToDictionary(pair => pair.Field, pair => pair.Choice));

    private static RecordKey Key(long id) => new(ColumnValue.Of(id));

    private static RecordSnapshot Row(
        long id,
        string? name,
        string city = "Ternhaven",
        string? phone = null,
        string? code = null,
        string? limit = null,
        string? changed = null
    ) =>
        new(
            Table,
            Key(id),
            [
                ColumnValue.Of(id),
                .. new[] { name, city, phone, code, limit, "active", null, changed, "extra" }.Select(ColumnValue.Of),
            ]
        );

    private static Dictionary<string, RelatedRows> Rows(
        long bills,
        decimal worth,
        string? last,
        string? first,
        long files,
        long running = 0
    ) =>
        new()
        {
            ["bills"] = new RelatedRows(
                bills,
                worth,
                new Dictionary<string, ColumnValue>
                {
                    ["billed"] = ColumnValue.Of(worth.ToString(System.Globalization.CultureInfo.InvariantCulture)),
                    ["last"] = ColumnValue.Of(last),
                    ["first"] = ColumnValue.Of(first),
                },
                $"{bills} {worth}"
            ),
            ["files"] = new RelatedRows(
                files,
                null,
                new Dictionary<string, ColumnValue> { ["kept"] = ColumnValue.Of(files) },
                $"{files}"
            ),
            ["runs"] = new RelatedRows(running, null, new Dictionary<string, ColumnValue>(), $"{running}"),
        };

    private static (string? Value, int? From, ChosenBy ChosenBy) Field(MergePlan plan, string name)
    {
        var field = plan.Fields.Single(each => each.Field.Name == name);
        return (field.Value.ToText(), field.From, field.ChosenBy);
    }
}
