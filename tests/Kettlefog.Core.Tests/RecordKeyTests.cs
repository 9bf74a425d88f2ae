using CsCheck;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Tests;

public class RecordKeyTests
{
    private static readonly ColumnSchema Text = new("code", "TEXT", StorageClass.Text, true, null, false);
    private static readonly ColumnSchema Number = new("id", "INTEGER", StorageClass.Integer, true, null, false);

    [Fact]
    public void A_composite_key_survives_its_text_form() =>
        Gen.Select(Gen.String, Gen.Long, Gen.String[Gen.Char["|\\ab"], 0, 6])
            .Sample(
                (text, number, hostile) =>
                {
                    var key = new RecordKey(ColumnValue.Of(text), ColumnValue.Of(number), ColumnValue.Of(hostile));
                    return RecordKeyParser.Parse(key.ToString(), [Text, Number, Text]).Equals(key);
                }
            );

    [Fact]
    public void Keys_beyond_what_a_double_holds_stay_exact()
    {
        RecordKeyParser.Parse("9007199254740993", [Number]).Parts[0].Raw.ShouldBe(9007199254740993L);
        RecordKeyParser.Parse("-1", [Number]).ToString().ShouldBe("-1");
    }

    [Theory]
    [InlineData("abc")]
    [InlineData("1.5")]
    [InlineData("")]
    [InlineData("99999999999999999999")]
    public void A_text_that_is_no_whole_number_is_refused_with_the_column(string text)
    {
        var refusal = Should.Throw<KettlefogException>(() => RecordKeyParser.Parse(text, [Number]));
        refusal.Code.ShouldBe(ErrorCode.InvalidKey);
        refusal.Message.ShouldContain("id");
    }

    [Fact]
    public void The_wrong_number_of_parts_is_refused() =>
        Should
            .Throw<KettlefogException>(() => RecordKeyParser.Parse("a|b", [Text]))
            .Message.ShouldContain("2 part(s), but 1");
}
