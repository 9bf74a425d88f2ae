namespace Kettlefog.Core.Map.Model;

/// <summary>How a duplicate is retired by a merge.</summary>
/// <param name="Delete">True if its row is deleted; it stays in the journal.</param>
/// <param name="Mark">Otherwise the columns that are set, with their texts.</param>
public sealed record Retirement(bool Delete, IReadOnlyDictionary<string, string> Mark);
