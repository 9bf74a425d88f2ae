namespace Kettlefog.Core.Merging;

/// <summary>The input of a blocker check.</summary>
/// <param name="Snapshot">What was read.</param>
/// <param name="Records">The records, the master first.</param>
/// <param name="Fields">The fields, as planned.</param>
/// <param name="Moves">The related rows, as planned.</param>
internal sealed record BlockerContext(
    MergeSnapshot Snapshot,
    IReadOnlyList<PlannedRecord> Records,
    IReadOnlyList<PlannedField> Fields,
    IReadOnlyList<PlannedMove> Moves
);

/// <summary>Finds one kind of blocker.</summary>
internal interface IBlockerCheck
{
    /// <summary>The blockers of this kind; empty if there are none.</summary>
    /// <param name="context">The planned merge.</param>
    IEnumerable<Blocker> Check(BlockerContext context);
}
