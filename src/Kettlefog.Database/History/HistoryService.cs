using System.Runtime.CompilerServices;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Proving;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.History;

/// <summary>Reads the history, and verifies that it was not altered.</summary>
public sealed class HistoryService : IDisposable
{
    private const int EntriesPerSession = 50;

    private readonly DatabaseContext _context;
    private readonly HistoryTree _tree;

    internal HistoryService(DatabaseContext context) => (_context, _tree) = (context, new HistoryTree(context.Engine));

    /// <inheritdoc/>
    public void Dispose() => _tree.Dispose();

    /// <summary>One entry of the history.</summary>
    /// <exception cref="KettlefogException">There is none of that number.</exception>
    public async Task<RecordedEntry> ReadAsync(long number, CancellationToken cancellationToken)
    {
        await using var session = await _context.Engine.OpenReadAsync(cancellationToken);
        return await new HistoryStore(session).RequireAsync(number, cancellationToken);
    }

    /// <summary>A page of the history, latest first.</summary>
    public async Task<Page<RecordedEntry>> ListAsync(
        HistoryFilter filter,
        int page,
        int size,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(filter);
        await using var session = await _context.Engine.OpenReadAsync(cancellationToken);
        var (entries, total) = await new HistoryStore(session).ListAsync(filter, page, size, cancellationToken);
        return new Page<RecordedEntry>(entries, total);
    }

    /// <summary>Entries of the history one by one, latest first, however many there are.</summary>
    public async IAsyncEnumerable<RecordedEntry> StreamAsync(
        HistoryFilter filter,
        [EnumeratorCancellation] CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(filter);
        await using var session = await _context.Engine.OpenReadAsync(cancellationToken);
        await foreach (var entry in new HistoryStore(session).StreamAsync(filter, cancellationToken))
            yield return entry;
    }

    /// <summary>How many entries of each kind there are, day by day (UTC).</summary>
    /// <param name="since">The first day.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<IReadOnlyList<DayCount>> CountAsync(DateOnly since, CancellationToken cancellationToken)
    {
        await using var session = await _context.Engine.OpenReadAsync(cancellationToken);
        return await new HistoryStore(session).CountAsync(since, cancellationToken);
    }

    /// <summary>Checks the hash chain of the whole history, and the journal against it.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<ChainCheck> VerifyAsync(CancellationToken cancellationToken) =>
        VerifyAsync(null, null, cancellationToken);

    /// <summary>
    /// The root over all entries, and over the first ones (RFC 6962), from the entries as they are now.
    /// </summary>
    /// <param name="earlier">How many are the first ones.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>
    /// How many entries there are, their root, and the root over the first ones; null if there are not as many.
    /// </returns>
    /// <exception cref="KettlefogException">An entry is missing.</exception>
    public Task<(long Size, byte[] Root, byte[]? Earlier)> ReadRootsAsync(
        long earlier,
        CancellationToken cancellationToken
    ) => _tree.ReadRootsAsync(earlier, cancellationToken);

    /// <summary>The proof that an entry is in the history of a checkpoint.</summary>
    /// <param name="number">The number of the entry.</param>
    /// <param name="checkpoint">The signed checkpoint.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">
    /// The history or the checkpoint has no such entry, or the history does not begin as the checkpoint says.
    /// </exception>
    public async Task<EntryProofView> ProveAsync(long number, string checkpoint, CancellationToken cancellationToken)
    {
        var read = Checkpoint.Read(checkpoint);
        var entry = await ReadAsync(number, cancellationToken);
        if (number > read.Size)
            throw new KettlefogException(
                ErrorCode.InvalidQuery,
                $"Entry {number} is younger than the checkpoint, which has {read.Size} entries.",
                "Take a later checkpoint."
            );
        var path = await _tree.ReadPathAsync(number, read.Size, cancellationToken);
        var root = MerkleTree.RootOf(MerkleTree.LeafOf(entry.Entry.ComputeHash()), number - 1, read.Size, path);
        if (root is not null && Convert.ToHexStringLower(root) == read.Root)
            return EntryProof.Of(entry.Entry, path, checkpoint);
        await _tree.ForgetAsync(cancellationToken);
        throw new KettlefogException(
            ErrorCode.NotProven,
            "The history does not begin with the entries of the checkpoint.",
            "Verify the history with the checkpoint."
        );
    }

    /// <summary>Checks the hash chain of the history, and the journal against it.</summary>
    /// <param name="after">
    /// The entry up to which it was verified before, to check only what follows; null to check everything.
    /// </param>
    /// <param name="checkpoint">What the history was at some time, with which it must begin; null for none.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">
    /// The history has no such entry, or both an entry and a checkpoint are given.
    /// </exception>
    public async Task<ChainCheck> VerifyAsync(
        HistoryPosition? after,
        Checkpoint? checkpoint,
        CancellationToken cancellationToken
    )
    {
        if (after is not null && checkpoint is not null)
            throw new KettlefogException(
                ErrorCode.InvalidQuery,
                "A checkpoint is compared from the first entry on.",
                "Give either a checkpoint, or the entry after which to begin."
            );
        var chain = new ChainVerifier(after?.Number ?? 0, after?.Hash ?? HistoryEntry.NoHash, checkpoint);

        // Entries do not change, so each part can have a session of its own: one that took minutes would keep other
        // programs from writing.
        while (true)
        {
            await using var session = await _context.Engine.OpenReadAsync(cancellationToken);
            var history = new HistoryStore(session);
            if (after is not null && chain.Entries == 0)
                chain.EnsureStartsAt((await history.RequireAsync(after.Number, cancellationToken)).Hash);
            var part = await history.AfterAsync(chain.Last, EntriesPerSession, cancellationToken);
            if (part.Count == 0)
                return chain.Finish();
            var journal = new JournalDigest(session);
            foreach (var recorded in part)
            {
                var digest = await journal.ComputeAsync(recorded.Journal, cancellationToken);
                if (digest != recorded.Entry.JournalDigest)
                    digest = await journal.ComputeEarlyAsync(recorded.Journal, cancellationToken);
                chain.Add(new ChainedEntry(recorded.Entry, recorded.Hash), digest);
            }
        }
    }
}
