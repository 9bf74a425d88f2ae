using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Matching.Scoring;

namespace Kettlefog.Core.Matching;

/// <content>What is learned from the records: how common values are, and what agreement means.</content>
public sealed partial class DuplicateFinder
{
    /// <summary>Of equal records only the first is counted: sixty copies make a rare name no common one.</summary>
    private void CountCopiesOnce()
    {
        var hashes = new ulong[Count];
        Parallel.For(0, Count, record => hashes[record] = TwinOf(_records[record]));
        var numbers = Enumerable.Range(0, Count).ToArray();
        Array.Sort(hashes, numbers);
        for (var start = 0; start < Count; )
        {
            var end = start + 1;
            while (end < Count && hashes[end] == hashes[start])
                end++;
            if (hashes[start] != 0 && end - start > 1)
            {
                var twins = numbers.AsSpan(start, end - start);
                twins.Sort();
                foreach (var twin in twins[1..])
                {
                    if (_copies.Add(twin))
                        CountValues(_records[twin], -1);
                }
            }

            start = end;
        }
    }

    /// <summary>
    /// Counts for each shared value the names that have it: a switchboard or a bookkeeper's mailbox has many.
    /// </summary>
    private void CountDistinctNames()
    {
        var namesOf = new Dictionary<Token, HashSet<ulong>>();
        var tokens = new List<Token>();
        foreach (var record in _records)
        {
            ulong name = 0;
            for (var index = 0; index < _model.Features.Count && name == 0; index++)
                name = _model.Features[index].NameOf(Slice(record, index));
            if (name == 0)
                continue;
            tokens.Clear();
            for (var index = 0; index < _model.Features.Count; index++)
                _model.Features[index].Shared(Slice(record, index), tokens);
            foreach (var token in tokens)
            {
                if (token.Count < 3)
                    continue;
                if (!namesOf.TryGetValue(token, out var names))
                    namesOf[token] = names = [];
                if (names.Count < MaxDistinctNames)
                    names.Add(name);
            }
        }

        foreach (var (token, names) in namesOf)
            token.DistinctNames =
                names.Count == MaxDistinctNames ? Math.Max(MaxDistinctNames, token.Count / 2) : names.Count;
    }

    private LearnedScores Learn(CancellationToken cancellationToken)
    {
        if (Count < 2)
            return Unlearned;
        var random = new Random(_options.Seed);
        var drawn = new List<(int A, int B)>();
        for (var draw = 0; draw < Math.Min(RandomPairs, (long)Count * 20); draw++)
        {
            var (a, b) = (random.Next(Count), random.Next(Count));
            if (a != b)
                drawn.Add((a, b));
        }

        var chance = new Finding[drawn.Count][];
        Parallel.For(0, drawn.Count, new ParallelOptions { CancellationToken = cancellationToken }, draw =>
            chance[draw] = Findings(drawn[draw].A, drawn[draw].B)
        );
        var evidence = ScoreLearner.WithRandomPairs(_model.Evidence, chance);
        var (sample, share) = Sample(random, cancellationToken);
        var learned = ScoreLearner.Learn(evidence, _model.Relations, Count, DefaultDuplicates, sample, share);
        var scorer = Scorer(learned);
        var odds = _decided.Select(pair => scorer.RawLogOdds(pair.Findings)).ToList();
        return learned with
        {
            Taught = DecisionLearner.Fit(Calibration.Default(_model.Entity), learned.Evidence, _decided, odds),
        };
    }

    /// <summary>The candidates of some records, each pair once, with their share of all pairs.</summary>
    private (IReadOnlyList<Finding[]> Sample, double Share) Sample(Random random, CancellationToken cancellationToken)
    {
        var step = Math.Max(1, Count / SampleRecords);
        var first = random.Next(step);
        var sample = new List<Finding[]>[Math.Max(0, (Count - first + step - 1) / step)];
        Parallel.For(
            0,
            sample.Length,
            new ParallelOptions { CancellationToken = cancellationToken },
            () => new int[Count],
            (turn, _, seen) =>
            {
                var record = first + (turn * step);
                var own = sample[turn] = [];
                if (_copies.Contains(record))
                    return seen;
                foreach (var block in _blocks!.BlocksOf(record))
                {
                    var members = _blocks.Members(block);
                    for (var at = members.Length - 1; at >= 0 && members[at] > record; at--)
                    {
                        if (seen[members[at]] == record + 1)
                            continue;
                        seen[members[at]] = record + 1;
                        if (!_copies.Contains(members[at]) && _rules.MayMeet(record, members[at]))
                            own.Add(Findings(record, members[at]));
                    }
                }

                return seen;
            },
            _ => { }
        );
        return ([.. sample.SelectMany(pairs => pairs)], (double)sample.Length / Count);
    }
}
