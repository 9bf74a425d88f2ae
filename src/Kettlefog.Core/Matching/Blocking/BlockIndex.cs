namespace Kettlefog.Core.Matching.Blocking;

/// <summary>The outcome of blocking.</summary>
/// <param name="Keys">The number of keys that bring records together.</param>
/// <param name="Refined">The number of keys that too many records shared, so that a further part was added.</param>
/// <param name="Dropped">The number of keys that too many records shared even so.</param>
internal sealed record BlockingReport(long Keys, long Refined, long Dropped);

/// <summary>
/// Brings records together that share a key (Newcombe 1959; Christen 2012, "A Survey of Indexing Techniques"). A key
/// that more records share than a cap allows is refined by a further part of those records, and dropped if that does
/// not help. A record's candidates are those it shares any block with.
/// </summary>
internal sealed class BlockIndex
{
    /// <summary>More records than this never share a block.</summary>
    public const int Cap = 50;

    private const int Partitions = 256;

    // Blocks of at least two records: the sorted keys, where each block begins, and the records in it.
    private readonly ulong[] _keys;
    private readonly int[] _starts;
    private readonly int[] _members;

    // The blocks of each record.
    private readonly int[] _firstBlock;
    private readonly int[] _blocks;

    private BlockIndex(
        ulong[] keys,
        int[] starts,
        int[] members,
        int records,
        HashSet<ulong> refined,
        BlockingReport report
    )
    {
        (_keys, _starts, _members, Refined, Report) = (keys, starts, members, refined, report);
        _firstBlock = new int[records + 1];
        foreach (var member in members)
            _firstBlock[member + 1]++;
        for (var record = 0; record < records; record++)
            _firstBlock[record + 1] += _firstBlock[record];
        _blocks = new int[members.Length];
        var next = _firstBlock.AsSpan(0, records).ToArray();
        for (var block = 0; block < keys.Length; block++)
        {
            for (var at = starts[block]; at < starts[block + 1]; at++)
                _blocks[next[members[at]]++] = block;
        }
    }

    public BlockingReport Report { get; }

    /// <summary>The keys that too many records share.</summary>
    public HashSet<ulong> Refined { get; }

    /// <summary>The blocks of a record.</summary>
    public ReadOnlySpan<int> BlocksOf(int record) =>
        _blocks.AsSpan(_firstBlock[record], _firstBlock[record + 1] - _firstBlock[record]);

    /// <summary>The records in a block, by number.</summary>
    public ReadOnlySpan<int> Members(int block) => _members.AsSpan(_starts[block], _starts[block + 1] - _starts[block]);

    /// <summary>The records that share a key, or none.</summary>
    public ReadOnlySpan<int> Find(ulong key)
    {
        var block = Array.BinarySearch(_keys, key);
        return block < 0 ? [] : Members(block);
    }

