using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Database.Duplicates.Clusters;
using Kettlefog.Database.Duplicates.Decisions;
using Kettlefog.Database.Duplicates.Rules;
using Kettlefog.Database.Engines;
using Kettlefog.Database.History;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Records;

namespace Kettlefog.Database.Merging;

/// <summary>Plans and carries out a merge with its chosen linked merges, in a given session.</summary>
internal sealed class MergeRunner(Session session, CheckedMap map, TimeProvider clock, RowCounter counter)
{
    private readonly SnapshotReader _reader = new(session, map);

    /// <summary>Locks the records of all the merges, type by type, until the session ends.</summary>
    public async Task LockAsync(MergeChoices choices, CancellationToken cancellationToken)
    {
        var types = choices
            .InOrder.GroupBy(merge => merge.RecordType)
            .OrderBy(merges => merges.Key, StringComparer.Ordinal);
        foreach (var merges in types)
            await _reader.LockAsync(
                map.Map.Require(merges.Key),
                [.. merges.SelectMany(merge => merge.Keys)],
                cancellationToken
            );
    }

    /// <summary>
    /// Plans all merges. Each plan depends on the merges before it, so the rows of the linked ones are changed during
    /// planning; roll the session back to discard them.
    /// </summary>
    public async Task<PreparedMerge> PrepareAsync(MergeChoices choices, CancellationToken cancellationToken)
    {
        var plans = new List<MergePlan>();
        var linked = new List<MergeApplier>();
        var journal = 0L;
        foreach (var merge in choices.InOrder)
        {
            journal = JournalIdentifier.Create();
            var ended = await EndAsync(merge, journal, cancellationToken);
            var plan = MergePlanner.Plan(merge, await ReadAsync(merge, cancellationToken) with { Ended = ended });
            var forbidden = await new SurvivorKeyReader(session, map).BlockersAsync(plan, cancellationToken);
            plan = plan with { Blockers = [.. plan.Blockers, .. forbidden] };
            plans.Add(plan);
            if (merge == choices || plan.Blockers.Count > 0)
                continue;
            var applier = ApplierOf(plan, journal);
            await applier.ChangeAsync(cancellationToken);
            linked.Add(applier);
        }

        return new PreparedMerge(plans[^1].With(plans[..^1]), journal, linked);
    }

    /// <summary>Ends rows of the duplicates, where that was chosen, so that they no longer block the merge.</summary>
    private async Task<IReadOnlyList<EndedRow>> EndAsync(
        MergeChoices merge,
        long journal,
        CancellationToken cancellationToken
    )
    {
        if (merge.End.Count == 0)
            return [];
        var type = merge.Applied(map.Map.Require(merge.RecordType));
        var records = await _reader.ReadRecordsAsync(type, [.. merge.Keys], cancellationToken);
        return await new EndedRowsWriter(session, map).EndAsync(
            type,
            merge,
            records,
            journal,
            clock.GetUtcNow(),
            cancellationToken
        );
    }

    /// <summary>
    /// Carries out the merge itself, after its linked ones, and records them all. Only then others have to wait.
    /// </summary>
    /// <returns>
    /// The entries in the order of their numbers, the last of which is that of the merge itself; and its details.
    /// </returns>
    public async Task<(IReadOnlyList<HistoryEntry> Entries, MergeDetails Details)> ApplyAsync(
        PreparedMerge prepared,
        AuditContext audit,
        CancellationToken cancellationToken
    )
    {
        await EnsureNotAssignedToOthersAsync(prepared.Plan.Choices, audit.Actor, cancellationToken);
        var applier = ApplierOf(prepared.Plan, prepared.Journal);
        await applier.ChangeAsync(cancellationToken);
        await session.Engine.AcquireWriterLockAsync(session, cancellationToken);
        var entries = new List<HistoryEntry>();
        if (prepared.Linked.Count > 0)
        {
            var (first, _) = await new HistoryStore(session).NextAsync(cancellationToken);
            foreach (var linked in prepared.Linked)
                entries.Add(
                    (await linked.RecordAsync(first + prepared.Linked.Count, [], audit, cancellationToken)).Entry
                );
        }

        var (entry, details) = await applier.RecordAsync(
            null,
            [.. entries.Select(each => each.Number)],
            audit,
            cancellationToken
        );
        return ([.. entries, entry], details);
    }

    /// <summary>A cluster that is assigned to somebody is merged by nobody else.</summary>
    /// <exception cref="KettlefogException">One with two of the records is assigned to another user.</exception>
    private async Task EnsureNotAssignedToOthersAsync(
        MergeChoices choices,
        string actor,
        CancellationToken cancellationToken
    )
    {
        foreach (var merge in choices.InOrder)
            await new ClusterStore(session, clock.GetUtcNow()).EnsureNotAssignedToOthersAsync(
                merge.RecordType,
                [.. merge.Keys.Select(key => key.ToString())],
                actor,
                cancellationToken
            );
    }

