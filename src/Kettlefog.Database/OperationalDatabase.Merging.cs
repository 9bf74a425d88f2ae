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
/// <param name="Who">Who does it, and why.</param>
/// <param name="IdempotencyKey">The caller's name for the request: the same key never merges twice. Null for a rehearsal.</param>
/// <param name="Rehearse">True to do everything and then roll it back.</param>
public sealed record MergeRequest(
    MergeChoices Choices,
    string Fingerprint,
    Accountability Who,
    string? IdempotencyKey,
    bool Rehearse = false)
{
    /// <summary>Is told how many related rows were moved; null for nobody.</summary>
    public IProgress<RowsMoved>? Progress { get; init; }
}

/// <summary>A request to take a merge back.</summary>
/// <param name="Choices">What to take back.</param>
/// <param name="Fingerprint">The fingerprint of the reversal plan that was shown.</param>
/// <param name="Who">Who does it, and why.</param>
/// <param name="IdempotencyKey">The caller's name for the request. Null for a rehearsal.</param>
/// <param name="Rehearse">True to do everything and then roll it back.</param>
public sealed record ReversalRequest(
    ReversalChoices Choices,
    string Fingerprint,
    Accountability Who,
    string? IdempotencyKey,
    bool Rehearse = false)
{
    /// <summary>Is told how many related rows went back; null for nobody.</summary>
    public IProgress<RowsMoved>? Progress { get; init; }
}

/// <summary>What a request did.</summary>
/// <param name="Entry">The entry of the merge or reversal asked for.</param>
/// <param name="Entries">All entries of the history that it made, in order: with those of linked or later merges.</param>
/// <param name="Repeated">True if the same request came before and did it then; nothing was done now.</param>
/// <param name="Details">The details of a merge done now; else null.</param>
public sealed record Outcome(HistoryEntry Entry, IReadOnlyList<HistoryEntry> Entries, bool Repeated, MergeDetails? Details = null);

/// <content>Planning, merging and taking back.</content>
public sealed partial class OperationalDatabase
{
    private const int MostAttempts = 5;

    /// <summary>Plans a merge; writes nothing.</summary>
    public Task<MergePlan> PlanAsync(MergeChoices choices, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(choices);
        choices.Check();
        return AgainOnConflictAsync(() => PlanOnceAsync(choices, cancel), cancel);
    }

    private async Task<MergePlan> PlanOnceAsync(MergeChoices choices, CancellationToken cancel)
    {
        var before = _engine.CommittedState();
        await using var session = choices.NeedsTrial ? await OpenWriteAsync(cancel) : await _engine.OpenReadAsync(cancel);
        var runner = new MergeRunner(session, _map, _clock, new RowCounter(null));
        if (choices.NeedsTrial)
            await runner.LockAsync(choices, cancel);
        var (offers, warnings) = await runner.OffersAsync(choices, cancel);

        // What comes before the merge is tried out and rolled back: the session is never committed.
        var (plan, _) = await runner.PlanAsync(choices, new Accountability("", ""), cancel);
        _recent.Keep(plan, before);
        return plan with { Offers = offers, Warnings = [.. plan.Warnings, .. warnings] };
    }

    /// <summary>Applies a plan in one transaction.</summary>
    /// <returns>The entry of the merge.</returns>
    /// <exception cref="Refusal">The plan is stale, foreign or blocked, or the database refuses; nothing was changed.</exception>
    public Task<Outcome> MergeAsync(MergeRequest request, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(request);
        return AgainOnConflictAsync(() => MergeOnceAsync(request, cancel), cancel);
    }

    private async Task<Outcome> MergeOnceAsync(MergeRequest request, CancellationToken cancel)
    {
        if (_engine.LacksOwnTables && !request.Rehearse)
            throw new Refusal(RefusalCode.NotInitialised, $"The database {DisplayName} does not have Kettlefog's own tables yet, in which a merge is kept so that it can be taken back.", "Create them with 'kettlefog service init'.");
        await using var session = await OpenWriteAsync(cancel);
        var idempotency = new IdempotencyStore(session, request.Who.Actor, request.IdempotencyKey, request.Fingerprint, request.Who.Reason);
        if (await idempotency.FindAsync(cancel) is { } earlier)
            return await RepeatedAsync(session, earlier, cancel);
        request.Choices.Check();
        DemandReason(request.Choices.InOrder.Select(merge => merge.RecordType), request.Who, request.Rehearse);
        var runner = new MergeRunner(session, _map, _clock, new RowCounter(request.Progress));
        await runner.LockAsync(request.Choices, cancel);
        var (plan, linked) = _recent.Find(request.Choices, request.Fingerprint) is { } recent ? (recent, []) : await runner.PlanAsync(request.Choices, request.Who, cancel);
        plan.Fingerprint.Demand(request.Fingerprint);
        if (plan.Blockers.Count > 0)
        {
            throw new Refusal(
                RefusalCode.PlanBlocked,
                plan.Blockers.Count == 1 ? "The merge is blocked." : $"The merge is blocked by {plan.Blockers.Count} things.",
                plan.Blockers[0].Clear,
                [.. plan.Blockers.Select(blocker => blocker.Message)]);
        }

        var (entry, details) = await runner.ApplyAsync(plan, linked, request.Who, cancel);
        await FinishAsync(session, idempotency, request.Rehearse, entry, cancel);
        return new Outcome(entry, [.. linked, entry], false, details);
    }

