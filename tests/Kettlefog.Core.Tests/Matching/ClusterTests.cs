using CsCheck;
using Kettlefog.Core.Matching.Clustering;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>Clusters are coherent, and never contain pairs that must not be together.</summary>
public class ClusterTests
{
    [Fact]
    public void Two_unlike_records_are_not_chained_by_a_third()
    {
        var clusters = Build([new(0, 1, 0.95f), new(1, 2, 0.94f)], (_, _) => 0.02f);
        clusters.Single().Members.ShouldBe([0, 1]);
    }

    [Fact]
    public void What_two_strong_pairs_hold_is_not_lost_for_thin_records()
    {
        // All of the others are alike; one record is like two of them, and has nothing in common with the rest.
        static IReadOnlyList<FoundCluster> With(int others, params ScoredPair[] further) =>
            Build(
                [
                    .. from a in Enumerable.Range(1, others)
                    from b in Enumerable.Range(a + 1, others - a)
                    select new ScoredPair(a, b, 0.99f),
                    .. further,
                ],
                (_, _) => 0
            );
        With(4, new(0, 1, 0.95f), new(0, 2, 0.94f)).Single().Members.ShouldBe([0, 1, 2, 3, 4]);
        With(4, new ScoredPair(0, 1, 0.95f)).Single().Members.ShouldBe([1, 2, 3, 4], "one is too few");
        With(4, new(0, 1, 0.8f), new(0, 2, 0.8f)).Single().Members.ShouldBe([1, 2, 3, 4], "they are not strong");
        With(9, new(0, 1, 0.95f), new(0, 2, 0.94f)).Single().Members.ShouldNotContain(0, "two of nine are too few");
    }

    [Fact]
    public void Three_that_are_alike_are_one()
    {
        var cluster = Build([new(0, 1, 0.99f), new(1, 2, 0.98f), new(0, 2, 0.5f)]).Single();
        cluster.Members.ShouldBe([0, 1, 2]);
        cluster.Weakest.ShouldBe(0.5, 0.001);
        cluster.Confidence.ShouldBe((0.99 + 0.98 + 0.5) / 3, 0.001);
    }

    [Fact]
    public void What_would_be_too_large_is_cut_and_told()
    {
        var all = Enumerable.Range(0, 7).SelectMany(a => Enumerable.Range(a + 1, 7 - a - 1).Select(b => (a, b)));
        FoundClusters Of(int most) =>
            ClusterBuilder.Build(
                [.. all.Select(pair => new ScoredPair(pair.a, pair.b, 1))],
                (_, _) => 1,
                (_, _) => false,
                0.6,
                most,
                CancellationToken.None
            );
        Of(7).Cut.ShouldBe(0);
        Of(7).Clusters.Single().Members.Count.ShouldBe(7);
        Of(4).Cut.ShouldBe(2);
        Of(4).Clusters.Sum(cluster => cluster.Members.Count).ShouldBe(7, "nobody is left out");
    }

    [Fact]
    public void Laws_of_clusters() =>
        Gen.Select(
                Gen.Select(Gen.Int[0, 14], Gen.Int[0, 14], Gen.Float[0.5f, 1f]).Array[0, 60],
                Gen.Select(Gen.Int[0, 14], Gen.Int[0, 14]).Array[0, 12],
                Gen.Int[2, 6]
            )
            .Sample(
                (edges, never, most) =>
                {
                    var pairs = edges
                        .Where(edge => edge.Item1 != edge.Item2)
                        .Select(edge => new ScoredPair(
                            Math.Min(edge.Item1, edge.Item2),
                            Math.Max(edge.Item1, edge.Item2),
                            edge.Item3
                        ))
                        .DistinctBy(pair => (pair.A, pair.B))
                        .ToList();
                    var nonDuplicates = never
                        .Select(pair => (Math.Min(pair.Item1, pair.Item2), Math.Max(pair.Item1, pair.Item2)))
                        .ToHashSet();
                    IReadOnlyList<FoundCluster> Run(IReadOnlyList<ScoredPair> order) =>
                        ClusterBuilder
                            .Build(
                                order,
                                (_, _) => 0.1f,
                                (a, b) => nonDuplicates.Contains((Math.Min(a, b), Math.Max(a, b))),
                                0.6,
                                most,
                                CancellationToken.None
                            )
                            .Clusters;
                    var clusters = Run(pairs);
                    clusters.SelectMany(cluster => cluster.Members).ShouldBeUnique();
                    foreach (var cluster in clusters)
                    {
                        cluster.Members.Count.ShouldBeInRange(2, most);
                        cluster.Confidence.ShouldBeInRange(cluster.Weakest, 1);
                        foreach (var a in cluster.Members)
                        {
                            foreach (var b in cluster.Members.Where(b => b > a))
                                nonDuplicates.ShouldNotContain((a, b));
                        }
                    }

                    // The order of the pairs does not matter.
                    Run([.. pairs.AsEnumerable().Reverse()])
                        .Select(cluster => string.Join(' ', cluster.Members))
                        .ShouldBe(clusters.Select(cluster => string.Join(' ', cluster.Members)));
                }
            );

    [Fact]
    public void Clusters_keep_their_numbers_from_scan_to_scan()
    {
        KnownCluster[] known = [new(7, ["a", "b"]), new(9, ["c", "d", "e"]), new(11, ["x", "y"])];
        ClusterIdentityMatcher
            .Match(
                known,
                [
                    ["c", "d"],
                    ["a", "b", "e"],
                    ["p", "q"],
                ]
            )
            .ShouldBe([9L, 7L, null]);
        ClusterIdentityMatcher.Match(known, []).ShouldBeEmpty();
        ClusterIdentityMatcher
            .Match(
                [],
                [
                    ["a", "b"],
                ]
            )
            .ShouldBe([null]);
    }

    private static IReadOnlyList<FoundCluster> Build(ScoredPair[] pairs, Func<int, int, float>? score = null) =>
        ClusterBuilder.Build(pairs, score ?? ((_, _) => 0), (_, _) => false, 0.6, 50, CancellationToken.None).Clusters;
}
