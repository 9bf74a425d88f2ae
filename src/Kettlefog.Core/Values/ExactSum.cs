using System.Globalization;

namespace Kettlefog.Core.Values;

/// <summary>
/// An exact sum of amounts, or why there is none: not every table holds only numbers where it should.
/// </summary>
/// <param name="Total">The sum; null if it cannot be computed.</param>
/// <param name="Fault">Why not, in words without a full stop; null if it was computed.</param>
public readonly record struct ExactSum(decimal? Total, string? Fault)
{
    /// <summary>The mark before a value that is no number, where a database computes the sum.</summary>
    public const char FaultMark = '?';

    private const string NotComputable = "not computable: ";

    private const string TooLarge = "the sum has more digits than can be computed exactly";

    /// <summary>Reads a sum that a database computed.</summary>
    /// <param name="text">
    /// A decimal; or <see cref="FaultMark"/> and a value that is no number; null over no amounts.
    /// </param>
    public static ExactSum Read(string? text) =>
        text is null ? new ExactSum(0, null)
        : text.StartsWith(FaultMark) ? new ExactSum(null, $"'{text[1..]}' is not a number")
        : text.StartsWith(NotComputable, StringComparison.Ordinal) ? new ExactSum(null, text[NotComputable.Length..])
        : decimal.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var sum)
            ? new ExactSum(sum, null)
        : IsHuge(text) ? new ExactSum(null, TooLarge)
        : new ExactSum(null, $"'{text}' is not a number");

    /// <summary>True if a text is a number that no decimal holds.</summary>
    /// <param name="text">The text.</param>
    public static bool IsHuge(string text) =>
        double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var real)
        && double.IsFinite(real)
        && !decimal.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out _);

    /// <summary>The sum of some values; NULL and blank texts count as nothing.</summary>
    /// <param name="values">The values.</param>
    public static ExactSum Of(IEnumerable<ColumnValue> values)
    {
        ArgumentNullException.ThrowIfNull(values);
        var total = new ExactSum(0, null);
        foreach (var value in values.Where(value => !value.IsBlank))
            total = total.Plus(value.TryGetDecimal(out var number) ? new ExactSum(number, null) : Read(value.ToText()));
        return total;
    }

    /// <summary>The sum of two.</summary>
    /// <param name="other">The other.</param>
    public ExactSum Plus(ExactSum other)
    {
        if (Total is not { } one || other.Total is not { } two)
            return new ExactSum(null, Fault ?? other.Fault);
        try
        {
            return new ExactSum(one + two, null);
        }
        catch (OverflowException)
        {
            return new ExactSum(null, TooLarge);
        }
    }

    /// <summary>The difference to another.</summary>
    /// <param name="other">The other.</param>
    public ExactSum Minus(ExactSum other) => Plus(other with { Total = -other.Total });

    /// <summary>The sum as the value of a figure: a decimal, or a text that says why there is none.</summary>
    public ColumnValue ToValue() =>
        ColumnValue.Of(Total is { } total ? total.ToString(CultureInfo.InvariantCulture) : NotComputable + Fault);
}
