using Kettlefog.Contracts;

namespace Kettlefog.Client;

/// <content>Checkpoints of the history, and proofs.</content>
public sealed partial class KettlefogClient
{
    /// <summary>Reads the public key that verifies checkpoints and proofs.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<CheckpointKey> CheckpointKeyAsync(CancellationToken cancellationToken = default) =>
        GetAsync<CheckpointKey>("api/history/key", cancellationToken);

    /// <summary>Has the service sign what the history is now.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<SignedCheckpoint> SignCheckpointAsync(CancellationToken cancellationToken = default) =>
        GetAsync<SignedCheckpoint>("api/history/checkpoint", cancellationToken);

    /// <summary>Proves that an entry is in the history of a checkpoint.</summary>
    /// <param name="number">The number of the entry.</param>
    /// <param name="checkpoint">The text of a signed checkpoint; null for a new one.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<EntryProofView> ProveEntryAsync(
        long number,
        string? checkpoint = null,
        CancellationToken cancellationToken = default
    ) => GetAsync<EntryProofView>($"api/history/{number}/proof" + Query(("checkpoint", checkpoint)), cancellationToken);
}
