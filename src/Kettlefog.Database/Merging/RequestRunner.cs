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

    /// <summary>
    /// A proof may fail, or a value be repeated, because of rows that were just added; twice in a row it is something
    /// else.
    /// </summary>
    private const int MaxProofs = 2;

    private TimeSpan MaxWaitForOutcome => 4 * context.Engine.Patience;

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
    /// Carries out a request; see <see cref="RetryOnConflictAsync"/>. If the answer to its commit is lost, the history
    /// says whether it was done.
    /// </summary>
    /// <exception cref="KettlefogException">
    /// The request was refused, and changed nothing; or, with <see cref="ErrorCode.OutcomeUnknown"/>, the database
    /// could not be asked in time.
    /// </exception>
    public async Task<MergeOutcome> RunAsync(Func<Task<MergeOutcome>> request, CancellationToken cancellationToken)
    {
        try
        {
            return await RetryOnConflictAsync(request, cancellationToken);
        }
        catch (LostCommitException lost)
        {
            if (await IsInHistoryAsync(lost.Outcome.Entry) is { } isDone)
                return isDone
                    ? lost.Outcome
                    : throw new KettlefogException(
                        ErrorCode.DatabaseUnavailable,
                        $"The connection to the database {context.Engine.DisplayName} was lost before the commit.",
                        "Nothing was changed. Try again in a moment.",
                        inner: lost.InnerException
                    );
            var what = lost.Outcome.Entry.Kind == EntryKind.Merge ? "merge" : "reversal";
            throw new KettlefogException(
                ErrorCode.OutcomeUnknown,
                $"It is not known whether the {what} was done: the connection to the database "
                    + $"{context.Engine.DisplayName} was lost while it was committed, and could not be opened again.",
                $"When the database is there again, look whether entry {lost.Outcome.Entry.Number} of the history is "
                    + $"this {what}; or send the request again with the same Idempotency-Key, "
                    + "with which it is done once.",
                inner: lost.InnerException
            );
        }
    }

    /// <summary>
    /// True if the history has an entry. A look that gets no answer is left to end by itself: to cancel it, the server
    /// would have to be reached.
    /// </summary>
    /// <returns>Null if the database could not be asked in time.</returns>
    private async Task<bool?> IsInHistoryAsync(HistoryEntry entry)
    {
        using var ending = new CancellationTokenSource(MaxWaitForOutcome);
        while (!ending.IsCancellationRequested)
        {
            try
            {
                return await LookAsync(entry).WaitAsync(ending.Token);
            }
            catch (Exception error) when (error is KettlefogException or OperationCanceledException)
            {
                await Task.Delay(TimeSpan.FromMilliseconds(250), CancellationToken.None);
            }
        }

        return null;
    }

    /// <summary>
    /// Looks for an entry in a writing session, for which the transaction whose answer was lost must have ended, one
    /// way or the other.
    /// </summary>
    private async Task<bool> LookAsync(HistoryEntry entry)
    {
        await using var session = await context.Engine.OpenWriteAsync(CancellationToken.None);
        return await new HistoryStore(session).HasAsync(entry, CancellationToken.None);
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
            catch (KettlefogException refusal)
                when (context.Engine.AllowsConcurrentWriters && attempt < MaxAttemptsAfter(refusal))
            {
                await Task.Delay(TimeSpan.FromMilliseconds(Random.Shared.Next(5, 40 * attempt)), cancellationToken);
            }
        }
    }

    private int MaxAttemptsAfter(KettlefogException refusal) =>
        refusal.Code == ErrorCode.CatalogChanged || context.Engine.Errors.IsConflict(refusal) ? MaxAttempts
        : refusal.Code == ErrorCode.ProofFailed || context.Engine.Errors.IsUniqueViolation(refusal) ? MaxProofs
        : 1;

    /// <summary>Commits, unless it is a dry run: then everything is rolled back when the session ends.</summary>
    public async Task FinishAsync(
        Session session,
        IdempotencyStore idempotency,
        bool dryRun,
        MergeOutcome outcome,
        CancellationToken cancellationToken
    )
    {
        if (dryRun)
            return;
        await context.EnsureUnchangedAsync(session, cancellationToken);
        idempotency.Keep(outcome.Entry.Number);
        await session.FlushAsync(cancellationToken);

        // From here on it is done, and can no longer be stopped.
        cancellationToken.ThrowIfCancellationRequested();
        try
        {
            await session.CommitAsync(CancellationToken.None);
        }
        catch (KettlefogException lost) when (lost.Code == ErrorCode.OutcomeUnknown)
        {
            throw new LostCommitException(outcome, lost);
        }
    }

    /// <summary>The answer to the commit of a request was lost.</summary>
    private sealed class LostCommitException(MergeOutcome outcome, KettlefogException error)
        : Exception(error.Message, error)
    {
        /// <summary>The outcome of the request, if it was committed.</summary>
        public MergeOutcome Outcome => outcome;
    }
}
