using Kettlefog.Core.Proving;

namespace Kettlefog.Core.History;

/// <summary>What a check of the hash chain found.</summary>
/// <param name="Entries">How many entries were checked.</param>
/// <param name="Last">The number of the last entry.</param>
/// <param name="Head">
/// The hash of the last entry; write it down elsewhere, with its number, to prove later that none was cut off, or to
/// check only what follows.
/// </param>
/// <param name="Faults">What is wrong, one sentence each; empty if no changes were detected.</param>
public sealed record ChainCheck(long Entries, long Last, string Head, IReadOnlyList<string> Faults);

/// <summary>Checks the hash chain of the history, entry by entry.</summary>
/// <param name="last">The number of the entry after which the check begins; 0 for the first entry.</param>
/// <param name="head">The hash of that entry, as known from an earlier check.</param>
/// <param name="checkpoint">
/// What the history was at some time, to see that it begins so; null for none. Such a check begins at the first entry.
/// </param>
public sealed class ChainVerifier(long last, string head, Checkpoint? checkpoint = null)
{
    private readonly List<string> _faults = [];
    private readonly MerkleRoot _tree = new();

    /// <summary>How many entries were checked so far.</summary>
    public long Entries { get; private set; }

    /// <summary>The number of the last entry so far.</summary>
    public long Last { get; private set; } = last;

    /// <summary>What was found so far.</summary>
    public ChainCheck Result => new(Entries, Last, head, _faults);

    /// <summary>Ends the check of a whole history.</summary>
    public ChainCheck Finish()
    {
        if (checkpoint?.Size > Last)
            _faults.Add(
                $"The checkpoint has {Counted(checkpoint.Size)}, and the history only {Last}: some were removed at the "
                    + "end."
            );
        else if (checkpoint is { Size: 0 })
            Compare();
        return Result;
    }

    /// <summary>Compares the hash from an earlier check with the one that the entry has now.</summary>
    /// <param name="hash">The stored hash of the entry after which the check begins.</param>
    public void EnsureStartsAt(string hash)
    {
        if (hash != head)
            _faults.Add(
                $"Entry {Last} has another hash than it had: it was altered since, or that hash is of another entry."
            );
    }

    /// <summary>Checks the next entry.</summary>
    /// <param name="chained">The entry, with its stored hash.</param>
    /// <param name="journalDigest">The digest of the journal rows that the entry has now.</param>
    public void Add(ChainedEntry chained, string journalDigest)
    {
        ArgumentNullException.ThrowIfNull(chained);
        var (entry, hash) = chained;
        Entries++;
        if (entry.Number != Last + 1)
            _faults.Add($"Entry {Last + 1} is missing; entry {entry.Number} is in its place.");
        if (entry.PreviousHash != head)
            _faults.Add($"Entry {entry.Number} does not follow the entry before it.");
        var computed = entry.ComputeHash();
        if (computed != hash)
            _faults.Add($"Entry {entry.Number} was altered.");
        if (journalDigest != entry.JournalDigest)
            _faults.Add($"The journal of entry {entry.Number} was altered.");
        (Last, head) = (entry.Number, hash);
        if (checkpoint is null || Entries > checkpoint.Size)
            return;
        _tree.Add(MerkleTree.LeafOf(computed));
        if (Entries == checkpoint.Size)
            Compare();
    }

    private void Compare()
    {
        if (Convert.ToHexStringLower(_tree.Compute()) != checkpoint!.Root)
            _faults.Add(
                $"The history does not begin with the {Counted(checkpoint.Size)} of the checkpoint: it was rewritten "
                    + "since."
            );
    }

    private static string Counted(long entries) => entries == 1 ? "1 entry" : $"{entries} entries";
}
