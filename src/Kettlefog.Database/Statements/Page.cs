namespace Kettlefog.Database.Statements;

/// <summary>A page of something.</summary>
/// <param name="Items">The items of the page.</param>
/// <param name="Total">How many there are in all.</param>
public sealed record Page<T>(IReadOnlyList<T> Items, long Total);
