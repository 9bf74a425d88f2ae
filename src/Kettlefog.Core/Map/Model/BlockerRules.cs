namespace Kettlefog.Core.Map.Model;

/// <summary>
/// A blocker: of some related rows, such as running agreements, one of the records at most may have any.
/// </summary>
/// <param name="Name">Its name in choices; that of the reference if the map gives none.</param>
/// <param name="Title">What the rows are called.</param>
/// <param name="Reference">The reference whose rows they are.</param>
/// <param name="When">
/// Columns, and the text that each must have for a row to count, or null for blank; empty for all rows.
/// </param>
/// <param name="End">
/// Columns that are set, and to what, when an operator lets the rows of the duplicates end; <c>{date}</c> stands for
/// the day of the merge, null for blank. Empty if they cannot be ended.
/// </param>
public sealed record AtMostOneRule(
    string Name,
    string Title,
    string Reference,
    IReadOnlyDictionary<string, string?> When,
    IReadOnlyDictionary<string, string?> End
)
{
    /// <summary>What stands for the day of the merge in <see cref="End"/>.</summary>
    public const string DatePlaceholder = "{date}";
}

/// <summary>What forbids a merge until it is cleared.</summary>
/// <param name="MustAgree">Fields that must not differ between the records, such as currency or legal entity.</param>
/// <param name="Forbid">Fields, and the values that a record to be merged must not have.</param>
/// <param name="AtMostOne">
/// Related rows of which one of the records at most may have any, such as running agreements.
/// </param>
public sealed record BlockerRules(
    IReadOnlyList<string> MustAgree,
    IReadOnlyDictionary<string, IReadOnlyList<string>> Forbid,
    IReadOnlyList<AtMostOneRule> AtMostOne
);
