using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Tests;

public class TypedValueTests
{
    [Theory]
    [InlineData(FieldKind.Email, "office@example.com")]
    [InlineData(FieldKind.Phone, "+44 (0)1632 960118 ext. 4")]
    [InlineData(FieldKind.Country, "NO")]
    [InlineData(FieldKind.Currency, "NOK")]
    [InlineData(FieldKind.Date, "2024-02-29")]
    [InlineData(FieldKind.Timestamp, "2026-03-09T14:30:00Z")]
    [InlineData(FieldKind.Money, "-1234.50")]
    [InlineData(FieldKind.Integer, "-7")]
    [InlineData(FieldKind.Flag, "1")]
    [InlineData(FieldKind.Url, "https://example.com/a?b=c")]
    [InlineData(FieldKind.OrganisationName, "Møller & Døtre «Fløy»")]
    public void A_value_of_its_kind_is_taken_as_it_is(FieldKind kind, string text) =>
        Read(kind, $"  {text} ").ToText().ShouldBe(text);

    [Theory]
    [InlineData(FieldKind.Email, "office at example", "not an e-mail address", "office@example.com")]
    [InlineData(FieldKind.Email, "a@b", "not an e-mail address", "office@example.com")]
    [InlineData(FieldKind.Phone, "ask Maud", "not a phone number", "7946")]
    [InlineData(FieldKind.Country, "gb", "ISO 3166", "GB")]
    [InlineData(FieldKind.Currency, "Euro", "ISO 4217", "EUR")]
    [InlineData(FieldKind.Date, "2023-02-29", "not a date", "2026-03-09")]
    [InlineData(FieldKind.Date, "9.3.2026", "not a date", "2026-03-09")]
    [InlineData(FieldKind.Timestamp, "yesterday", "not a point in time", "T14:30")]
    [InlineData(FieldKind.Money, "1,234.50", "not an amount", "1234.50")]
    [InlineData(FieldKind.Integer, "7.5", "not a whole number", "30")]
    [InlineData(FieldKind.Flag, "maybe", "not a yes or no", "1 for yes")]
    [InlineData(FieldKind.Url, "ftp://example.com", "not a web address", "https://")]
    [InlineData(FieldKind.Text, "two\nlines", "more than one line", "one line")]
    [InlineData(FieldKind.Text, "nul\0", "NUL", "Remove it")]
    public void A_value_of_another_kind_is_refused_with_an_example(
        FieldKind kind,
        string text,
        string message,
        string hint
    )
    {
        var refusal = Should.Throw<KettlefogException>(() => Read(kind, text));
        refusal.Code.ShouldBe(ErrorCode.InvalidValue);
        refusal.Message.ShouldContain(message);
        refusal.Hint.ShouldNotBeNull().ShouldContain(hint);
    }

    [Fact]
    public void A_value_too_long_for_its_column_is_refused()
    {
        Read(FieldKind.Text, new string('x', 40)).ToText()!.Length.ShouldBe(40);
        Should
            .Throw<KettlefogException>(() => Read(FieldKind.Text, new string('x', 41)))
            .Message.ShouldContain("41 characters, but the column c allows 40");
    }

    [Fact]
    public void Nothing_typed_is_a_blank_as_the_column_can_hold_it()
    {
        Read(FieldKind.Text, "  ").ShouldBe(ColumnValue.Null);
        Read(FieldKind.Text, "", notNull: true).ShouldBe(ColumnValue.Of(""));
        var number = new ColumnSchema("c", "INTEGER", StorageClass.Integer, true, null, false);
        Should
            .Throw<KettlefogException>(() => TypedValue.Read(FieldOf(FieldKind.Integer), number, ""))
            .Message.ShouldContain("does not allow that");
    }

    private static ColumnValue Read(FieldKind kind, string text, bool notNull = false) =>
        TypedValue.Read(
            FieldOf(kind),
            new ColumnSchema("c", "VARCHAR(40)", StorageClass.Text, notNull, 40, false),
            text
        );

    private static Field FieldOf(FieldKind kind) => new("f", "Field", "c", kind, null, null);
}
