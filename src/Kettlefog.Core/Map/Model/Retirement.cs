namespace Kettlefog.Core.Map.Model;

/// <summary>What becomes of a duplicate after its merge.</summary>
/// <param name="Delete">True if its row is deleted; it stays in the journal.</param>
/// <param name="Mark">Otherwise the columns that are set, and to what text.</param>
public sealed record Retirement(bool Delete, IReadOnlyDictionary<string, string> Mark);