    /// <exception cref="Refusal">No reason was given, but the map wants one for a record type.</exception>
    private void DemandReason(IEnumerable<string> recordTypes, Accountability who, bool rehearse)
    {
        if (rehearse || !string.IsNullOrWhiteSpace(who.Reason))
            return;
        if (recordTypes.Select(_map.Map.Require).FirstOrDefault(type => type.RequireReason) is { } strict)
            throw new Refusal(RefusalCode.ReasonMissing, $"{strict.Plural} are not merged, nor is that taken back, without a reason.", "Say in a sentence why; it stands in the history.");
    }

    private static async Task<Outcome> RepeatedAsync(Session session, long number, CancellationToken cancel)
    {
        var entry = (await new HistoryStore(session).RequireAsync(number, cancel)).Entry;
        return new Outcome(entry, [entry], true);
    }

    /// <summary>Plans a reversal; writes nothing.</summary>
    /// <param name="choices">What to take back.</param>
    /// <param name="cancel">Cancels.</param>
    /// <exception cref="Refusal">
    /// The entry is no standing merge, later merges stand on it and are not to go first, or a choice names nothing there is.
    /// </exception>
    public async Task<ReversalPlan> PlanReversalAsync(ReversalChoices choices, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(choices);
        var plan = await PlanReversalOnceAsync(choices, cancel);
        var known = plan.Reversals.SelectMany(reversal => reversal.Drift).Where(drift => drift.Undo is not null).Select(drift => drift.Id).ToHashSet();
        if (choices.TakeBack.FirstOrDefault(id => !known.Contains(id)) is { } unknown)
        {
            throw new Refusal(
                RefusalCode.InvalidChoice,
                $"There is nothing '{unknown}' that drifted and could be taken back too.",
                known.Count == 0 ? "Nothing drifted that could be." : $"What could be: {string.Join(", ", known)}.");
        }

        return plan;
    }

    private async Task<ReversalPlan> PlanReversalOnceAsync(ReversalChoices choices, CancellationToken cancel)
    {
        await using (var session = await _engine.OpenReadAsync(cancel))
        {
            var reverser = new MergeReverser(session, _map, _clock, new RowCounter(null));
            var merges = await MergesOfAsync(reverser, choices, cancel);
            if (merges.All.Count == 1 && choices.Only is null)
                return PlanOf(choices, [await reverser.PlanAsync(choices.Number, choices, cancel)], merges.Standing);
        }

        // What an earlier merge would find depends on what the later ones leave, and whether one record's rows find their
        // places on those of the others: it is tried out and rolled back.
        await using var rehearsal = await _engine.OpenWriteAsync(cancel);
        return (await ReverseAsync(rehearsal, choices, new Accountability("", ""), new RowCounter(null), cancel)).Plan;
    }

    /// <summary>Takes a merge back in one transaction.</summary>
    /// <returns>The entries of the reversals, in the order in which they were done.</returns>
    /// <exception cref="Refusal">The plan is stale, or the database refuses; nothing was changed.</exception>
    public Task<Outcome> ReverseAsync(ReversalRequest request, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(request);
        return AgainOnConflictAsync(() => ReverseOnceAsync(request, cancel), cancel);
    }

    private async Task<Outcome> ReverseOnceAsync(ReversalRequest request, CancellationToken cancel)
    {
        await using var session = await _engine.OpenWriteAsync(cancel);
        var idempotency = new IdempotencyStore(session, request.Who.Actor, request.IdempotencyKey, request.Fingerprint, request.Who.Reason);
        if (await idempotency.FindAsync(cancel) is { } earlier)
            return await RepeatedAsync(session, earlier, cancel);
        var (plan, entries) = await ReverseAsync(session, request.Choices, request.Who, new RowCounter(request.Progress), cancel);
        plan.Fingerprint.Demand(request.Fingerprint);
        DemandReason(plan.Reversals.Select(reversal => reversal.Snapshot.Merge.RecordType), request.Who, request.Rehearse);
        var entry = entries[plan.Reversals.ToList().FindIndex(reversal => reversal.Snapshot.Merge.Number == plan.Entry)];
        await FinishAsync(session, idempotency, request.Rehearse, entry, cancel);
        return new Outcome(entry, entries, false);
    }

