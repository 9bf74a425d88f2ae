using Kettlefog.Core.History;

namespace Kettlefog.Database.Merging;

/// <summary>The outcome of a request.</summary>
/// <param name="Entry">The entry of the merge or reversal asked for.</param>
/// <param name="Entries">
/// All entries of the history that it made, in order: with those of linked or later merges.
/// </param>
/// <param name="Repeated">True if the same request was carried out before; nothing was done now.</param>
/// <param name="Details">The details of a merge done now; otherwise null.</param>
public sealed record MergeOutcome(
    HistoryEntry Entry,
    IReadOnlyList<HistoryEntry> Entries,
    bool Repeated,
    MergeDetails? Details = null
);
