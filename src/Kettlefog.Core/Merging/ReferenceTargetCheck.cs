using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;

namespace Kettlefog.Core.Merging;

/// <summary>Rows that refer to a record by columns other than its key.</summary>
internal sealed class ReferenceTargetCheck : IBlockerCheck
{
    /// <inheritdoc/>
    public IEnumerable<Blocker> Check(BlockerContext context)
    {
        var (_, records, fields, moves) = context;
        foreach (var move in moves.Where(move => move.Reference.To.Count > 0 && move.Counts.Sum() > 0))
        {
            foreach (
                var field in fields.Where(field =>
                    field.Changes && move.Reference.To.ContainsIdentifier(field.Field.Column)
                )
            )
            {
                yield return new Blocker(
                    $"{move.Reference.Title} refer to the records by {field.Field.Title.ToLowerInvariant()}, "
                        + $"which would change from {ValueText.Of(field.Values[0])} to {ValueText.Of(field.Value)}.",
                    $"Keep the master's {field.Field.Title.ToLowerInvariant()}, or choose another master."
                );
            }

            if (
                move.Count > 0
                && move.Reference.Policy == ReferencePolicy.Reassign
                && move.PointedAt[0].Parts.Any(part => part.IsNull)
            )
            {
                yield return new Blocker(
                    $"{move.Count} {move.Reference.Title.ToLowerInvariant()} cannot refer to the master "
                        + $"{records[0].Key}: it has no {string.Join(", ", move.Reference.To)}.",
                    "Give the master one in the operational system, or choose another master."
                );
            }
        }
    }
}
