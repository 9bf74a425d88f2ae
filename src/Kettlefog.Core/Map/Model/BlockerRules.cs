namespace Kettlefog.Core.Map.Model;

/// <summary>A blocker: at most one of the records may have certain related rows, such as running agreements.</summary>
/// <param name="Name">Its name in choices; that of the reference if the map gives none.</param>
/// <param name="Title">The title of the rows.</param>
/// <param name="Reference">The reference whose rows they are.</param>
/// <param name="When">
/// Columns, and the text that each must have for a row to count, or null for blank; empty for all rows.
/// </param>
/// <param name="End">
/// The columns and values that end a duplicate's row when an operator chooses that; <c>{date}</c> is
/// the day of the merge, null is blank. Empty if the rows cannot be ended.
/// </param>
public sealed record AtMostOneRule(
    string Name,
    string Title,
    string Reference,
    IReadOnlyDictionary<string, string?> When,
    IReadOnlyDictionary<string, string?> End
)
{
    /// <summary>The placeholder for the day of the merge in <see cref="End"/>.</summary>
    public const string DatePlaceholder = "{date}";
}

/// <summary>The conditions that block a merge until they are cleared.</summary>
/// <param name="MustAgree">Fields that must not differ between the records, such as currency or legal entity.</param>
/// <param name="Forbid">Fields, and the values that no record of a merge may have.</param>
/// <param name="AtMostOne">Related rows that at most one of the records may have, such as running agreements.</param>
public sealed record BlockerRules(
    IReadOnlyList<string> MustAgree,
    IReadOnlyDictionary<string, IReadOnlyList<string>> Forbid,
    IReadOnlyList<AtMostOneRule> AtMostOne
);
