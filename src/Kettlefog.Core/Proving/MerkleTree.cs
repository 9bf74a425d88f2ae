using System.Numerics;
using System.Security.Cryptography;

namespace Kettlefog.Core.Proving;

/// <summary>
/// The hash tree of RFC 6962, section 2.1, over SHA-256: one leaf for each entry of the history, in their order.
/// </summary>
public static class MerkleTree
{
    /// <summary>The length of a hash, in bytes.</summary>
    public const int HashLength = SHA256.HashSizeInBytes;

    private const byte LeafPrefix = 0;
    private const byte NodePrefix = 1;

    /// <summary>The hash of a leaf.</summary>
    /// <param name="data">What the leaf holds: the hash of an entry, as bytes.</param>
    public static byte[] Leaf(ReadOnlySpan<byte> data)
    {
        Span<byte> prefixed = stackalloc byte[1 + HashLength];
        if (data.Length > HashLength)
            return SHA256.HashData([LeafPrefix, .. data]);
        prefixed[0] = LeafPrefix;
        data.CopyTo(prefixed[1..]);
        return SHA256.HashData(prefixed[..(1 + data.Length)]);
    }

    /// <summary>The leaf of an entry of the history.</summary>
    /// <param name="hash">The hash of the entry, as 64 hexadecimal digits.</param>
    /// <exception cref="FormatException">It is no such hash.</exception>
    public static byte[] LeafOf(string hash) => Leaf(Convert.FromHexString(hash));

    /// <summary>The hash of a node above two others.</summary>
    /// <param name="left">The hash of the left one.</param>
    /// <param name="right">The hash of the right one.</param>
    public static byte[] Node(ReadOnlySpan<byte> left, ReadOnlySpan<byte> right)
    {
        Span<byte> both = stackalloc byte[1 + (2 * HashLength)];
        both[0] = NodePrefix;
        left.CopyTo(both[1..]);
        right.CopyTo(both[(1 + HashLength)..]);
        return SHA256.HashData(both);
    }

    /// <summary>
    /// The audit path of a leaf (section 2.1.1): the hashes from which, with its own, the root follows.
    /// </summary>
    /// <param name="index">The number of the leaf, counted from 0.</param>
    /// <param name="size">The number of leaves of the tree.</param>
    /// <param name="subtree">The root over some leaves, from the number of the first and their count.</param>
    /// <returns>The hashes, the sibling of the leaf first.</returns>
    public static IReadOnlyList<byte[]> Path(long index, long size, Func<long, long, byte[]> subtree)
    {
        ArgumentNullException.ThrowIfNull(subtree);
        ArgumentOutOfRangeException.ThrowIfNegative(index);
        ArgumentOutOfRangeException.ThrowIfGreaterThanOrEqual(index, size);
        var path = new List<byte[]>();
        var start = 0L;
        while (size > 1)
        {
            var half = (long)(BitOperations.RoundUpToPowerOf2((ulong)size) / 2);
            if (index < half)
            {
                path.Add(subtree(start + half, size - half));
                size = half;
                continue;
            }

            path.Add(subtree(start, half));
            (start, index, size) = (start + half, index - half, size - half);
        }

        path.Reverse();
        return path;
    }

    /// <summary>The root that follows from a leaf and its audit path (RFC 9162, section 2.1.3.2).</summary>
    /// <param name="leaf">The hash of the leaf.</param>
    /// <param name="index">The number of the leaf, counted from 0.</param>
    /// <param name="size">The number of leaves of the tree.</param>
    /// <param name="path">The audit path.</param>
    /// <returns>The root; null if the path is none of such a leaf.</returns>
    public static byte[]? RootOf(byte[] leaf, long index, long size, IReadOnlyList<byte[]> path)
    {
        ArgumentNullException.ThrowIfNull(path);
        if (index < 0 || index >= size)
            return null;
        var (node, last, root) = (index, size - 1, leaf);
        foreach (var hash in path)
        {
            if (last == 0 || hash.Length != HashLength)
                return null;
            if ((node & 1) == 1 || node == last)
            {
                root = Node(hash, root);
                while ((node & 1) == 0 && node != 0)
                    (node, last) = (node >> 1, last >> 1);
            }
            else
            {
                root = Node(root, hash);
            }

            (node, last) = (node >> 1, last >> 1);
        }

        return last == 0 ? root : null;
    }
}

/// <summary>
/// The root of a tree whose leaves come one after the other; only the roots of whole subtrees are kept.
/// </summary>
public sealed class MerkleRoot
{
    private readonly Stack<(int Level, byte[] Hash)> _whole = new();

    /// <summary>How many leaves there are so far.</summary>
    public long Size { get; private set; }

    /// <summary>Adds the next leaf.</summary>
    /// <param name="leaf">Its hash.</param>
    public void Add(byte[] leaf) => AddWhole(0, leaf);

    /// <summary>Adds the next leaves, as many as a whole subtree has.</summary>
    /// <param name="level">The height of the subtree, which has 2 to the power of it leaves.</param>
    /// <param name="hash">Its root.</param>
    /// <exception cref="ArgumentException">
    /// The leaves so far are not those of whole subtrees of that height.
    /// </exception>
    public void AddWhole(int level, byte[] hash)
    {
        if (Size % (1L << level) != 0)
            throw new ArgumentException("A subtree begins where a whole one of its height could begin.", nameof(level));
        Size += 1L << level;
        for (; _whole.TryPeek(out var left) && left.Level == level; level++)
            hash = MerkleTree.Node(_whole.Pop().Hash, hash);
        _whole.Push((level, hash));
    }

    /// <summary>The root over the leaves so far.</summary>
    public byte[] Compute()
    {
        byte[]? root = null;
        foreach (var (_, hash) in _whole)
            root = root is null ? hash : MerkleTree.Node(hash, root);
        return root ?? SHA256.HashData([]);
    }
}
