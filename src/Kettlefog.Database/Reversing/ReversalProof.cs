using Kettlefog.Core.Reversing;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Reversing;

/// <summary>
/// Compares what a reversal restored with the journal, once everything is done: a trigger may have changed a value
/// again, or a column may have converted it.
/// </summary>
/// <param name="session">The session.</param>
/// <param name="keys">The rows of the merge, all undone steps among them.</param>
/// <param name="steps">The steps of the merge, in order.</param>
internal sealed class ReversalProof(Session session, JournaledRowKeys keys, IReadOnlyList<JournalStep> steps)
{
    private readonly JournalReader _journal = new(session);
    private readonly StepSql _sql = new(session, session.Map);
    private readonly HashSet<(string Table, string Column)> _reassigned = [];
    private readonly HashSet<(string Table, RecordKey Row, string Column)> _compared = [];
    private readonly List<string> _differences = [];

    /// <summary>What is not as it was before the merge, although it was restored; one sentence each.</summary>
    /// <param name="reversal">The reversal that was carried out.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<IReadOnlyList<string>> CompareAsync(SingleReversal reversal, CancellationToken cancellationToken)
    {
        var rows = reversal.Rows.ToDictionary(each => each.Step);
        var cells = reversal.Cells.ToLookup(each => each.Step);
        var restored = reversal.Restored.ToDictionary(each => each.Step);
        foreach (var step in steps.OrderBy(step => step.Step))
        {
            if (rows.TryGetValue(step.Step, out var moved) && !step.IsUnkeyed)
                await CompareRowsAsync(step, moved, reversal, cancellationToken);
            else if (cells[step.Step].Any())
                await CompareRowAsync(
                    step,
                    await keys.KeyNowAsync(step, cancellationToken),
                    [.. cells[step.Step].Select(cell => (cell.Column, cell.Before))],
                    cancellationToken
                );
            else if (restored.TryGetValue(step.Step, out var deletion))
                await CompareRowAsync(
                    step,
                    deletion.Record,
                    [
                        .. (await _journal.CellsAsync(step, cancellationToken)).Select(cell =>
                            (cell.Column, cell.Before)
                        ),
                    ],
                    cancellationToken
                );
        }

        return _differences;
    }

    private async Task CompareRowsAsync(
        JournalStep step,
        JournaledRows moved,
        SingleReversal reversal,
        CancellationToken cancellationToken
    )
    {
        var changed = (await _journal.CellsAsync(step, cancellationToken))
            .Where(cell => cell.Before != cell.After)
            .ToList();
        _reassigned.UnionWith(changed.Select(cell => (step.Table, cell.Column)));
        var isBefore = changed.Select(cell =>
            Sql.Of(
                $"t.{new SqlName(cell.Column)} = {session.Dialect.Write(cell.Before, _sql.ColumnOf(step, cell.Column))}"
            )
        );

        // Rows whose keys several steps changed were counted when they were moved back.
        if (await IsKeyChangedByOthersAsync(step, cancellationToken))
            return;
        var hasKey = step.KeyColumns.Select(
            (column, place) =>
                changed.Find(cell => Identifiers.Same(cell.Column, column)) is { Column: not null } cell
                    ? Sql.Of(
                        $"t.{new SqlName(column)} = {session.Dialect.Write(cell.Before, _sql.ColumnOf(step, column))}"
                    )
                    : Sql.Of($"t.{new SqlName(column)} = {_sql.Journaled(step, column, place)}")
        );
        var source = Sql.Of($"{_journal.Rows(step)} j JOIN {_sql.TableOf(step)} t ON {Sql.Join(" AND ", hasKey)}");
        var back = await session.WithLargeJoinsAsync(
            step.RowCount,
            () =>
                session.QueryLongAsync(
                    Sql.Of($"SELECT COUNT(*) FROM {source} WHERE {Sql.Join(" AND ", isBefore)}"),
                    cancellationToken
                ),
            cancellationToken
        );
        var expected = moved.Intact + reversal.ReclaimedRows.Count(each => each.Rows == moved);
        if (back < expected)
            _differences.Add(
                $"{expected - back} {moved.Title.ToLowerInvariant()} do not refer to {moved.From} again, although they "
                    + "were moved back: a trigger of the database may have changed them."
            );
    }

    private async Task<bool> IsKeyChangedByOthersAsync(JournalStep step, CancellationToken cancellationToken)
    {
        foreach (
            var other in steps.Where(other =>
                other.Step != step.Step
                && other.Operation == JournalOperation.Reassign
                && Identifiers.Same(other.Table, step.Table)
            )
        )
        {
            var cells = await _journal.CellsAsync(other, cancellationToken);
            if (cells.Exists(cell => cell.Before != cell.After && step.KeyColumns.ContainsIdentifier(cell.Column)))
                return true;
        }

        return false;
    }

    private async Task CompareRowAsync(
        JournalStep step,
        RecordKey row,
        IReadOnlyList<(string Column, ColumnValue Before)> cells,
        CancellationToken cancellationToken
    )
    {
        var first = cells
            .Where(cell =>
                !_reassigned.Contains((step.Table, cell.Column)) && _compared.Add((step.Table, row, cell.Column))
            )
            .ToList();
        if (first.Count == 0)
            return;
        var columns = first.Select(cell => session.Dialect.Read(Sql.Of($"{new SqlName(cell.Column)}")));
        var now = await session.QueryAsync(
            Sql.Of($"SELECT {Sql.Join(", ", columns)} FROM {_sql.TableOf(step)} WHERE {_sql.Equal(step, row)}"),
            read => read.Values(first.Count),
            cancellationToken
        );
        if (now.Count == 0)
        {
            _differences.Add($"{step.Table} {row} is not there, although it was restored.");
            return;
        }

        foreach (var ((column, before), value) in first.Zip(now[0]))
        {
            if (value != before)
                _differences.Add(
                    $"{column} of {row} is {ValueOf(value)} after the reversal and was {ValueOf(before)} before the "
                        + "merge: "
                        + "a trigger of the database may have changed it."
                );
        }
    }

    private static string ValueOf(ColumnValue value) => value.IsNull ? "blank" : $"'{value.ToText()}'";
}
