using System.Globalization;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging.Survivorship;

/// <summary>One record's value, with what the rules need to know about the record.</summary>
/// <param name="Value">The value.</param>
/// <param name="Created">When the record was created; NULL if unknown.</param>
/// <param name="Changed">When the record was changed last; NULL if unknown.</param>
/// <param name="IsBlank">True if the value counts as missing: blank, or a placeholder.</param>
/// <param name="SourcePlace">The rank of the record's source in the order of sources, from 0.</param>
/// <param name="Origin">Where the value comes from, in words, for text that is appended.</param>
public readonly record struct Candidate(
    ColumnValue Value,
    ColumnValue Created,
    ColumnValue Changed,
    bool IsBlank,
    int SourcePlace = 0,
    string Origin = ""
)
{
    /// <summary>A value without further facts about its record.</summary>
    /// <param name="value">The value.</param>
    /// <param name="created">When the record was created.</param>
    /// <param name="changed">When it was changed last.</param>
    public Candidate(ColumnValue value, ColumnValue created, ColumnValue changed)
        : this(value, created, changed, value.IsBlank) { }
}

/// <summary>The surviving value.</summary>
/// <param name="Value">The value.</param>
/// <param name="From">The index of the candidate it comes from; null if it was combined from several.</param>
public readonly record struct Survivor(ColumnValue Value, int? From);

/// <summary>Applies survivorship rules.</summary>
public static class SurvivorshipResolver
{
    /// <summary>Decides which value survives.</summary>
    /// <param name="rule">The rule.</param>
    /// <param name="candidates">One per record, the master first; at least one.</param>
    /// <param name="separator">The separator between the members of a set; null to detect it from the values.</param>
    /// <returns>The value; null if the values are not what the rule works on, such as a total of words.</returns>
    public static Survivor? Decide(SurvivorshipRule rule, IReadOnlyList<Candidate> candidates, string? separator = null)
    {
        ArgumentNullException.ThrowIfNull(candidates);
        var filled = candidates.Where(candidate => !candidate.IsBlank).ToList();
        if (filled.Count > 1 && rule is SurvivorshipRule.Total or SurvivorshipRule.Union or SurvivorshipRule.Append)
        {
            var made = rule switch
            {
                SurvivorshipRule.Total => Total(filled),
                SurvivorshipRule.Union => SetUnion.Of(
                    [.. filled.Select(candidate => candidate.Value.ToText()!)],
                    separator
                ),
                _ => Appended(filled),
            };
            if (made is null)
                return null;
            var same = candidates.ToList().FindIndex(candidate => candidate.Value.ToText() == made);
            return same >= 0 ? new Survivor(candidates[same].Value, same) : new Survivor(ColumnValue.Of(made), null);
        }

        // If several have the chosen value, it counts as the master's, or the first duplicate's.
        var value = candidates[Resolve(rule, candidates)].Value;
        return new Survivor(value, candidates.ToList().FindIndex(candidate => candidate.Value == value));
    }

    /// <summary>
    /// Chooses the record whose value survives, by a rule that chooses a record; the other rules choose as
    /// <see cref="SurvivorshipRule.MasterUnlessBlank"/>.
    /// </summary>
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
            SurvivorshipRule.MasterUnlessBlank
            or SurvivorshipRule.Total
            or SurvivorshipRule.Union
            or SurvivorshipRule.Append => Best(candidates, (_, _) => 0),
            SurvivorshipRule.Newest => Best(candidates, (a, b) => CompareKnown(a.Changed, b.Changed)),
            SurvivorshipRule.Oldest => Best(candidates, (a, b) =>
                -CompareKnown(a.Created, b.Created, unknownIsLate: true)
            ),
            SurvivorshipRule.Longest => Best(candidates, (a, b) => Length(a).CompareTo(Length(b))),
            SurvivorshipRule.MostCommon => Best(candidates, (a, b) =>
                Votes(candidates, a).CompareTo(Votes(candidates, b))
            ),
            SurvivorshipRule.Largest => Best(candidates, (a, b) => CompareValues(a.Value, b.Value)),
            SurvivorshipRule.Smallest => Best(candidates, (a, b) => -CompareValues(a.Value, b.Value)),
            SurvivorshipRule.SourceOrder => Best(candidates, (a, b) => b.SourcePlace.CompareTo(a.SourcePlace)),
            _ => throw new ArgumentOutOfRangeException(nameof(rule)),
        };
    }

    /// <summary>
    /// Orders two values: numbers as exact decimals, points in time regardless of their time zone, everything
    /// else as text, blank first.
    /// </summary>
    /// <param name="left">One value.</param>
    /// <param name="right">The other.</param>
    /// <returns>Less than, equal to or greater than 0.</returns>
    public static int CompareValues(ColumnValue left, ColumnValue right)
    {
        if (left.IsBlank || right.IsBlank)
            return (left.IsBlank ? 0 : 1) - (right.IsBlank ? 0 : 1);
        if (left.TryGetDecimal(out var a) && right.TryGetDecimal(out var b))
            return a.CompareTo(b);
        return TimestampText.TryRead(left.ToText(), out var x) && TimestampText.TryRead(right.ToText(), out var y)
            ? x.CompareTo(y)
            : string.CompareOrdinal(left.ToText(), right.ToText());
    }

    private static int Best(IReadOnlyList<Candidate> candidates, Comparison<Candidate> better)
    {
        var best = -1;
        for (var index = 0; index < candidates.Count; index++)
        {
            if (!candidates[index].IsBlank && (best < 0 || better(candidates[index], candidates[best]) > 0))
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

    private static string? Total(List<Candidate> filled)
    {
        decimal total = 0;
        foreach (var candidate in filled)
        {
            if (
                !candidate.Value.TryGetDecimal(out var number)
                || (double)decimal.MaxValue - Math.Abs((double)number) < Math.Abs((double)total)
            )
                return null;
            total += number;
        }

        return total.ToString(CultureInfo.InvariantCulture);
    }

    /// <summary>The first text as it is; below it the further texts of the others, each with its origin.</summary>
    private static string Appended(List<Candidate> filled)
    {
        var text = filled[0].Value.ToText()!.TrimEnd();
        foreach (var candidate in filled.Skip(1))
        {
            var more = candidate.Value.ToText()!.Trim();
            if (!text.Contains(more, StringComparison.Ordinal))
                text += $"\n\n[{candidate.Origin}] {more}";
        }

        return text == filled[0].Value.ToText()!.TrimEnd() ? filled[0].Value.ToText()! : text;
    }

    private static int Length(Candidate candidate) => candidate.Value.ToText()?.Trim().Length ?? 0;

    private static int Votes(IReadOnlyList<Candidate> candidates, Candidate candidate) =>
        candidates.Count(other => other.Value == candidate.Value);
}