    private MergeApplier ApplierOf(MergePlan plan, long journal) => new(session, map, plan, journal, clock, counter);

    /// <summary>The linked merges that are offered: by the merge itself, and by the chosen linked merges.</summary>
    /// <returns>The offers, and warnings about what was not compared.</returns>
    /// <exception cref="KettlefogException">A linked merge was chosen that is not offered.</exception>
    public async Task<(IReadOnlyList<LinkedOffer> Offers, IReadOnlyList<string> Warnings)> OffersAsync(
        MergeChoices choices,
        CancellationToken cancellationToken
    )
    {
        var linkedReader = new LinkedReader(session, map);
        // What is merged or offered already is not offered again: so the search ends, however the types are
        // linked.
        var taken = choices.Keys.Select(key => (choices.RecordType, key.ToString())).ToHashSet();
        var offers = new List<LinkedOffer>();
        var open = new Queue<MergeChoices>([choices]);
        var waiting = choices.Linked.ToList();
        while (open.TryDequeue(out var merge))
        {
            var type = map.Map.Require(merge.RecordType);
            if (type.Linked.Count == 0)
                continue;
            var records = await _reader.ReadRecordsAsync(type, [.. merge.Keys], cancellationToken);
            foreach (var snapshot in await linkedReader.ReadAsync(type, records, cancellationToken))
            {
                var fresh = snapshot with
                {
                    Records =
                    [
                        .. snapshot.Records.Where(record =>
                            !taken.Contains((snapshot.Type.Name, record.Record.Key.ToString()))
                        ),
                    ],
                };
                foreach (var group in LinkedOffers.Groups(fresh))
                {
                    taken.UnionWith(group.Records.Select(record => (snapshot.Type.Name, record.Key.ToString())));
                    var chosen = waiting
                        .Where(linked =>
                            linked.RecordType == snapshot.Type.Name
                            && linked.Keys.All(key => group.Records.Any(record => record.Key.Equals(key)))
                        )
                        .ToList();
                    chosen.ForEach(linked => open.Enqueue(linked));
                    waiting.RemoveAll(chosen.Contains);
                    offers.Add(await OfferAsync(snapshot, merge, group, chosen.Count > 0, cancellationToken));
                }
            }
        }

        if (waiting.Count == 0)
            return (offers, linkedReader.PassedOver);
        var offered = offers.Select(offer =>
            $"{offer.Type.Name} {string.Join(", ", offer.Records.Select(record => record.Key))}"
        );
        throw new KettlefogException(
            ErrorCode.InvalidChoice,
            $"{waiting[0].RecordType} {string.Join(", ", waiting[0].Keys)} are not offered as a linked merge.",
            offers.Count == 0
                ? "This merge has no linked merges."
                : $"The linked merges are: {string.Join("; ", offered)}."
        );
    }

    private async Task<LinkedOffer> OfferAsync(
        LinkedSnapshot snapshot,
        MergeChoices of,
        LinkedGroup group,
        bool chosen,
        CancellationToken cancellationToken
    )
    {
        var keys = group.Records.Select(record => record.Key).ToList();
        var found = await _reader.ReadAsync(
            new MergeChoices(snapshot.Type.Name, keys[0], keys[1..], new Dictionary<string, FieldChoice>()),
            null,
            cancellationToken
        );
        return new LinkedOffer(
            snapshot.Link,
            snapshot.Type,
            (of.RecordType, of.Master.ToString()),
            [.. group.Records.Select(record => MergePlanner.Describe(snapshot.Type, record))],
            group.Because,
            MasterSuggester.Suggest(found),
            chosen
        );
    }

    private async Task<MergeSnapshot> ReadAsync(MergeChoices choices, CancellationToken cancellationToken)
    {
        var rule = choices.Rule is { } name
            ? (
                await new RuleStore(session).RequireAsync(map.Map.Require(choices.RecordType), name, cancellationToken)
            ).Rule
            : null;
        return await _reader.ReadAsync(choices, rule, cancellationToken) with
        {
            NonDuplicates = await new NonDuplicateStore(session).ListAmongAsync(
                choices.RecordType,
                [.. choices.Keys.Select(key => key.ToString())],
                cancellationToken
            ),
        };
    }
}

/// <summary>A planned merge whose linked merges have changed their rows, and are not recorded yet.</summary>
/// <param name="Plan">The plan.</param>
/// <param name="Journal">Where its rows are journaled; see <see cref="JournalIdentifier"/>.</param>
/// <param name="Linked">The linked merges, in their order.</param>
internal sealed record PreparedMerge(MergePlan Plan, long Journal, IReadOnlyList<MergeApplier> Linked);
