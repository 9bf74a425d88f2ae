using System.Data.Common;
using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Planning;
using Kettlefog.Core.Reversals;
using Kettlefog.Database.Engines;

namespace Kettlefog.Database;

/// <summary>A request to apply a plan.</summary>
/// <param name="Choices">The records and the operator's choices, as planned.</param>
/// <param name="Fingerprint">The fingerprint of the plan that was shown.</param>
/// <param name="Audit">Who does it, and why.</param>
/// <param name="IdempotencyKey">The caller's name for the request: the same key never merges twice. Null for a rehearsal.</param>
/// <param name="DryRun">True to do everything and then roll it back.</param>
public sealed record MergeRequest(
    MergeChoices Choices,
    string Fingerprint,
    AuditContext Audit,
    string? IdempotencyKey,
    bool DryRun = false)
{
    /// <summary>Is told how many related rows were moved; null for nobody.</summary>
    public IProgress<MoveProgress>? Progress { get; init; }
}

/// <summary>A request to take a merge back.</summary>
/// <param name="Choices">What to take back.</param>
/// <param name="Fingerprint">The fingerprint of the reversal plan that was shown.</param>
/// <param name="Audit">Who does it, and why.</param>
/// <param name="IdempotencyKey">The caller's name for the request. Null for a rehearsal.</param>
/// <param name="DryRun">True to do everything and then roll it back.</param>
public sealed record ReversalRequest(
    ReversalChoices Choices,
    string Fingerprint,
    AuditContext Audit,
    string? IdempotencyKey,
    bool DryRun = false)
{
    /// <summary>Is told how many related rows went back; null for nobody.</summary>
    public IProgress<MoveProgress>? Progress { get; init; }
}

/// <summary>What a request did.</summary>
/// <param name="Entry">The entry of the merge or reversal asked for.</param>
/// <param name="Entries">All entries of the history that it made, in order: with those of linked or later merges.</param>
/// <param name="Repeated">True if the same request came before and did it then; nothing was done now.</param>
/// <param name="Details">The details of a merge done now; else null.</param>
public sealed record MergeOutcome(HistoryEntry Entry, IReadOnlyList<HistoryEntry> Entries, bool Repeated, MergeDetails? Details = null);

/// <content>Planning, merging and taking back.</content>
public sealed partial class OperationalDatabase
{
    private const int MaxAttempts = 5;

    /// <summary>Plans a merge; writes nothing.</summary>
    public Task<MergePlan> PlanAsync(MergeChoices choices, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(choices);
        choices.Check();
        return RetryOnConflictAsync(() => PlanOnceAsync(choices, cancellationToken), cancellationToken);
    }

    private async Task<MergePlan> PlanOnceAsync(MergeChoices choices, CancellationToken cancellationToken)
    {
        var before = _engine.CommitCounter();
        await using var session = choices.NeedsTrial ? await OpenWriteAsync(cancellationToken) : await _engine.OpenReadAsync(cancellationToken);
        var runner = new MergeRunner(session, _map, _clock, new RowCounter(null));
        if (choices.NeedsTrial)
            await runner.LockAsync(choices, cancellationToken);
        var (offers, warnings) = await runner.OffersAsync(choices, cancellationToken);

        // What comes before the merge is tried out and rolled back: the session is never committed.
        var (plan, _) = await runner.PlanAsync(choices, new AuditContext("", ""), cancellationToken);
        _recent.Remember(plan, before);
        return plan with { Offers = offers, Warnings = [.. plan.Warnings, .. warnings] };
    }

    /// <summary>Applies a plan in one transaction.</summary>
    /// <returns>The entry of the merge.</returns>
    /// <exception cref="KettlefogException">The plan is stale, foreign or blocked, or the database refuses; nothing was changed.</exception>
    public Task<MergeOutcome> MergeAsync(MergeRequest request, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(request);
        return RetryOnConflictAsync(() => MergeOnceAsync(request, cancellationToken), cancellationToken);
    }

