using Kettlefog.Core.History;

namespace Kettlefog.Database.History;

/// <summary>An entry of the history, with what became of it.</summary>
/// <param name="Entry">The entry.</param>
/// <param name="Hash">Its hash.</param>
/// <param name="ReversedBy">The number of the reversal that took it back, or null if it stands.</param>
public sealed record RecordedEntry(HistoryEntry Entry, string Hash, long? ReversedBy);
