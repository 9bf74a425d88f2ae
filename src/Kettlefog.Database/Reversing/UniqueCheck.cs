using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Reversing;

/// <summary>
/// Finds unique values that a reversal would restore but that another row has now. Rows
/// whose own values are restored in the same reversal do not conflict. Unique keys over expressions or with
/// conditions are left to the database, which refuses the change.
/// </summary>
internal sealed class UniqueCheck(
    Session session,
    JournalReader journal,
    CheckedMap map,
    IReadOnlyList<JournalStep> steps
)
{
    /// <summary>
    /// The unique value of a restored row that another row has, as <c>column = value</c>; null if none.
    /// </summary>
    public async Task<string?> TakenAsync(
        JournalStep step,
        RecordKey key,
        IReadOnlyDictionary<string, ColumnValue> values,
        CancellationToken cancellationToken
    )
    {
        foreach (var unique in KeysOf(step, values))
        {
            if (await IsTakenAsync(step, key, unique, column => values[column], cancellationToken))
                return string.Join(", ", unique.Columns.Select(column => $"{column} = {values[column!]}"));
        }

        return null;
    }

    /// <summary>The columns whose values cannot be restored in a row.</summary>
    public async Task<IReadOnlySet<string>> TakenColumnsAsync(
        JournalStep step,
        RecordKey key,
        IReadOnlyDictionary<string, ColumnValue> values,
        CancellationToken cancellationToken
    )
    {
        var taken = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        foreach (
            var unique in KeysOf(step, values)
                .Where(unique => unique.Columns.All(column => values.ContainsKey(column!)))
        )
        {
            if (await IsTakenAsync(step, key, unique, column => values[column], cancellationToken))
                taken.UnionWith(unique.Columns!);
        }

        return taken;
    }

    private IEnumerable<UniqueKey> KeysOf(JournalStep step, IReadOnlyDictionary<string, ColumnValue> values) =>
        map
            .Catalog.Require(step.Table)
            .UniqueKeys.Where(unique =>
                unique.Filter is null
                && unique.Columns.All(column =>
                    column is not null && values.TryGetValue(column, out var value) && !value.IsNull
                )
            );

    private async Task<bool> IsTakenAsync(
        JournalStep step,
        RecordKey key,
        UniqueKey unique,
        Func<string, ColumnValue> before,
        CancellationToken cancellationToken
    )
    {
        var table = map.Catalog.Require(step.Table);
        var columns = table.Require(unique.Columns!);
        var has = session.Keys.Equal(columns, new RecordKey([.. columns.Select(column => before(column.Name))]));
        var keyColumns = step.KeyColumns.Select(column => session.Dialect.Read(Sql.Of($"{new SqlName(column)}")));
        var rows = await session.QueryAsync(
            Sql.Of($"SELECT {Sql.Join(", ", keyColumns)} " + $"FROM {session.Dialect.Table(table)} WHERE {has}"),
            row => row.Key(step.KeyColumns.Count),
            cancellationToken
        );
        foreach (var other in rows.Where(other => !other.Equals(key)))
        {
            if (!await ComesBackAsync(step, other, columns, cancellationToken))
                return true;
        }

        return false;
    }

    /// <summary>True if the reversal changes a row's values in these columns, or moves the row by them.</summary>
    private async Task<bool> ComesBackAsync(
        JournalStep step,
        RecordKey key,
        IReadOnlyList<ColumnSchema> columns,
        CancellationToken cancellationToken
    )
    {
        foreach (
            var other in steps.Where(other =>
                other.Step != step.Step
                && other.Operation is JournalOperation.Update or JournalOperation.Reassign
                && Identifiers.Same(other.Table, step.Table)
            )
        )
        {
            var changed = (await journal.CellsAsync(other, cancellationToken))
                .Where(cell => cell.Before != cell.After)
                .Select(cell => cell.Column);
            if (!changed.Any(column => columns.Any(each => Identifiers.Same(each.Name, column))))
                continue;
            if (await journal.HasRowAsync(other, key, cancellationToken))
                return true;
        }

        return false;
    }
}
