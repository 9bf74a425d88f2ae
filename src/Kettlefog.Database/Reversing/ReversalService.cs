using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Reversing;
using Kettlefog.Database.Engines;
using Kettlefog.Database.History;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Merging;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Reversing;

/// <summary>Plans reversals, and carries them out in one transaction.</summary>
public sealed class ReversalService
{
    private readonly DatabaseContext _context;
    private readonly RequestRunner _requests;

    internal ReversalService(DatabaseContext context)
    {
        _context = context;
        _requests = new RequestRunner(context);
    }

    /// <summary>Plans a reversal; writes nothing.</summary>
    /// <param name="choices">What to reverse.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">
    /// The entry is not a merge in effect, later merges depend on it and are not included, or a choice names something
    /// that does not exist.
    /// </exception>
    public async Task<ReversalPlan> PlanAsync(ReversalChoices choices, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(choices);
        var plan = await PlanReversalOnceAsync(choices, cancellationToken);
        var known = plan
            .Reversals.SelectMany(reversal => reversal.Drift)
            .Where(drift => drift.Undo is not null)
            .Select(drift => drift.Id)
            .ToHashSet();
        if (choices.UndoDrift.FirstOrDefault(id => !known.Contains(id)) is { } unknown)
        {
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"No change '{unknown}' can be undone.",
                known.Count == 0
                    ? "There are no changes that can be undone."
                    : $"Changes that can be undone: {string.Join(", ", known)}."
            );
        }

