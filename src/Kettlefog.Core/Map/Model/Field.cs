namespace Kettlefog.Core.Map.Model;

/// <summary>A field of a record type.</summary>
/// <param name="Name">Its name in commands and choices.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Column">The column that holds it.</param>
/// <param name="Kind">What the value means.</param>
/// <param name="Survivorship">Its own survivorship rule, or null for the type's.</param>
/// <param name="Group">The heading under which it is shown, or null.</param>
/// <param name="Separator">The separator between the members of a set, or null to detect it from the values.</param>
/// <param name="Overflow">
/// The fields that take values which do not survive here, such as a second phone, in order.
/// </param>
public sealed record Field(
    string Name,
    string Title,
    string Column,
    FieldKind Kind,
    SurvivorshipRule? Survivorship,
    string? Group,
    string? Separator = null,
    IReadOnlyList<string>? Overflow = null
)
{
    /// <summary>
    /// The related rows that take values which do not survive and fit no further field; null for none.
    /// </summary>
    public OverflowRows? OverflowRows { get; init; }

    /// <summary>For an amount of money, the field with its currency; null if there is only one currency.</summary>
    public string? Currency { get; init; }
}

/// <summary>Related rows, such as further e-mail addresses, that take values which do not survive in a field.</summary>
/// <param name="Reference">The reference that they have; its table needs a primary key.</param>
/// <param name="Column">The column that takes the value.</param>
/// <param name="Values">The values of the other columns of a new row.</param>
public sealed record OverflowRows(string Reference, string Column, IReadOnlyDictionary<string, string> Values);
