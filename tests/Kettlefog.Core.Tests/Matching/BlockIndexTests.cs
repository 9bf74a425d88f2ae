using CsCheck;
using Kettlefog.Core.Matching.Blocking;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>Blocking brings together all records that share a key, and no block exceeds its limit.</summary>
public class BlockIndexTests
{
    [Fact]
    public void Records_meet_exactly_if_they_share_a_key() =>
        Gen.Select(Gen.Int[0, 30].Array[0, 4].Array[0, 60], Gen.Bool)
            .Sample(
                (strong, single) =>
                {
                    var index = Build(
                        strong.Length,
                        (record, parts) =>
                        {
                            foreach (var part in strong[record])
                                parts.AddStrong(KeySlot.Value, (ulong)part);
                        },
                        single,
                        record => Twin(strong[record])
                    );
                    for (var a = 0; a < strong.Length; a++)
                    {
                        var met = index
                            .BlocksOf(a)
                            .ToArray()
                            .SelectMany(block => index.Members(block).ToArray())
                            .Where(other => other != a)
                            .ToHashSet();
                        var equal = Enumerable
                            .Range(0, strong.Length)
                            .Where(b => b != a && strong[a].SequenceEqual(strong[b]))
                            .ToList();
                        var wanted = Enumerable
                            .Range(0, strong.Length)
                            .Where(b =>
                                b != a
                                && strong[a]
                                    .Intersect(strong[b])
                                    .Any(part => strong.Count(parts => parts.Contains(part)) <= BlockIndex.Cap)
                            )
                            .Concat(equal.Count < BlockIndex.Cap ? equal : [])
                            .ToHashSet();
                        wanted.ShouldBeSubsetOf(met);
                        foreach (var other in met.Except(wanted))
                            strong[a].Intersect(strong[other]).ShouldNotBeEmpty("nothing else brings them together");
                    }

                    foreach (var part in strong.SelectMany(parts => parts).Distinct())
                    {
                        var holders = Enumerable
                            .Range(0, strong.Length)
                            .Where(record => strong[record].Contains(part))
                            .ToArray();
                        var found = index.Find(Key(part), _ => true).ToArray();
                        if (holders.Length > BlockIndex.Cap)
                            found.Except(holders).ShouldBeEmpty();
                        else if (single || holders.Length > 1)
                            found.ShouldBe(holders);
                        else
                            found.ShouldBeEmpty();
                    }
                }
            );

    [Fact]
    public void A_key_that_too_many_share_is_refined_by_a_further_part()
    {
        // Two hundred share a name and a town; pairs of them also share a date.
        var index = Build(
            200,
            (record, parts) =>
            {
                parts.AddWeak(KeySlot.Name, 1);
                parts.AddWeak(KeySlot.Town, 2);
                parts.AddWeak(KeySlot.Birth, (ulong)(1_000 + (record / 2)));
            },
            single: false,
            place: record => [(ulong)record]
        );
        index.Report.Refined.ShouldBe(1);
        for (var record = 0; record < 200; record++)
        {
            var met = MetBy(index, record);
            met.ShouldContain(record ^ 1);
            if (record != 100)
                met.Count.ShouldBeLessThan(20, "of the others only those next to it, and the one in the midst");
        }
    }

    [Fact]
    public void What_no_part_refines_is_worked_through_in_order_and_told()
    {
        // All share what makes keys; in order those next to one another are much alike.
        const int Count = 200;
        var rank = Enumerable.Range(0, Count).ToArray();
        new Random(5).Shuffle(rank);
        var index = Build(
            Count,
            (_, parts) =>
            {
                parts.AddWeak(KeySlot.Name, 1);
                parts.AddWeak(KeySlot.Town, 2);
                parts.AddWeak(KeySlot.Birth, 3);
            },
            single: false,
            record => (ulong)record,
            record => [(ulong)rank[record]]
        );
        index.Report.Crowded.ShouldBeGreaterThan(0);
        index.Report.CrowdedRecords.ShouldBe(Count);
        var centre = Array.IndexOf(rank, Count / 2);
        for (var record = 0; record < Count; record++)
        {
            var met = MetBy(index, record);
            if (record != centre)
                met.ShouldContain(centre, "all meet the one in the midst");
            for (var other = 0; other < Count; other++)
            {
                if (Math.Abs(rank[record] - rank[other]) <= BlockIndex.Cap / 2 && other != record)
                    met.ShouldContain(other);
            }

            if (record != centre)
                met.Count.ShouldBeLessThan(Count / 2, "and not everybody");
        }
    }

