using Kettlefog.Core.History;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Schema;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Reversing;

/// <summary>
/// Later merges, of whatever type, that depend on the rows of a merge, for example on one that links two records which
/// were both merged. Such a row can be followed only if the later merge is reversed first: one that gave it another
/// key, removed it, wrote a column again, or wrote to it under the key that it has from this merge.
/// </summary>
internal sealed class RowDependencies(Session session)
{
    private static readonly SqlName Column = new("column");

    private readonly JournalReader _journal = new(session);
    private readonly Sql _history = session.Dialect.Own("history");
    private readonly Sql _steps = session.Dialect.Own("journal_step");
    private readonly Sql _rows = session.Dialect.Own("journal_row");
    private readonly Sql _cells = session.Dialect.Own("journal_cell");

    /// <summary>The numbers of the later merges in effect that must be reversed before a merge.</summary>
    public async Task<IReadOnlySet<long>> LaterMergesAsync(long merge, CancellationToken cancellationToken)
    {
        var all = await _journal.StepsAsync(merge, cancellationToken);
        var found = new HashSet<long>(
            await new RestoredReferences(session, session.Map).LaterMergesAsync(merge, all, cancellationToken)
        );
        var steps = all.FindAll(step =>
            step is { IsUnkeyed: false, Operation: JournalOperation.Reassign or JournalOperation.Update }
        );
        var candidates = (await CandidatesAsync(merge, steps, cancellationToken)).ToLookup(
            each => each.Step.Table,
            StringComparer.OrdinalIgnoreCase
        );
        var keys = new JournaledRowKeys(session, _journal, all, []);
        foreach (var step in steps)
        {
            var written = (await _journal.CellsAsync(step, cancellationToken))
                .Where(cell => cell.Before != cell.After)
                .Select(cell => cell.Column)
                .ToList();
            var changesKey = written.Exists(column => step.KeyColumns.ContainsIdentifier(column));
            var later = candidates[step.Table].Where(each => !found.Contains(each.Entry)).ToList();
            var moved = later.Where(each => each.Step.Operation != JournalOperation.Update || changesKey);
            if (step is { Operation: JournalOperation.Reassign, Reference: null })
                moved = moved.Concat(await MovedOnAsync(merge, step, cancellationToken));
            foreach (var chunk in moved.Chunk(200))
                found.UnionWith(await SharingRowsAsync(step, keys, chunk, [], cancellationToken));
            if (changesKey || step.Operation != JournalOperation.Update)
                continue;

            // The master's place below another record, say, is moved on when that record is merged.
            var writers = later
                .Where(each => each.Step.Operation == JournalOperation.Update)
                .Concat(await MovedOnAsync(merge, step, cancellationToken));
            foreach (var chunk in writers.Chunk(200))
                found.UnionWith(await SharingRowsAsync(step, keys, chunk, written, cancellationToken));
        }

        return found;
    }

    /// <summary>
    /// Steps of later merges that removed rows of the same tables, changed the keys of such rows, or wrote to them.
    /// </summary>
    private async Task<List<LaterStep>> CandidatesAsync(
        long merge,
        IReadOnlyList<JournalStep> steps,
        CancellationToken cancellationToken
    )
    {
        var tables = steps.Select(step => step.Table).Distinct().ToList();
        if (tables.Count == 0)
            return [];
        return await LaterAsync(
            merge,
            Sql.Of(
                $"""
                ls.table_name IN ({Sql.Join(", ", tables.Select(table => Sql.Of($"{table}")))})
                AND (ls.operation IN ({EnumName.Of(JournalOperation.Delete)}, {EnumName.Of(JournalOperation.Update)})
                  OR ls.operation = {EnumName.Of(JournalOperation.Reassign)} AND EXISTS (
                    SELECT 1 FROM {_cells} c WHERE c.journal = ls.journal AND c.step = ls.step AND c.before <> c.after
                      AND ls.key_columns LIKE '%"' || c.{Column} || '"%'))
                """
            ),
            cancellationToken
        );
    }

