using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Duplicates.Finding;
using Kettlefog.Database.Own;
using Kettlefog.Database.Records;

namespace Kettlefog.Database.Duplicates.Rules;

/// <summary>The number of pairs in a range of scores.</summary>
/// <param name="From">The start of the range, from 0 to 1.</param>
/// <param name="To">The end of the range.</param>
/// <param name="Pairs">The number of pairs in the range.</param>
/// <param name="Samples">A few of them, from 35 % up.</param>
public sealed record ScoreBand(double From, double To, long Pairs, IReadOnlyList<SamplePair> Samples);

/// <summary>What a rule would find with another threshold for review.</summary>
/// <param name="Percent">The threshold.</param>
/// <param name="Pairs">How many pairs it would propose.</param>
/// <param name="Clusters">How many clusters these would make.</param>
/// <param name="Certain">
/// How many of the clusters would be certain with an automatic threshold of this many percent, of one more, and so on
/// up to 100.
/// </param>
/// <param name="Expected">How right and how complete these pairs are expected to be.</param>
public sealed record RuleLevel(
    int Percent,
    long Pairs,
    long Clusters,
    IReadOnlyList<long> Certain,
    ExpectedAccuracy Expected
);

/// <summary>
/// How right and how complete some pairs are expected to be, if scores are probabilities that hold: a pair with 80 % is
/// right four times in five, and counts for four fifths of a duplicate, found or not.
/// </summary>
/// <param name="Pairs">The number of the pairs.</param>
/// <param name="Precision">The share of the pairs that is right, from 0 to 1; 1 for no pairs.</param>
/// <param name="Recall">
/// The share of the duplicates compared that are among them, from 0 to 1; 1 if there are none.
/// </param>
public sealed record ExpectedAccuracy(int Pairs, double Precision, double Recall);

/// <summary>A pair shown for its score.</summary>
/// <param name="A">The key of one record.</param>
/// <param name="LabelA">Its label.</param>
/// <param name="B">The key of the other.</param>
/// <param name="LabelB">Its label.</param>
/// <param name="Score">The score, from 0 to 1.</param>
/// <param name="Summary">The strongest evidence in words.</param>
/// <param name="IsProposed">
/// True if the rule would propose it with a threshold of 35 %, or its own if that is lower.
/// </param>
public sealed record SamplePair(
    string A,
    string LabelA,
    string B,
    string LabelB,
    double Score,
    string Summary,
    bool IsProposed
);

/// <summary>What a rule would find today.</summary>
/// <param name="Records">The number of records compared.</param>
/// <param name="Pairs">How many pairs it proposes.</param>
/// <param name="Clusters">How many clusters these make.</param>
/// <param name="InClusters">How many records are in them.</param>
/// <param name="Certain">The number of clusters at or above the automatic threshold.</param>
/// <param name="Expected">How right and how complete the proposed pairs are expected to be.</param>
/// <param name="ExpectedOfCertain">The same of those at or above the automatic threshold; null without one.</param>
/// <param name="Bands">The distribution of the scores of all pairs.</param>
/// <param name="Levels">What it would find with other thresholds, percent by percent.</param>
/// <param name="NearThreshold">Pairs at the threshold for review.</param>
/// <param name="Gained">How many pairs the rules in force do not propose.</param>
/// <param name="Lost">How many pairs only the rule that it replaces proposes.</param>
/// <param name="GainedSamples">Examples of gained pairs.</param>
/// <param name="LostSamples">Examples of lost pairs.</param>
public sealed record RuleTrial(
    long Records,
    long Pairs,
    long Clusters,
    long InClusters,
    long Certain,
    ExpectedAccuracy Expected,
    ExpectedAccuracy? ExpectedOfCertain,
    IReadOnlyList<ScoreBand> Bands,
    IReadOnlyList<RuleLevel> Levels,
    IReadOnlyList<SamplePair> NearThreshold,
    long Gained,
    long Lost,
    IReadOnlyList<SamplePair> GainedSamples,
    IReadOnlyList<SamplePair> LostSamples
);

