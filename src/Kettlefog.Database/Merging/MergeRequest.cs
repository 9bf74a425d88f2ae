using Kettlefog.Core.Merging;
using Kettlefog.Database.History;
using Kettlefog.Database.Journal;

namespace Kettlefog.Database.Merging;

/// <summary>A request to apply a plan.</summary>
/// <param name="Choices">The records and the operator's choices, as planned.</param>
/// <param name="Fingerprint">The fingerprint of the plan that was shown.</param>
/// <param name="Audit">Who does it, and why.</param>
/// <param name="IdempotencyKey">
/// The caller's key for the request: the same key never merges twice. Null for a dry run.
/// </param>
/// <param name="DryRun">True to do everything and then roll it back.</param>
public sealed record MergeRequest(
    MergeChoices Choices,
    string Fingerprint,
    AuditContext Audit,
    string? IdempotencyKey,
    bool DryRun = false
)
{
    /// <summary>Receives the number of related rows moved; null for nobody.</summary>
    public IProgress<MoveProgress>? Progress { get; init; }
}