        return plan;
    }

    private async Task<ReversalPlan> PlanReversalOnceAsync(ReversalChoices choices, CancellationToken cancellationToken)
    {
        await using (var session = await _context.OpenReadAsync(cancellationToken))
        {
            var merges = new ReversibleMerges(session, session.Map);
            var planner = new ReversalPlanner(session, session.Map);
            var selected = await SelectMergesAsync(merges, choices, cancellationToken);
            if (selected.All.Count == 1 && choices.Only is null)
                return PlanOf(
                    choices,
                    [await planner.PlanAsync(choices.Number, choices, cancellationToken)],
                    selected.Dependent
                );
        }

        // Each plan depends on the reversals before it, and a single record's rows may
        // conflict with those of the others: the reversals are carried out and rolled back.
        await using var rehearsal = await _context.OpenConcurrentWriteAsync(cancellationToken);
        return (
            await ApplyAsync(rehearsal, choices, new AuditContext("", ""), new RowCounter(null), cancellationToken)
        ).Plan;
    }

    /// <summary>Reverses a merge in one transaction.</summary>
    /// <returns>The entries of the reversals, in the order in which they were done.</returns>
    /// <exception cref="KettlefogException">
    /// The plan is stale, or the database refuses the change; nothing was changed.
    /// </exception>
    public Task<MergeOutcome> ApplyAsync(ReversalRequest request, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(request);
        return _requests.RunAsync(() => ReverseOnceAsync(request, cancellationToken), cancellationToken);
    }

    private async Task<MergeOutcome> ReverseOnceAsync(ReversalRequest request, CancellationToken cancellationToken)
    {
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
        var (plan, entries) = await ApplyAsync(
            session,
            request.Choices,
            request.Audit,
            new RowCounter(request.Progress),
            cancellationToken
        );
        plan.Fingerprint.EnsureMatches(request.Fingerprint);
        _requests.EnsureReasonGiven(
            plan.Reversals.Select(reversal => reversal.Snapshot.Merge.RecordType),
            request.Audit,
            request.DryRun
        );
        var entry = entries[
            plan.Reversals.ToList().FindIndex(reversal => reversal.Snapshot.Merge.Number == plan.Entry)
        ];
        var outcome = new MergeOutcome(entry, entries, false);
        await _requests.FinishAsync(session, idempotency, request.DryRun, outcome, cancellationToken);
        return outcome;
    }

    private async Task<(ReversalPlan Plan, IReadOnlyList<HistoryEntry> Entries)> ApplyAsync(
        Session session,
        ReversalChoices choices,
        AuditContext audit,
        RowCounter counter,
        CancellationToken cancellationToken
    )
    {
        var inEffect = new ReversibleMerges(session, session.Map);
        var planner = new ReversalPlanner(session, session.Map);
        var applier = new ReversalApplier(session, session.Map, _context.Clock, counter);
        var (merges, dependent) = await LockMergesAsync(session, inEffect, choices, cancellationToken);

        // The plan of each depends on the entries of those before it.
        if (merges.Count > 1)
            await session.Engine.AcquireWriterLockAsync(session, cancellationToken);
        var reversals = new List<SingleReversal>();
        var entries = new List<HistoryEntry>();
        foreach (var merge in merges)
        {
            var reversal = await planner.PlanAsync(
                merge,
                merge == choices.Number ? choices : choices with { Only = null },
                cancellationToken
            );
            reversals.Add(reversal);

            // The fingerprint so far: the last one is that of the whole.
            var fingerprint = ReversalPlan.FingerprintOf(choices, reversals).Text;
            try
            {
                var changed = await applier.ChangeAsync(reversal, cancellationToken);
                if (merges.Count == 1)
                    await session.Engine.AcquireWriterLockAsync(session, cancellationToken);
                entries.Add(await applier.RecordAsync(changed, fingerprint, audit, cancellationToken));
            }
            catch (KettlefogException refused)
                when (refused.Code == ErrorCode.DatabaseRefused && reversal.Choices.Only is { } only)
            {
                throw new KettlefogException(
                    ErrorCode.NotReversible,
                    $"The merge cannot be reversed for {only} only: its rows conflict with those of the other "
                        + "records of the merge.",
                    "Reverse the whole merge, and merge the others again.",
                    [refused.Message],
                    inner: refused
                );
            }
        }

        return (PlanOf(choices, reversals, dependent), entries);
    }

    /// <summary>
    /// Selects the merges to reverse, and locks their records. Others may have merged them until they were locked, so
    /// that they are selected until they stay the same.
    /// </summary>
    private async Task<(IReadOnlyList<long> All, IReadOnlyList<long> Dependent)> LockMergesAsync(
        Session session,
        ReversibleMerges inEffect,
        ReversalChoices choices,
        CancellationToken cancellationToken
    )
    {
        var selected = await SelectMergesAsync(inEffect, choices, cancellationToken);
        while (_context.Engine.AllowsConcurrentWriters)
        {
            await session.ExecuteAsync(Sql.Of($"SAVEPOINT locked"), cancellationToken);
            await inEffect.LockAsync(selected.All, cancellationToken);
            var again = await SelectMergesAsync(inEffect, choices, cancellationToken);
            var isSame = again.All.SequenceEqual(selected.All);

            // Records that are locked in addition would not be in the order of keys: all are let go first.
            if (!isSame)
                await session.ExecuteAsync(Sql.Of($"ROLLBACK TO SAVEPOINT locked"), cancellationToken);
            await session.ExecuteAsync(Sql.Of($"RELEASE SAVEPOINT locked"), cancellationToken);
            if (isSame)
                return again;
            selected = again;
        }

        return selected;
    }

    /// <summary>
    /// The merges to reverse, latest first: those that depend on the merge, the merge itself, and those linked
    /// to it.
    /// </summary>
    private static async Task<(IReadOnlyList<long> All, IReadOnlyList<long> Dependent)> SelectMergesAsync(
        ReversibleMerges inEffect,
        ReversalChoices choices,
        CancellationToken cancellationToken
    )
    {
        var linked =
            choices.Only is null && !choices.KeepLinked
                ? await inEffect.LinkedAsync(choices.Number, cancellationToken)
                : [];
        IReadOnlyList<long> own = [choices.Number, .. linked];
        var dependent = new SortedDictionary<long, HistoryEntry>();
        foreach (var merge in own)
        {
            foreach (
                var later in (await inEffect.DependentMergesAsync(merge, cancellationToken)).Where(later =>
                    !own.Contains(later.Number)
                )
            )
                dependent[later.Number] = later;
        }

        if (dependent.Count > 0 && !choices.WithLater)
        {
            throw new KettlefogException(
                ErrorCode.NotReversible,
                "Later merges depend on merge "
                    + $"{choices.Number}{(linked.Count > 0 ? " and the merges linked to it" : "")}: "
                    + $"{string.Join(", ", dependent.Keys.Reverse())} must be reversed first.",
                "Reverse them first, or reverse them together with this one.",
                [
                    .. dependent
                        .Values.Reverse()
                        .Select(merge =>
                            $"Merge {merge.Number} of {merge.At:yyyy-MM-dd HH:mm} by {merge.Actor} into {merge.Master}."
                        ),
                ]
            );
        }

        return ([.. dependent.Keys.Concat(own).OrderDescending()], [.. dependent.Keys.Reverse()]);
    }

    private static ReversalPlan PlanOf(
        ReversalChoices choices,
        IReadOnlyList<SingleReversal> reversals,
        IReadOnlyList<long> dependent
    ) => new(choices.Number, reversals, dependent, ReversalPlan.FingerprintOf(choices, reversals));
}
