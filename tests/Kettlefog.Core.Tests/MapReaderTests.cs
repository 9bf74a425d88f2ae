using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Naming;
using Kettlefog.Testing;
using NJsonSchema;
using YamlDotNet.Serialization;

namespace Kettlefog.Core.Tests;

public class MapReaderTests
{
    internal const string Good = """
        kettlefog: 1
        name: Test
        record_types:
          vendor:
            table: vendor
            label: "{name}"
            survivorship: longest
            fields:
              name: { kind: organisation-name }
              phone:
            references:
              bills: { table: bill, columns: vendor_id, amount: amount }
            figures:
              billed: { reference: bills, sum: amount, control: true }
            retire:
              mark: { status: merged }
            blockers:
              must_agree: [name]
        """;

    [Fact]
    public void A_good_map_is_read_with_its_defaults()
    {
        var type = MapReader.Read(Good, "m.yaml").Map.RecordTypes.Single();
        type.Title.ShouldBe("Vendor");
        type.Survivorship.ShouldBe(SurvivorshipRule.Longest);
        type.Fields.Select(field => field.Column).ShouldBe(["name", "phone"]);
        type.References.Single().Policy.ShouldBe(ReferencePolicy.Reassign);
        type.Figures.Single().Operation.ShouldBe(FigureOperation.Sum);
        type.Amount.ShouldBe(type.Figures.Single(), "the only sum is the amount");
        type.Retirement.Mark["status"].ShouldBe("merged");
    }

    [Fact]
    public void Of_several_sums_only_the_one_that_the_map_names_is_the_amount()
    {
        var several = Good.Replace(
            "    retire:",
            "      open: { reference: bills, sum: open_amount }\n    retire:",
            StringComparison.Ordinal
        );
        MapReader.Read(several, "m.yaml").Map.RecordTypes.Single().Amount.ShouldBeNull();
        var named = several.Replace("    retire:", "    amount: open\n    retire:", StringComparison.Ordinal);
        MapReader.Read(named, "m.yaml").Map.RecordTypes.Single().Amount!.Name.ShouldBe("open");
    }

    [Theory]
    [InlineData("name: Test", "nam: Test", 2, "has no key 'nam'", "Write 'name'.")]
    [InlineData("kettlefog: 1", "kettlefog: 7", 1, "'7' is not a version", "kettlefog: 1")]
    [InlineData(
        "survivorship: longest",
        "survivorship: longst",
        7,
        "'longst' is not a known value",
        "Write 'longest'."
    )]
    [InlineData(
        "kind: organisation-name",
        "kind: organization-name",
        9,
        "'organization-name' is not a known value",
        "Write 'organisation-name'."
    )]
    [InlineData("columns: vendor_id, ", "", 12, "lacks 'columns'", "columns: vendor_id")]
    [InlineData("reference: bills", "reference: bils", 14, "the reference 'bils'", "Write 'bills'.")]
    [InlineData("sum: amount, control", "control", 14, "does not say how it is computed", "count: true")]
    [InlineData("sum: amount,", "last: amount,", 14, "cannot be a control total", "leave 'control' out")]
    [InlineData("mark: { status: merged }", "delete: perhaps", 16, "it is a yes or no", "Write 'true' or 'false'.")]
    [InlineData("    retire:", "    amount: paid\n    retire:", 15, "names 'paid', which is no figure", "of: billed.")]
    [InlineData("must_agree: [name]", "must_agree: [nme]", 18, "the field 'nme'", "Write 'name'.")]
    [InlineData("label: \"{name}\"", "label: \"{title}\"", 6, "the field 'title'", "Known are: name, phone.")]
    [InlineData("phone:", "phone: { column: name }", 10, "has the same column as 'name'", "one field")]
    [InlineData("  vendor:\n", "  Vendor Files:\n", 4, "is not a valid name", "lower-case letters")]
    [InlineData(
        "    retire:",
        "    matching: { rules: { \"\": { review: 80 } } }\n    retire:",
        15,
        "is not a valid name",
        "lower-case letters"
    )]
    public void A_mistake_is_reported_with_its_line_and_what_to_write_instead(
        string right,
        string wrong,
        int line,
        string message,
        string instead
    )
    {
        Good.ShouldContain(right);
        var refusal = Should.Throw<KettlefogException>(() =>
            MapReader.Read(Good.Replace(right, wrong, StringComparison.Ordinal), "m.yaml")
        );
        refusal.Code.ShouldBe(ErrorCode.InvalidMap);
        refusal.Details.ShouldContain(detail =>
            detail.StartsWith($"m.yaml:{line}: ") && detail.Contains(message) && detail.Contains(instead)
        );
        refusal.Details.Count.ShouldBeLessThan(3);
    }

