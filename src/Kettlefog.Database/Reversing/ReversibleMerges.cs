using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.History;
using Kettlefog.Database.Records;

namespace Kettlefog.Database.Reversing;

/// <summary>Merges that are in effect, and what depends on them.</summary>
internal sealed class ReversibleMerges(Session session, CheckedMap map)
{
    private readonly HistoryStore _history = new(session);
    private readonly RowDependencies _rows = new(session);

    /// <summary>The later merges that must be reversed first, latest first.</summary>
    /// <exception cref="KettlefogException">The entry is not a merge, or is reversed already.</exception>
    public async Task<IReadOnlyList<HistoryEntry>> DependentMergesAsync(
        long number,
        CancellationToken cancellationToken
    )
    {
        var merge = await RequireInEffectAsync(number, cancellationToken);
        var found = new SortedDictionary<long, HistoryEntry>(Comparer<long>.Create((a, b) => b.CompareTo(a)));
        var open = new Queue<HistoryEntry>([merge]);
        while (open.TryDequeue(out var next))
        {
            var direct = await _history.DependentMergesAsync(next, cancellationToken);
            foreach (var later in direct.Union(await _rows.LaterMergesAsync(next.Number, cancellationToken)))
            {
                if (found.ContainsKey(later))
                    continue;
                found[later] = (await _history.RequireAsync(later, cancellationToken)).Entry;
                open.Enqueue(found[later]);
            }
        }

        return [.. found.Values];
    }

    /// <summary>The linked merges of a merge that are still in effect.</summary>
    public async Task<IReadOnlyList<long>> LinkedAsync(long number, CancellationToken cancellationToken)
    {
        var standing = new List<long>();
        foreach (
            var linked in DetailsJson
                .Read<MergeDetails>((await RequireInEffectAsync(number, cancellationToken)).Details)
                .Linked
                ?? []
        )
        {
            if ((await _history.RequireAsync(linked, cancellationToken)).ReversedBy is null)
                standing.Add(linked);
        }

        return standing;
    }

    /// <summary>
    /// Locks the records of merges until the session ends: all of a type at once, and so in the order in which all
    /// others lock them.
    /// </summary>
    public async Task LockAsync(IReadOnlyList<long> numbers, CancellationToken cancellationToken)
    {
        var byType = new SortedDictionary<string, HashSet<RecordKey>>(StringComparer.Ordinal);
        foreach (var number in numbers)
        {
            var merge = await RequireInEffectAsync(number, cancellationToken);
            var type = map.Map.Require(merge.RecordType);
            var schema = map.Catalog.Require(type.Table).Require(type.Key);
            var keys = DetailsJson
                .Read<MergeDetails>(merge.Details)
                .Records.Select(record => RecordKeyParser.Parse(record.Key, schema));
            if (!byType.TryAdd(type.Name, [.. keys]))
                byType[type.Name].UnionWith(keys);
        }

        var reader = new SnapshotReader(session, map);
        foreach (var (type, keys) in byType)
            await reader.LockAsync(map.Map.Require(type), [.. keys], cancellationToken);
    }

    /// <summary>A merge that is in effect.</summary>
    /// <exception cref="KettlefogException">The entry is not a merge, or is reversed already.</exception>
    public async Task<HistoryEntry> RequireInEffectAsync(long number, CancellationToken cancellationToken)
    {
        var recorded = await _history.RequireAsync(number, cancellationToken);
        if (recorded.Entry.Kind != EntryKind.Merge)
        {
            throw new KettlefogException(
                ErrorCode.NotReversible,
                $"Entry {number} is a reversal, not a merge.",
                "To merge again, make a new plan."
            );
        }

        return recorded.ReversedBy is { } reversal
            ? throw new KettlefogException(
                ErrorCode.NotReversible,
                $"Merge {number} was already reversed, by entry {reversal}.",
                "To merge again, make a new plan."
            )
            : recorded.Entry;
    }
}
