using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Scoring;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>Learning finds the shares in the data, and is not misled by them.</summary>
public class ScoreLearnerTests
{
    private static readonly Relation[] NoRelations = [];

    [Fact]
    public void Known_parameters_are_recovered()
    {
        // Wrong defaults, and data made with other shares.
        double[] truth = [0.80, 0.85, 0.90, 0.70];
        var evidence = truth.Select((_, index) => Kind($"e{index}", 0.75, 0.05)).ToArray();
        var random = new Random(5);
        var pairs = new List<Finding[]>();
        const int Matches = 6_000,
            Others = 30_000;
        for (var pair = 0; pair < Matches + Others; pair++)
            pairs.Add([
                .. truth.Select(share => new Finding(random.NextDouble() < (pair < Matches ? share : 0.05) ? 0 : 1)),
            ]);

        // The number of all pairs among the records.
        var records = (int)Math.Sqrt(2 * (Matches + Others));
        var learned = ScoreLearner.Learn(evidence, NoRelations, records, 15, pairs, 1);
        for (var index = 0; index < truth.Length; index++)
            learned.Evidence[index].Levels[0].Match.ShouldBe(truth[index], 0.03);
        learned.Duplicates.ShouldBe((double)Matches / records, 2);
    }

    [Fact]
    public void Nothing_drifts_far_from_its_default()
    {
        // All pairs agree in the first and differ in the second: taken literally, that would invert the second.
        var evidence = new[] { Kind("household", 0.8, 0.05), Kind("person", 0.9, 0.05) };
        var pairs = Enumerable.Range(0, 5_000).Select(_ => new Finding[] { new(0), new(1) }).ToList();
        var learned = ScoreLearner.Learn(evidence, NoRelations, 100, 0.25, pairs, 1);
        foreach (
            var (before, after) in evidence
                .SelectMany(kind => kind.Levels)
                .Zip(learned.Evidence.SelectMany(kind => kind.Levels))
        )
            after.Match.ShouldBeInRange(before.Match / 2.51, before.Match * 2.51);
        var person = learned.Evidence[1].Levels;
        person[1].Match.ShouldBeLessThanOrEqualTo(person[1].Random);
        (person[0].Match / person[0].Random).ShouldBeGreaterThan(person[1].Match / person[1].Random);
    }

    [Fact]
    public void What_a_household_shares_does_not_stand_in_for_the_person()
    {
        var evidence = new[]
        {
            new EvidenceKind("given", "Given", [new("same", 0.7, 0.01, [0.05]), new("different", 0.3, 0.99, [0.95])]),
            new EvidenceKind("address", "Address", [new("same", 0.7, 0.00001, [0.8]), new("different", 0.3, 1, [0.2])]),
            new EvidenceKind("phone", "Phone", [new("same", 0.6, 0.00001, [0.5]), new("different", 0.4, 1, [0.5])]),
        };
        var scorer = new PairScorer(evidence, [new Relation("household", 0.6)], 100_000, 0.25);
        scorer.Score([new(1), new(0), new(0)]).ShouldBeLessThan(0.3);
        scorer.Score([new(0), new(0), new(0)]).ShouldBeGreaterThan(0.85);
        scorer.Score([Finding.None, Finding.None, Finding.None]).ShouldBeLessThan(0.001);
    }

    [Fact]
    public void The_parts_of_an_explanation_add_up()
    {
        var evidence = new[] { Kind("a", 0.8, 0.05), Kind("b", 0.6, 0.2) };
        var scorer = new PairScorer(evidence, [], 1_000, 0.2);
        Finding[] findings = [new(0), new(1)];
        scorer.Explain(findings).Sum().ShouldBe(scorer.LogOdds(findings), 1e-6);
        PairScorer.Probability(scorer.LogOdds(findings)).ShouldBe(scorer.Score(findings));
    }

    private static EvidenceKind Kind(string name, double match, double random) =>
        new(name, name, [new("agree", match, random, []), new("differ", 1 - match, 1 - random, [])]);
}
