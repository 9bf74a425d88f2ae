using Kettlefog.Core.Reversing;
using Kettlefog.Database.History;
using Kettlefog.Database.Journal;

namespace Kettlefog.Database.Reversing;

/// <summary>A request to reverse a merge.</summary>
/// <param name="Choices">What to reverse.</param>
/// <param name="Fingerprint">The fingerprint of the reversal plan that was shown.</param>
/// <param name="Audit">Who does it, and why.</param>
/// <param name="IdempotencyKey">The caller's key for the request. Null for a dry run.</param>
/// <param name="DryRun">True to do everything and then roll it back.</param>
public sealed record ReversalRequest(
    ReversalChoices Choices,
    string Fingerprint,
    AuditContext Audit,
    string? IdempotencyKey,
    bool DryRun = false
)
{
    /// <summary>Receives the number of related rows moved back; null for nobody.</summary>
    public IProgress<MoveProgress>? Progress { get; init; }
}
