using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Journal;

/// <summary>
/// Writes before-images. Rows and values are copied by the database itself and never pass through this program, so
/// that they are stored exactly. What this program knows by itself, the steps and the keys, is
/// collected and written by <see cref="FlushAsync"/>.
/// </summary>
internal sealed class JournalWriter(Session session)
{
    /// <summary>Called with the rows that are moved.</summary>
    public RowCounter Counter { get; init; } = new(null);

    private const int MaxRowsPerInsert = 100;

    private const long MaxRowsPerBatch = 5_000;

    private static readonly SqlName Column = new("column");

    private readonly Sql _steps = session.Dialect.Own("journal_step");

    private readonly Sql _rows = session.Dialect.Own("journal_row");

    private readonly Sql _cells = session.Dialect.Own("journal_cell");

    private readonly List<Sql> _newSteps = [];

    private readonly List<Sql> _newRows = [];

    private readonly List<Sql> _newCells = [];

    /// <summary>Journals and reassigns the related rows of one duplicate.</summary>
    /// <param name="journal">The journal of the entry; see <see cref="JournalIdentifier"/>.</param>
    /// <param name="step">The step.</param>
    /// <param name="reference">The reference.</param>
    /// <param name="table">The table of the related rows.</param>
    /// <param name="from">The values that refer to the duplicate.</param>
    /// <param name="to">The values that refer to the master.</param>
    /// <param name="expected">
    /// The expected number of rows; a few are sent together with the following statements.
    /// </param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task ReassignAsync(
        long journal,
        int step,
        Reference reference,
        TableSchema table,
        RecordKey from,
        RecordKey to,
        long expected,
        CancellationToken cancellationToken
    ) =>
        ReassignAsync(
            journal,
            step,
            reference.Name,
            table,
            reference.Columns,
            reference.Key,
            session.Keys.Holds(reference, table),
            [.. KeyConditions.WhenCells(reference.When, table)],
            from,
            to,
            expected,
            cancellationToken
        );

    /// <summary>Journals and reassigns rows of any table.</summary>
    public async Task ReassignAsync(
        long journal,
        int step,
        string? reference,
        TableSchema table,
        IReadOnlyList<string> referringColumns,
        IReadOnlyList<string> rowKey,
        Sql holds,
        IReadOnlyList<(ColumnSchema Column, ColumnValue Value)> when,
        RecordKey from,
        RecordKey to,
        long expected,
        CancellationToken cancellationToken
    )
    {
        var columns = table.Require(referringColumns);
        var where = Sql.Of($"{session.Keys.Equal(columns, from)} AND {holds}");
        var keyAfter = rowKey.Select(column =>
        {
            var part = referringColumns.IndexOfIdentifier(column);
            return part < 0 ? Read(column) : Sql.Of($"{to.Parts[part]}");
        });
        IReadOnlyList<string> whole = [];
        if (rowKey.Count == 0)
        {
            whole = UnkeyedRows.ColumnsOf(table, referringColumns);
            keyAfter = [UnkeyedRows.TextOf(session.Dialect, whole)];
            rowKey = [UnkeyedRows.WholeRow];
        }

        var copy = Sql.Of(
            $"""
            INSERT INTO {_rows} (journal, step, row, {Sql.Join(", ", KeyConditions.JournalColumns(rowKey.Count))})
            SELECT {journal}, {(long)step}, {session.Dialect.RowNumber()}, {Sql.Join(", ", keyAfter)}
            FROM {session.Dialect.Table(table)} t WHERE {where}
            """
        );
        var set = columns.Select(
            (column, part) => Sql.Of($"{new SqlName(column.Name)} = {session.Dialect.Write(to.Parts[part], column)}")
        );
        var move = Sql.Of($"UPDATE {session.Dialect.Table(table)} SET {Sql.Join(", ", set)} WHERE {where}");
        _newCells.AddRange(
            referringColumns.Select(
                (column, part) => Sql.Of($"({journal}, {(long)step}, {column}, {from.Parts[part]}, {to.Parts[part]})")
            )
        );
        _newCells.AddRange(
            when.Select(cell => Sql.Of($"({journal}, {(long)step}, {cell.Column.Name}, {cell.Value}, {cell.Value})"))
        );
        long journaled = 0;
        void Journaled(int count)
        {
            journaled = count;
            AddStep(
                new JournalStep(journal, step, JournalOperation.Reassign, table.Name, reference, rowKey, journaled)
                {
                    WholeColumns = whole,
                }
            );
        }

        void Moved(long count)
        {
            if (count != journaled)
                throw new KettlefogException(
                    ErrorCode.ProofFailed,
                    $"{journaled} rows of {table.Name} were journaled, but {count} were moved.",
                    "Everything was rolled back."
                );
        }

        if (expected <= MaxRowsPerBatch)
        {
            session.Enqueue(copy, Journaled);
            session.Enqueue(move, count =>
            {
                Moved(count);
                Counter.Add(count);
            });
            return;
        }

        Journaled(await session.ExecuteAsync(copy, cancellationToken));
        var moved = 0L;
        foreach (
            var part in PartsOf(
                journal,
                step,
                table,
                [
                    .. rowKey
                        .Select((column, place) => (column, place))
                        .Where(key =>
                            key.column != UnkeyedRows.WholeRow && !referringColumns.ContainsIdentifier(key.column)
                        ),
                ],
                journaled
            )
        )
        {
            var some = await session.WithLargeJoinsAsync(
                journaled,
                () => session.ExecuteAsync(Sql.Of($"{move}{part}"), cancellationToken),
                cancellationToken
            );
            moved += some;
            Counter.Add(some);
        }

        Moved(moved);
    }

    /// <summary>
    /// Conditions that split a large number of rows, by their journal, so that moving them reports progress and can be
    /// stopped.
    /// </summary>
    private IEnumerable<Sql> PartsOf(
        long journal,
        int step,
        TableSchema table,
        IReadOnlyList<(string Column, int Place)> key,
        long rows
    )
    {
        if (rows <= RowRanges.MinRowsPerMove || key.Count == 0)
        {
            yield return Sql.Empty;
            yield break;
        }

        var columns = Sql.Join(", ", key.Select(part => part.Column));
        var journaled = Sql.Join(
            ", ",
            key.Select(part =>
                session.Dialect.Restore(
                    Sql.Of(
                        $"j.{new SqlName(KeyConditions.JournalColumns(KeyConditions.MaxColumns).ElementAt(part.Place))}"
                    ),
                    table.Require([part.Column])[0]
                )
            )
        );
        foreach (var (first, last) in RowRanges.Parts(rows))
            yield return Sql.Of(
                $" AND {(key.Count == 1 ? columns : Sql.Of($"({columns})"))} IN (SELECT {journaled} FROM "
                    + $"{_rows} j WHERE j.journal = {journal} AND j.step = {(long)step} AND j.row BETWEEN {first} AND "
                    + $"{last})"
            );
    }

    /// <summary>Journals and writes columns of one row.</summary>
    public void Update(
        long journal,
        int step,
        string? reference,
        TableSchema schema,
        IReadOnlyList<string> keyColumns,
        RecordKey key,
        IReadOnlyList<(ColumnSchema Column, ColumnValue Value)> set
    ) => Update(journal, step, reference, schema, keyColumns, key, [.. set.Select(Written)]);

    /// <summary>Journals and writes columns of one row, whose new values are expressions of the database.</summary>
    public void Update(
        long journal,
        int step,
        string? reference,
        TableSchema schema,
        IReadOnlyList<string> keyColumns,
        RecordKey key,
        IReadOnlyList<(ColumnSchema Column, Sql Value)> set
    )
    {
        var table = session.Dialect.Table(schema);
        var where = session.Keys.Equal(schema.Require(keyColumns), key);
        AddSingleRow(journal, step, JournalOperation.Update, reference, schema, keyColumns, key);
        CopyBefore(journal, step, schema, where, set.Select(cell => cell.Column.Name));
        var cells = set.Select(cell => Sql.Of($"{new SqlName(cell.Column.Name)} = {cell.Value}"));
        session.Enqueue(Sql.Of($"UPDATE {table} SET {Sql.Join(", ", cells)} WHERE {where}"), changed =>
            EnsureOne(changed, "changed", schema, key)
        );

        // Read back, since the column may have converted what was written.
        var after = set.Select(cell =>
            Sql.Of($"WHEN {cell.Column.Name} THEN (SELECT {Read(cell.Column.Name)} FROM {table} WHERE {where})")
        );
        session.Enqueue(
            Sql.Of(
                $"UPDATE {_cells} SET after = CASE {Column} {Sql.Join(" ", after)} END WHERE journal = {journal} "
                    + $"AND step = {(long)step}"
            )
        );
    }

    /// <summary>A value as an expression that can be written to its column.</summary>
    public (ColumnSchema Column, Sql Value) Written((ColumnSchema Column, ColumnValue Value) cell) =>
        (cell.Column, session.Dialect.Write(cell.Value, cell.Column));

    /// <summary>The value that a column of a row has now, in the journal's form.</summary>
    public Sql Now(TableSchema table, IReadOnlyList<string> keyColumns, RecordKey key, string column) =>
        Sql.Of(
            $"(SELECT {Read(column)} FROM {session.Dialect.Table(table)} WHERE "
                + $"{session.Keys.Equal(table.Require(keyColumns), key)})"
        );

    /// <summary>Adds a row, and journals all its values.</summary>
    public async Task InsertAsync(
        long journal,
        int step,
        TableSchema table,
        IReadOnlyList<(ColumnSchema Column, Sql Value)> values,
        CancellationToken cancellationToken
    )
    {
        var key = (
            await session.QueryAsync(
                session.Dialect.Returning(
                    session.Dialect.Insert(
                        session.Dialect.Table(table),
                        [.. values.Select(cell => cell.Column.Name)],
                        [Sql.Join(", ", values.Select(cell => cell.Value))]
                    ),
                    table.PrimaryKey.Select(Read)
                ),
                row => row.Key(table.PrimaryKey.Count),
                cancellationToken
            )
        ).Single();
        AddSingleRow(journal, step, JournalOperation.Insert, null, table, table.PrimaryKey, key);
        CopyBefore(
            journal,
            step,
            table,
            session.Keys.Equal(table.Require(table.PrimaryKey), key),
            table.Columns.Where(column => !column.Generated).Select(column => column.Name)
        );
        session.Enqueue(
            Sql.Of(
                $"UPDATE {_cells} SET after = before, before = NULL WHERE journal = {journal} AND step = {(long)step}"
            )
        );
    }

    /// <summary>Journals columns of one row that are about to be overwritten.</summary>
    public void RecordBefore(
        long journal,
        int step,
        string? reference,
        TableSchema table,
        IReadOnlyList<string> keyColumns,
        RecordKey key,
        IReadOnlyList<string> columns
    )
    {
        AddSingleRow(journal, step, JournalOperation.Update, reference, table, keyColumns, key);
        CopyBefore(journal, step, table, session.Keys.Equal(table.Require(keyColumns), key), columns);
    }

    /// <summary>Journals and deletes one row.</summary>
    public void Delete(
        long journal,
        int step,
        string? reference,
        TableSchema table,
        IReadOnlyList<string> keyColumns,
        RecordKey key
    )
    {
        var where = session.Keys.Equal(table.Require(keyColumns), key);
        AddSingleRow(journal, step, JournalOperation.Delete, reference, table, keyColumns, key);
        CopyBefore(
            journal,
            step,
            table,
            where,
            table.Columns.Where(column => !column.Generated).Select(column => column.Name)
        );
        session.Enqueue(Sql.Of($"DELETE FROM {session.Dialect.Table(table)} WHERE {where}"), deleted =>
            EnsureOne(deleted, "deleted", table, key)
        );
    }

    private static void EnsureOne(int rows, string what, TableSchema table, RecordKey key)
    {
        if (rows != 1)
            throw new KettlefogException(
                ErrorCode.ProofFailed,
                $"{rows} rows of {table.Name} with the key {key} would be {what} instead of one.",
                "Everything was rolled back."
            );
    }

    /// <summary>Writes the collected steps and keys, once the number of their rows is known.</summary>
    public async Task FlushAsync(CancellationToken cancellationToken)
    {
        await session.FlushAsync(cancellationToken);
        Insert(
            Sql.Of($"{_steps} (journal, step, operation, table_name, reference, key_columns, row_count)"),
            _newSteps
        );
        Insert(
            Sql.Of(
                $"{_rows} (journal, step, row, "
                    + $"{Sql.Join(", ", KeyConditions.JournalColumns(KeyConditions.MaxColumns))})"
            ),
            _newRows
        );
        Insert(Sql.Of($"{_cells} (journal, step, {Column}, before, after)"), _newCells);
    }

    private void AddSingleRow(
        long journal,
        int step,
        JournalOperation operation,
        string? reference,
        TableSchema table,
        IReadOnlyList<string> keyColumns,
        RecordKey key
    )
    {
        AddStep(new JournalStep(journal, step, operation, table.Name, reference, keyColumns, 1));
        var parts = Enumerable
            .Range(0, KeyConditions.MaxColumns)
            .Select(part => part < key.Parts.Count ? key.Parts[part] : ColumnValue.Null);
        _newRows.Add(
            Sql.Of($"({journal}, {(long)step}, 1, {Sql.Join(", ", parts.Select(part => Sql.Of($"{part}")))})")
        );
    }

    private void CopyBefore(long journal, int step, TableSchema table, Sql where, IEnumerable<string> columns)
    {
        // One SELECT per column would exceed SQLite's limit on compound selects in a very wide table.
        foreach (var chunk in columns.Chunk(100))
        {
            var selects = chunk.Select(column =>
                Sql.Of(
                    $"SELECT {journal}, {(long)step}, {column}, {Read(column)} FROM "
                        + $"{session.Dialect.Table(table)} WHERE {where}"
                )
            );
            session.Enqueue(
                Sql.Of($"INSERT INTO {_cells} (journal, step, {Column}, before) {Sql.Join(" UNION ALL ", selects)}")
            );
        }
    }

    private Sql Read(string column) => session.Dialect.Read(Sql.Of($"{new SqlName(column)}"));

    private void AddStep(JournalStep step) =>
        _newSteps.Add(
            Sql.Of(
                $"({step.Journal}, {(long)step.Step}, {EnumName.Of(step.Operation)}, {step.Table}, "
                    + $"{step.Reference}, {step.KeyText()}, {step.RowCount})"
            )
        );

    private void Insert(Sql into, List<Sql> rows)
    {
        foreach (var chunk in rows.Chunk(MaxRowsPerInsert))
            session.Enqueue(Sql.Of($"INSERT INTO {into} VALUES {Sql.Join(", ", chunk)}"));
        rows.Clear();
    }
}
