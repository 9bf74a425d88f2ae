using Kettlefog.Core.Values;

namespace Kettlefog.Core.Survivorship;

/// <summary>One record's value, with what the rules need to know about the record.</summary>
/// <param name="Value">The value.</param>
/// <param name="Created">When the record was created; NULL if unknown.</param>
/// <param name="Changed">When the record was changed last; NULL if unknown.</param>
public readonly record struct Candidate(ColumnValue Value, ColumnValue Created, ColumnValue Changed);

/// <summary>Applies survivorship rules.</summary>
public static class SurvivorshipResolver
{
    /// <summary>Chooses the record whose value stays.</summary>
    /// <param name="rule">The rule.</param>
    /// <param name="candidates">One per record, the master first; at least one.</param>
    /// <returns>
    /// The index of the chosen candidate. On a tie the earlier one wins, so that the master wins over the others;
    /// if all are blank it is the master's, 0.
    /// </returns>
    public static int Resolve(SurvivorshipRule rule, IReadOnlyList<Candidate> candidates)
    {
        ArgumentNullException.ThrowIfNull(candidates);
        return rule switch
        {
            SurvivorshipRule.Master => 0,
            SurvivorshipRule.MasterUnlessBlank => Best(candidates, (_, _) => 0),
            SurvivorshipRule.Newest => Best(candidates, (a, b) => CompareKnown(a.Changed, b.Changed)),
            SurvivorshipRule.Oldest => Best(candidates, (a, b) => -CompareKnown(a.Created, b.Created, unknownIsLate: true)),
            SurvivorshipRule.Longest => Best(candidates, (a, b) => Length(a).CompareTo(Length(b))),
            SurvivorshipRule.MostCommon => Best(
                candidates,
                (a, b) => Votes(candidates, a).CompareTo(Votes(candidates, b))),
            SurvivorshipRule.Largest => Best(candidates, (a, b) => CompareValues(a.Value, b.Value)),
            SurvivorshipRule.Smallest => Best(candidates, (a, b) => -CompareValues(a.Value, b.Value)),
            _ => throw new ArgumentOutOfRangeException(nameof(rule)),
        };
    }

    /// <summary>Orders two values: numbers as exact decimals, all else as text, blank before everything.</summary>
    /// <param name="left">One value.</param>
    /// <param name="right">The other.</param>
    /// <returns>Less than, equal to or greater than 0.</returns>
    public static int CompareValues(ColumnValue left, ColumnValue right)
    {
        if (left.IsBlank || right.IsBlank)
            return (left.IsBlank ? 0 : 1) - (right.IsBlank ? 0 : 1);
        return left.TryGetDecimal(out var a) && right.TryGetDecimal(out var b)
            ? a.CompareTo(b)
            : string.CompareOrdinal(left.ToText(), right.ToText());
    }

    private static int Best(IReadOnlyList<Candidate> candidates, Comparison<Candidate> better)
    {
        var best = -1;
        for (var index = 0; index < candidates.Count; index++)
        {
            if (!candidates[index].Value.IsBlank && (best < 0 || better(candidates[index], candidates[best]) > 0))
                best = index;
        }

        return Math.Max(best, 0);
    }

    private static int CompareKnown(ColumnValue left, ColumnValue right, bool unknownIsLate = false)
    {
        if (left.IsBlank || right.IsBlank)
            return unknownIsLate ? -CompareValues(left, right) : CompareValues(left, right);
        return CompareValues(left, right);
    }

    private static int Length(Candidate candidate) => candidate.Value.ToText()?.Trim().Length ?? 0;

    private static int Votes(IReadOnlyList<Candidate> candidates, Candidate candidate) =>
        candidates.Count(other => other.Value == candidate.Value);
}
