using Kettlefog.Core.Map.Reading;

namespace Kettlefog.Core.Drafting;

/// <summary>Columns that seem to refer to the records of a table.</summary>
/// <param name="Table">The table whose rows have them.</param>
/// <param name="Columns">The columns, in the order of the key.</param>
/// <param name="Target">The table referred to.</param>
/// <param name="TargetColumns">The columns referred to.</param>
/// <param name="When">
/// For rows that may belong to records of several types, the column and value that select this type; otherwise
/// null.
/// </param>
/// <param name="Declared">True if the database itself declares it.</param>
/// <param name="Why">What it was guessed from, in words.</param>
public sealed record ReferenceGuess(
    string Table,
    IReadOnlyList<string> Columns,
    string Target,
    IReadOnlyList<string> TargetColumns,
    (string Column, string Value)? When,
    bool Declared,
    string Why
)
{
    /// <summary>Fewer distinct values may be keys by chance.</summary>
    internal const int MinValues = 3;

    /// <summary>How the map names it, under <c>references</c>.</summary>
    public string InMap
    {
        get
        {
            var when = When is { } condition
                ? $", when: {{ {YamlScalar.Of(condition.Column)}: {YamlScalar.Of(condition.Value)} }}"
                : "";
            var within = As is { } text ? $", as: {YamlScalar.Of(text)}" : "";
            return $"{NameWords.ForMap($"{Table}_{Columns[^1]}")}: {{ table: {YamlScalar.Of(Table)}, columns: "
                + $"{DraftReport.Scalars(Columns)}{within}{when} }}";
        }
    }

    /// <summary>
    /// The text before the key in the column's value, such as <c>vendor:</c>; null if the value is the key alone.
    /// </summary>
    public string? Prefix { get; init; }

    /// <summary>
    /// The text that the column holds, with <c>{key}</c> for the key; null if the value is the key alone.
    /// </summary>
    public string? As => Prefix is null ? null : $"{Prefix}{{key}}";

    /// <summary>
    /// True if only its values suggest it: where they are keys without exception, a person is asked about it.
    /// </summary>
    public bool ByValues { get; init; }

    /// <summary>True if the evidence is so weak that the data must confirm the guess.</summary>
    public bool Weak { get; init; }

    /// <summary>Highest confidence that the data can give it, in percent; lower where no name supports it.</summary>
    public int MaxConfidence { get; init; } = 95;

    /// <summary>
    /// The share of sampled values found among those referred to, from 0 to 1; null if there were no values, or
    /// the reference needs no check.
    /// </summary>
    public double? Included { get; init; }

    /// <summary>True if the column is called as the key is, but not as its table.</summary>
    public bool NamesOnlyKey { get; init; }

    /// <summary>The number of distinct values that were looked for; null if it was not measured.</summary>
    public long? Measured { get; init; }

    /// <summary>True if there are enough values, and every one is a key.</summary>
    public bool AreAllKeys => Measured >= MinValues && Included >= 0.999;

    /// <summary>
    /// For a reference of a table to itself, true if there is a row that refers to itself; null if it was not measured.
    /// </summary>
    public bool? PointsAtItself { get; init; }

    /// <summary>The confidence, in percent.</summary>
    public int Confidence =>
        Declared
            ? 100
            : Included switch
            {
                _ when ByValues && !AreAllKeys => 0,
                null => Weak || NamesOnlyKey ? 0 : 50,

                // One value is likely to be among the keys by chance.
                >= 0.999 when NamesOnlyKey && Measured < 2 => Math.Min(40, MaxConfidence),
                >= 0.999 => MaxConfidence,
                >= 0.95 => Math.Min(85, MaxConfidence),
                >= 0.6 => Math.Min(40, MaxConfidence),
                _ => 0,
            };
}
