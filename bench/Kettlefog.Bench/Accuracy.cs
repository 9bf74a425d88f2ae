using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Matching.Clustering;
using Kettlefog.Core.Matching.Scoring;
using Kettlefog.Demo.Truth;

namespace Kettlefog.Bench;

/// <summary>How right findings are, where the truth is known.</summary>
internal static class Accuracy
{
    private const double LeastF1OfPeople = 0.955,
        LeastF1OfOrganisations = 0.98,
        LeastCertainPrecision = 0.999,
        LeastCertainRecallOfPeople = 0.65,
        LeastCertainRecallOfOrganisations = 0.90,
        MostError = 0.02,
        MostJoined = 0.03;

    /// <summary>Among fewer records some look-alikes are too few for their share to be more than chance.</summary>
    private const int LeastForLookAlikes = 100_000;

    /// <summary>Prints the figures.</summary>
    /// <param name="truth">The records.</param>
    /// <param name="pairs">The pairs that were found, proposed or not.</param>
    /// <param name="clusters">The clusters made of them.</param>
    /// <param name="finder">The finder that found them.</param>
    /// <returns>True if all are as good as they must be.</returns>
    public static bool Report(
        IReadOnlyList<TruthRecord> truth,
        IReadOnlyList<FoundPair> pairs,
        IReadOnlyList<FoundCluster> clusters,
        DuplicateFinder finder
    )
    {
        var people = finder.Entity == EntityKind.Person;
        var total = truth.GroupBy(record => record.Entity).Sum(group => (long)group.Count() * (group.Count() - 1) / 2);
        bool IsRight(int a, int b) => truth[a].Entity == truth[b].Entity;
        var scored = pairs
            .Select(pair => (pair.Score, IsRight: IsRight(pair.A, pair.B)))
            .OrderByDescending(pair => pair.Score)
            .ToList();
        double Line(string what, double least) =>
            Print(what, scored.TakeWhile(pair => pair.Score >= least).Select(pair => pair.IsRight), total).F1;
        var line = Line($"pairs from {MatchRule.DefaultReview:0} %", MatchRule.DefaultReview / 100);
        var (best, at) = Best(scored, total);
        Console.WriteLine($"  {"best line", -18} {100 * at:0.0} %, F1 {best:0.0000}");
        Console.WriteLine(
            $"  {LeastCertainPrecision:0.000} of the pairs are right down to a recall of "
                + $"{RecallAt(LeastCertainPrecision, scored, total):0.0000}"
        );
        var joined = clusters.SelectMany(PairsOf).ToList();
        var cluster = Print("clusters", joined.Select(pair => IsRight(pair.A, pair.B)), total).F1;
        var certain = Print(
            $"certain from {MatchRule.DefaultAutomatic:0} %",
            scored.TakeWhile(pair => pair.Score >= MatchRule.DefaultAutomatic / 100).Select(pair => pair.IsRight),
            total
        );
        var error = CalibrationError(scored);
        Recall(truth, [.. joined.Select(pair => (pair.A, pair.B))]);
        var met =
            Wanted("F1 of pairs at the line", line, people ? LeastF1OfPeople : LeastF1OfOrganisations)
            & Wanted("F1 of clusters", cluster, line)
            & Wanted("precision of what is certain", certain.Precision, LeastCertainPrecision)
            & Wanted(
                "recall of what is certain",
                certain.Recall,
                people ? LeastCertainRecallOfPeople : LeastCertainRecallOfOrganisations
            )
            & Wanted("minus the calibration error", -error, -MostError)
            & LookAlikes(truth, joined);
        if (Environment.GetEnvironmentVariable("KETTLEFOG_BENCH_SHOW") is { } count)
            ShowMistakes(truth, pairs, finder, int.TryParse(count, out var many) ? many : 25);
        return met;
    }

    /// <summary>How right the pairs at the ready line are, and those that are certain.</summary>
    public static (double F1, double CertainPrecision, double CertainRecall) AtTheLine(
        IReadOnlyList<TruthRecord> truth,
        IReadOnlyList<FoundPair> pairs
    )
    {
        bool IsRight(FoundPair pair) => truth[pair.A].Entity == truth[pair.B].Entity;
        var total = truth.GroupBy(record => record.Entity).Sum(group => (long)group.Count() * (group.Count() - 1) / 2);
        var line = Count(pairs.Where(pair => pair.Score >= MatchRule.DefaultReview / 100).Select(IsRight), total);
        var certain = Count(pairs.Where(pair => pair.Score >= MatchRule.DefaultAutomatic / 100).Select(IsRight), total);
        return (line.F1, certain.Precision, certain.Recall);
    }

