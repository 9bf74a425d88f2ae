namespace Kettlefog.Demo.Truth;

/// <summary>A made-up record of which it is known whose it is.</summary>
/// <param name="Party">The number of the party it stands for; records of one party are duplicates.</param>
/// <param name="Class">
/// Empty for a party's first record; for a copy what was done to it, joined by <c>+</c>; for a look-alike its sort,
/// after <c>~</c>.
/// </param>
/// <param name="LooksLike">The party that a look-alike looks like, or -1.</param>
/// <param name="Values">Its values, in the order of the maker's columns.</param>
internal sealed record TruthRecord(int Party, string Class, int LooksLike, string?[] Values);
