using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Matching.Scoring;

namespace Kettlefog.Core.Matching.Rules;

/// <summary>A rule prepared for evaluation.</summary>
internal sealed class CompiledRule
{
    private readonly CompiledComparison[][] _anyOf;
    private readonly CompiledComparison[] _never;
    private readonly (int Column, ScopeCondition Condition)[] _scope;
    private readonly bool[]? _masked;

    public CompiledRule(MatchRule rule, RecordType type, MatchModel model, FinderOptions options, Nicknames nicknames)
    {
        Rule = rule;
        CompiledComparison Compile(Comparison comparison) =>
            new(comparison, type.Fields.IndexOf(comparison.Field), options.Country, nicknames);
        _anyOf = [.. rule.AnyOf.Select(group => group.Select(Compile).ToArray())];
        _never = [.. rule.Never.Select(Compile)];
        _scope = [.. rule.Scope.Select(condition => (type.Fields.IndexOf(condition.Field), condition))];
        if (rule.Compare.Count > 0)
            _masked = model.EvidenceWithout(type.Fields, rule.Compare);
        Columns =
        [
            .. _anyOf.SelectMany(group => group).Concat(_never).Select(comparison => comparison.Column).Distinct(),
        ];
    }

    public MatchRule Rule { get; }

    /// <summary>True if the rule ignores some evidence.</summary>
    public bool Masks => _masked is not null;

    /// <summary>The columns whose text the comparisons need.</summary>
    public IReadOnlyList<int> Columns { get; }

    public bool InScope(IReadOnlyList<string?> row)
    {
        foreach (var (column, condition) in _scope)
        {
            var value = row[column] ?? "";
            if ((condition.In.Count > 0 && !condition.In.Contains(value)) || condition.NotIn.Contains(value))
                return false;
        }

        return true;
    }

    public bool Holds(IReadOnlyList<string?> a, IReadOnlyList<string?> b) =>
        _anyOf.Length == 0 || _anyOf.Any(group => group.All(comparison => comparison.Holds(a, b)));

    public bool IsNever(IReadOnlyList<string?> a, IReadOnlyList<string?> b) =>
        _never.Length > 0 && _never.Any(comparison => comparison.Holds(a, b));

    /// <summary>Removes the evidence that the rule ignores.</summary>
    public void Mask(ReadOnlySpan<Finding> findings, Span<Finding> masked)
    {
        findings.CopyTo(masked);
        for (var index = 0; _masked is not null && index < masked.Length; index++)
        {
            if (_masked[index])
                masked[index] = Finding.None;
        }
    }

    /// <summary>A key for each group with comparisons whose agreeing values share a key.</summary>
    public void AddParts(IReadOnlyList<string?> row, KeyParts parts)
    {
        for (var index = 0; index < _anyOf.Length; index++)
        {
            ulong key = 0;
            var complete = true;
            foreach (var comparison in _anyOf[index])
            {
                if (!comparison.HasKey)
                    continue;
                if (comparison.KeyOf(row) is { } part)
                    key = KeyParts.Mix(key + part);
                else
                    complete = false;
            }

            if (complete && key != 0)
                parts.AddStrong(KeySlot.Value, key + (ulong)index);
        }
    }
}
