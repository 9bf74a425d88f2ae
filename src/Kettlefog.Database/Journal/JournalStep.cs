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
/// <param name="Number">The history entry it belongs to.</param>
/// <param name="Step">Its place in the order in which things were done.</param>
/// <param name="Operation">Its operation.</param>
/// <param name="Table">The table it wrote to.</param>
/// <param name="Reference">The reference's name, for a reassignment.</param>
/// <param name="KeyColumns">The columns that identify its rows.</param>
/// <param name="RowCount">The number of its rows.</param>
internal sealed record JournalStep(
    long Number,
    int Step,
    JournalOperation Operation,
    string Table,
    string? Reference,
    IReadOnlyList<string> KeyColumns,
    long RowCount
)
{
    /// <summary>True if its table has no key, so its rows are journaled by all their values.</summary>
    public bool IsUnkeyed => KeyColumns is [UnkeyedRows.WholeRow];
}
