using Kettlefog.Core;
using Kettlefog.Core.Proving;
using Kettlefog.Database.Engines;

namespace Kettlefog.Database.History;

/// <summary>
/// The hash tree over the history. Roots are computed from all entries each time; for audit paths, the roots of whole
/// blocks of entries are kept, so that a path needs only the blocks of the entry and of the end.
/// </summary>
internal sealed class HistoryTree(DatabaseEngine engine) : IDisposable
{
    private const int Level = 10;
    private const int BlockSize = 1 << Level;
    private const int EntriesPerSession = 16 * BlockSize;

    private readonly SemaphoreSlim _turn = new(1);
    private readonly List<byte[]> _blocks = [];

    /// <summary>The root over all entries, and over the first ones.</summary>
    /// <param name="earlier">How many are the first ones.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>
    /// How many entries there are, their root, and the root over the first ones; null if there are not as many.
    /// </returns>
    /// <exception cref="KettlefogException">An entry is missing.</exception>
    public async Task<(long Size, byte[] Root, byte[]? Earlier)> ReadRootsAsync(
        long earlier,
        CancellationToken cancellationToken
    )
    {
        var tree = new MerkleRoot();
        var root = earlier == 0 ? tree.Compute() : null;
        while (await ReadLeavesAsync(tree.Size, EntriesPerSession, cancellationToken) is { Count: > 0 } leaves)
        {
            foreach (var leaf in leaves)
            {
                tree.Add(leaf);
                if (tree.Size == earlier)
                    root = tree.Compute();
            }
        }

        return (tree.Size, tree.Compute(), root);
    }

    /// <summary>The audit path of an entry.</summary>
    /// <param name="number">The number of the entry.</param>
    /// <param name="size">How many entries the tree has, from the first.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">An entry is missing.</exception>
    public async Task<IReadOnlyList<byte[]>> ReadPathAsync(long number, long size, CancellationToken cancellationToken)
    {
        await _turn.WaitAsync(cancellationToken);
        try
        {
            var index = number - 1;
            while (_blocks.Count < size / BlockSize)
                await AddBlocksAsync(size / BlockSize, cancellationToken);
            var own = index / BlockSize;
            var leaves = new Dictionary<long, IReadOnlyList<byte[]>>
            {
                [own] = await ReadLeavesAsync(own * BlockSize, BlockSize, cancellationToken),
            };
            var last = size / BlockSize;
            if (size % BlockSize > 0 && last != own)
                leaves[last] = await ReadLeavesAsync(last * BlockSize, (int)(size % BlockSize), cancellationToken);
            return MerkleTree.Path(index, size, Subtree);

            byte[] Subtree(long start, long count)
            {
                var root = new MerkleRoot();
                for (var place = start; place < start + count; )
                {
                    var block = place / BlockSize;
                    if (place % BlockSize == 0 && place + BlockSize <= start + count)
                    {
                        root.AddWhole(Level, _blocks[(int)block]);
                        place += BlockSize;
                    }
                    else
                    {
                        root.Add(leaves[block][(int)(place % BlockSize)]);
                        place++;
                    }
                }

                return root.Compute();
            }
        }
        finally
        {
            _turn.Release();
        }
    }

    /// <summary>Forgets the blocks, after a path that did not lead to the root.</summary>
    public async Task ForgetAsync(CancellationToken cancellationToken)
    {
        await _turn.WaitAsync(cancellationToken);
        _blocks.Clear();
        _turn.Release();
    }

    public void Dispose() => _turn.Dispose();

    private async Task AddBlocksAsync(long wanted, CancellationToken cancellationToken)
    {
        var missing = Math.Min(EntriesPerSession, (wanted - _blocks.Count) * BlockSize);
        var leaves = await ReadLeavesAsync(_blocks.Count * (long)BlockSize, (int)missing, cancellationToken);
        if (leaves.Count < missing)
            throw Missing((_blocks.Count * (long)BlockSize) + leaves.Count + 1);
        foreach (var block in leaves.Chunk(BlockSize))
        {
            var root = new MerkleRoot();
            foreach (var leaf in block)
                root.Add(leaf);
            _blocks.Add(root.Compute());
        }
    }

    /// <summary>Leaves that follow a number of entries; a session of its own, so that no writer waits long.</summary>
    private async Task<IReadOnlyList<byte[]>> ReadLeavesAsync(
        long after,
        int count,
        CancellationToken cancellationToken
    )
    {
        await using var session = await engine.OpenReadAsync(cancellationToken);
        var leaves = new List<byte[]>();
        foreach (var (number, hash) in await new HistoryStore(session).HashesAsync(after, count, cancellationToken))
        {
            if (number != after + leaves.Count + 1)
                throw Missing(after + leaves.Count + 1);
            leaves.Add(MerkleTree.LeafOf(hash));
        }

        return leaves;
    }

    private static KettlefogException Missing(long number) =>
        new(
            ErrorCode.NotProven,
            $"Entry {number} of the history is missing.",
            "Verify the history to see what else was altered."
        );
}
