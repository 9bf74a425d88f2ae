using System.Globalization;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Text;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>
/// Values in a normal form by kind, so that one phone number or hull number in two spellings is the same.
/// </summary>
internal static class NormalisedValue
{
    /// <summary>
    /// A value without its spelling: two values with the same form are the same number or e-mail address, so one need
    /// not be kept. For all other kinds only case is ignored.
    /// </summary>
    /// <param name="kind">The kind of the value.</param>
    /// <param name="value">The value; not blank.</param>
    public static string Spelt(FieldKind kind, ColumnValue value)
    {
        var text = value.ToText()!.Trim();
        switch (kind)
        {
            case FieldKind.Phone:
                // Without its country a number is compared by its national part, which begins after the trunk zero.
                var digits = string.Concat(text.Where(char.IsAsciiDigit));
                return digits.Length > 9 ? digits[^9..] : digits.TrimStart('0');
            case FieldKind.Email:
                return EmailReader.Read(text) is var (local, host) ? $"{local}@{host}" : text.ToLowerInvariant();
            default:
                return text.ToLowerInvariant();
        }
    }

    /// <summary>A value without accents and separators: records with the same form are offered as duplicates.</summary>
    /// <param name="kind">The kind of the value.</param>
    /// <param name="value">The value; not blank.</param>
    public static string Said(FieldKind kind, ColumnValue value) =>
        kind switch
        {
            FieldKind.Phone or FieldKind.Email or FieldKind.Url => Spelt(kind, value),
            FieldKind.Code
            or FieldKind.Identifier
            or FieldKind.TaxNumber
            or FieldKind.BankAccount
            or FieldKind.Postcode => Letters(value.ToText()!, between: ""),
            FieldKind.Money or FieldKind.Number or FieldKind.Integer when value.TryGetDecimal(out var number) =>
                number.ToString("0.#############################", CultureInfo.InvariantCulture),
            _ => Letters(value.ToText()!, between: " "),
        };

    /// <summary>Letters and digits without case and accents; all separators count as the same.</summary>
    private static string Letters(string text, string between)
    {
        var words = string.Concat(FoldedText.Of(text).Select(letter => char.IsLetterOrDigit(letter) ? letter : ' '))
            .Split(' ', StringSplitOptions.RemoveEmptyEntries);
        return words.Length == 0 ? text.Trim() : string.Join(between, words);
    }
}
