using Kettlefog.Core.Matching;

namespace Kettlefog.Database.Duplicates.LiveIndex;

/// <summary>A record that may be the same entity as the one asked about.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Label">Its label.</param>
/// <param name="Explanation">The explained score.</param>
public sealed record SimilarDuplicate(string Key, string Label, PairExplanation Explanation);