/// <summary>A pair whose truth is known.</summary>
/// <param name="A">The key of one record.</param>
/// <param name="B">The key of the other.</param>
/// <param name="Match">True if both are the same.</param>
public sealed record LabelledPair(string A, string B, bool Match);

/// <summary>The precision and recall of a rule at one threshold.</summary>
/// <param name="Threshold">The score, from 0 to 1.</param>
/// <param name="Precision">The share of the pairs found that are true matches.</param>
/// <param name="Recall">The share of the true matches that are found.</param>
/// <param name="F1">The harmonic mean of precision and recall.</param>
public sealed record EvaluationLine(double Threshold, double Precision, double Recall, double F1);

/// <summary>The precision and recall of a rule.</summary>
/// <param name="Pairs">How many pairs were labelled.</param>
/// <param name="Matches">How many of them are matches.</param>
/// <param name="NotCompared">How many of the matches blocking misses.</param>
/// <param name="Unknown">How many pairs name a record that does not exist.</param>
/// <param name="Lines">Precision and recall, one entry per threshold.</param>
public sealed record RuleEvaluation(
    long Pairs,
    long Matches,
    long NotCompared,
    long Unknown,
    IReadOnlyList<EvaluationLine> Lines
);

/// <summary>
/// Tries rules without saving anything. What takes time is computed between sessions: a reader of SQLite may keep other
/// programs from writing.
/// </summary>
internal sealed class RuleTrials(DatabaseContext context)
{
    /// <summary>The lowest threshold for review that is reported, in percent.</summary>
    public const int MinLevel = 35;

    private const int Samples = 8;
    private const int SamplesOfBand = 3;
    private const int Bands = 20;

    public async Task<RuleTrial> TryAsync(
        RecordType type,
        MatchRule rule,
        string? replaces,
        CancellationToken cancellationToken
    )
    {
        var inForce = await InForceAsync(type, cancellationToken);
        var staying = inForce.Where(each => each.Name != replaces).ToList();
        var present = await ProposedAsync(type, inForce, cancellationToken);
        var kept = staying.Count == inForce.Count ? present : await ProposedAsync(type, staying, cancellationToken);

        // With a low threshold, so that the same scores serve for all higher ones.
        using var loaded = await LoadAsync(
            type,
            [rule with { Review = Math.Min(rule.Review, MinLevel) }],
            cancellationToken
        );
        var all = loaded.Finder.Score(0, loaded.Keys.Count, null, cancellationToken).Pairs;
        List<FoundPair> From(double percent) =>
            [.. all.Where(pair => pair.Proposed && (double)pair.Score * 100 >= percent)];
        var duplicates = all.Sum(pair => (double)pair.Score);
        ExpectedAccuracy Expect(List<FoundPair> pairs)
        {
            var right = pairs.Sum(pair => (double)pair.Score);
            return new ExpectedAccuracy(
                pairs.Count,
                pairs.Count == 0 ? 1 : right / pairs.Count,
                duplicates == 0 ? 1 : right / duplicates
            );
        }

        var proposed = From(rule.Review);
        var found = proposed.Select(pair => (pair.A, pair.B)).ToHashSet();
        var clusters = loaded.Finder.Cluster(proposed, cancellationToken).Clusters;
        var gained = proposed.Where(pair => !present.Contains((pair.A, pair.B))).ToList();
        var lost = present.Where(pair => !found.Contains(pair) && !kept.Contains(pair)).Order().ToList();
        var near = all.OrderBy(pair => Math.Abs(pair.Score - (rule.Review / 100)))
            .ThenBy(pair => pair.A)
            .ThenBy(pair => pair.B)
            .Take(Samples)
            .OrderByDescending(pair => pair.Score);
        return new RuleTrial(
            loaded.Keys.Count,
            proposed.Count,
            clusters.Count,
            clusters.Sum(cluster => cluster.Members.Count),
            rule.Automatic is { } automatic ? clusters.Count(cluster => cluster.Weakest * 100 >= automatic) : 0,
            Expect(proposed),
            rule.Automatic is { } certain ? Expect(From(certain)) : null,
            await BandsAsync(loaded, all, cancellationToken),
            [
                .. Enumerable
                    .Range(MinLevel, 101 - MinLevel)
                    .Select(percent =>
                    {
                        var pairs = From(percent);
                        return LevelOf(percent, pairs, Expect(pairs), loaded.Finder, cancellationToken);
                    }),
            ],
            await SamplesAsync(loaded, near.Select(pair => (pair.A, pair.B)), cancellationToken),
            gained.Count,
            lost.Count,
            await SamplesAsync(
                loaded,
                gained.OrderByDescending(pair => pair.Score).Take(Samples).Select(pair => (pair.A, pair.B)),
                cancellationToken
            ),
            await SamplesAsync(loaded, lost.Take(Samples), cancellationToken)
        );
    }

