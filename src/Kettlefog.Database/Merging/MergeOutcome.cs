using Kettlefog.Core.History;

namespace Kettlefog.Database.Merging;

/// <summary>What a request did.</summary>
/// <param name="Entry">The entry of the merge or reversal asked for.</param>
/// <param name="Entries">
/// All entries of the history that it made, in order: with those of linked or later merges.
/// </param>
/// <param name="Repeated">True if the same request came before and did it then; nothing was done now.</param>
/// <param name="Details">The details of a merge done now; else null.</param>
public sealed record MergeOutcome(
    HistoryEntry Entry,
    IReadOnlyList<HistoryEntry> Entries,
    bool Repeated,
    MergeDetails? Details = null
);