    /// <summary>Makes the index of records 0 to <paramref name="records"/> - 1.</summary>
    /// <param name="records">The number of records.</param>
    /// <param name="partsOf">Fills in the parts of a record; called by several threads.</param>
    /// <param name="single">True to keep keys that only one record has, for records to come.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public static BlockIndex Build(
        int records,
        Action<int, KeyParts> partsOf,
        bool single,
        CancellationToken cancellationToken
    )
    {
        var first = Gather(records, _ => true, AddKeys, partsOf, single, cancellationToken);
        var refine = new bool[records];
        var refined = new HashSet<ulong>();
        Sweep(first, (key, members) =>
        {
            if (members.Length <= Cap)
                return;
            refined.Add(key);
            foreach (var member in members)
                refine[member] = true;
        });
        long dropped = 0;
        var second = Gather(
            records,
            record => refine[record],
            (parts, keys) => AddRefinedKeys(parts, refined, keys),
            partsOf,
            single,
            cancellationToken
        );
        Sweep(second, (_, members) => dropped += members.Length > Cap ? 1 : 0);
        var minSize = single ? 1 : 2;
        long blocks = 0,
            places = 0;
        foreach (var sorted in (Sorted[])[first, second])
        {
            Sweep(sorted, (_, members) =>
            {
                if (members.Length < minSize || members.Length > Cap)
                    return;
                blocks++;
                places += members.Length;
            });
        }

        var keys = new ulong[blocks];
        var starts = new int[blocks + 1];
        var members = new int[places];
        int block = 0,
            place = 0;
        Merge(first, second, (key, group) =>
        {
            if (group.Length < minSize || group.Length > Cap)
                return;
            keys[block] = key;
            starts[block++] = place;
            group.CopyTo(members.AsSpan(place));
            place += group.Length;
        });
        starts[block] = place;
        return new BlockIndex(
            keys,
            starts,
            members,
            records,
            refined,
            new BlockingReport(blocks, refined.Count, dropped)
        );
    }

    /// <summary>The keys of a record: each strong part, and each two weak parts about different things.</summary>
    public static void AddKeys(KeyParts parts, List<ulong> keys)
    {
        keys.AddRange(parts.Strong);
        var weak = parts.Weak;
        for (var i = 0; i < weak.Count; i++)
        {
            for (var j = i + 1; j < weak.Count; j++)
            {
                if (GoTogether(weak[i].Slot, weak[j].Slot))
                    keys.Add(Pair(weak[i].Hash, weak[j].Hash));
            }
        }
    }

    /// <summary>The keys of a record with a further part, for each of its keys that too many records share.</summary>
    public static void AddRefinedKeys(KeyParts parts, HashSet<ulong> refined, List<ulong> keys)
    {
        var weak = parts.Weak;
        foreach (var strong in parts.Strong)
        {
            if (!refined.Contains(strong))
                continue;
            foreach (var (_, hash) in weak)
                keys.Add(Pair(strong, hash));
        }

        for (var i = 0; i < weak.Count; i++)
        {
            for (var j = i + 1; j < weak.Count; j++)
            {
                if (!GoTogether(weak[i].Slot, weak[j].Slot) || !refined.Contains(Pair(weak[i].Hash, weak[j].Hash)))
                    continue;
                for (var k = 0; k < weak.Count; k++)
                {
                    if (k != i && k != j)
                        keys.Add(KeyParts.Mix(weak[i].Hash + weak[j].Hash + weak[k].Hash + 3));
                }
            }
        }
    }

    private static ulong Pair(ulong a, ulong b) => KeyParts.Mix(a + b + 2);

    private static bool GoTogether(KeySlot a, KeySlot b) =>
        a != b
            ? !(a is KeySlot.Postcode or KeySlot.Town && b is KeySlot.Postcode or KeySlot.Town)
                && !(a is KeySlot.Name or KeySlot.Piece && b is KeySlot.Name or KeySlot.Piece && a != b)
            : a is KeySlot.Name or KeySlot.Value;

    private static Sorted Gather(
        int records,
        Func<int, bool> wanted,
        Action<KeyParts, List<ulong>> keysOf,
        Action<int, KeyParts> partsOf,
        bool single,
        CancellationToken cancellationToken
    )
    {
        // Two passes by partition of the key keep the scratch small: first count, then place.
        var slices = Math.Max(1, Environment.ProcessorCount * 4);
        var found = new List<(ulong Key, int Record)>[slices][];
        Parallel.For(0, slices, new ParallelOptions { CancellationToken = cancellationToken }, slice =>
        {
            var own = new List<(ulong, int)>[Partitions];
            for (var partition = 0; partition < Partitions; partition++)
                own[partition] = [];
            var parts = new KeyParts();
            var keys = new List<ulong>();
            var (from, to) = ((int)((long)records * slice / slices), (int)((long)records * (slice + 1) / slices));
            for (var record = from; record < to; record++)
            {
                if (!wanted(record))
                    continue;
                parts.Clear();
                keys.Clear();
                partsOf(record, parts);
                keysOf(parts, keys);
                keys.Sort();
                ulong last = 0;
                foreach (var key in keys)
                {
                    if (key != last)
                        own[key >> 56].Add((key, record));
                    last = key;
                }
            }

            found[slice] = own;
        });
        var keys = new ulong[Partitions][];
        var owners = new int[Partitions][];
        Parallel.For(0, Partitions, new ParallelOptions { CancellationToken = cancellationToken }, partition =>
        {
            var all = found.Sum(own => own[partition].Count);
            var again = single ? null : SeenAgain.Of(found.Select(own => own[partition]), all);
            var count = again is null ? all : found.Sum(own => own[partition].Count(place => again.MayBe(place.Key)));
            var (partKeys, partOwners) = (new ulong[count], new int[count]);
            var at = 0;
            foreach (var own in found)
            {
                foreach (var (key, record) in own[partition])
                {
                    if (again?.MayBe(key) == false)
                        continue;
                    partKeys[at] = key;
                    partOwners[at++] = record;
                }

                own[partition] = [];
            }

            Array.Sort(partKeys, partOwners);
            Order(partKeys, partOwners);
            (keys[partition], owners[partition]) = (partKeys, partOwners);
        });
        return new Sorted(keys, owners);
    }

    /// <summary>Sorting by key leaves the records of one key in any order; they are wanted by number.</summary>
    private static void Order(ulong[] keys, int[] owners)
    {
        for (var start = 0; start < keys.Length; )
        {
            var end = start + 1;
            while (end < keys.Length && keys[end] == keys[start])
                end++;
            if (end - start > 1)
                owners.AsSpan(start, end - start).Sort();
            start = end;
        }
    }

    private static void Sweep(Sorted sorted, Group group)
    {
        for (var partition = 0; partition < Partitions; partition++)
            Sweep(sorted.Keys[partition], sorted.Owners[partition], group);
    }

    private static void Sweep(ulong[] keys, int[] owners, Group group)
    {
        for (var start = 0; start < keys.Length; )
        {
            var end = start + 1;
            while (end < keys.Length && keys[end] == keys[start])
                end++;
            group(keys[start], owners.AsSpan(start, end - start));
            start = end;
        }
    }

    /// <summary>All groups of both, by key.</summary>
    private static void Merge(Sorted a, Sorted b, Group group)
    {
        for (var partition = 0; partition < Partitions; partition++)
        {
            var (keysA, keysB) = (a.Keys[partition], b.Keys[partition]);
            int i = 0,
                j = 0;
            while (i < keysA.Length || j < keysB.Length)
            {
                var fromA = j == keysB.Length || (i < keysA.Length && keysA[i] <= keysB[j]);
                var (keys, owners, start) = fromA ? (keysA, a.Owners[partition], i) : (keysB, b.Owners[partition], j);
                var end = start + 1;
                while (end < keys.Length && keys[end] == keys[start])
                    end++;
                group(keys[start], owners.AsSpan(start, end - start));
                if (fromA)
                    i = end;
                else
                    j = end;
            }
        }
    }

    /// <summary>
    /// The keys that may occur more than once: most occur once, and are not worth sorting. A Bloom filter (Bloom 1970)
    /// of one hash, so it may err about a key that occurs once, never about one that occurs more often.
    /// </summary>
    private sealed class SeenAgain
    {
        private readonly ulong[] _once,
            _again;
        private readonly ulong _mask;

        private SeenAgain(int keys)
        {
            var bits = (ulong)
                System.Numerics.BitOperations.RoundUpToPowerOf2((uint)Math.Max(64, Math.Min(keys, 1 << 27) * 4));
            (_once, _again, _mask) = (new ulong[bits / 64], new ulong[bits / 64], bits - 1);
        }

        public static SeenAgain Of(IEnumerable<List<(ulong Key, int Record)>> places, int keys)
        {
            var seen = new SeenAgain(keys);
            foreach (var each in places)
            {
                foreach (var (key, _) in each)
                    seen.Add(key);
            }

            return seen;
        }

        public bool MayBe(ulong key) => (_again[(key & _mask) / 64] & (1UL << (int)(key % 64))) != 0;

        private void Add(ulong key)
        {
            var (word, bit) = ((key & _mask) / 64, 1UL << (int)(key % 64));
            _again[word] |= _once[word] & bit;
            _once[word] |= bit;
        }
    }

    private delegate void Group(ulong key, ReadOnlySpan<int> members);

    private sealed record Sorted(ulong[][] Keys, int[][] Owners);
}
