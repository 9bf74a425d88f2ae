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
                        single
                    );
                    for (var a = 0; a < strong.Length; a++)
                    {
                        var met = index
                            .BlocksOf(a)
                            .ToArray()
                            .SelectMany(block => index.Members(block).ToArray())
                            .Where(other => other != a)
                            .ToHashSet();
                        var wanted = Enumerable
                            .Range(0, strong.Length)
                            .Where(b =>
                                b != a
                                && strong[a]
                                    .Intersect(strong[b])
                                    .Any(part => strong.Count(parts => parts.Contains(part)) <= BlockIndex.Cap)
                            )
                            .ToHashSet();
                        met.SetEquals(wanted).ShouldBeTrue();
                    }

                    foreach (var part in strong.SelectMany(parts => parts).Distinct())
                    {
                        var holders = Enumerable
                            .Range(0, strong.Length)
                            .Where(record => strong[record].Contains(part))
                            .ToArray();
                        var found = index.Find(Key(part)).ToArray();
                        if (holders.Length <= BlockIndex.Cap && (single || holders.Length > 1))
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
            single: false
        );
        index.Report.Refined.ShouldBe(1);
        for (var record = 0; record < 200; record++)
            index
                .BlocksOf(record)
                .ToArray()
                .SelectMany(block => index.Members(block).ToArray())
                .Distinct()
                .Where(other => other != record)
                .ShouldBe([record ^ 1]);
    }

    [Fact]
    public void What_no_part_refines_is_dropped_and_told()
    {
        var index = Build(
            200,
            (_, parts) =>
            {
                parts.AddWeak(KeySlot.Name, 1);
                parts.AddWeak(KeySlot.Town, 2);
                parts.AddWeak(KeySlot.Birth, 3);
            },
            single: false
        );
        index.Report.Dropped.ShouldBeGreaterThan(0);
        index.Report.Keys.ShouldBe(0);
        index.BlocksOf(0).Length.ShouldBe(0);
    }

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
        one.Find(Key(5)).ToArray().ShouldBe([0]);
    }

    [Fact]
    public void Building_can_be_cancelled()
    {
        using var cancelled = new CancellationTokenSource();
        cancelled.Cancel();
        Should.Throw<OperationCanceledException>(() =>
            BlockIndex.Build(1_000, (_, parts) => parts.AddStrong(KeySlot.Value, 1), false, cancelled.Token)
        );
    }

    private static BlockIndex Build(int records, Action<int, KeyParts> parts, bool single) =>
        BlockIndex.Build(records, parts, single, CancellationToken.None);

    private static ulong Key(int part)
    {
        var parts = new KeyParts();
        parts.AddStrong(KeySlot.Value, (ulong)part);
        return parts.Strong[0];
    }
}
