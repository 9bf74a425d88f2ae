using Kettlefog.Core.Schema;

namespace Kettlefog.Database.Engines;

/// <summary>Something that the service's user may not do, and has to.</summary>
/// <param name="Message">What, in a sentence.</param>
/// <param name="Remedy">What to do about it.</param>
/// <param name="Statement">The statement that grants it; null if none does.</param>
/// <param name="KeepsFromReading">True if rows cannot even be read without it.</param>
internal sealed record MissingRight(string Message, string Remedy, string? Statement, bool KeepsFromReading = false);

/// <summary>What merges do to a table.</summary>
/// <param name="Table">The table.</param>
/// <param name="Changes">The changes of rows.</param>
/// <param name="Updated">The columns that are set; null for any.</param>
internal sealed record TableUse(TableSchema Table, RowChanges Changes, IReadOnlyList<string>? Updated);
