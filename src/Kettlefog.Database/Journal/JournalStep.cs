using System.Text.Json;

namespace Kettlefog.Database.Journal;

/// <summary>The operation of a journal step.</summary>
internal enum JournalOperation
{
    /// <summary>Reassigned related rows to the master.</summary>
    Reassign,

    /// <summary>Wrote columns of one record.</summary>
    Update,

    /// <summary>Deleted one record.</summary>
    Delete,

    /// <summary>Added one row.</summary>
    Insert,
}

/// <summary>A step of the journal: the same columns were written, with the same values, in each of its rows.</summary>
/// <param name="Journal">The journal it belongs to; see <see cref="JournalIdentifier"/>.</param>
/// <param name="Step">Its place in the order in which things were done.</param>
/// <param name="Operation">Its operation.</param>
/// <param name="Table">The table it wrote to.</param>
/// <param name="Reference">The reference's name, for a reassignment.</param>
/// <param name="KeyColumns">The columns that identify its rows.</param>
/// <param name="RowCount">The number of its rows.</param>
internal sealed record JournalStep(
    long Journal,
    int Step,
    JournalOperation Operation,
    string Table,
    string? Reference,
    IReadOnlyList<string> KeyColumns,
    long RowCount
)
{
    /// <summary>
    /// The columns by whose values its rows are journaled, if its table has no key; empty in entries of earlier
    /// programs, which took all that are not generated and do not refer to the record.
    /// </summary>
    public IReadOnlyList<string> WholeColumns { get; init; } = [];

    /// <summary>True if its table has no key, so its rows are journaled by all their values.</summary>
    public bool IsUnkeyed => KeyColumns is [UnkeyedRows.WholeRow];

    /// <summary>The stored form of its key columns.</summary>
    public string KeyText() => JsonSerializer.Serialize(KeyColumns.Concat(WholeColumns));

    /// <summary>Reads the stored form of key columns.</summary>
    public static (IReadOnlyList<string> KeyColumns, IReadOnlyList<string> WholeColumns) ReadKey(string text)
    {
        var columns = JsonSerializer.Deserialize<List<string>>(text)!;
        return columns is [UnkeyedRows.WholeRow, ..] ? (columns[..1], columns[1..]) : (columns, []);
    }
}
