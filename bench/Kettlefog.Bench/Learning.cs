using Kettlefog.Core.Matching;

namespace Kettlefog.Bench;

/// <summary>
/// How much better findings become by decisions. Simulated operators decide pairs of one world, half of them from the
/// queue and half of them those that help most, and two decisions in a hundred are wrong. What was learned is measured
/// on another world, made from another seed.
/// </summary>
internal static class Learning
{
    private const int Records = 20_000;
    private const double Wrong = 0.02;
    private static readonly int[] Seeds = [21, 31, 41, 51];
    private static readonly int[] Amounts = [0, 50, 200, 1_000];

    /// <summary>Prints precision and recall after so many decisions, as means over some seeds.</summary>
    /// <returns>True if F1 at the ready line never falls, and has risen after the last decisions.</returns>
    public static bool Run()
    {
        var met = true;
        foreach (var people in new[] { true, false })
        {
            Console.WriteLine(
                $"{Records} {Duplicates.TypeOf(people).Plural}, decisions about others of their kind; means of "
                    + $"{Seeds.Length} seeds"
            );
            var means = new List<double>();
            var bySeed = Seeds.Select(seed => Run(people, seed)).ToList();
            for (var at = 0; at < Amounts.Length; at++)
            {
                var figures = bySeed.Select(steps => steps[at]).ToList();
                means.Add(figures.Average(figure => figure.F1));
                Console.WriteLine(
                    $"  after {Amounts[at]} decisions: F1 {means[at]:0.0000} (least gain of a seed "
                        + $"{bySeed.Min(steps => steps[at].F1 - steps[0].F1):+0.0000;-0.0000}); certain: precision "
                        + $"{figures.Average(figure => figure.CertainPrecision):0.0000}, recall "
                        + $"{figures.Average(figure => figure.CertainRecall):0.0000}"
                );
            }

            met &= means.Zip(means.Skip(1)).All(pair => pair.Second >= pair.First) && means[^1] > means[0];
        }

        return met;
    }

    private static List<(double F1, double CertainPrecision, double CertainRecall)> Run(bool people, int seed)
    {
        var type = Duplicates.TypeOf(people);
        var (taught, fresh) = (Duplicates.Make(people, Records, seed), Duplicates.Make(people, Records, seed + 1));
        var decisions = new List<Decision>();
        var decided = new HashSet<(int, int)>();
        var random = new Random(seed);
        var figures = new List<(double, double, double)>();
        foreach (var amount in Amounts)
        {
            using (var finder = Duplicates.Load(taught, type))
            {
                finder.Prepare(decisions, live: false, CancellationToken.None);
                var open = finder
                    .Score(0, finder.Count, null, CancellationToken.None)
                    .Pairs.Where(pair => !decided.Contains((pair.A, pair.B)))
                    .ToList();
                var queue = open.Where(pair => pair.Proposed).ToArray();
                random.Shuffle(queue);
                var half = (amount - decisions.Count) / 2;
                var next = finder.MostHelpful(open, half, CancellationToken.None);
                foreach (var pair in next.Concat(queue).DistinctBy(pair => (pair.A, pair.B)).Take(2 * half))
                {
                    var isSame = taught[pair.A].Entity == taught[pair.B].Entity;
                    decided.Add((pair.A, pair.B));
                    decisions.Add(
                        new Decision(
                            taught[pair.A].Values,
                            taught[pair.B].Values,
                            isSame != random.NextDouble() < Wrong
                        )
                    );
                }
            }

            using var later = Duplicates.Load(fresh, type);
            later.Prepare(decisions, live: false, CancellationToken.None);
            figures.Add(Accuracy.AtTheLine(fresh, later.Score(0, later.Count, null, CancellationToken.None).Pairs));
        }

        return figures;
    }
}
