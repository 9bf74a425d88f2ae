namespace Kettlefog.Core.Map.Model;

/// <summary>
/// Columns of another table that refer to related rows. Where a related row is removed because of a conflict, the rows
/// that refer to it move to the row that is kept. Declared foreign keys are followed without being named.
/// </summary>
/// <param name="Name">Its name in the map.</param>
/// <param name="Table">The table whose rows have it.</param>
/// <param name="Columns">The referring columns.</param>
/// <param name="To">The columns of the related row that are referred to; by default its key, filled in.</param>
/// <param name="When">Columns and the text that each must have for the reference to hold; empty for always.</param>
public sealed record DependentReference(
    string Name,
    string Table,
    IReadOnlyList<string> Columns,
    IReadOnlyList<string> To,
    IReadOnlyDictionary<string, string> When
);
