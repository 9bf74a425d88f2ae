namespace Kettlefog.Core.Matching.Blocking;

/// <summary>The outcome of blocking.</summary>
/// <param name="Keys">The number of blocks.</param>
/// <param name="Refined">The number of keys that too many records shared, so that a further part was added.</param>
/// <param name="Crowded">
/// The number of keys that too many records shared even so: their records meet only those next to them in order.
/// </param>
/// <param name="CrowdedRecords">The number of records that have such a key.</param>
internal sealed record BlockingReport(long Keys, long Refined, long Crowded, long CrowdedRecords);

/// <summary>What blocking needs to know about records.</summary>
/// <param name="Count">The number of records.</param>
/// <param name="AddParts">Fills in the parts of a record; called by several threads.</param>
/// <param name="TwinOf">A hash of all that is compared, the same for equal records; 0 if there is nothing.</param>
/// <param name="PlaceOf">
/// Where a record stands among others: in the order of these numbers, records that are much alike are next to each
/// other.
/// </param>
internal sealed record BlockedRecords(
    int Count,
    Action<int, KeyParts> AddParts,
    Func<int, ulong> TwinOf,
    Func<int, ulong[]> PlaceOf
);

/// <summary>
/// Brings records together that share a key (Newcombe 1959; Christen 2012, "A Survey of Indexing Techniques"). A key
/// that more records share than a cap allows is refined by a further part of those records. Nobody is dropped: what is
/// too many is put in order and worked through in overlapping windows (sorted neighbourhood: Hernández and Stolfo
/// 1995), each with the record in the midst of the most alike. Equal records always meet, by a key of all that is
/// compared. A record's candidates are those it shares any block with.
/// </summary>
internal sealed class BlockIndex
{
    /// <summary>More records than this never share a block, but for the one in the midst of a crowd.</summary>
    public const int Cap = 50;

    /// <summary>The window in a crowd whose records may meet by a further part as well.</summary>
    private const int NarrowWindow = 8;

    private const int Partitions = 256;

    // Blocks of at least two records: the sorted keys, where each block begins, and the records in it.
    private readonly ulong[] _keys;
    private readonly int[] _starts;
    private readonly int[] _members;

    // The blocks of each record.
    private readonly int[] _firstBlock;
    private readonly int[] _blocks;

    // Of the blocks that are windows of one key: the record each begins with, in the order of the windows.
    private readonly Dictionary<int, int> _leaders;

