using Kettlefog.Core.Schema;

namespace Kettlefog.Database.Engines;

/// <summary>A right that the service's user needs and does not have.</summary>
/// <param name="Message">What is missing, in a sentence.</param>
/// <param name="Remedy">What to do about it.</param>
/// <param name="Statement">The statement that grants it; null if none does.</param>
/// <param name="KeepsFromReading">True if rows cannot even be read without it.</param>
internal sealed record MissingRight(string Message, string Remedy, string? Statement, bool KeepsFromReading = false);

/// <summary>The use of a table by merges.</summary>
/// <param name="Table">The table.</param>
/// <param name="Changes">The changes of rows.</param>
/// <param name="Updated">The columns that are set; null for any.</param>
internal sealed record TableUse(TableSchema Table, RowChanges Changes, IReadOnlyList<string>? Updated);