    private async Task<MergeOutcome> MergeOnceAsync(MergeRequest request, CancellationToken cancellationToken)
    {
        if (_engine.IsUninitialised && !request.DryRun)
            throw new KettlefogException(ErrorCode.NotInitialised, $"The database {DisplayName} does not have Kettlefog's own tables yet, in which a merge is kept so that it can be taken back.", "Create them with 'kettlefog service init'.");
        await using var session = await OpenWriteAsync(cancellationToken);
        var idempotency = new IdempotencyStore(session, request.Audit.Actor, request.IdempotencyKey, request.Fingerprint, request.Audit.Reason);
        if (await idempotency.FindAsync(cancellationToken) is { } earlier)
            return await RepeatedAsync(session, earlier, cancellationToken);
        request.Choices.Check();
        EnsureReasonGiven(request.Choices.InOrder.Select(merge => merge.RecordType), request.Audit, request.DryRun);
        var runner = new MergeRunner(session, _map, _clock, new RowCounter(request.Progress));
        await runner.LockAsync(request.Choices, cancellationToken);
        var (plan, linked) = _recent.Find(request.Choices, request.Fingerprint) is { } recent ? (recent, []) : await runner.PlanAsync(request.Choices, request.Audit, cancellationToken);
        plan.Fingerprint.EnsureMatches(request.Fingerprint);
        if (plan.Blockers.Count > 0)
        {
            throw new KettlefogException(
                ErrorCode.PlanBlocked,
                plan.Blockers.Count == 1 ? "The merge is blocked." : $"The merge is blocked by {plan.Blockers.Count} things.",
                plan.Blockers[0].Remedy,
                [.. plan.Blockers.Select(blocker => blocker.Message)]);
        }

        var (entry, details) = await runner.ApplyAsync(plan, linked, request.Audit, cancellationToken);
        await FinishAsync(session, idempotency, request.DryRun, entry, cancellationToken);
        return new MergeOutcome(entry, [.. linked, entry], false, details);
    }

    /// <exception cref="KettlefogException">No reason was given, but the map wants one for a record type.</exception>
    private void EnsureReasonGiven(IEnumerable<string> recordTypes, AuditContext audit, bool dryRun)
    {
        if (dryRun || !string.IsNullOrWhiteSpace(audit.Reason))
            return;
        if (recordTypes.Select(_map.Map.Require).FirstOrDefault(type => type.RequireReason) is { } strict)
            throw new KettlefogException(ErrorCode.ReasonMissing, $"{strict.Plural} are not merged, nor is that taken back, without a reason.", "Say in a sentence why; it stands in the history.");
    }

    private static async Task<MergeOutcome> RepeatedAsync(Session session, long number, CancellationToken cancellationToken)
    {
        var entry = (await new HistoryStore(session).RequireAsync(number, cancellationToken)).Entry;
        return new MergeOutcome(entry, [entry], true);
    }

    /// <summary>Plans a reversal; writes nothing.</summary>
    /// <param name="choices">What to take back.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">
    /// The entry is no standing merge, later merges stand on it and are not to go first, or a choice names nothing there is.
    /// </exception>
    public async Task<ReversalPlan> PlanReversalAsync(ReversalChoices choices, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(choices);
        var plan = await PlanReversalOnceAsync(choices, cancellationToken);
        var known = plan.Reversals.SelectMany(reversal => reversal.Drift).Where(drift => drift.Undo is not null).Select(drift => drift.Id).ToHashSet();
        if (choices.UndoDrift.FirstOrDefault(id => !known.Contains(id)) is { } unknown)
        {
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"There is nothing '{unknown}' that drifted and could be taken back too.",
                known.Count == 0 ? "Nothing drifted that could be." : $"What could be: {string.Join(", ", known)}.");
        }

