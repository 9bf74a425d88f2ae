using Kettlefog.Core;
using Kettlefog.Core.Merging;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Own;
using Kettlefog.Database.Records;

namespace Kettlefog.Database.Merging;

/// <summary>Plans merges, and applies plans in one transaction.</summary>
public sealed class MergeService
{
    private readonly DatabaseContext _context;
    private readonly RecentPlans _recent;
    private readonly RequestRunner _requests;

    internal MergeService(DatabaseContext context)
    {
        _context = context;
        _recent = new RecentPlans(context.Engine);
        _requests = new RequestRunner(context);
    }

    /// <summary>Plans a merge; writes nothing.</summary>
    public Task<MergePlan> PlanAsync(MergeChoices choices, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(choices);
        choices.Check();
        return _requests.RetryOnConflictAsync(() => PlanOnceAsync(choices, cancellationToken), cancellationToken);
    }

    private async Task<MergePlan> PlanOnceAsync(MergeChoices choices, CancellationToken cancellationToken)
    {
        var before = _context.Engine.CommitCounter();
        var (plan, warnings) = await ReadPlanAsync(choices, cancellationToken);

        // Only now that the session is closed: the counter is read by another connection, which would wait for a writer
        // that waits for this session to end.
        _recent.Remember(plan, before);
        return plan with { Warnings = [.. plan.Warnings, .. warnings] };
    }

    /// <summary>A plan with its offers, and what else its operator should know.</summary>
    private async Task<(MergePlan Plan, IReadOnlyList<string> Warnings)> ReadPlanAsync(
        MergeChoices choices,
        CancellationToken cancellationToken
    )
    {
        await using var session = choices.NeedsTrial
            ? await _context.OpenConcurrentWriteAsync(cancellationToken)
            : await _context.OpenReadAsync(cancellationToken);
        var runner = new MergeRunner(session, session.Map, _context.Clock, new RowCounter(null));
        if (choices.NeedsTrial)
            await runner.LockAsync(choices, cancellationToken);
        var (offers, warnings) = await runner.OffersAsync(choices, cancellationToken);

        // The steps before the merge are carried out and rolled back: the session is never committed.
        var plan = (await runner.PrepareAsync(choices, cancellationToken)).Plan;
        var unnamed = await new UnnamedReferenceReader(session, session.Map).WarningsAsync(
            plan.Type,
            choices.Duplicates,
            _context.UnnamedReferences,
            cancellationToken
        );
        return (plan with { Offers = offers }, [.. warnings, .. unnamed]);
    }

    /// <summary>Applies a plan in one transaction.</summary>
    /// <returns>The entry of the merge.</returns>
    /// <exception cref="KettlefogException">
    /// The plan is stale, foreign or blocked, or the database refuses the change; nothing was changed.
    /// </exception>
    public Task<MergeOutcome> ApplyAsync(MergeRequest request, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(request);
        return _requests.RunAsync(() => MergeOnceAsync(request, cancellationToken), cancellationToken);
    }

    private async Task<MergeOutcome> MergeOnceAsync(MergeRequest request, CancellationToken cancellationToken)
    {
        if (_context.Engine.IsUninitialised && !request.DryRun)
            throw new KettlefogException(
                ErrorCode.NotInitialised,
                $"The database {_context.Engine.DisplayName} does not have Kettlefog's tables yet, which it "
                    + "needs to reverse a merge.",
                "Create them with 'kettlefog service init'."
            );
        await using var session = await _context.OpenConcurrentWriteAsync(cancellationToken);
        var idempotency = new IdempotencyStore(
            session,
            request.Audit.Actor,
            request.IdempotencyKey,
            request.Fingerprint,
            request.Audit.Reason
        );
        if (await idempotency.FindAsync(cancellationToken) is { } earlier)
            return await RequestRunner.RepeatedAsync(session, earlier, cancellationToken);
        request.Choices.Check();
        _requests.EnsureReasonGiven(
            request.Choices.InOrder.Select(merge => merge.RecordType),
            request.Audit,
            request.DryRun
        );
        var runner = new MergeRunner(session, session.Map, _context.Clock, new RowCounter(request.Progress));
        await runner.LockAsync(request.Choices, cancellationToken);

        // The same request may have been done while this one waited for the records.
        if (await idempotency.FindAsync(cancellationToken) is { } done)
            return await RequestRunner.RepeatedAsync(session, done, cancellationToken);
        var prepared = _recent.Find(request.Choices, request.Fingerprint) is { } recent
            ? new PreparedMerge(recent, JournalIdentifier.Create(), [])
            : await runner.PrepareAsync(request.Choices, cancellationToken);
        var plan = prepared.Plan;
        plan.Fingerprint.EnsureMatches(request.Fingerprint);
        if (plan.Blockers.Count > 0)
        {
            throw new KettlefogException(
                ErrorCode.PlanBlocked,
                plan.Blockers.Count == 1
                    ? "The merge is blocked."
                    : $"The merge is blocked by {plan.Blockers.Count} things.",
                plan.Blockers[0].Remedy,
                [.. plan.Blockers.Select(blocker => blocker.Message)]
            );
        }

        var (entries, details) = await runner.ApplyAsync(prepared, request.Audit, cancellationToken);
        var outcome = new MergeOutcome(entries[^1], entries, false, details);
        await _requests.FinishAsync(session, idempotency, request.DryRun, outcome, cancellationToken);
        return outcome;
    }
}
