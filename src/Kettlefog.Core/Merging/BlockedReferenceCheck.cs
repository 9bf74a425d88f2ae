using Kettlefog.Core.Map.Model;

namespace Kettlefog.Core.Merging;

/// <summary>Related rows that the map does not allow to move.</summary>
internal sealed class BlockedReferenceCheck : IBlockerCheck
{
    /// <inheritdoc/>
    public IEnumerable<Blocker> Check(BlockerContext context)
    {
        var (_, _, _, moves) = context;
        foreach (var move in moves.Where(move => move.Reference.Policy == ReferencePolicy.Block && move.Count > 0))
        {
            yield return new Blocker(
                $"The duplicates have {move.Count} {move.Reference.Title.ToLowerInvariant()}, which may not be moved.",
                "End or detach them in the operational system first, or choose another master."
            );
        }
    }
}
