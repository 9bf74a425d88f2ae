using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Merging;

/// <summary>Related rows that only one of the records may have, such as running agreements.</summary>
internal sealed class AtMostOneCheck : IBlockerCheck
{
    /// <inheritdoc/>
    public IEnumerable<Blocker> Check(BlockerContext context)
    {
        var (snapshot, records, _, moves) = context;
        foreach (var active in snapshot.Active.Where(active => active.Counts.Count(count => count > 0) > 1))
        {
            var reference = moves.First(move => move.Reference.Name == active.Rule.Reference).Reference;
            if (reference is { MayExclude: true, Policy: ReferencePolicy.Leave })
                continue;
            var holders = records
                .Zip(active.Counts)
                .Where(pair => pair.Second > 0)
                .Select(pair => $"{pair.First.Key} has {pair.Second}");
            List<Clearing> clearings = [];
            if (active.Rule.End.Count > 0)
                clearings.Add(
                    new Clearing(
                        ClearingKind.End,
                        active.Rule.Name,
                        $"End {active.Rule.Title.ToLowerInvariant()} of the duplicates"
                    )
                );
            if (reference.MayExclude && active.Counts[0] > 0)
                clearings.Add(
                    new Clearing(
                        ClearingKind.Exclude,
                        reference.Name,
                        $"Leave {reference.Title.ToLowerInvariant()} of the duplicates with them"
                    )
                );
            var choices = clearings.Select(
                (clearing, place) =>
                    (place == 0 ? clearing.Title : char.ToLowerInvariant(clearing.Title[0]) + clearing.Title[1..])
                    + $" ({EnumName.Of(clearing.Kind)} {clearing.Name})"
            );
            yield return new Blocker(
                $"Only one record may have {active.Rule.Title.ToLowerInvariant()}, but {string.Join(", ", holders)}.",
                clearings.Count > 0
                    ? $"{string.Join(", or ", choices)}."
                    : "End or detach those of all records but one in the operational system, or leave a record "
                        + "out of the merge."
            )
            {
                Clearings = clearings,
            };
        }
    }
}
