using CsCheck;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Tests;

public class ColumnValueTests
{
    internal static readonly Gen<ColumnValue> AnyValue = Gen.OneOf(
        Gen.Const(ColumnValue.Null),
        Gen.Long.Select(ColumnValue.Of),
        Gen.Double.Select(ColumnValue.Of),
        Gen.String.Select(ColumnValue.Of),
        Gen.Byte.Array[0, 12].Select(ColumnValue.Of)
    );

    [Fact]
    public void The_encoding_of_a_value_is_equal_exactly_if_the_value_is() =>
        Gen.Select(AnyValue, AnyValue)
            .Sample(
                (left, right) => (Encode(left) == Encode(right)) == (left == right) && Encode(left) == Encode(left)
            );

    [Fact]
    public void A_list_of_values_is_encoded_without_ambiguity() =>
        Gen.Select(Gen.String, Gen.String, Gen.String, Gen.String)
            .Sample(
                (a, b, c, d) =>
                    (Encode(ColumnValue.Of(a), ColumnValue.Of(b)) == Encode(ColumnValue.Of(c), ColumnValue.Of(d)))
                    == (a == c && b == d)
            );

    [Fact]
    public void One_as_integer_real_and_text_are_three_values()
    {
        ColumnValue[] ones = [ColumnValue.Of(1L), ColumnValue.Of(1.0), ColumnValue.Of("1"), ColumnValue.Of([49])];
        ones.Distinct().Count().ShouldBe(4);
    }

    [Theory]
    [InlineData(null, true)]
    [InlineData("", true)]
    [InlineData(" \t\u00a0", true)]
    [InlineData("0", false)]
    public void White_space_only_is_blank(string? text, bool blank) => ColumnValue.Of(text).IsBlank.ShouldBe(blank);

    [Fact]
    public void A_real_is_taken_at_its_shortest_form_when_amounts_are_added()
    {
        var sum = Enumerable
            .Repeat(ColumnValue.Of(0.1), 10)
            .Sum(value => value.TryGetDecimal(out var number) ? number : throw new InvalidOperationException());
        sum.ShouldBe(1.0m);
    }

    [Fact]
    public void What_is_no_number_is_no_amount()
    {
        ColumnValue.Of("abc").TryGetDecimal(out _).ShouldBeFalse();
        ColumnValue.Null.TryGetDecimal(out _).ShouldBeFalse();
        ColumnValue.Of(double.PositiveInfinity).TryGetDecimal(out _).ShouldBeFalse();
    }

    [Theory]
    [InlineData("INTEGER", "9007199254740993", StorageClass.Integer)]
    [InlineData("TEXT", "007", StorageClass.Text)]
    [InlineData("NUMERIC", "12.5", StorageClass.Real)]
    [InlineData("NUMERIC", "007", StorageClass.Text)]
    [InlineData("NUMERIC", "1.50", StorageClass.Text)]
    [InlineData("NUMERIC", "2026-03-02", StorageClass.Text)]
    [InlineData("REAL", "0.30", StorageClass.Real)]
    public void A_column_reads_a_text_without_losing_what_is_written(string type, string text, StorageClass expected)
    {
        StorageClass? storage = type switch
        {
            "INTEGER" => StorageClass.Integer,
            "TEXT" => StorageClass.Text,
            "REAL" => StorageClass.Real,
            _ => null,
        };
        new ColumnSchema("c", type, storage, false, null, false).TryRead(text)!.Value.Storage.ShouldBe(expected);
    }

    [Fact]
    public void A_number_that_a_real_cannot_hold_exactly_is_refused() =>
        new ColumnSchema("c", "REAL", StorageClass.Real, false, null, false)
            .TryRead("0.1234567890123456789")
            .ShouldBeNull();

    private static string Encode(params ColumnValue[] values)
    {
        using var digest = new Sha256Digest();
        foreach (var value in values)
            digest.Add(value);
        return Convert.ToHexString(digest.Finish());
    }
}
