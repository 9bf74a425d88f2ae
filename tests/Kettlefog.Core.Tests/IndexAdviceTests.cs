using Kettlefog.Core.Map.Checking;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Schema;
using Kettlefog.Testing;

namespace Kettlefog.Core.Tests;

/// <summary>A reference without an index is reported, with the statement that creates one.</summary>
public class IndexAdviceTests
{
    [Theory]
    [InlineData("id", "", "", false)]
    [InlineData("vendor", "", "", true)]
    [InlineData("vendor,id", "", "", true)]
    [InlineData("id,vendor", "", "", false)]
    [InlineData("id", "vendor,day", "", true)]
    [InlineData("id", "day,vendor", "", false)]
    [InlineData("id", "", "vendor", true)]
    [InlineData("id", "", "kind,vendor", false)]
    public void An_index_helps_if_it_begins_with_the_columns_that_are_known(
        string primary,
        string unique,
        string index,
        bool served
    ) => (IndexAdvice.Of(Reference("columns: vendor"), Table("bill", primary, unique, index)) is null).ShouldBe(served);

    [Fact]
    public void Of_a_reference_under_a_condition_the_condition_may_come_first()
    {
        var note = Reference("columns: vendor, when: { kind: vendor }");
        IndexAdvice.Of(note, Table("bill", "id", "", "kind,vendor")).ShouldBeNull();
        IndexAdvice.Of(note, Table("bill", "id", "", "vendor,kind")).ShouldBeNull();
        IndexAdvice
            .Of(note, Table("bill", "id", "", "day,kind,vendor"))!
            .Statement.ShouldBe("CREATE INDEX bill_kind_vendor ON bill (kind, vendor);");
    }

    [Fact]
    public void The_statement_quotes_what_must_be_quoted()
    {
        var advice = IndexAdvice.Of(Reference("columns: vendor"), Table("Bill \"x\"", "id", "", ""))!;
        advice.Warning.ShouldBe("Rows: no index on Bill \"x\" (vendor), so the whole table is read for every record.");
        advice.Statement.ShouldBe("CREATE INDEX \"Bill \"\"x\"\"_vendor\" ON \"Bill \"\"x\"\"\" (vendor);");
    }

    private static Reference Reference(string body) =>
        MapReader
            .Read(
                TestMap.Of(
                    "vendor",
                    $$"""
                    fields: { name: }
                    references: { rows: { table: bill, {{body}} } }
                    """
                ),
                "m.yaml"
            )
            .Map.RecordTypes[0]
            .References[0];

    private static TableSchema Table(string name, string primary, string unique, string index) =>
        new(
            name,
            [
                .. new[] { "id", "vendor", "kind", "day" }.Select(column => new ColumnSchema(
                    column,
                    "TEXT",
                    null,
                    false,
                    null,
                    false
                )),
            ],
            primary.Split(','),
            unique.Length == 0 ? [] : [UniqueKey.Of("u", unique.Split(','))],
            [],
            false,
            Indexes: index.Length == 0 ? [] : [index.Split(',')]
        );
}
