using Kettlefog.Core.History;
using Kettlefog.Database.Journal;

namespace Kettlefog.Database.History;

/// <summary>An entry of the history, with its hash and its reversal.</summary>
/// <param name="Entry">The entry.</param>
/// <param name="Hash">Its hash.</param>
/// <param name="ReversedBy">The number of the reversal that reversed it, or null if it is in effect.</param>
/// <param name="IsInEffect">
/// Whether what it did is in effect: a merge until it is reversed, a decision that records are not duplicates until all
/// its pairs are reopened, everything else always.
/// </param>
public sealed record RecordedEntry(HistoryEntry Entry, string Hash, long? ReversedBy, bool IsInEffect)
{
    /// <summary>An entry that was written just now.</summary>
    public static RecordedEntry New(HistoryEntry entry)
    {
        ArgumentNullException.ThrowIfNull(entry);
        return new RecordedEntry(entry, entry.ComputeHash(), null, true);
    }

    /// <summary>What it journaled; see <see cref="JournalIdentifier"/>.</summary>
    internal long Journal { get; init; }
}
