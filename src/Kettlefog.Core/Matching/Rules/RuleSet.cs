using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Matching.Scoring;

namespace Kettlefog.Core.Matching.Rules;

/// <summary>The data of a record that the rules need in addition to the score.</summary>
/// <param name="Values">The values of the fields used by comparisons, in the order of the type's fields.</param>
/// <param name="Partition">The record's partition.</param>
/// <param name="Scopes">A bit for each rule whose scope the record is in.</param>
internal readonly record struct RuleRecord(string?[] Values, int Partition, uint Scopes)
{
    /// <summary>The partition of values that somebody asks about without saying one: they meet all records.</summary>
    public const int AnyPartition = -1;

    /// <summary>True if the partitions do not keep two records apart.</summary>
    /// <param name="other">The other record.</param>
    public bool SharesPartition(RuleRecord other) =>
        Partition == other.Partition || Partition == AnyPartition || other.Partition == AnyPartition;
}

/// <summary>The outcome of the rules for a pair.</summary>
/// <param name="Score">The best score that a rule gives it.</param>
/// <param name="Rule">The index of that rule.</param>
/// <param name="Proposed">True if that rule proposes it.</param>
internal readonly record struct Judgement(double Score, int Rule, bool Proposed);

/// <summary>
/// The rules of a record type, prepared for evaluation: which records are compared, whether a pair is proposed, and its
/// score.
/// </summary>
internal sealed class RuleSet
{
    private const int MaxRules = 32;

    private readonly CompiledRule[] _rules;
    private readonly int[] _partition;
    private readonly int[] _kept;
    private readonly List<RuleRecord> _records = [];
    private readonly Dictionary<string, int> _partitionNumbers = [];
    private readonly bool _simple;

    public RuleSet(
        RecordType type,
        IReadOnlyList<MatchRule> rules,
        MatchModel model,
        FinderOptions options,
        Nicknames nicknames
    )
    {
        if (rules.Count is 0 or > MaxRules)
            throw new KettlefogException(
                ErrorCode.InvalidRule,
                $"{rules.Count} rules are too {(rules.Count == 0 ? "few" : "many")}.",
                $"Use 1 to {MaxRules}."
            );
        _rules = [.. rules.Select(rule => new CompiledRule(rule, type, model, options, nicknames))];
        _partition = [.. options.Partition.Select(name => type.Fields.IndexOf(name))];
        _kept = [.. _rules.SelectMany(rule => rule.Columns).Distinct().Order()];
        _simple = _partition.Length == 0 && _kept.Length == 0 && _rules.All(rule => rule.Rule.Scope.Count == 0);
    }

    public IReadOnlyList<CompiledRule> Rules => _rules;

    /// <summary>
    /// The minimum score, from 0 to 1, at which a rule may propose a pair when all evidence is counted; 0 if a rule
    /// ignores some, so that the total says nothing about its score.
    /// </summary>
    public double MinProposedScore => _rules.Any(rule => rule.Masks) ? 0 : _rules.Min(rule => rule.Rule.Review) / 100.0;

    /// <summary>Stores the data of records that the rules need.</summary>
    public void Add(IReadOnlyList<IReadOnlyList<string?>> rows)
    {
        if (_simple)
            return;
        foreach (var row in rows)
            _records.Add(Of(row));
    }

    /// <summary>The data of a stored record.</summary>
    public RuleRecord Of(int record) => _simple ? new RuleRecord([], 0, uint.MaxValue) : _records[record];

    /// <summary>Extracts the data of values that somebody asks about, who may not know the partition.</summary>
    public RuleRecord OfAsked(IReadOnlyList<string?> row)
    {
        var record = Of(row);
        return LacksPartition(row) ? record with { Partition = RuleRecord.AnyPartition } : record;
    }

    /// <summary>True if a record type is partitioned and the values do not say by which partition.</summary>
    public bool LacksPartition(IReadOnlyList<string?> row) =>
        _partition.Length > 0 && _partition.All(column => string.IsNullOrWhiteSpace(row[column]));

    /// <summary>The values, in the partition of another record.</summary>
    public IReadOnlyList<string?> InPartitionOf(IReadOnlyList<string?> row, IReadOnlyList<string?> other)
    {
        var values = row.ToArray();
        foreach (var column in _partition)
            values[column] = other[column];
        return values;
    }

    /// <summary>Extracts the data of a record from its values.</summary>
    public RuleRecord Of(IReadOnlyList<string?> row)
    {
        if (_simple)
            return new RuleRecord([], 0, uint.MaxValue);
        var kept = _kept.Length == 0 ? [] : new string?[row.Count];
        foreach (var column in _kept)
            kept[column] = row[column];
        var partition = string.Join('\u001f', _partition.Select(column => row[column] ?? ""));
        lock (_partitionNumbers)
        {
            if (!_partitionNumbers.TryGetValue(partition, out var number))
                _partitionNumbers[partition] = number = _partitionNumbers.Count;
            return new RuleRecord(kept, number, ScopesOf(row));
        }
    }

    /// <summary>True if any rule applies to both records.</summary>
    public bool MayMeet(int a, int b) => _simple || RulesFor(_records[a], _records[b]) != 0;

    public bool IsNever(RuleRecord a, RuleRecord b) =>
        _kept.Length > 0 && _rules.Any(rule => rule.IsNever(a.Values, b.Values));

    /// <summary>The outcome of the rules for a pair, or null if none applies.</summary>
    public Judgement? Judge(RuleRecord a, RuleRecord b, ReadOnlySpan<Finding> findings, PairScorer scorer)
    {
        if (_simple && _rules.Length == 1 && !_rules[0].Masks)
        {
            var plain = scorer.Score(findings);
            return new Judgement(plain, 0, plain * 100 >= _rules[0].Rule.Review);
        }

        var looking = RulesFor(a, b);
        Judgement? best = null;
        Span<Finding> masked = stackalloc Finding[findings.Length];
        for (var index = 0; index < _rules.Length; index++)
        {
            var rule = _rules[index];
            if ((looking & (1u << index)) == 0)
                continue;
            rule.Mask(findings, masked);
            var score = scorer.Score(masked);
            var proposed = score * 100 >= rule.Rule.Review && rule.Holds(a.Values, b.Values);
            if (proposed && IsNever(a, b))
                return new Judgement(0, index, false);
            if (best is null || (proposed, score).CompareTo((best.Value.Proposed, best.Value.Score)) > 0)
                best = new Judgement(score, index, proposed);
        }

        return best;
    }

    public void AddParts(RuleRecord record, KeyParts parts)
    {
        if (_kept.Length == 0)
            return;
        foreach (var rule in _rules)
            rule.AddParts(record.Values, parts);
    }

    private uint RulesFor(RuleRecord a, RuleRecord b)
    {
        var both = a.Scopes & b.Scopes;
        if (both == 0 || a.SharesPartition(b))
            return both;
        for (var index = 0; index < _rules.Length; index++)
        {
            if (!_rules[index].Rule.CrossPartitions)
                both &= ~(1u << index);
        }

        return both;
    }

    private uint ScopesOf(IReadOnlyList<string?> row)
    {
        uint scopes = 0;
        for (var index = 0; index < _rules.Length; index++)
            scopes |= _rules[index].InScope(row) ? 1u << index : 0;
        return scopes;
    }
}
