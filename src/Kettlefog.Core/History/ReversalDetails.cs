using Kettlefog.Contracts;
using Kettlefog.Core.Map.Model;

namespace Kettlefog.Core.History;

/// <summary>All that a reversal did, with every value as text.</summary>
/// <param name="Plan">The fingerprint of the reversal plan.</param>
/// <param name="Records">The records, the master first.</param>
/// <param name="Rows">The related rows that were moved back, by reference and record.</param>
/// <param name="Cells">The values that were restored.</param>
/// <param name="Restored">The keys of the deleted records that were restored.</param>
/// <param name="Drift">
/// The changes made since the merge, and whether each was kept or undone, one sentence each.
/// </param>
/// <param name="Removed">
/// What the merge had added and was removed again, one sentence each; null if nothing was.
/// </param>
/// <param name="PartOf">The merge that one record was taken out of; null if the whole merge was reversed.</param>
/// <param name="Only">That record's key.</param>
/// <param name="Catalog">
/// The state of the tables; see <see cref="CheckedMap.Version"/>. Null in entries of earlier programs.
/// </param>
public sealed record ReversalDetails(
    string Plan,
    IReadOnlyList<PlanRecord> Records,
    IReadOnlyList<ReturnedRows> Rows,
    IReadOnlyList<ReturnedCell> Cells,
    IReadOnlyList<string> Restored,
    IReadOnlyList<string> Drift,
    IReadOnlyList<string>? Removed = null,
    long? PartOf = null,
    string? Only = null,
    string? Catalog = null
);
