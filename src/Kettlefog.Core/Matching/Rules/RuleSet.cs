using Kettlefog.Core.Maps;
using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Scoring;
using Kettlefog.Core.Matching.Text;

namespace Kettlefog.Core.Matching.Rules;

/// <summary>The rules of a record type at work: which records may meet, what holds for a pair, and what it scores.</summary>
internal sealed class RuleSet
{
    private readonly CompiledRule[] _rules;
    private readonly int[] _partition;
    private readonly int[] _kept;
    private readonly List<string?[]> _values = [];
    private readonly List<int> _partitions = [];
    private readonly List<byte> _scopes = [];
    private readonly Dictionary<string, int> _partitionNumbers = [];
    private readonly bool _everyoneMeets;

    public RuleSet(RecordType type, IReadOnlyList<MatchRule> rules, MatchModel model, FinderOptions options, Nicknames nicknames)
    {
        _rules = [.. rules.Select(rule => new CompiledRule(rule, type, model, options, nicknames))];
        _partition = [.. options.Partition.Select(name => type.Fields.IndexOf(name))];
        _kept = [.. _rules.SelectMany(rule => rule.Columns).Distinct().Order()];
        _everyoneMeets = _partition.Length == 0 && _rules.All(rule => rule.Rule.Scope.Count == 0);
    }

    public IReadOnlyList<CompiledRule> Rules => _rules;

    /// <summary>Takes what the rules need of records beyond the score.</summary>
    public void Add(IReadOnlyList<IReadOnlyList<string?>> rows)
    {
        foreach (var row in rows)
        {
            if (_kept.Length > 0)
                _values.Add(Keep(row));
            if (_everyoneMeets)
                continue;
            _partitions.Add(PartitionOf(row));
            _scopes.Add(ScopesOf(row));
        }
    }

    public string?[] Keep(IReadOnlyList<string?> row)
    {
        var kept = new string?[row.Count];
        foreach (var column in _kept)
            kept[column] = row[column];
        return kept;
    }

    /// <summary>True if some rule looks at both records together.</summary>
    public bool MayMeet(int a, int b) => _everyoneMeets || RulesFor(a, b) != 0;

    public bool IsNever(int a, int b) => _kept.Length > 0 && _rules.Any(rule => rule.IsNever(_values[a], _values[b]));

    /// <summary>The best score that a rule gives a pair, or null if no rule looks at it.</summary>
    public (double Score, int Rule, bool Proposed)? Judge(int a, int b, ReadOnlySpan<Finding> findings, PairScorer scorer)
    {
        var looking = _everyoneMeets ? byte.MaxValue : RulesFor(a, b);
        (double Score, int Rule, bool Proposed)? best = null;
        Span<Finding> masked = stackalloc Finding[findings.Length];
        for (var index = 0; index < _rules.Length; index++)
        {
            var rule = _rules[index];
            if ((looking & (1 << index)) == 0)
                continue;
            rule.Mask(findings, masked);
            var score = scorer.Score(masked);
            var holds = rule.Rule.AnyOf.Count == 0 || rule.Holds(_values[a], _values[b]);
            var proposed = holds && score * 100 >= rule.Rule.Review;
            if (proposed && rule.IsNever(_kept.Length > 0 ? _values[a] : [], _kept.Length > 0 ? _values[b] : []))
                return (0, index, false);
            if (holds && (best is null || (proposed, score).CompareTo((best.Value.Proposed, best.Value.Score)) > 0))
                best = (score, index, proposed);
        }

        return best;
    }

    public void AddParts(int record, KeyParts parts)
    {
        if (_kept.Length == 0)
            return;
        foreach (var rule in _rules)
            rule.AddParts(_values[record], parts);
    }

    private byte RulesFor(int a, int b)
    {
        var both = (byte)(_scopes[a] & _scopes[b]);
        if (both == 0 || _partitions[a] == _partitions[b])
            return both;
        for (var index = 0; index < _rules.Length; index++)
        {
            if (!_rules[index].Rule.CrossPartitions)
                both = (byte)(both & ~(1 << index));
        }

        return both;
    }

    private int PartitionOf(IReadOnlyList<string?> row)
    {
        var key = string.Join('\u001f', _partition.Select(column => row[column] ?? ""));
        if (!_partitionNumbers.TryGetValue(key, out var number))
            _partitionNumbers[key] = number = _partitionNumbers.Count;
        return number;
    }

    private byte ScopesOf(IReadOnlyList<string?> row)
    {
        byte scopes = 0;
        for (var index = 0; index < _rules.Length; index++)
            scopes |= (byte)(_rules[index].InScope(row) ? 1 << index : 0);
        return scopes;
    }
}

/// <summary>Looks for fields by name.</summary>
internal static class FieldPlaces
{
    /// <summary>The place of a field, or -1.</summary>
    public static int IndexOf(this IReadOnlyList<Field> fields, string name)
    {
        for (var index = 0; index < fields.Count; index++)
        {
            if (fields[index].Name == name)
                return index;
        }

        return -1;
    }
}