    [Theory]
    [InlineData("bils: { type: vendor, through: bils, same: name }", "names the reference 'bils'", "Write 'bills'.")]
    [InlineData(
        "bills: { type: bill, through: bills, same: name }",
        "the record type 'bill', which the map does not have",
        "Known are: vendor."
    )]
    [InlineData(
        "bills: { type: vendor, through: bills }",
        "does not say when two of them are the same",
        "same: hull_number"
    )]
    [InlineData("vendors: { same: name }", "does not say how the records are found", "columns: parent_id")]
    [InlineData("vendors: { columns: parent_id, same: [[name], [phon]] }", "the field 'phon'", "Write 'phone'.")]
    public void Missing_linked_merges_are_refused(string linked, string message, string instead)
    {
        var refusal = Should.Throw<KettlefogException>(() =>
            MapReader.Read($"{Good}\n    linked:\n      {linked}\n", "m.yaml")
        );
        refusal.Details.ShouldContain(detail =>
            detail.StartsWith("m.yaml:20: ") && detail.Contains(message) && detail.Contains(instead)
        );
    }

    [Fact]
    public void All_mistakes_are_reported_at_once()
    {
        var map = Good.Replace("organisation-name", "organization-name", StringComparison.Ordinal)
            .Replace("longest", "longst", StringComparison.Ordinal);
        Should.Throw<KettlefogException>(() => MapReader.Read(map, "m.yaml")).Details.Count.ShouldBe(2);
    }

    [Theory]
    [InlineData("record_types: [")]
    [InlineData("- a\n- b")]
    [InlineData("")]
    [InlineData("a: 1\na: 2")]
    public void What_is_not_a_mapping_is_refused(string text) =>
        Should.Throw<KettlefogException>(() => MapReader.Read(text, "m.yaml")).Details.ShouldNotBeEmpty();

    [Fact]
    public void A_reference_cannot_be_left_with_a_record_that_is_deleted()
    {
        var map = Good.Replace("amount: amount }", "policy: leave }", StringComparison.Ordinal)
            .Replace("mark: { status: merged }", "delete: true", StringComparison.Ordinal);
        Should
            .Throw<KettlefogException>(() => MapReader.Read(map, "m.yaml"))
            .Details.Single()
            .ShouldContain("which is deleted");
    }

    [Fact]
    public async Task The_JSON_Schema_knows_the_keys_and_words_that_the_reader_knows()
    {
        var schema = await JsonSchema.FromJsonAsync(MapReader.JsonSchema, TestContext.Current.CancellationToken);
        Keys(schema).ShouldBe(MapReader.RootKeys, ignoreOrder: true);
        Keys(schema.Definitions["recordType"]).ShouldBe(RecordTypeReader.Keys, ignoreOrder: true);
        Keys(schema.Definitions["field"]).ShouldBe(FieldReader.Keys, ignoreOrder: true);
        Keys(schema.Definitions["reference"]).ShouldBe(ReferenceReader.Keys, ignoreOrder: true);
        Keys(schema.Definitions["figure"]).ShouldBe(FigureReader.Keys, ignoreOrder: true);
        Keys(schema.Definitions["retire"]).ShouldBe(RecordTypeReader.RetireKeys, ignoreOrder: true);
        Keys(schema.Definitions["recordType"].Properties["linked"].AdditionalPropertiesSchema!)
            .ShouldBe(LinkedRecordsReader.Keys, ignoreOrder: true);
        Keys(schema.Definitions["field"].Properties["overflow_rows"])
            .ShouldBe(FieldReader.OverflowRowsKeys, ignoreOrder: true);
        Keys(schema.Definitions["atMostOne"]).ShouldBe(BlockerReader.AtMostOneKeys, ignoreOrder: true);
        Keys(schema.Definitions["recordType"].Properties["timeline"])
            .ShouldBe(RecordTypeReader.TimelineKeys, ignoreOrder: true);
        Keys(schema.Definitions["blockers"]).ShouldBe(BlockerReader.Keys, ignoreOrder: true);
        Words(schema.Definitions["survivorship"]).ShouldBe(EnumName.All<SurvivorshipRule>(), ignoreOrder: true);
        Words(schema.Definitions["field"].Properties["kind"]).ShouldBe(EnumName.All<FieldKind>(), ignoreOrder: true);
        Words(schema.Definitions["reference"].Properties["policy"])
            .ShouldBe(EnumName.All<ReferencePolicy>(), ignoreOrder: true);
    }

    [Fact]
    public async Task The_JSON_Schema_takes_the_maps_that_the_reader_takes()
    {
        var schema = await JsonSchema.FromJsonAsync(MapReader.JsonSchema, TestContext.Current.CancellationToken);
        var demo = await File.ReadAllTextAsync(
            Repository.File("demo/Kettlefog.Demo/saltmarrow.map.yaml"),
            TestContext.Current.CancellationToken
        );
        MapReader.Read(demo, "demo").Map.RecordTypes.ShouldNotBeEmpty();
        schema.Validate(ToJson(demo)).ShouldBeEmpty();
        schema.Validate(ToJson(Good)).ShouldBeEmpty();
        schema.Validate(ToJson(Good.Replace("longest", "longst", StringComparison.Ordinal))).ShouldNotBeEmpty();
    }

    private static IEnumerable<string> Keys(JsonSchema schema) => schema.Properties.Keys;

    private static IEnumerable<string> Words(JsonSchema schema) => schema.Enumeration.Select(word => word!.ToString()!);

    private static string ToJson(string yaml)
    {
        var plain = new DeserializerBuilder()
            .WithAttemptingUnquotedStringTypeDeserialization()
            .Build()
            .Deserialize<object>(yaml);
        return new SerializerBuilder().JsonCompatible().Build().Serialize(plain);
    }
}
