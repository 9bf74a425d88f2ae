using Kettlefog.Contracts;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Proving;

namespace Kettlefog.Core.History;

/// <summary>
/// Proofs that one entry is in a history: made by the service, verified by anybody who has its public key.
/// </summary>
public static class EntryProof
{
    /// <summary>A proof.</summary>
    /// <param name="entry">The entry.</param>
    /// <param name="path">Its audit path in the tree of the checkpoint.</param>
    /// <param name="checkpoint">The signed checkpoint.</param>
    public static EntryProofView Of(HistoryEntry entry, IReadOnlyList<byte[]> path, string checkpoint)
    {
        ArgumentNullException.ThrowIfNull(entry);
        return new EntryProofView(
            EntryProofView.Kind,
            new ProvenEntry(
                entry.Number,
                EnumName.Of(entry.Kind),
                entry.RecordType,
                entry.Master,
                entry.At,
                entry.Actor,
                entry.Reason,
                entry.Rule,
                entry.ApprovedBy,
                entry.Reverses,
                entry.Details,
                entry.JournalDigest,
                entry.PreviousHash
            ),
            [.. path.Select(Convert.ToHexStringLower)],
            checkpoint
        );
    }

    /// <summary>Verifies a proof: that the entry is one of those of the checkpoint, and that a key signed it.</summary>
    /// <param name="proof">The proof.</param>
    /// <param name="key">The public key, from where it is published and not from the proof.</param>
    /// <returns>The checkpoint.</returns>
    /// <exception cref="KettlefogException">It proves nothing; the message says why.</exception>
    public static Checkpoint Verify(EntryProofView proof, NoteKey key)
    {
        ArgumentNullException.ThrowIfNull(proof);
        ArgumentNullException.ThrowIfNull(key);
        var checkpoint = Checkpoint.Read(proof.Checkpoint);
        if (!key.IsNamedBy(proof.Checkpoint))
            throw NotProven($"its checkpoint is not signed by the key {key.Name}", "Use the key that signed it.");
        if (!key.Verifies(proof.Checkpoint))
            throw NotProven("its checkpoint was altered after it was signed");
        if (proof.Entry.Number > checkpoint.Size)
            throw NotProven("its checkpoint has no such entry");
        return
            Convert.FromHexString(checkpoint.Root) is var root
            && EntryOf(proof.Entry) is { } entry
            && PathOf(proof.Path) is { } path
            && MerkleTree.RootOf(MerkleTree.LeafOf(entry.ComputeHash()), entry.Number - 1, checkpoint.Size, path)
                is { } found
            && found.AsSpan().SequenceEqual(root)
            ? checkpoint
            : throw NotProven("this entry is not in the history of its checkpoint, or was altered");
    }

    private static HistoryEntry? EntryOf(ProvenEntry entry) =>
        EnumName.TryRead<EntryKind>(entry.Kind, out var kind)
            ? new HistoryEntry(
                entry.Number,
                kind,
                entry.RecordType,
                entry.Master,
                entry.At,
                entry.Actor,
                entry.Reason,
                entry.Rule,
                entry.ApprovedBy,
                entry.Reverses,
                entry.Details,
                entry.JournalDigest,
                entry.PreviousHash
            )
            : null;

    private static List<byte[]>? PathOf(IReadOnlyList<string> path)
    {
        try
        {
            return [.. path.Select(Convert.FromHexString)];
        }
        catch (FormatException)
        {
            return null;
        }
    }

    private static KettlefogException NotProven(string why, string? hint = null) =>
        new(ErrorCode.NotProven, $"The proof does not hold: {why}.", hint ?? "Ask for a new one.");
}
