using Kettlefog.Core.Naming;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Journal;

/// <summary>Reads the journal: the steps of an entry, their rows and the values that they wrote.</summary>
internal sealed class JournalReader(Session session)
{
    private static readonly SqlName Column = new("column");

    private readonly Sql _steps = session.Dialect.Own("journal_step");
    private readonly Sql _history = session.Dialect.Own("history");
    private readonly Sql _rows = session.Dialect.Own("journal_row");
    private readonly Sql _cells = session.Dialect.Own("journal_cell");
    private readonly Dictionary<long, ILookup<int, (string Column, ColumnValue Before, ColumnValue After)>> _read = [];

    /// <summary>
    /// The steps of an entry, in order; without those whose rows can no longer be found, because their table or a
    /// column is gone: see <see cref="LossOfAsync"/>.
    /// </summary>
    public async Task<List<JournalStep>> StepsAsync(long entry, CancellationToken cancellationToken)
    {
        var found = new List<JournalStep>();
        foreach (var step in await AllStepsAsync(entry, cancellationToken))
        {
            if (await LossOfAsync(step, cancellationToken) is null)
                found.Add(step);
        }

        return found;
    }

    /// <summary>Why nothing of a step can be undone, as half a sentence; null if it can.</summary>
    public async Task<string?> LossOfAsync(JournalStep step, CancellationToken cancellationToken)
    {
        if (session.Map.Catalog.Find(step.Table) is not { } table)
            return $"the table {step.Table} no longer exists";
        IEnumerable<string> needed = step.IsUnkeyed ? step.WholeColumns : step.KeyColumns;
        if (step.Operation == JournalOperation.Reassign)
            needed = needed.Concat(
                (await AllCellsAsync(step, cancellationToken))
                    .Where(cell => cell.Before != cell.After)
                    .Select(cell => cell.Column)
            );
        return needed.FirstOrDefault(column => table.Find(column) is null) is { } gone
            ? $"{table.Name} no longer has a column {gone}"
            : null;
    }

    /// <summary>The columns that a step wrote or removed and that no longer exist.</summary>
    public async Task<IReadOnlyList<string>> LostColumnsAsync(JournalStep step, CancellationToken cancellationToken)
    {
        var table = session.Map.Catalog.Require(step.Table);
        return
        [
            .. (await AllCellsAsync(step, cancellationToken))
                .Select(cell => cell.Column)
                .Where(column => table.Find(column) is null),
        ];
    }

    /// <summary>All steps of an entry, in order.</summary>
    public Task<List<JournalStep>> AllStepsAsync(long entry, CancellationToken cancellationToken) =>
        session.QueryAsync(
            Sql.Of(
                $"SELECT s.journal, s.step, s.operation, s.table_name, s.reference, s.key_columns, s.row_count FROM "
                    + $"{_steps} s WHERE s.journal = (SELECT h.journal FROM {_history} h WHERE h.number = {entry}) "
                    + $"ORDER BY s.step"
            ),
            ReadStep,
            cancellationToken
        );

    private static JournalStep ReadStep(RowReader row)
    {
        var journal = row.Long();
        var step = (int)row.Long();
        var operation = EnumName.TryRead<JournalOperation>(row.Text(), out var known)
            ? known
            : throw new InvalidOperationException("The journal has a step of unknown kind.");
        var (table, reference) = (row.Text(), row.OptionalText());
        var (keyColumns, wholeColumns) = JournalStep.ReadKey(row.Text());
        return new JournalStep(journal, step, operation, table, reference, keyColumns, row.Long())
        {
            WholeColumns = wholeColumns,
        };
    }

    /// <summary>The values that a step wrote, in columns that still exist.</summary>
    public async Task<List<(string Column, ColumnValue Before, ColumnValue After)>> CellsAsync(
        JournalStep step,
        CancellationToken cancellationToken
    )
    {
        var table = session.Map.Catalog.Require(step.Table);
        return [.. (await AllCellsAsync(step, cancellationToken)).Where(cell => table.Find(cell.Column) is not null)];
    }

    /// <summary>
    /// The values that a step wrote. Those of all steps of the entry are read at once; committed journal rows do not
    /// change.
    /// </summary>
    private async Task<IEnumerable<(string Column, ColumnValue Before, ColumnValue After)>> AllCellsAsync(
        JournalStep step,
        CancellationToken cancellationToken
    )
    {
        if (!_read.TryGetValue(step.Journal, out var cells))
        {
            cells = (
                await session.QueryAsync(
                    Sql.Of(
                        $"SELECT step, {Column}, before, after FROM {_cells} WHERE journal = {step.Journal} "
                            + $"ORDER BY step, {Column}"
                    ),
                    row => (Step: (int)row.Long(), Cell: (row.Text(), row.Value(), row.Value())),
                    cancellationToken
                )
            ).ToLookup(row => row.Step, row => row.Cell);
            _read[step.Journal] = cells;
        }

        return cells[step.Step];
    }

    /// <summary>The keys of a step's rows; one for an update or a deletion.</summary>
    public Task<List<RecordKey>> KeysAsync(JournalStep step, CancellationToken cancellationToken) =>
        session.QueryAsync(
            Sql.Of($"SELECT {Sql.Join(", ", KeyConditions.JournalColumns(step.KeyColumns.Count))} FROM {Rows(step)} r"),
            row => row.Key(step.KeyColumns.Count),
            cancellationToken
        );

    /// <summary>True if a row is one of a step's.</summary>
    public async Task<bool> HasRowAsync(JournalStep step, RecordKey key, CancellationToken cancellationToken)
    {
        var isRow = KeyConditions
            .JournalColumns(step.KeyColumns.Count)
            .Select((column, part) => Sql.Of($"r.{new SqlName(column)} = {key.Parts[part]}"));
        var count = await session.QueryLongAsync(
            Sql.Of($"SELECT COUNT(*) FROM {Rows(step)} r WHERE {Sql.Join(" AND ", isRow)}"),
            cancellationToken
        );
        return count > 0;
    }

    /// <summary>The step's rows, as a source to select from.</summary>
    public Sql Rows(JournalStep step) =>
        Sql.Of($"(SELECT * FROM {_rows} WHERE journal = {step.Journal} AND step = {(long)step.Step})");

    /// <summary>The exact value that a column had before a step.</summary>
    public Sql Before(long journal, int step, string column) =>
        Sql.Of(
            $"(SELECT before FROM {_cells} WHERE journal = {journal} AND step = {(long)step} AND {Column} = {column})"
        );
}