    private static bool Wanted(string what, double figure, double least)
    {
        if (figure >= least)
            return true;
        Console.WriteLine($"  NOT MET: {what} is {figure:0.0000}, at least {least:0.0000} is wanted");
        return false;
    }

    private static (double F1, double Precision, double Recall) Print(string what, IEnumerable<bool> found, long total)
    {
        var figures = Count(found, total);
        Console.WriteLine(
            $"  {what, -18} precision {figures.Precision:0.0000}  recall {figures.Recall:0.0000}  "
                + $"F1 {figures.F1:0.0000}"
        );
        return figures;
    }

    private static (double F1, double Precision, double Recall) Count(IEnumerable<bool> found, long total)
    {
        long all = 0,
            right = 0;
        foreach (var each in found)
        {
            all++;
            right += each ? 1 : 0;
        }

        return (
            2.0 * right / Math.Max(1, all + total),
            (double)right / Math.Max(1, all),
            (double)right / Math.Max(1, total)
        );
    }

    private static (double F1, double Score) Best(List<(float Score, bool IsRight)> scored, long total)
    {
        (double F1, double Score) best = (0, 1);
        long right = 0;
        for (var at = 0; at < scored.Count; at++)
        {
            right += scored[at].IsRight ? 1 : 0;
            var f1 = 2.0 * right / (at + 1 + total);
            if (f1 > best.F1)
                best = (f1, scored[at].Score);
        }

        return best;
    }

    /// <summary>The recall of the longest list of the likeliest pairs that is so precise.</summary>
    private static double RecallAt(double precision, List<(float Score, bool IsRight)> scored, long total)
    {
        long right = 0,
            best = 0;
        for (var at = 0; at < scored.Count; at++)
        {
            right += scored[at].IsRight ? 1 : 0;
            if (right >= precision * (at + 1))
                best = right;
        }

        return (double)best / total;
    }

    /// <summary>
    /// What is said beside what is true, tenth by tenth; the mean difference, weighted by the number of pairs (expected
    /// calibration error: Naeini, Cooper and Hauskrecht 2015).
    /// </summary>
    private static double CalibrationError(List<(float Score, bool IsRight)> scored)
    {
        double error = 0;
        var words = new List<string>();
        foreach (var tenth in scored.GroupBy(pair => Math.Min(9, (int)(pair.Score * 10))).OrderBy(group => group.Key))
        {
            var (said, true_) = (tenth.Average(pair => pair.Score), tenth.Average(pair => pair.IsRight ? 1.0 : 0));
            error += Math.Abs(said - true_) * tenth.Count() / scored.Count;
            words.Add($"{100 * said:0} {100 * true_:0} ({tenth.Count()})");
        }

        Console.WriteLine($"  said and true, in percent: {string.Join(", ", words)}; mean error {100 * error:0.0}");
        Console.WriteLine(
            "  near certainty: "
                + string.Join(
                    ", ",
                    new (double A, double B)[]
                    {
                        (0.99, 0.999),
                        (0.999, 0.9999),
                        (0.9999, 0.99999),
                        (0.99999, 0.999999),
                        (0.999999, 1.1),
                    }
                        .Select(band => (band, In: scored.Where(pair => pair.Score >= band.A && pair.Score < band.B)))
                        .Select(each =>
                            $"from {100 * each.band.A:0.####} "
                            + $"{100 * each.In.Average(pair => pair.IsRight ? 1.0 : 0):0.000} "
                            + $"({each.In.Count()})"
                        )
                )
        );
        var (slope, offset) = Fit(scored);
        Console.WriteLine($"  the odds would hold if stretched by {slope:0.00} and moved by {offset:0.00} bits");
        return error;
    }

    /// <summary>
    /// How the binary logarithm of the odds would have to be stretched and moved: logistic regression of what is true
    /// on what is said. 1 and 0 where all is well.
    /// </summary>
    private static (double Slope, double Offset) Fit(List<(float Score, bool IsRight)> scored)
    {
        var (slope, offset) = (1.0, 0.0);
        for (var round = 0; round < 15; round++)
        {
            double gradientA = 0,
                gradientB = 0,
                aa = 1e-6,
                ab = 0,
                bb = 1e-6;
            foreach (var (score, isRight) in scored)
            {
                var odds = Math.Clamp(Math.Log2(score / Math.Max(1e-9, 1 - score)), -15, 15);
                var said = 1 / (1 + Math.Pow(2, -((slope * odds) + offset)));
                var (missing, weight) = ((isRight ? 1 : 0) - said, said * (1 - said));
                (gradientA, gradientB) = (gradientA + (missing * odds), gradientB + missing);
                (aa, ab, bb) = (aa + (weight * odds * odds), ab + (weight * odds), bb + weight);
            }

            var determinant = ((aa * bb) - (ab * ab)) * Math.Log(2);
            slope += ((bb * gradientA) - (ab * gradientB)) / determinant;
            offset += ((aa * gradientB) - (ab * gradientA)) / determinant;
        }

        return (slope, offset);
    }