    private BlockIndex(
        ulong[] keys,
        int[] starts,
        int[] members,
        int records,
        Dictionary<int, int> leaders,
        HashSet<ulong> refined,
        BlockingReport report
    )
    {
        (_keys, _starts, _members, _leaders, Refined, Report) = (keys, starts, members, leaders, refined, report);
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

    /// <summary>The records that share a key, or none; of a crowd those that are nearest to a record.</summary>
    /// <param name="key">The key.</param>
    /// <param name="isBefore">True for a record that comes before the one asked about, in the order of records.</param>
    public ReadOnlySpan<int> Find(ulong key, Func<int, bool> isBefore)
    {
        var block = Array.BinarySearch(_keys, key);
        if (block < 0)
            return [];
        if (!_leaders.ContainsKey(block))
            return Members(block);
        int first = block,
            last = block;
        while (first > 0 && _keys[first - 1] == key)
            first--;
        while (last < _keys.Length - 1 && _keys[last + 1] == key)
            last++;
        while (first < last)
        {
            var middle = first + ((last - first + 1) / 2);
            if (isBefore(_leaders[middle]))
                first = middle;
            else
                last = middle - 1;
        }

        return Members(first);
    }

    /// <summary>Makes the index of records.</summary>
    /// <param name="records">The records.</param>
    /// <param name="single">True to keep keys that only one record has, for records to come.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public static BlockIndex Build(BlockedRecords records, bool single, CancellationToken cancellationToken)
    {
        Sorted GatherAll(Func<int, bool> wanted, Action<KeyParts, List<ulong>> keysOf) =>
            Gather(records.Count, wanted, WithParts(records, keysOf), single, cancellationToken);
        var first = GatherAll(_ => true, AddKeys);
        var refine = new bool[records.Count];
        var refined = new HashSet<ulong>();
        Sweep(first, (key, members) =>
        {
            if (members.Length <= Cap)
                return;
            refined.Add(key);
            foreach (var member in members)
                refine[member] = true;
        });
        var second = GatherAll(record => refine[record], (parts, keys) => AddRefinedKeys(parts, refined, keys));
        var twins = Gather(
            records.Count,
            _ => true,
            () =>
                (record, keys) =>
                {
                    if (records.TwinOf(record) is not 0 and var twin)
                        keys.Add(twin);
                },
            single,
            cancellationToken
        );
        long crowded = 0;
        var isCrowded = new bool[records.Count];
        foreach (var sorted in (Sorted[])[second, twins])
        {
            Sweep(sorted, (_, members) =>
            {
                if (members.Length <= Cap)
                    return;
                crowded++;
                foreach (var member in members)
                    isCrowded[member] = true;
            });
        }

        var blocks = new Blocks(
            RanksOf(records, record => refine[record] || isCrowded[record], cancellationToken),
            single ? 1 : 2
        );
        Merge([first, second, twins], (from, key, members) =>
        {
            cancellationToken.ThrowIfCancellationRequested();
            if (members.Length <= Cap)
                blocks.Add(key, members);
            else
                blocks.AddCrowd(key, members, from == 0 ? NarrowWindow : Cap);
        });
        return blocks.ToIndex(
            records.Count,
            refined,
            new BlockingReport(blocks.Count, refined.Count, crowded, isCrowded.Count(each => each))
        );
    }

    private static Func<Action<int, List<ulong>>> WithParts(
        BlockedRecords records,
        Action<KeyParts, List<ulong>> keysOf
    ) =>
        () =>
        {
            var parts = new KeyParts();
            return (record, keys) =>
            {
                parts.Clear();
                records.AddParts(record, parts);
                keysOf(parts, keys);
            };
        };

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
            if (weak.Count == 0)
                keys.Add(Alone(strong));
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

                if (weak.Count == 2)
                    keys.Add(Alone(Pair(weak[i].Hash, weak[j].Hash)));
            }
        }
    }

    private static ulong Pair(ulong a, ulong b) => KeyParts.Mix(a + b + 2);

    /// <summary>The key of those that have no further part.</summary>
    private static ulong Alone(ulong key) => KeyParts.Mix(key + 4);

    private static bool GoTogether(KeySlot a, KeySlot b) =>
        a != b
            ? !(a is KeySlot.Postcode or KeySlot.Town && b is KeySlot.Postcode or KeySlot.Town)
                && !(a is KeySlot.Name or KeySlot.Piece && b is KeySlot.Name or KeySlot.Piece && a != b)
            : a is KeySlot.Name or KeySlot.Value;

    private static Sorted Gather(
        int records,
        Func<int, bool> wanted,
        Func<Action<int, List<ulong>>> addKeys,
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
            var add = addKeys();
            var keys = new List<ulong>();
            var (from, to) = ((int)((long)records * slice / slices), (int)((long)records * (slice + 1) / slices));
            for (var record = from; record < to; record++)
            {
                if (!wanted(record))
                    continue;
                keys.Clear();
                add(record, keys);
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

    /// <summary>All groups, by key, each with the number of the source that it is from.</summary>
    private static void Merge(Sorted[] sources, Action<int, ulong, ReadOnlySpan<int>> group)
    {
        var at = new int[sources.Length];
        for (var partition = 0; partition < Partitions; partition++)
        {
            Array.Clear(at);
            while (true)
            {
                var from = -1;
                for (var source = 0; source < sources.Length; source++)
                {
                    var own = sources[source].Keys[partition];
                    if (
                        at[source] < own.Length
                        && (from < 0 || own[at[source]] < sources[from].Keys[partition][at[from]])
                    )
                        from = source;
                }

                if (from < 0)
                    break;
                var (keys, owners, start) = (sources[from].Keys[partition], sources[from].Owners[partition], at[from]);
                var end = start + 1;
                while (end < keys.Length && keys[end] == keys[start])
                    end++;
                group(from, keys[start], owners.AsSpan(start, end - start));
                at[from] = end;
            }
        }
    }

    private static readonly Comparer<ulong[]> InOrder = Comparer<ulong[]>.Create(
        (x, y) => x.AsSpan().SequenceCompareTo(y)
    );

    /// <summary>
    /// The ranks of records by their places, the same for equal places: found once, for a record is in many crowds.
    /// </summary>
    private static int[] RanksOf(BlockedRecords records, Func<int, bool> wanted, CancellationToken cancellationToken)
    {
        var numbers = Enumerable.Range(0, records.Count).Where(wanted).ToArray();
        var places = new ulong[numbers.Length][];
        Parallel.For(0, numbers.Length, new ParallelOptions { CancellationToken = cancellationToken }, at =>
            places[at] = records.PlaceOf(numbers[at])
        );
        Array.Sort(places, numbers, InOrder);
        var ranks = new int[records.Count];
        for (var at = 1; at < numbers.Length; at++)
            ranks[numbers[at]] = ranks[numbers[at - 1]] + (places[at].AsSpan().SequenceEqual(places[at - 1]) ? 0 : 1);
        return ranks;
    }

    /// <summary>Blocks as they are made, by key.</summary>
    private sealed class Blocks(int[] ranks, int minSize)
    {
        private readonly List<ulong> _keys = [];
        private readonly List<int> _starts = [0];
        private readonly List<int> _members = [];
        private readonly Dictionary<int, int> _leaders = [];

        public int Count => _keys.Count;

        public void Add(ulong key, ReadOnlySpan<int> members)
        {
            if (members.Length < minSize)
                return;
            _keys.Add(key);
            _members.AddRange(members);
            _starts.Add(_members.Count);
        }

        /// <summary>Adds overlapping windows of records in order, each with the one in the midst.</summary>
        public void AddCrowd(ulong key, ReadOnlySpan<int> members, int window)
        {
            var ordered = members.ToArray();
            Array.Sort(Array.ConvertAll(ordered, member => ((long)ranks[member] << 32) | (uint)member), ordered);
            var centre = CentreOf(ordered);
            var block = new List<int>(window + 1);
            for (var start = 0; ; start += window / 2)
            {
                var end = Math.Min(ordered.Length, start + window);
                block.Clear();
                block.AddRange(ordered.AsSpan(start, end - start));
                if (!block.Contains(centre))
                    block.Add(centre);
                block.Sort();
                _leaders[Count] = ordered[start];
                Add(key, System.Runtime.InteropServices.CollectionsMarshal.AsSpan(block));
                if (end == ordered.Length)
                    break;
            }
        }

        /// <summary>The middle of the longest run of equal records, or of all if none are.</summary>
        private int CentreOf(int[] ordered)
        {
            int longest = 1,
                centre = ordered[ordered.Length / 2];
            for (var start = 0; start < ordered.Length; )
            {
                var end = start + 1;
                while (end < ordered.Length && ranks[ordered[start]] == ranks[ordered[end]])
                    end++;
                if (end - start > longest)
                    (longest, centre) = (end - start, ordered[start + ((end - start) / 2)]);
                start = end;
            }

            return centre;
        }

        public BlockIndex ToIndex(int records, HashSet<ulong> refined, BlockingReport report) =>
            new([.. _keys], [.. _starts], [.. _members], records, _leaders, refined, report);
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
