namespace Kettlefog.Demo.Truth;

/// <summary>A made-up record with its true entity.</summary>
/// <param name="Entity">The number of its entity; records of one entity are duplicates.</param>
/// <param name="Class">
/// Empty for an entity's first record; for a copy the changes applied to it, joined by <c>+</c>; for a look-alike its
/// kind, after <c>~</c>.
/// </param>
/// <param name="LooksLike">The entity that a look-alike resembles, or -1.</param>
/// <param name="Values">Its values, in the order of the maker's columns.</param>
internal sealed record TruthRecord(int Entity, string Class, int LooksLike, string?[] Values);
