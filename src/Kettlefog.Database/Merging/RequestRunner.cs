using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Database.Engines;
using Kettlefog.Database.History;
using Kettlefog.Database.Own;

namespace Kettlefog.Database.Merging;

/// <summary>
/// The common part of merge and reversal requests: reasons, repetition, conflicts with other writers, the commit.
/// </summary>
internal sealed class RequestRunner(DatabaseContext context)
{
    private const int MaxAttempts = 5;

    /// <summary>Refuses a request without a reason where the map requires one.</summary>
    /// <exception cref="KettlefogException">
    /// No reason was given, but the map requires one for a record type.
    /// </exception>
    public void EnsureReasonGiven(IEnumerable<string> recordTypes, AuditContext audit, bool dryRun)
    {
        if (dryRun || !string.IsNullOrWhiteSpace(audit.Reason))
            return;
        if (recordTypes.Select(context.Map.Map.Require).FirstOrDefault(type => type.RequireReason) is { } strict)
            throw new KettlefogException(
                ErrorCode.ReasonMissing,
                $"{strict.Plural} require a reason to merge or to reverse a merge.",
                "Give a short reason; it is recorded in the history."
            );
    }

    public static async Task<MergeOutcome> RepeatedAsync(
        Session session,
        long number,
        CancellationToken cancellationToken
    )
    {
        var entry = (await new HistoryStore(session).RequireAsync(number, cancellationToken)).Entry;
        return new MergeOutcome(entry, [entry], true);
    }

    /// <summary>
    /// Retries work that conflicted with another program: the database chose it as a deadlock victim, or
    /// rows were added between plan and proof. With a new plan it succeeds, or is refused with what changed.
    /// </summary>
    public async Task<T> RetryOnConflictAsync<T>(Func<Task<T>> action, CancellationToken cancellationToken)
    {
        for (var attempt = 1; ; attempt++)
        {
            try
            {
                return await action();
            }
            catch (KettlefogException refusal) when (attempt < MaxAttempts && IsConflict(refusal))
            {
                await Task.Delay(TimeSpan.FromMilliseconds(Random.Shared.Next(5, 40 * attempt)), cancellationToken);
            }
        }
    }

    private bool IsConflict(KettlefogException refusal) =>
        context.Engine.AllowsConcurrentWriters
        && (
            refusal.Code is ErrorCode.ProofFailed or ErrorCode.CatalogChanged
            || context.Engine.Errors.IsConflict(refusal)
        );

    /// <summary>Commits, unless it is a dry run: then everything is rolled back when the session ends.</summary>
    public async Task FinishAsync(
        Session session,
        IdempotencyStore idempotency,
        bool dryRun,
        HistoryEntry entry,
        CancellationToken cancellationToken
    )
    {
        if (dryRun)
            return;
        await context.EnsureUnchangedAsync(session, cancellationToken);
        idempotency.Keep(entry.Number);
        await session.FlushAsync(cancellationToken);

        // From here on it is done, and can no longer be stopped.
        cancellationToken.ThrowIfCancellationRequested();
        await session.CommitAsync(CancellationToken.None);
    }
}
