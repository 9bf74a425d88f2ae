using System.Globalization;
using System.Text.RegularExpressions;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>Reads values that a person typed.</summary>
public static partial class TypedValue
{
    /// <summary>Reads a value for a field.</summary>
    /// <param name="field">The field, whose kind determines what is allowed.</param>
    /// <param name="column">The field's column, whose type and length limit the value.</param>
    /// <param name="text">The text as typed; surrounding white space is ignored, and empty means blank.</param>
    /// <exception cref="KettlefogException">The text is not of the kind, or does not fit the column.</exception>
    public static ColumnValue Read(Field field, ColumnSchema column, string text)
    {
        ArgumentNullException.ThrowIfNull(field);
        ArgumentNullException.ThrowIfNull(column);
        ArgumentNullException.ThrowIfNull(text);
        var typed = text.Trim();
        if (typed.Length == 0)
            return Blank(field, column);
        if (typed.Contains('\0'))
            throw Invalid(field, "holds a NUL character", "Remove it.");
        if (field.Kind != FieldKind.LongText && typed.AsSpan().IndexOfAny('\r', '\n') >= 0)
            throw Invalid(field, "has more than one line", "Write it on one line.");
        if (Mistake(field.Kind, typed) is { } mistake)
            throw Invalid(field, $"'{Shorten(typed)}' is not {mistake.Kind}", $"Write it as in {mistake.Example}.");
        if (column.MaxLength is { } limit && !column.HasRoomFor(typed))
            throw Invalid(
                field,
                $"has {CharacterText.Count(typed)} characters, but the column {column.Name} allows {limit}",
                "Shorten it."
            );
        return column.TryRead(typed)
            ?? throw Invalid(
                field,
                $"'{Shorten(typed)}' does not fit the column {column.Name} ({column.DeclaredType})",
                "Write a value of that type."
            );
    }

    private static ColumnValue Blank(Field field, ColumnSchema column)
    {
        if (!column.NotNull)
            return ColumnValue.Null;
        if (column.Storage == StorageClass.Text)
            return ColumnValue.Of("");
        throw Invalid(
            field,
            $"is blank, but the column {column.Name} does not allow that",
            "Type a value or take one from a record."
        );
    }

    private static (string Kind, string Example)? Mistake(FieldKind kind, string text) =>
        kind switch
        {
            FieldKind.Email when !EmailPattern().IsMatch(text) => ("an e-mail address", "office@example.com"),
            FieldKind.Phone when !PhonePattern().IsMatch(text) || text.Count(char.IsAsciiDigit) is < 3 or > 20 => (
                "a phone number",
                "+44 20 7946 0321"
            ),
            FieldKind.Country when !CountryPattern().IsMatch(text) => ("a country of ISO 3166-1", "GB or NO"),
            FieldKind.Currency when !CurrencyPattern().IsMatch(text) => ("a currency of ISO 4217", "EUR or GBP"),
            FieldKind.Date
                when !DateOnly.TryParseExact(
                    text,
                    "yyyy-MM-dd",
                    CultureInfo.InvariantCulture,
                    DateTimeStyles.None,
                    out _
                ) => ("a date", "2026-03-09"),
            FieldKind.Timestamp
                when !TimestampPattern().IsMatch(text)
                    || !DateTimeOffset.TryParse(text, CultureInfo.InvariantCulture, out _) => (
                "a point in time",
                "2026-03-09T14:30:00Z"
            ),
            FieldKind.Money
            or FieldKind.Number
                when !decimal.TryParse(
                    text,
                    NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint,
                    CultureInfo.InvariantCulture,
                    out _
                ) => (kind == FieldKind.Money ? "an amount" : "a number", "1234.50"),
            FieldKind.Integer
                when !long.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out _) => (
                "a whole number",
                "30"
            ),
            FieldKind.Flag when text is not ("0" or "1") => ("a yes or no", "1 for yes, 0 for no"),
            FieldKind.Url
                when !Uri.TryCreate(text, UriKind.Absolute, out var uri) || uri.Scheme is not ("http" or "https") => (
                "a web address",
                "https://example.com"
            ),
            _ => null,
        };

    private static KettlefogException Invalid(Field field, string wrong, string hint) =>
        new(
            ErrorCode.InvalidValue,
            $"The value for {field.Title} {(wrong.StartsWith('\'') ? "is wrong: " : "")}{wrong}.",
            hint
        );

    private static string Shorten(string text) => text.Length <= 60 ? text : text[..59] + "…";

    [GeneratedRegex(@"^[^\s@]+@[^\s@.]+(\.[^\s@.]+)+$")]
    private static partial Regex EmailPattern();

    [GeneratedRegex(@"^[+0-9(][0-9 ()./\-]*( ?(x|ext\.?|#) ?[0-9]+)?$", RegexOptions.IgnoreCase)]
    private static partial Regex PhonePattern();

    [GeneratedRegex("^[A-Z]{2}$")]
    private static partial Regex CountryPattern();

    [GeneratedRegex("^[A-Z]{3}$")]
    private static partial Regex CurrencyPattern();

    [GeneratedRegex(@"^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}")]
    private static partial Regex TimestampPattern();
}
