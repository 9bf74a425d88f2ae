using System.Globalization;
using System.Text.RegularExpressions;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Text;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>Reads values that a person typed.</summary>
public static partial class TypedValue
{
    /// <summary>Reads a value for a field.</summary>
    /// <param name="field">The field, whose kind determines what is allowed.</param>
    /// <param name="column">The field's column, whose type and length limit the value.</param>
    /// <param name="text">The text as typed; surrounding white space is ignored, and empty means blank.</param>
    /// <param name="known">
    /// The values that the records have: to type one of them is to choose it, whatever its form.
    /// </param>
    /// <param name="country">The country of the record, by which its postcode is checked; null if unknown.</param>
    /// <exception cref="KettlefogException">The text is not of the kind, or does not fit the column.</exception>
    public static ColumnValue Read(
        Field field,
        ColumnSchema column,
        string text,
        IReadOnlyList<ColumnValue> known,
        string? country
    )
    {
        ArgumentNullException.ThrowIfNull(field);
        ArgumentNullException.ThrowIfNull(column);
        ArgumentNullException.ThrowIfNull(text);
        ArgumentNullException.ThrowIfNull(known);
        var typed = text.Trim();
        if (typed.Length == 0)
            return Blank(field, column);
        if (typed.Contains('\0'))
            throw Invalid(field, "holds a NUL character", "Remove it.");
        if (field.Kind != FieldKind.LongText && typed.AsSpan().IndexOfAny('\r', '\n') >= 0)
            throw Invalid(field, "has more than one line", "Write it on one line.");
        var isKnown = known.Any(value => value.ToText() == typed);
        if (!isKnown && Mistake(field.Kind, typed, country) is { } mistake)
            throw Invalid(field, $"'{Shorten(typed)}' {mistake.Wrong}", mistake.Hint);
        if (column.MaxLength is { } limit && !column.HasRoomFor(typed))
            throw Invalid(
                field,
                $"has {CharacterText.Count(typed)} characters, but the column {column.Name} allows {limit}",
                "Shorten it."
            );
        if (column.Allowed is { } allowed && !allowed.Contains(typed))
            throw Invalid(
                field,
                $"'{Shorten(typed)}' is not one of the values that the column {column.Name} allows",
                $"Write one of: {string.Join(", ", allowed)}."
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

    /// <summary>What is wrong with a text, as the rest of a sentence, and what to do; null if nothing is.</summary>
    private static (string Wrong, string Hint)? Mistake(FieldKind kind, string text, string? country)
    {
        const string compare = "Compare it with the document that it comes from.";
        return kind switch
        {
            FieldKind.TaxNumber when TaxNumbers.Mistake(text) is { } wrong => (wrong, compare),
            FieldKind.BankAccount when BankAccounts.Mistake(text) is { } wrong => (wrong, compare),
            FieldKind.Postcode when Postcodes.ExampleInstead(text, country) is { } example => (
                country is null ? "is not a postcode" : $"is not a postcode of {country}",
                $"Write it as in {example}."
            ),
            _ when Misread(kind, text) is { } instead => (
                $"is not {instead.Kind}",
                $"Write it as in {instead.Example}."
            ),
            _ => null,
        };
    }

    private static (string Kind, string Example)? Misread(FieldKind kind, string text) =>
        kind switch
        {
            FieldKind.Email when !EmailPattern().IsMatch(text) => ("an e-mail address", "office@example.com"),
            FieldKind.Phone when !IsPhone(text) => ("a phone number", "+44 20 7946 0321"),
            FieldKind.Country when Countries.CodeOf(text) != text => ("a country of ISO 3166-1", "GB or NO"),
            FieldKind.Currency when !Currencies.IsCode(text) => ("a currency of ISO 4217", "EUR or GBP"),
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

    /// <summary>
    /// A number of at most fifteen digits (E.164); one in international form has as many as its country's have.
    /// </summary>
    private static bool IsPhone(string text)
    {
        if (!PhonePattern().IsMatch(text))
            return false;
        var number = PhoneExtension().Replace(text, "");
        return number.Count(char.IsAsciiDigit) is >= 3 and <= 15
            && (!number.StartsWith('+') || PhoneReader.IsPossible(number));
    }

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

    [GeneratedRegex(" ?(x|ext\\.?|#) ?[0-9]+$", RegexOptions.IgnoreCase)]
    private static partial Regex PhoneExtension();

    [GeneratedRegex(@"^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}")]
    private static partial Regex TimestampPattern();
}
