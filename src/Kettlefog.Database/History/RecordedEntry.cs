using Kettlefog.Core.History;
using Kettlefog.Database.Journal;

namespace Kettlefog.Database.History;

/// <summary>An entry of the history, with its hash and its reversal.</summary>
/// <param name="Entry">The entry.</param>
/// <param name="Hash">Its hash.</param>
/// <param name="ReversedBy">The number of the reversal that reversed it, or null if it is in effect.</param>
public sealed record RecordedEntry(HistoryEntry Entry, string Hash, long? ReversedBy)
{
    /// <summary>What it journaled; see <see cref="JournalIdentifier"/>.</summary>
    internal long Journal { get; init; }
}
