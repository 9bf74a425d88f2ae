using Kettlefog.Core.Text;

namespace Kettlefog.Core.Map.Model;

/// <summary>
/// Recognises placeholders for missing values in fields, more carefully than <see cref="Junk"/> does for comparing:
/// where a short word or number may be a value, it is one.
/// </summary>
internal static class Placeholder
{
    /// <summary>Words that answer a question in a free text.</summary>
    private static readonly HashSet<string> Answers =
    [
        "no",
        "none",
        "same",
        "void",
        "x",
        "0",
        "00",
        "000",
        "blank",
        "empty",
        "test",
        "refused",
        "withheld",
    ];

    /// <summary>True if a value of a field stands for a missing one.</summary>
    /// <param name="kind">The kind of the field.</param>
    /// <param name="value">The value.</param>
    public static bool Is(FieldKind kind, string value)
    {
        var text = value.Trim().ToLowerInvariant();
        return kind switch
        {
            // Codes and numbers may be anything: NA is Namibia, and 11 a term of payment.
            FieldKind.Code
            or FieldKind.Country
            or FieldKind.Region
            or FieldKind.Currency
            or FieldKind.NameSuffix
            or FieldKind.HouseNumber
            or FieldKind.Unit
            or FieldKind.Date
            or FieldKind.BirthDate
            or FieldKind.Timestamp
            or FieldKind.Money
            or FieldKind.Number
            or FieldKind.Integer
            or FieldKind.Flag => false,
            FieldKind.Text or FieldKind.LongText => IsWord(text) && !Answers.Contains(text),

            // Na and No are given names, and Xi a family.
            FieldKind.GivenName or FieldKind.MiddleName or FieldKind.FamilyName => IsWord(text)
                && !(text.Length == 2 && text.All(char.IsLetter)),
            FieldKind.Phone or FieldKind.TaxNumber or FieldKind.BankAccount or FieldKind.Identifier => Junk.IsJunk(
                text
            ),
            _ => IsWord(text),
        };
    }

    private static bool IsWord(string text) =>
        WordLists.JunkValues.Contains(text)
        || (text.Length > 0 && text.All(letter => !char.IsLetterOrDigit(letter) && !char.IsSurrogate(letter)));
}
