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

    /// <summary>The digits 1, 2, 3 … with the check digits worked out by hand from the published rules.</summary>
    [Theory]
    [InlineData("BE0123456749")]
    [InlineData("CHE-123.456.788 MWST")]
    [InlineData("DE123456788")]
    [InlineData("DK 12 34 56 74")]
    [InlineData("FI12345671")]
    [InlineData("FR32123456789")]
    [InlineData("GB 123 4567 82")]
    [InlineData("IT12345678903")]
    [InlineData("LU12345613")]
    [InlineData("NO123456785MVA")]
    [InlineData("PL1234567883")]
    [InlineData("PT123456789")]
    [InlineData("SE123456789701")]
    public void A_tax_number_has_the_check_digits_of_its_country(string number)
    {
        Read(FieldKind.TaxNumber, number).ToText().ShouldBe(number);

        // Another digit in any place is found out; of the two British ways one may hide what the other one finds.
        if (number.StartsWith("GB", StringComparison.Ordinal))
            return;
        for (var place = number.StartsWith("SE", StringComparison.Ordinal) ? 11 : number.Length - 1; place > 1; place--)
        {
            if (!char.IsAsciiDigit(number[place]))
                continue;
            var other = number[..place] + (char)('0' + (number[place] - '0' + 1) % 10) + number[(place + 1)..];
            Should
                .Throw<KettlefogException>(() => Read(FieldKind.TaxNumber, other), other)
                .Message.ShouldContain("is not a tax number");
        }
    }

    [Theory]
    [InlineData("NL123456789B01")]
    [InlineData("ATU12345678")]
    [InlineData("12-3456789")]
    [InlineData("12/345/67890")]
    public void A_tax_number_without_published_check_digits_is_taken_by_its_form(string number) =>
        Read(FieldKind.TaxNumber, number).ToText().ShouldBe(number);

    [Theory]
    [InlineData("GB82 WEST 1234 5698 7654 32")]
    [InlineData("12-34-56 12345678")]
    public void A_bank_account_is_an_IBAN_that_fits_or_a_national_number(string account) =>
        Read(FieldKind.BankAccount, account).ToText().ShouldBe(account);

    [Theory]
    [InlineData(FieldKind.BankAccount, "GB28 WEST 1234 5698 7654 32", "check digits do not fit")]
    [InlineData(FieldKind.BankAccount, "GB82 WEST 1234 5698 7654", "an IBAN of GB has 22 characters, not 20")]
    [InlineData(FieldKind.BankAccount, "QQ82 1234 5678", "no IBAN begins with QQ")]
    [InlineData(FieldKind.BankAccount, "ask Maud", "is not a bank account number")]
    [InlineData(FieldKind.TaxNumber, "DE12345", "one that begins with DE has another form")]
    [InlineData(FieldKind.TaxNumber, "applied for", "is not a tax number")]
    [InlineData(FieldKind.Country, "XX", "is not a country of ISO 3166-1")]
    [InlineData(FieldKind.Currency, "EUX", "is not a currency of ISO 4217")]
    [InlineData(FieldKind.Phone, "+999 1632 960118", "is not a phone number")]
    [InlineData(FieldKind.Phone, "+44 1632 9601180000", "is not a phone number")]
    [InlineData(FieldKind.Phone, "1234567890123456", "is not a phone number")]
    [InlineData(FieldKind.Postcode, "SM1 4QD!", "is not a postcode")]
    public void A_number_that_cannot_be_right_is_refused_in_the_words_of_its_kind(
        FieldKind kind,
        string text,
        string wrong
    ) => Should.Throw<KettlefogException>(() => Read(kind, text)).Message.ShouldContain(wrong);

    [Theory]
    [InlineData("GB", "SM1 4QD", "SM14")]
    [InlineData("NL", "1012 JS", "0123 AB")]
    [InlineData("NO", "0150", "150")]
    [InlineData("US", "20500-0003", "2050")]
    public void A_postcode_has_the_form_of_its_country(string country, string right, string wrong)
    {
        Read(FieldKind.Postcode, right, country: country).ToText().ShouldBe(right);
        var refusal = Should.Throw<KettlefogException>(() => Read(FieldKind.Postcode, wrong, country: country));
        refusal.Message.ShouldContain($"is not a postcode of {country}");
        Read(FieldKind.Postcode, refusal.Hint!["Write it as in ".Length..^1], country: country).IsBlank.ShouldBeFalse();
        Read(FieldKind.Postcode, wrong).ToText().ShouldBe(wrong);
    }

    [Fact]
    public void What_a_record_has_already_is_taken_whatever_its_form()
    {
        var known = ColumnValue.Of("GB404118207 (old)");
        Read(FieldKind.TaxNumber, "GB404118207 (old)", known: known).ShouldBe(known);
        Should.Throw<KettlefogException>(() => Read(FieldKind.TaxNumber, "GB404118207 (new)", known: known));
    }

    [Fact]
    public void A_column_with_a_list_of_values_takes_no_other()
    {
        var column = new ColumnSchema("status", "TEXT", StorageClass.Text, false, null, false)
        {
            Allowed = ["open", "closed"],
        };
        TypedValue.Read(FieldOf(FieldKind.Code), column, "closed", [], null).ToText().ShouldBe("closed");
        var refusal = Should.Throw<KettlefogException>(() =>
            TypedValue.Read(FieldOf(FieldKind.Code), column, "shut", [], null)
        );
        refusal.Message.ShouldContain("'shut' is not one of the values that the column status allows");
        refusal.Hint.ShouldBe("Write one of: open, closed.");
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
            .Throw<KettlefogException>(() => TypedValue.Read(FieldOf(FieldKind.Integer), number, "", [], null))
            .Message.ShouldContain("does not allow that");
    }

    private static ColumnValue Read(
        FieldKind kind,
        string text,
        bool notNull = false,
        ColumnValue? known = null,
        string? country = null
    ) =>
        TypedValue.Read(
            FieldOf(kind),
            new ColumnSchema("c", "VARCHAR(40)", StorageClass.Text, notNull, 40, false),
            text,
            known is { } value ? [value] : [],
            country
        );

    private static Field FieldOf(FieldKind kind) => new("f", "Field", "c", kind, null, null);
}
