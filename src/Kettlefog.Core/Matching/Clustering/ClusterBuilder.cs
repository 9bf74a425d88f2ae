namespace Kettlefog.Core.Matching.Clustering;

/// <summary>Two records and the probability that they match.</summary>
/// <param name="A">The number of one record, the smaller one.</param>
/// <param name="B">The number of the other.</param>
/// <param name="Score">From 0 to 1.</param>
public readonly record struct ScoredPair(int A, int B, float Score);

/// <summary>Records that are taken to be one entity.</summary>
/// <param name="Members">Their numbers, in order.</param>
/// <param name="Confidence">The mean probability of its pairs, from 0 to 1.</param>
/// <param name="Weakest">The least probability of its pairs.</param>
public sealed record FoundCluster(IReadOnlyList<int> Members, double Confidence, double Weakest);

/// <summary>Clusters of records.</summary>
/// <param name="Clusters">The clusters of at least two records, by their first member.</param>
/// <param name="Cut">How many of them would have more records, but for the limit.</param>
public sealed record FoundClusters(IReadOnlyList<FoundCluster> Clusters, int Cut);

/// <summary>
/// Makes clusters of pairs: the likeliest pairs are joined first, and two clusters become one only if all of their
/// records are similar on average (average linkage: Sokal and Michener 1958), or half as similar where two pairs are
/// very likely. A third record therefore never links two dissimilar ones, as it would if clusters were the connected
/// components.
/// </summary>
public static class ClusterBuilder
{
    /// <summary>Makes the clusters.</summary>
    /// <param name="pairs">
    /// The pairs that are proposed, each once, in any order; each counts as likely enough, whatever its score.
    /// </param>
    /// <param name="scoreOf">Scores a pair that is not among them.</param>
    /// <param name="isNever">True for a pair that must not be in one cluster.</param>
    /// <param name="link">The least mean probability at which two clusters become one.</param>
    /// <param name="maxSize">The largest number of records in a cluster.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public static FoundClusters Build(
        IReadOnlyList<ScoredPair> pairs,
        Func<int, int, float> scoreOf,
        Func<int, int, bool> isNever,
        double link,
        int maxSize,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(pairs);
        ArgumentNullException.ThrowIfNull(scoreOf);
        ArgumentNullException.ThrowIfNull(isNever);
        ArgumentOutOfRangeException.ThrowIfLessThan(maxSize, 2);
        var known = new Dictionary<(int, int), float>(pairs.Count);
        foreach (var pair in pairs)
            known[(Math.Min(pair.A, pair.B), Math.Max(pair.A, pair.B))] = pair.Score;
        var ordered = known.Select(pair => new ScoredPair(pair.Key.Item1, pair.Key.Item2, pair.Value)).ToArray();
        Array.Sort(ordered, (x, y) => x.Score != y.Score ? y.Score.CompareTo(x.Score)
            : x.A != y.A ? x.A.CompareTo(y.A)
            : x.B.CompareTo(y.B));
        var proposed = known.Keys.ToHashSet();
        var clusterOf = new Dictionary<int, List<int>>();
        var refused = new HashSet<(int, int, int, int)>();
        var tooLarge = new HashSet<int>();
        float Score(int a, int b)
        {
            var key = (Math.Min(a, b), Math.Max(a, b));
            if (!known.TryGetValue(key, out var score))
                known[key] = score = scoreOf(key.Item1, key.Item2);
            return score;
        }

        // A rule may propose a pair with a low score.
        double Similarity(int a, int b) =>
            proposed.Contains((Math.Min(a, b), Math.Max(a, b))) ? Math.Max(link, Score(a, b)) : Score(a, b);
        foreach (var pair in ordered)
        {
            cancellationToken.ThrowIfCancellationRequested();
            var left = Of(pair.A, clusterOf);
            var right = Of(pair.B, clusterOf);
            if (ReferenceEquals(left, right))
                continue;
            if (left.Count + right.Count > maxSize)
            {
                tooLarge.Add(left[0]);
                tooLarge.Add(right[0]);
                continue;
            }

            // Tried before with the very same records: nothing changed since.
            if (
                refused.Contains((left[0], left.Count, right[0], right.Count))
                || !AreSimilar(left, right, Similarity, isNever, link)
            )
            {
                refused.Add((left[0], left.Count, right[0], right.Count));
                refused.Add((right[0], right.Count, left[0], left.Count));
                continue;
            }

            var (into, from) = left.Count >= right.Count ? (left, right) : (right, left);
            into.AddRange(from);
            foreach (var member in from)
                clusterOf[member] = into;
        }

        return new FoundClusters(
            [
                .. clusterOf
                    .Values.Distinct()
                    .Where(members => members.Count > 1)
                    .Select(members => Finish(members, Score))
                    .OrderBy(cluster => cluster.Members[0]),
            ],
            tooLarge.Select(record => clusterOf[record]).Distinct().Count()
        );
    }

    private static bool AreSimilar(
        List<int> left,
        List<int> right,
        Func<int, int, double> likeness,
        Func<int, int, bool> isNever,
        double link
    )
    {
        double sum = 0;
        var strong = 0;
        foreach (var a in left)
        {
            foreach (var b in right)
            {
                if (isNever(a, b))
                    return false;
                var each = likeness(a, b);
                sum += each;
                strong += each >= Strong ? 1 : 0;
            }
        }

        // Thin records say little about one another: what two strong pairs hold is not lost for them.
        var mean = sum / (left.Count * right.Count);
        return mean >= link || (strong > 1 && mean >= link / 2);
    }

    /// <summary>A pair from this score holds a record in a cluster together with another one.</summary>
    private const double Strong = 0.9;

    private static FoundCluster Finish(List<int> members, Func<int, int, float> score)
    {
        members.Sort();
        double sum = 0,
            weakest = 1;
        var count = 0;
        for (var i = 0; i < members.Count; i++)
        {
            for (var j = i + 1; j < members.Count; j++)
            {
                var each = score(members[i], members[j]);
                (sum, weakest, count) = (sum + each, Math.Min(weakest, each), count + 1);
            }
        }

        return new FoundCluster(members, sum / count, weakest);
    }

    private static List<int> Of(int record, Dictionary<int, List<int>> clusterOf)
    {
        if (!clusterOf.TryGetValue(record, out var cluster))
            clusterOf[record] = cluster = [record];
        return cluster;
    }
}
