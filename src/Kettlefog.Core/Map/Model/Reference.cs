using Kettlefog.Core.Map.Checking;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Map.Model;

/// <summary>How the related rows of a duplicate are merged.</summary>
public enum ReferencePolicy
{
    /// <summary>They refer to the master afterwards.</summary>
    Reassign,

    /// <summary>They stay with the retired record.</summary>
    Leave,

    /// <summary>If there are any, the merge is blocked.</summary>
    Block,
}

/// <summary>How related rows are merged that must not all refer to the master, because of a unique key.</summary>
public enum CollisionPolicy
{
    /// <summary>The merge is blocked.</summary>
    Block,

    /// <summary>
    /// The master's row is kept, or the first duplicate's if the master has none; the others are removed and journaled.
    /// </summary>
    Keep,

    /// <summary>
    /// Rows that are equal but for their own key become one: the master's is kept, or the first duplicate's, and the
    /// others are removed and journaled. If they differ, the merge is blocked.
    /// </summary>
    KeepEqual,

    /// <summary>As <see cref="Keep"/>, but the kept row takes values of the others by survivorship.</summary>
    Combine,
}

/// <summary>Columns of a table that refer to a record.</summary>
/// <param name="Name">Its name in commands and addresses.</param>
/// <param name="Title">The title of the related rows.</param>
/// <param name="Table">The table whose rows have it.</param>
/// <param name="Columns">The columns that hold the record's key, in the order of the key.</param>
/// <param name="Key">
/// The columns that identify a related row; filled in by <see cref="MapCheck"/> with the primary key.
/// </param>
/// <param name="When">Columns and the text that each must have for the reference to hold; empty for always.</param>
/// <param name="Policy">How the related rows of a duplicate are merged.</param>
/// <param name="Amount">The column with the amount of a related row, or null.</param>
/// <param name="Show">The columns that show a related row to a person; empty for all.</param>
/// <param name="Collision">How conflicts between rows are resolved.</param>
/// <param name="Combine">
/// Survivorship rules of single columns of rows that are combined; the record type's for all others.
/// </param>
public sealed record Reference(
    string Name,
    string Title,
    string Table,
    IReadOnlyList<string> Columns,
    IReadOnlyList<string> Key,
    IReadOnlyDictionary<string, string> When,
    ReferencePolicy Policy,
    string? Amount,
    IReadOnlyList<string> Show,
    CollisionPolicy Collision,
    IReadOnlyDictionary<string, SurvivorshipRule> Combine
)
{
    /// <summary>
    /// The columns that do not count when rows are compared by <see cref="CollisionPolicy.KeepEqual"/>, such as the
    /// time of creation or a position in a list.
    /// </summary>
    public IReadOnlyList<string> Bookkeeping { get; init; } = [];

    /// <summary>What refers to its related rows, where the database does not declare it.</summary>
    public IReadOnlyList<DependentReference> Dependents { get; init; } = [];

    /// <summary>The placeholder for the key in <see cref="Template"/>.</summary>
    public const string KeyPlaceholder = "{key}";

    /// <summary>The record's columns that are referred to; empty for its key.</summary>
    public IReadOnlyList<string> To { get; init; } = [];

    /// <summary>
    /// The text that the one column holds, with <see cref="KeyPlaceholder"/> for the key in text form; null if it holds
    /// the key itself.
    /// </summary>
    public string? Template { get; init; }

    /// <summary>
    /// The references whose rows are reassigned, in order: where two references of one table share a unique key, rows
    /// of the one with a condition move first, so that they are not in the way of the other's.
    /// </summary>
    /// <param name="all">The items that have a reference.</param>
    /// <param name="of">The reference of each.</param>
    public static IReadOnlyList<T> InReassignmentOrder<T>(IEnumerable<T> all, Func<T, Reference> of) =>
        [
            .. all.Where(each => of(each).Policy == ReferencePolicy.Reassign)
                .GroupBy(each => of(each).Table)
                .SelectMany(ofTable => ofTable.OrderBy(each => of(each).When.Count == 0)),
        ];

    /// <summary>
    /// True if it is a reference of a table to itself that forms a tree, such as that to a parent: the master must not
    /// become its own ancestor. All others, such as that to the last editor, may refer to the record itself. Null if
    /// the map does not say it.
    /// </summary>
    public bool? Hierarchy { get; init; }

    /// <summary>True if an operator may leave the rows with the retired records in a single merge.</summary>
    public bool MayExclude { get; init; }

    /// <summary>True if its columns hold the record's key as it is.</summary>
    public bool HoldsKey => To.Count == 0 && Template is null;

    /// <summary>Which of some records a row refers to.</summary>
    /// <param name="row">The row's values by column.</param>
    /// <param name="targets">The values that refer to each record.</param>
    /// <returns>
    /// The index of the record; -1 if the row refers to none of them, or does not meet the reference's condition.
    /// </returns>
    public int IndexOfReferencedRecord(Func<string, ColumnValue> row, IReadOnlyList<RecordKey> targets)
    {
        ArgumentNullException.ThrowIfNull(row);
        ArgumentNullException.ThrowIfNull(targets);
        if (When.Any(when => row(when.Key).ToText() != when.Value))
            return -1;
        var referring = new RecordKey([.. Columns.Select(row)]);
        return referring.Parts.Any(part => part.IsNull) ? -1 : targets.ToList().IndexOf(referring);
    }

    /// <summary>The values of its columns in rows that refer to a record.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="table">The table of the related rows.</param>
    /// <param name="record">The record's values by column.</param>
    /// <returns>One part for each of <see cref="Columns"/>; NULL where the record has no value to refer to.</returns>
    public RecordKey KeyOf(RecordType type, TableSchema table, Func<string, ColumnValue> record)
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(table);
        ArgumentNullException.ThrowIfNull(record);
        var key = new RecordKey([.. (To.Count == 0 ? type.Key : To).Select(record)]);
        if (Template is not null)
            return new RecordKey(
                key.Parts.Any(part => part.IsNull)
                    ? ColumnValue.Null
                    : ColumnValue.Of(Template.Replace(KeyPlaceholder, key.ToString(), StringComparison.Ordinal))
            );
        return new RecordKey([
            .. key.Parts.Zip(table.Require(Columns), (part, column) =>
                column.Storage == StorageClass.Text && part.ToText() is { } text ? ColumnValue.Of(text) : part
            ),
        ]);
    }
}