    private static void Recall(IReadOnlyList<TruthRecord> truth, HashSet<(int, int)> joined)
    {
        var first = new Dictionary<int, int>();
        for (var index = 0; index < truth.Count; index++)
        {
            if (truth[index].Class.Length == 0 || truth[index].Class[0] == '~')
                first[truth[index].Entity] = index;
        }

        var met = new SortedDictionary<string, (int All, int Found)>();
        for (var index = 0; index < truth.Count; index++)
        {
            var record = truth[index];
            if (record.Class.Length == 0 || record.Class[0] == '~')
                continue;
            var other = first[record.Entity];
            var found = joined.Contains((Math.Min(index, other), Math.Max(index, other)));
            foreach (var each in record.Class.Split('+'))
            {
                var (seen, hits) = met.GetValueOrDefault(each);
                met[each] = (seen + 1, hits + (found ? 1 : 0));
            }
        }

        Console.WriteLine(
            "  recall by corruption: "
                + string.Join(", ", met.Select(pair => $"{pair.Key} {(double)pair.Value.Found / pair.Value.All:0.000}"))
        );
    }

    private static bool LookAlikes(IReadOnlyList<TruthRecord> truth, List<ScoredPair> joined)
    {
        var mates = joined
            .SelectMany(pair => new[] { (pair.A, pair.B), (pair.B, pair.A) })
            .ToLookup(pair => pair.Item1, pair => pair.Item2);
        var shares = truth
            .Select((record, index) => (record, index))
            .Where(pair => pair.record.LooksLike >= 0)
            .GroupBy(pair => pair.record.Class)
            .OrderBy(group => group.Key, StringComparer.Ordinal)
            .Select(group =>
                (
                    Name: group.Key[1..],
                    Share: (double)
                        group.Count(pair => mates[pair.index].Any(mate => truth[mate].Entity == pair.record.LooksLike))
                        / group.Count()
                )
            )
            .ToList();
        Console.WriteLine(
            "  look-alikes joined: "
                + string.Join(
                    ", ",
                    shares.Select(share =>
                        $"{share.Name} {share.Share:0.000}{(share.Share <= MostJoined ? "" : " TOO MANY")}"
                    )
                )
        );
        return truth.Count < LeastForLookAlikes || shares.TrueForAll(share => share.Share <= MostJoined);
    }

    /// <summary>Shows, drawn at random, pairs that are wrong at the line and pairs that are missed.</summary>
    private static void ShowMistakes(
        IReadOnlyList<TruthRecord> truth,
        IReadOnlyList<FoundPair> pairs,
        DuplicateFinder finder,
        int many
    )
    {
        void Show(string word, int a, int b)
        {
            var explained = finder.Explain(truth[a].Values, truth[b].Values);
            Console.WriteLine($"  {word} {truth[a].Class} / {truth[b].Class} at {100 * explained.Score:0.0} %");
            Console.WriteLine($"     {string.Join(" | ", truth[a].Values)}");
            Console.WriteLine($"     {string.Join(" | ", truth[b].Values)}");
            Console.WriteLine(
                "     " + string.Join(", ", explained.Evidence.Select(each => $"{each.Words} {each.Weight:+0.0;-0.0}"))
            );
        }

        var random = new Random(1);
        var have = pairs.Where(pair => pair.Proposed).Select(pair => (pair.A, pair.B)).ToHashSet();
        var wrong = have.Where(pair => truth[pair.A].Entity != truth[pair.B].Entity).Order().ToArray();
        random.Shuffle(wrong);
        foreach (
            var pair in pairs
                .Where(pair => truth[pair.A].Entity != truth[pair.B].Entity)
                .OrderByDescending(pair => pair.Score)
                .Take(many / 2)
        )
            Show("SUREST BUT WRONG", pair.A, pair.B);
        foreach (var (a, b) in wrong.Take(many))
            Show("WRONG", a, b);
        var missed = truth
            .Select((record, index) => (record, index))
            .GroupBy(pair => pair.record.Entity)
            .Where(group => group.Count() > 1)
            .Select(group => (A: group.First().index, B: group.Skip(1).First().index))
            .Where(pair => !have.Contains(pair))
            .ToArray();
        random.Shuffle(missed);
        foreach (var (a, b) in missed.Take(many))
            Show("MISSED", a, b);
    }

    private static IEnumerable<ScoredPair> PairsOf(FoundCluster cluster) =>
        cluster.Members.SelectMany((a, index) => cluster.Members.Skip(index + 1).Select(b => new ScoredPair(a, b, 1)));
}