    /// <summary>
    /// Does something again that met another program on its way: the database chose it as the victim of a deadlock, or
    /// rows came between the plan and the proof. Planned anew it is done, or refused with what changed.
    /// </summary>
    private async Task<T> AgainOnConflictAsync<T>(Func<Task<T>> action, CancellationToken cancel)
    {
        for (var attempt = 1; ; attempt++)
        {
            try
            {
                return await action();
            }
            catch (Refusal refusal) when (attempt < MostAttempts && IsConflict(refusal))
            {
                await Task.Delay(TimeSpan.FromMilliseconds(Random.Shared.Next(5, 40 * attempt)), cancel);
            }
        }
    }

    private bool IsConflict(Refusal refusal) =>
        _engine.OthersWriteMeanwhile
        && (refusal.Code == RefusalCode.ProofFailed || refusal.InnerException is DbException { SqlState: "40001" or "40P01" });

    /// <summary>Commits, unless it was but a rehearsal: then everything is rolled back when the session ends.</summary>
    private static async Task FinishAsync(Session session, IdempotencyStore idempotency, bool rehearse, HistoryEntry entry, CancellationToken cancel)
    {
        if (rehearse)
            return;
        idempotency.Keep(entry.Number);
        await session.FlushAsync(cancel);

        // From here on it is done, whoever would stop it.
        cancel.ThrowIfCancellationRequested();
        await session.CommitAsync(CancellationToken.None);
    }

    private async Task<(ReversalPlan Plan, IReadOnlyList<HistoryEntry> Entries)> ReverseAsync(
        Session session,
        ReversalChoices choices,
        Accountability who,
        RowCounter counter,
        CancellationToken cancel)
    {
        var reverser = new MergeReverser(session, _map, _clock, counter);
        var (merges, standing) = await MergesOfAsync(reverser, choices, cancel);
        var reversals = new List<SingleReversal>();
        var entries = new List<HistoryEntry>();
        foreach (var merge in merges)
        {
            await reverser.LockAsync(merge, cancel);
            var reversal = await reverser.PlanAsync(merge, merge == choices.Number ? choices : choices with { Only = null }, cancel);
            reversals.Add(reversal);

            // The fingerprint so far: that of the whole is the last one's.
            var fingerprint = ReversalPlan.FingerprintOf(choices, reversals).Text;
            try
            {
                entries.Add(await reverser.ApplyAsync(reversal, fingerprint, who, cancel));
            }
            catch (Refusal refused) when (refused.Code == RefusalCode.DatabaseRefused && reversal.Choices.Only is { } only)
            {
                throw new Refusal(
                    RefusalCode.NotReversible,
                    $"{only} cannot be taken out alone: its rows and those of the other records of the merge are in each other's way.",
                    "Take the whole merge back, and merge the others again.",
                    [refused.Message],
                    inner: refused);
            }
        }

        return (PlanOf(choices, reversals, standing), entries);
    }

    /// <summary>The merges that are taken back, latest first: those that stand on the merge, itself, and those that were linked to it.</summary>
    private static async Task<(IReadOnlyList<long> All, IReadOnlyList<long> Standing)> MergesOfAsync(MergeReverser reverser, ReversalChoices choices, CancellationToken cancel)
    {
        var linked = choices.Only is null && !choices.KeepLinked ? await reverser.LinkedAsync(choices.Number, cancel) : [];
        IReadOnlyList<long> own = [choices.Number, .. linked];
        var standing = new SortedDictionary<long, HistoryEntry>();
        foreach (var merge in own)
        {
            foreach (var later in (await reverser.StandingOnAsync(merge, cancel)).Where(later => !own.Contains(later.Number)))
                standing[later.Number] = later;
        }

        if (standing.Count > 0 && !choices.WithLater)
        {
            throw new Refusal(
                RefusalCode.NotReversible,
                $"Later merges stand on merge {choices.Number}{(linked.Count > 0 ? " and the merges linked to it" : "")}: {string.Join(", ", standing.Keys.Reverse())} must be taken back first.",
                "Take them back first, or ask for them to be taken back with it.",
                [.. standing.Values.Reverse().Select(merge => $"Merge {merge.Number} of {merge.At:yyyy-MM-dd HH:mm} by {merge.Actor} into {merge.Master}.")]);
        }

        return ([.. standing.Keys.Concat(own).OrderDescending()], [.. standing.Keys.Reverse()]);
    }

    private static ReversalPlan PlanOf(ReversalChoices choices, IReadOnlyList<SingleReversal> reversals, IReadOnlyList<long> standing) =>
        new(choices.Number, reversals, standing, ReversalPlan.FingerprintOf(choices, reversals));
}