    [Fact]
    public void Equal_records_are_linked_to_each_other_whatever_they_share_with_others() =>
        Gen.Select(Gen.Int[0, 4].Array[1, 3].Array[1, 8], Gen.Int[0, 7].Array[1, 400], Gen.Bool)
            .Sample(
                (kinds, picks, single) =>
                {
                    var records = picks.Select(pick => kinds[pick % kinds.Length]).ToArray();
                    var index = Build(
                        records.Length,
                        (record, parts) =>
                        {
                            for (var at = 0; at < records[record].Length; at++)
                                parts.AddWeak((KeySlot)at, (ulong)records[record][at]);
                        },
                        single,
                        record => Twin(records[record]),
                        record => [.. records[record].Select(value => (ulong)value)]
                    );
                    foreach (var equal in records.Index().GroupBy(pair => Twin(pair.Item), pair => pair.Index))
                    {
                        var reached = new HashSet<int> { equal.First() };
                        var next = new Queue<int>(reached);
                        while (next.TryDequeue(out var record))
                        {
                            foreach (var met in MetBy(index, record).Intersect(equal))
                            {
                                if (reached.Add(met))
                                    next.Enqueue(met);
                            }
                        }

                        reached.Count.ShouldBe(equal.Count());
                    }
                },
                iter: 300
            );

    [Fact]
    public void Two_parts_about_one_thing_make_no_key()
    {
        var keys = new List<ulong>();
        var parts = new KeyParts();
        parts.AddWeak(KeySlot.Postcode, 1);
        parts.AddWeak(KeySlot.Town, 2);
        BlockIndex.AddKeys(parts, keys);
        keys.ShouldBeEmpty("a postcode and its town say the same");
        parts.AddWeak(KeySlot.Name, 3);
        BlockIndex.AddKeys(parts, keys);
        keys.Count.ShouldBe(2);
        parts.AddWeak(KeySlot.Name, 3);
        parts.Weak.Count.ShouldBe(3, "a part counts once");
    }

    [Fact]
    public void The_order_of_parts_does_not_matter() =>
        Gen
            .ULong.Array[2, 6]
            .Sample(hashes =>
            {
                List<ulong> Keys(IEnumerable<ulong> order)
                {
                    var parts = new KeyParts();
                    foreach (var hash in order)
                        parts.AddWeak(KeySlot.Name, hash);
                    var keys = new List<ulong>();
                    BlockIndex.AddKeys(parts, keys);
                    var every = keys.ToHashSet();
                    BlockIndex.AddRefinedKeys(parts, every, keys);
                    return [.. keys.Distinct().Order()];
                }

                Keys(hashes).ShouldBe(Keys(hashes.Reverse()));
            });

    [Fact]
    public void Nothing_and_one_record_are_no_trouble()
    {
        Build(0, (_, _) => { }, single: false).Report.Keys.ShouldBe(0);
        var one = Build(1, (_, parts) => parts.AddStrong(KeySlot.Value, 5), single: true);
        one.Find(Key(5), _ => true).ToArray().ShouldBe([0]);
    }

    [Fact]
    public void Building_can_be_cancelled()
    {
        using var cancelled = new CancellationTokenSource();
        cancelled.Cancel();
        Should.Throw<OperationCanceledException>(() =>
            BlockIndex.Build(
                new BlockedRecords(1_000, (_, parts) => parts.AddStrong(KeySlot.Value, 1), _ => 1, _ => []),
                false,
                cancelled.Token
            )
        );
    }

    private static BlockIndex Build(
        int records,
        Action<int, KeyParts> parts,
        bool single,
        Func<int, ulong>? twin = null,
        Func<int, ulong[]>? place = null
    ) =>
        BlockIndex.Build(
            new BlockedRecords(records, parts, twin ?? (record => (ulong)record), place ?? (_ => [])),
            single,
            CancellationToken.None
        );

    private static HashSet<int> MetBy(BlockIndex index, int record) =>
        [
            .. index
                .BlocksOf(record)
                .ToArray()
                .SelectMany(block => index.Members(block).ToArray())
                .Where(other => other != record),
        ];

    private static ulong Twin(int[] values) =>
        values.Aggregate(1_700_001UL, (hash, value) => KeyParts.Mix(hash + (ulong)value + 1));

    private static ulong Key(int part)
    {
        var parts = new KeyParts();
        parts.AddStrong(KeySlot.Value, (ulong)part);
        return parts.Strong[0];
    }
}