    private async Task<HashSet<(int A, int B)>> ProposedAsync(
        RecordType type,
        IReadOnlyList<MatchRule> rules,
        CancellationToken cancellationToken
    )
    {
        if (rules.Count == 0)
            return [];
        using var loaded = await LoadAsync(type, rules, cancellationToken);
        return
        [
            .. loaded
                .Finder.Score(0, loaded.Keys.Count, null, cancellationToken)
                .Pairs.Where(pair => pair.Proposed)
                .Select(pair => (pair.A, pair.B)),
        ];
    }

    private static RuleLevel LevelOf(
        int percent,
        List<FoundPair> pairs,
        ExpectedAccuracy expected,
        DuplicateFinder finder,
        CancellationToken cancellationToken
    )
    {
        var clusters = finder.Cluster(pairs, cancellationToken).Clusters;
        return new RuleLevel(
            percent,
            pairs.Count,
            clusters.Count,
            [
                .. Enumerable
                    .Range(percent, 101 - percent)
                    .Select(certain => (long)clusters.Count(cluster => (double)cluster.Weakest * 100 >= certain)),
            ],
            expected
        );
    }

    private async Task<IReadOnlyList<ScoreBand>> BandsAsync(
        LoadedFinder loaded,
        IReadOnlyList<FoundPair> pairs,
        CancellationToken cancellationToken
    )
    {
        var byBand = pairs.ToLookup(pair => Math.Min(Bands - 1, (int)(pair.Score * Bands)));
        var bands = new List<ScoreBand>();
        for (var band = 0; band < Bands; band++)
        {
            var (inBand, from) = (byBand[band].ToList(), (double)band / Bands);

            // Spread over the band, so that both ends are represented.
            var spread = inBand
                .OrderByDescending(pair => pair.Score)
                .ThenBy(pair => pair.A)
                .ThenBy(pair => pair.B)
                .ToList();
            var samples =
                from * 100 < MinLevel
                    ? []
                    : Enumerable
                        .Range(0, Math.Min(SamplesOfBand, spread.Count))
                        .Select(at => spread[at * (spread.Count - 1) / Math.Max(1, SamplesOfBand - 1)])
                        .Distinct();
            bands.Add(
                new ScoreBand(
                    from,
                    (band + 1.0) / Bands,
                    inBand.Count,
                    await SamplesAsync(loaded, samples.Select(pair => (pair.A, pair.B)), cancellationToken)
                )
            );
        }

        return bands;
    }

