using System.Security.Cryptography;
using CsCheck;
using Kettlefog.Core.Proving;

namespace Kettlefog.Core.Tests.Proving;

/// <summary>The hash tree: against published roots, and against the definition written out once more.</summary>
public class MerkleTreeTests
{
    /// <summary>The inputs and roots with which implementations of Certificate Transparency are tested.</summary>
    private static readonly (string Leaf, string Root)[] Published =
    [
        ("", "6e340b9cffb37a989ca544e6bb780a2c78901d3fb33738768511a30617afa01d"),
        ("00", "fac54203e7cc696cf0dfcb42c92a1d9dbaf70ad9e621f4bd8d98662f00e3c125"),
        ("10", "aeb6bcfe274b70a14fb067a5e5578264db0fa9b51af5e0ba159158f329e06e77"),
        ("2021", "d37ee418976dd95753c1c73862b9398fa2a2cf9b4ff0fdfe8b30cd95209614b7"),
        ("3031", "4e3bbb1f7b478dcfe71fb631631519a3bca12c9aefca1612bfce4c13a86264d4"),
        ("40414243", "76e67dadbcdf1e10e1b74ddc608abd2f98dfb16fbce75277b5232a127f2087ef"),
        ("5051525354555657", "ddb89be403809e325750d3d263cd78929c2942b7942a34b77e122c9594a74c8c"),
        ("606162636465666768696a6b6c6d6e6f", "5dc9da79a70659a9ad559cb701ded9a2ab9d823aad2f4960cfe370eff4604328"),
    ];

    [Fact]
    public void Roots_are_those_of_the_standard()
    {
        var tree = new MerkleRoot();
        Convert
            .ToHexStringLower(tree.Compute())
            .ShouldBe("e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855");
        foreach (var (leaf, root) in Published)
        {
            tree.Add(MerkleTree.Leaf(Convert.FromHexString(leaf)));
            Convert.ToHexStringLower(tree.Compute()).ShouldBe(root);
        }
    }

    [Fact]
    public void Every_leaf_of_every_tree_is_proven_and_nothing_else_is() =>
        Gen.Select(Gen.Int[1, 70], Gen.Int[0, 69], Gen.Int[0, 69], Gen.Int[0, 7])
            .Sample(
                (size, at, other, bit) =>
                {
                    var index = at % size;
                    var leaves = Leaves(size);
                    var root = RootBy(leaves);
                    var path = MerkleTree.Path(index, size, (start, count) =>
                        RootBy(leaves.AsSpan((int)start, (int)count))
                    );
                    MerkleTree.RootOf(leaves[index], index, size, path).ShouldBe(root);

                    // Another leaf, another place, another size, a path with a wrong bit, a shorter or a longer one.
                    if (other % size != index)
                    {
                        Differs(MerkleTree.RootOf(leaves[other % size], index, size, path), root);
                        Differs(MerkleTree.RootOf(leaves[index], other % size, size, path), root);
                    }

                    Differs(MerkleTree.RootOf(leaves[index], index, size, [.. path, leaves[0]]), root);
                    Differs(MerkleTree.RootOf(leaves[index], size, size, path), root);
                    Differs(MerkleTree.RootOf(leaves[index], -1, size, path), root);
                    if (path.Count == 0)
                        return;
                    Differs(MerkleTree.RootOf(leaves[index], index, size, [.. path.Skip(1)]), root);
                    Differs(MerkleTree.RootOf(leaves[index], index, size, [.. path.SkipLast(1)]), root);
                    var bent = path.Select(hash => hash.ToArray()).ToList();
                    bent[other % bent.Count][other % 32] ^= (byte)(1 << bit);
                    Differs(MerkleTree.RootOf(leaves[index], index, size, bent), root);
                }
            );

    [Fact]
    public void Whole_subtrees_count_as_their_leaves() =>
        Gen.Select(Gen.Int[0, 12], Gen.Int[0, 7])
            .Sample(
                (blocks, rest) =>
                {
                    var leaves = Leaves((blocks * 8) + rest);
                    var tree = new MerkleRoot();
                    for (var block = 0; block < blocks; block++)
                        tree.AddWhole(3, RootBy(leaves.AsSpan(block * 8, 8)));
                    foreach (var leaf in leaves.AsSpan(blocks * 8))
                        tree.Add(leaf);
                    tree.Size.ShouldBe(leaves.Length);
                    tree.Compute().ShouldBe(RootBy(leaves));
                }
            );

    [Fact]
    public void A_subtree_begins_only_where_one_could()
    {
        var tree = new MerkleRoot();
        tree.Add(Leaves(1)[0]);
        Should.Throw<ArgumentException>(() => tree.AddWhole(1, Leaves(1)[0]));
    }

    private static void Differs(byte[]? found, byte[] root) =>
        (found is not null && found.AsSpan().SequenceEqual(root)).ShouldBeFalse();

    private static byte[][] Leaves(int count) =>
        [.. Enumerable.Range(0, count).Select(number => SHA256.HashData([0, (byte)number]))];

    /// <summary>RFC 6962, section 2.1, word for word.</summary>
    private static byte[] RootBy(ReadOnlySpan<byte[]> leaves)
    {
        if (leaves.Length == 0)
            return SHA256.HashData([]);
        if (leaves.Length == 1)
            return leaves[0];
        var half = 1;
        while (half * 2 < leaves.Length)
            half *= 2;
        return SHA256.HashData([1, .. RootBy(leaves[..half]), .. RootBy(leaves[half..])]);
    }
}
