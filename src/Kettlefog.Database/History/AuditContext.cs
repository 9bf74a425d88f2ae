namespace Kettlefog.Database.History;

/// <summary>The actor of a change, and the reason.</summary>
/// <param name="Actor">The user's name.</param>
/// <param name="Reason">Why, in the actor's words; may be empty.</param>
/// <param name="Rule">By which rule or file line.</param>
/// <param name="ApprovedBy">With whose approval, or null if none is needed.</param>
public sealed record AuditContext(
    string Actor,
    string Reason,
    string Rule = AuditContext.ByHand,
    string? ApprovedBy = null
)
{
    /// <summary>The rule of a merge whose records an operator picked.</summary>
    public const string ByHand = "by hand";
}