        return plan;
    }

    private async Task<ReversalPlan> PlanReversalOnceAsync(ReversalChoices choices, CancellationToken cancellationToken)
    {
        await using (var session = await _engine.OpenReadAsync(cancellationToken))
        {
            var reverser = new MergeReverser(session, _map, _clock, new RowCounter(null));
            var merges = await SelectMergesAsync(reverser, choices, cancellationToken);
            if (merges.All.Count == 1 && choices.Only is null)
                return PlanOf(choices, [await reverser.PlanAsync(choices.Number, choices, cancellationToken)], merges.Standing);
        }

        // What an earlier merge would find depends on what the later ones leave, and whether one record's rows find their
        // places on those of the others: it is tried out and rolled back.
        await using var rehearsal = await _engine.OpenWriteAsync(cancellationToken);
        return (await ReverseAsync(rehearsal, choices, new AuditContext("", ""), new RowCounter(null), cancellationToken)).Plan;
    }

    /// <summary>Takes a merge back in one transaction.</summary>
    /// <returns>The entries of the reversals, in the order in which they were done.</returns>
    /// <exception cref="KettlefogException">The plan is stale, or the database refuses; nothing was changed.</exception>
    public Task<MergeOutcome> ReverseAsync(ReversalRequest request, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(request);
        return RetryOnConflictAsync(() => ReverseOnceAsync(request, cancellationToken), cancellationToken);
    }

    private async Task<MergeOutcome> ReverseOnceAsync(ReversalRequest request, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenWriteAsync(cancellationToken);
        var idempotency = new IdempotencyStore(session, request.Audit.Actor, request.IdempotencyKey, request.Fingerprint, request.Audit.Reason);
        if (await idempotency.FindAsync(cancellationToken) is { } earlier)
            return await RepeatedAsync(session, earlier, cancellationToken);
        var (plan, entries) = await ReverseAsync(session, request.Choices, request.Audit, new RowCounter(request.Progress), cancellationToken);
        plan.Fingerprint.EnsureMatches(request.Fingerprint);
        EnsureReasonGiven(plan.Reversals.Select(reversal => reversal.Snapshot.Merge.RecordType), request.Audit, request.DryRun);
        var entry = entries[plan.Reversals.ToList().FindIndex(reversal => reversal.Snapshot.Merge.Number == plan.Entry)];
        await FinishAsync(session, idempotency, request.DryRun, entry, cancellationToken);
        return new MergeOutcome(entry, entries, false);
    }

    /// <summary>
    /// Does something again that met another program on its way: the database chose it as the victim of a deadlock, or
    /// rows came between the plan and the proof. Planned anew it is done, or refused with what changed.
    /// </summary>
    private async Task<T> RetryOnConflictAsync<T>(Func<Task<T>> action, CancellationToken cancellationToken)
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
        _engine.AllowsConcurrentWriters
        && (refusal.Code == ErrorCode.ProofFailed || refusal.InnerException is DbException { SqlState: "40001" or "40P01" });

    /// <summary>Commits, unless it was but a rehearsal: then everything is rolled back when the session ends.</summary>
    private static async Task FinishAsync(Session session, IdempotencyStore idempotency, bool dryRun, HistoryEntry entry, CancellationToken cancellationToken)
    {
        if (dryRun)
            return;
        idempotency.Keep(entry.Number);
        await session.FlushAsync(cancellationToken);

        // From here on it is done, whoever would stop it.
        cancellationToken.ThrowIfCancellationRequested();
        await session.CommitAsync(CancellationToken.None);
    }

    private async Task<(ReversalPlan Plan, IReadOnlyList<HistoryEntry> Entries)> ReverseAsync(
        Session session,
        ReversalChoices choices,
        AuditContext audit,
        RowCounter counter,
        CancellationToken cancellationToken)
    {
        var reverser = new MergeReverser(session, _map, _clock, counter);
        var (merges, standing) = await SelectMergesAsync(reverser, choices, cancellationToken);
        var reversals = new List<SingleReversal>();
        var entries = new List<HistoryEntry>();
        foreach (var merge in merges)
        {
            await reverser.LockAsync(merge, cancellationToken);
            var reversal = await reverser.PlanAsync(merge, merge == choices.Number ? choices : choices with { Only = null }, cancellationToken);
            reversals.Add(reversal);

            // The fingerprint so far: that of the whole is the last one's.
            var fingerprint = ReversalPlan.FingerprintOf(choices, reversals).Text;
            try
            {
                entries.Add(await reverser.ApplyAsync(reversal, fingerprint, audit, cancellationToken));
            }
            catch (KettlefogException refused) when (refused.Code == ErrorCode.DatabaseRefused && reversal.Choices.Only is { } only)
            {
                throw new KettlefogException(
                    ErrorCode.NotReversible,
                    $"{only} cannot be taken out alone: its rows and those of the other records of the merge are in each other's way.",
                    "Take the whole merge back, and merge the others again.",
                    [refused.Message],
                    inner: refused);
            }
        }

        return (PlanOf(choices, reversals, standing), entries);
    }

    /// <summary>The merges that are taken back, latest first: those that stand on the merge, itself, and those that were linked to it.</summary>
    private static async Task<(IReadOnlyList<long> All, IReadOnlyList<long> Standing)> SelectMergesAsync(MergeReverser reverser, ReversalChoices choices, CancellationToken cancellationToken)
    {
        var linked = choices.Only is null && !choices.KeepLinked ? await reverser.LinkedAsync(choices.Number, cancellationToken) : [];
        IReadOnlyList<long> own = [choices.Number, .. linked];
        var standing = new SortedDictionary<long, HistoryEntry>();
        foreach (var merge in own)
        {
            foreach (var later in (await reverser.DependentMergesAsync(merge, cancellationToken)).Where(later => !own.Contains(later.Number)))
                standing[later.Number] = later;
        }

        if (standing.Count > 0 && !choices.WithLater)
        {
            throw new KettlefogException(
                ErrorCode.NotReversible,
                $"Later merges stand on merge {choices.Number}{(linked.Count > 0 ? " and the merges linked to it" : "")}: {string.Join(", ", standing.Keys.Reverse())} must be taken back first.",
                "Take them back first, or ask for them to be taken back with it.",
                [.. standing.Values.Reverse().Select(merge => $"Merge {merge.Number} of {merge.At:yyyy-MM-dd HH:mm} by {merge.Actor} into {merge.Master}.")]);
        }

        return ([.. standing.Keys.Concat(own).OrderDescending()], [.. standing.Keys.Reverse()]);
    }

    private static ReversalPlan PlanOf(ReversalChoices choices, IReadOnlyList<SingleReversal> reversals, IReadOnlyList<long> standing) =>
        new(choices.Number, reversals, standing, ReversalPlan.FingerprintOf(choices, reversals));
}
