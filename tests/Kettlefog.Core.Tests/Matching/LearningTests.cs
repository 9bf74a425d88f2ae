using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Demo.Truth;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>What had best be decided, and what it brings, measured on records that nobody decided about.</summary>
public class LearningTests
{
    private static readonly IReadOnlyList<TruthRecord> Taught = OrganisationMaker.Make(6_000, 21);
    private static readonly IReadOnlyList<TruthRecord> Fresh = OrganisationMaker.Make(6_000, 22);

    [Fact]
    public void What_to_decide_next_is_uncertain_of_many_kinds_and_the_same_each_time()
    {
        using var finder = Over(Taught, []);
        var pairs = finder.Pairs();
        var next = finder.MostHelpful(pairs, 60, CancellationToken.None);
        next.Count.ShouldBe(60);
        next.ShouldBeUnique();
        next.ShouldAllBe(pair => pair.Score < 0.985);
        next.Average(Uncertainty).ShouldBeGreaterThan(3 * pairs.Average(Uncertainty));

        // One after the other, the likeliest to be either would all look alike.
        int Kinds(IEnumerable<FoundPair> some) =>
            some.Select(pair => finder.SummaryOf(pair.A, pair.B)).Distinct().Count();
        Kinds(next).ShouldBeGreaterThan(Kinds(pairs.OrderByDescending(Uncertainty).Take(60)));

        using var again = Over(Taught, []);
        again.MostHelpful([.. again.Pairs().Reverse()], 60, CancellationToken.None).ShouldBe(next);
    }

    [Fact]
    public void What_was_decided_often_is_not_asked_again()
    {
        using var finder = Over(Taught, []);
        var first = finder.MostHelpful(finder.Pairs(), 1, CancellationToken.None)[0];
        using var later = Over(Taught, [.. Enumerable.Repeat(Decide(first, isMistake: false), 200)]);
        var next = later
            .MostHelpful(later.Pairs(), 60, CancellationToken.None)
            .Select(pair => (pair.A, pair.B))
            .ToList();
        next.Count.ShouldBe(60);
        next.ShouldNotContain((first.A, first.B));
    }

    [Fact]
    public void Decisions_about_some_make_the_scores_of_others_better_although_a_few_are_wrong()
    {
        List<Decision> decided;
        using (var finder = Over(Taught, []))
        {
            var found = finder.Pairs();
            var next = finder.MostHelpful(found, 150, CancellationToken.None);
            decided =
            [
                .. next.Concat(found.Where(pair => pair.Proposed).Where((_, at) => at % 12 == 0).Take(150))
                    .Distinct()
                    .Select((pair, at) => Decide(pair, isMistake: at % 50 == 49)),
            ];
        }

        using var before = Over(Fresh, []);
        using var after = Over(Fresh, decided);
        var pairs = before.Pairs().Concat(after.Pairs()).Select(pair => (pair.A, pair.B)).Distinct().ToList();
        Error(after, pairs).ShouldBeLessThan(0.97 * Error(before, pairs));
        after.Learned!.Matches.ShouldBe(decided.Count(decision => decision.Match));
        after.Learned.NonMatches.ShouldBe(decided.Count(decision => !decision.Match));
        after.Learned.Weights.ShouldNotBeEmpty();
        before.Learned!.Weights.ShouldBeEmpty();
        after.Learned.Doubtful.ShouldContain(doubtful => doubtful.Index % 50 == 49);
    }

    private static double Uncertainty(FoundPair pair) => pair.Score * (1 - pair.Score);

    private static Decision Decide(FoundPair pair, bool isMistake) =>
        new(Taught[pair.A].Values, Taught[pair.B].Values, Taught[pair.A].Entity == Taught[pair.B].Entity != isMistake);

    /// <summary>The mean squared difference between what is said and what is true (Brier 1950).</summary>
    private static double Error(DuplicateFinder finder, IEnumerable<(int A, int B)> pairs)
    {
        var scores = finder.Pairs().ToDictionary(pair => (pair.A, pair.B), pair => (double)pair.Score);
        return pairs.Average(pair =>
            Math.Pow(scores.GetValueOrDefault(pair) - (Fresh[pair.A].Entity == Fresh[pair.B].Entity ? 1 : 0), 2)
        );
    }

    private static DuplicateFinder Over(IReadOnlyList<TruthRecord> records, IReadOnlyList<Decision> decided)
    {
        var finder = new DuplicateFinder(Finders.Organisations, [MatchRule.Ready], Finders.Options);
        finder.Add([.. records.Select(record => record.Values)]);
        finder.Prepare(decided, live: false, CancellationToken.None);
        return finder;
    }
}