    /// <summary>
    /// Steps of later merges that moved rows on from where a step had left them, because the row that they refer to was
    /// removed in its turn.
    /// </summary>
    private async Task<List<LaterStep>> MovedOnAsync(long merge, JournalStep step, CancellationToken cancellationToken)
    {
        var moved = (await _journal.CellsAsync(step, cancellationToken))
            .Where(cell => cell.Before != cell.After)
            .Select(cell => Sql.Of($"c.{Column} = {cell.Column} AND c.before = {cell.After}"))
            .ToList();
        if (moved.Count == 0)
            return [];
        return await LaterAsync(
            merge,
            Sql.Of(
                $"""
                ls.table_name = {step.Table} AND ls.operation = {EnumName.Of(JournalOperation.Reassign)} AND EXISTS (
                  SELECT 1 FROM {_cells} c WHERE c.journal = ls.journal AND c.step = ls.step
                    AND ({Sql.Join(" OR ", moved)}))
                """
            ),
            cancellationToken
        );
    }

    private async Task<List<LaterStep>> LaterAsync(long merge, Sql condition, CancellationToken cancellationToken)
    {
        var later = await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT h.number, ls.journal, ls.step, ls.operation, ls.table_name, ls.key_columns, ls.row_count
                FROM {_steps} ls
                JOIN {_history} h ON h.journal = ls.journal AND h.kind = {EnumName.Of(EntryKind.Merge)}
                WHERE h.number > {merge} AND NOT EXISTS (SELECT 1 FROM {_history} back WHERE back.reverses = h.number)
                  AND {condition}
                ORDER BY h.number, ls.step
                """
            ),
            row => new LaterStep(
                row.Long(),
                new JournalStep(
                    row.Long(),
                    (int)row.Long(),
                    EnumName.TryRead<JournalOperation>(row.Text(), out var operation) ? operation : default,
                    row.Text(),
                    null,
                    JournalStep.ReadKey(row.Text()).KeyColumns,
                    row.Long()
                )
            ),
            cancellationToken
        );
        return later.FindAll(each => !each.Step.IsUnkeyed);
    }

    /// <summary>
    /// The merges whose steps found rows of a step under the keys that the step's merge left them with, and wrote one
    /// of some columns, if any are given.
    /// </summary>
    private async Task<List<long>> SharingRowsAsync(
        JournalStep step,
        JournaledRowKeys keys,
        IReadOnlyList<LaterStep> later,
        List<string> columns,
        CancellationToken cancellationToken
    )
    {
        var same = later.Where(each => each.Step.KeyColumns.SequenceEqual(step.KeyColumns)).ToList();
        if (same.Count == 0)
            return [];
        var journaled = KeyConditions.JournalColumns(step.KeyColumns.Count).Select(key => new SqlName(key)).ToList();
        var sameRow = step.KeyColumns.Select(
            (column, place) =>
                Sql.Of(
                    $"COALESCE((SELECT lc.before FROM {_cells} lc WHERE lc.journal = lr.journal AND lc.step = lr.step "
                        + $"AND lc.{Column} = {column}), lr.{journaled[place]}) = m.{journaled[place]}"
                )
        );

        // A removed row that had been given other values in between would not be moved back in any case.
        var changed = (await _journal.CellsAsync(step, cancellationToken)).Where(cell => cell.Before != cell.After);
        var unchanged = changed.Select(cell =>
            Sql.Of(
                $"NOT EXISTS (SELECT 1 FROM {_cells} lc WHERE lc.journal = lr.journal AND lc.step = lr.step AND "
                    + $"lc.{Column} = {cell.Column} AND lc.before <> {cell.After})"
            )
        );
        var writes =
            columns.Count == 0
                ? Sql.Of($"1 = 1")
                : Sql.Of(
                    $"EXISTS (SELECT 1 FROM {_cells} lc WHERE lc.journal = lr.journal AND lc.step = lr.step AND "
                        + $"lc.{Column} IN ({Sql.Join(", ", columns.Select(column => Sql.Of($"{column}")))}))"
                );
        var isLater = same.Select(each =>
            Sql.Of($"lr.journal = {each.Step.Journal} AND lr.step = {(long)each.Step.Step}")
        );
        return await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT DISTINCT h.number FROM {_rows} lr JOIN {_history} h ON h.journal = lr.journal
                JOIN {await keys.RowsInTheEndAsync(
                    step,
                    cancellationToken
                )} m
                  ON {Sql.Join(" AND ", sameRow)}
                WHERE ({Sql.Join(" OR ", isLater)}) AND {Sql.Join(" AND ", unchanged.Append(writes))}
                """
            ),
            row => row.Long(),
            cancellationToken
        );
    }

    /// <summary>A step of a later merge.</summary>
    /// <param name="Entry">The number of the merge.</param>
    /// <param name="Step">The step.</param>
    private sealed record LaterStep(long Entry, JournalStep Step);
}