    public async Task<RuleEvaluation> EvaluateAsync(
        RecordType type,
        MatchRule? rule,
        IReadOnlyList<LabelledPair> pairs,
        CancellationToken cancellationToken
    )
    {
        var rules = rule is null ? await InForceAsync(type, cancellationToken) : [rule];
        using var loaded = await LoadAsync(type, rules, cancellationToken);
        var numbered = pairs
            .Select(pair => (A: loaded.NumberOf(pair.A), B: loaded.NumberOf(pair.B), pair.Match))
            .ToList();
        var known = numbered.Where(pair => pair.A >= 0 && pair.B >= 0 && pair.A != pair.B).ToList();
        var scored = known.Select(pair => (Pair: loaded.Finder.Compare(pair.A, pair.B), pair.Match)).ToList();
        var matches = scored.Count(pair => pair.Match);

        // A pair that blocking misses is not found at any threshold.
        var lines = Enumerable
            .Range(1, 19)
            .Select(step => step / 20.0)
            .Append(0.99)
            .Select(threshold =>
            {
                var above = scored.Where(pair => pair.Pair.Together && pair.Pair.Score >= threshold).ToList();
                var right = above.Count(pair => pair.Match);
                var (precision, recall) = (
                    above.Count == 0 ? 1 : (double)right / above.Count,
                    matches == 0 ? 1 : (double)right / matches
                );
                return new EvaluationLine(
                    threshold,
                    precision,
                    recall,
                    precision + recall == 0 ? 0 : 2 * precision * recall / (precision + recall)
                );
            })
            .ToList();
        return new RuleEvaluation(
            known.Count,
            matches,
            scored.Count(pair => pair.Match && !pair.Pair.Together),
            pairs.Count - known.Count,
            lines
        );
    }

    private async Task<LoadedFinder> LoadAsync(
        RecordType type,
        IReadOnlyList<MatchRule> rules,
        CancellationToken cancellationToken
    )
    {
        var loaded = await LoadedFinder.LoadAsync(
            context.OpenReadAsync,
            type,
            _ => Task.FromResult(rules),
            hasOwn: true,
            (_, _) => { },
            cancellationToken
        );
        loaded.Finder.Prepare(loaded.Decisions, live: false, cancellationToken);
        return loaded;
    }

    private async Task<IReadOnlyList<MatchRule>> InForceAsync(RecordType type, CancellationToken cancellationToken)
    {
        await using var session = await context.OpenReadAsync(cancellationToken);
        return await new RuleStore(session).MatchRulesAsync(type, cancellationToken);
    }

    private async Task<IReadOnlyList<SamplePair>> SamplesAsync(
        LoadedFinder loaded,
        IEnumerable<(int A, int B)> pairs,
        CancellationToken cancellationToken
    )
    {
        var samples = new List<SamplePair>();
        await using var session = await context.OpenReadAsync(cancellationToken);
        var schema = session.Map.Catalog.Require(loaded.Type.Table).Require(loaded.Type.Key);
        var reader = new SnapshotReader(session, session.Map);
        foreach (var (a, b) in pairs)
        {
            RecordKey[] keys =
            [
                RecordKeyParser.Parse(loaded.Keys[a], schema),
                RecordKeyParser.Parse(loaded.Keys[b], schema),
            ];
            var records = (await reader.FindRecordsAsync(loaded.Type, keys, cancellationToken))
                .OfType<RecordSnapshot>()
                .ToList();

            // One of them may have been deleted since they were read.
            if (records.Count < keys.Length)
                continue;
            var values = records
                .Select(record => loaded.Type.Fields.Select(field => record[field.Column].ToText()).ToArray())
                .ToList();
            var explanation = loaded.Finder.Explain(values[0], values[1]);
            samples.Add(
                new SamplePair(
                    loaded.Keys[a],
                    MergePlanner.Describe(loaded.Type, records[0]).Label,
                    loaded.Keys[b],
                    MergePlanner.Describe(loaded.Type, records[1]).Label,
                    explanation.Score,
                    explanation.InShort,
                    explanation.Proposed
                )
            );
        }

        return samples;
    }
}
