using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Reversing;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Duplicates.Clusters;
using Kettlefog.Database.Duplicates.Decisions;
using Kettlefog.Database.Engines;
using Kettlefog.Database.History;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Records;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Reversing;

/// <summary>
/// Carries out planned reversals, in a given session. First each changes its rows back; then it is recorded in the
/// history, one at a time.
/// </summary>
internal sealed class ReversalApplier(Session session, CheckedMap map, TimeProvider clock, RowCounter counter)
{
    /// <summary>
    /// Spaced out, so that several rows of one step have steps of their own in the journal of a reversal.
    /// </summary>
    private const int FirstReclaimStep = 1_000_000;

    private readonly JournalWriter _journal = new(session);
    private readonly JournalReader _reader = new(session);
    private readonly HistoryStore _history = new(session);
    private readonly StepSql _sql = new(session, map);
    private int _reclaimed;

    /// <summary>Changes the rows of a planned reversal back. The caller records it, and commits.</summary>
    /// <exception cref="KettlefogException">
    /// The database refused a change, or the proof failed; the session must be given up.
    /// </exception>
    public async Task<ChangedBack> ChangeAsync(SingleReversal reversal, CancellationToken cancellationToken)
    {
        var merge = reversal.Snapshot.Merge;
        var journal = JournalIdentifier.Create();
        counter.Expect(reversal.Rows.Sum(rows => rows.Intact));
        var all = await _reader.StepsAsync(merge.Number, cancellationToken);

        // Rows that the merge added were not counted then, and are not counted now.
        foreach (var insertion in reversal.Removed)
            await RemoveAsync(journal, all.Find(step => step.Step == insertion.Step)!, insertion, cancellationToken);
        var before = await ControlTotalsAsync(reversal, cancellationToken);
        var steps = all.ToDictionary(step => step.Step);
        var parts = new MergeParts(_reader, map, reversal.Snapshot.Type, DetailsJson.Read<MergeDetails>(merge.Details));
        var keys = new JournaledRowKeys(
            session,
            _reader,
            all,
            await parts.UndoneAsync(
                await _history.ReadPartialReversalsAsync(merge.Number, cancellationToken),
                all,
                cancellationToken
            )
        );
        var undo = reversal
            .Cells.GroupBy(cell => cell.Step)
            .Select(cells =>
                (
                    Step: cells.Key,
                    Run: (Func<Task>)(
                        () => RestoreCellsAsync(journal, steps[cells.Key], [.. cells], keys, cancellationToken)
                    )
                )
            )
            .Concat(
                reversal.Restored.Select(deletion =>
                    (deletion.Step, Run: (Func<Task>)(() => RestoreRowAsync(steps[deletion.Step], cancellationToken)))
                )
            )
            .Concat(
                reversal.Rows.Select(rows =>
                    (
                        rows.Step,
                        Run: (Func<Task>)(() => ReturnRowsAsync(steps[rows.Step], rows, keys, cancellationToken))
                    )
                )
            )
            .Concat(
                reversal.ReclaimedRows.Select(fetched =>
                    (
                        fetched.Rows.Step,
                        Run: (Func<Task>)(
                            () => ReclaimRowAsync(journal, steps[fetched.Rows.Step], fetched.Key, cancellationToken)
                        )
                    )
                )
            );
        foreach (var step in undo.OrderByDescending(step => step.Step))
        {
            await step.Run();
            keys.Undone.Add(step.Step);
        }

        var differences = await new ReversalProof(session, keys, all).CompareAsync(reversal, cancellationToken);
        foreach (var row in reversal.TransferredRows)
            await TransferRowAsync(journal, reversal, row, cancellationToken);
        await _journal.FlushAsync(cancellationToken);
        var after = await ControlTotalsAsync(reversal, cancellationToken);
        foreach (
            var (figure, total) in before.Where(pair =>
                reversal.ReclaimedRows.Count == 0 && after[pair.Key] != pair.Value
            )
        )
            throw new KettlefogException(
                ErrorCode.ProofFailed,
                $"The control total {figure} would be {after[figure]} over all records instead of {total}.",
                "Everything was rolled back."
            );
        return new ChangedBack(reversal, journal, differences);
    }

    /// <summary>
    /// Appends a reversal whose rows are changed to the history. Meanwhile no other session may write to it: see
    /// <see cref="DatabaseEngine.AcquireWriterLockAsync"/>.
    /// </summary>
    public async Task<HistoryEntry> RecordAsync(
        ChangedBack changed,
        string fingerprint,
        AuditContext audit,
        CancellationToken cancellationToken
    )
    {
        var reversal = changed.Reversal;
        var merge = reversal.Snapshot.Merge;
        var only = reversal.Choices.Only;
        var (number, previousHash) = await _history.NextAsync(cancellationToken);
        List<string> duplicates = only is not null
            ? [only]
            : [.. reversal.Snapshot.Records.Skip(1).Select(record => record.Key)];
        await new RedirectStore(session).RemoveAsync(merge.RecordType, duplicates, merge.Number, cancellationToken);
        var entry = new HistoryEntry(
            number,
            EntryKind.Reversal,
            merge.RecordType,
            merge.Master,
            HistoryStore.Truncate(clock.GetUtcNow()),
            audit.Actor,
            audit.Reason,
            audit.Rule,
            audit.ApprovedBy,
            only is null ? merge.Number : null,
            DetailsJson.Write(reversal.ToDetails(fingerprint, changed.Differences)),
            await new JournalDigest(session).ComputeAsync(changed.Journal, cancellationToken),
            previousHash
        );
        _history.Append(entry, changed.Journal, duplicates);
        if (only is not null)
            await _history.AddPartialReversalAsync(merge.Number, only, number, cancellationToken);
        await new ClusterStore(session, entry.At).ReturnAsync(
            merge.Number,
            only is null ? null : duplicates,
            cancellationToken
        );
        var nonDuplicates = new NonDuplicateStore(session);
        await nonDuplicates.ForgetAsync(merge.Number, cancellationToken);

        // What the merge had reopened is decided again, as far as both records are there again.
        var reopened = DetailsJson.Read<MergeDetails>(merge.Details).Reopened ?? [];
        foreach (var pair in reopened.Where(pair => only is null || pair.A == only || pair.B == only))
            await nonDuplicates.AddAsync(merge.RecordType, pair.A, pair.B, pair.Number, cancellationToken);
        return entry;
    }

    /// <summary>Removes a row that the merge added; if it was changed, its values are journaled first.</summary>
    private async Task RemoveAsync(
        long journal,
        JournalStep step,
        JournaledInsertion insertion,
        CancellationToken cancellationToken
    )
    {
        if (!insertion.Intact)
        {
            _journal.Delete(journal, step.Step, null, map.Catalog.Require(step.Table), step.KeyColumns, insertion.Key);
            return;
        }

        await session.ExecuteAsync(
            Sql.Of($"DELETE FROM {_sql.TableOf(step)} WHERE {_sql.Equal(step, insertion.Key)}"),
            cancellationToken
        );
    }

    /// <summary>Restores values; later changes are first journaled by the reversal.</summary>
    private async Task RestoreCellsAsync(
        long journal,
        JournalStep step,
        List<JournaledCell> cells,
        JournaledRowKeys keys,
        CancellationToken cancellationToken
    )
    {
        // Later steps may have changed the row's key, and have been undone by now.
        var key = await keys.KeyNowAsync(step, cancellationToken);
        var drifted = cells.Where(cell => cell.Current != cell.After).Select(cell => cell.Column).ToList();
        if (drifted.Count > 0)
            _journal.RecordBefore(
                journal,
                step.Step,
                step.Reference,
                map.Catalog.Require(step.Table),
                step.KeyColumns,
                key,
                drifted
            );
        var set = cells.Select(cell => Sql.Of($"{new SqlName(cell.Column)} = {_sql.Before(step, cell.Column)}"));
        await session.ExecuteAsync(
            Sql.Of($"UPDATE {_sql.TableOf(step)} SET {Sql.Join(", ", set)} WHERE {_sql.Equal(step, key)}"),
            cancellationToken
        );
    }

    /// <summary>Moves back one row that was moved elsewhere since, journaled by the reversal.</summary>
    private async Task ReclaimRowAsync(
        long journal,
        JournalStep step,
        RecordKey key,
        CancellationToken cancellationToken
    )
    {
        var columns = (await _reader.CellsAsync(step, cancellationToken)).Select(cell => cell.Column).ToList();
        _reclaimed++;
        _journal.RecordBefore(
            journal,
            step.Step + (FirstReclaimStep * _reclaimed),
            step.Reference,
            map.Catalog.Require(step.Table),
            step.KeyColumns,
            key,
            columns
        );
        var set = columns.Select(column => Sql.Of($"{new SqlName(column)} = {_sql.Before(step, column)}"));
        await session.ExecuteAsync(
            Sql.Of($"UPDATE {_sql.TableOf(step)} SET {Sql.Join(", ", set)} WHERE {_sql.Equal(step, key)}"),
            cancellationToken
        );
    }

    /// <summary>
    /// Moves a row that was added to the master to a duplicate, journaled under the reversal's own journal.
    /// </summary>
    private async Task TransferRowAsync(
        long journal,
        SingleReversal reversal,
        AddedRow row,
        CancellationToken cancellationToken
    )
    {
        var details = DetailsJson.Read<MergeDetails>(reversal.Snapshot.Merge.Details);
        var target = ReferenceTarget.Of(
            map,
            reversal.Snapshot.Type,
            reversal.Snapshot.Type.RequireReference(row.Reference),
            details
        );
        var to = target.Keys[details.Records.ToList().FindIndex(record => record.Key == reversal.TransferredTo)];
        var key = target.Reference.Key;
        _journal.RecordBefore(
            journal,
            FirstReclaimStep * ++_reclaimed,
            row.Reference,
            target.Table,
            key,
            row.Key,
            target.Reference.Columns
        );
        var set = target.Columns.Select(
            (column, part) => Sql.Of($"{new SqlName(column.Name)} = {session.Dialect.Write(to.Parts[part], column)}")
        );
        await session.ExecuteAsync(
            Sql.Of(
                $"UPDATE {session.Dialect.Table(target.Table)} SET {Sql.Join(", ", set)} WHERE "
                    + $"{session.Keys.Equal(target.Table.Require(key), row.Key)}"
            ),
            cancellationToken
        );
    }

    private async Task RestoreRowAsync(JournalStep step, CancellationToken cancellationToken)
    {
        var columns = (await _reader.CellsAsync(step, cancellationToken)).Select(cell => cell.Column).ToList();
        await session.ExecuteAsync(
            Sql.Of(
                $"""
                INSERT INTO {_sql.TableOf(step)} ({Sql.Join(", ", columns)}) {session.Dialect.KeepIdentity}
                VALUES ({Sql.Join(", ", columns.Select(column => _sql.Before(step, column)))})
                """
            ),
            cancellationToken
        );
    }

    private async Task ReturnRowsAsync(
        JournalStep step,
        JournaledRows rows,
        JournaledRowKeys keys,
        CancellationToken cancellationToken
    )
    {
        if (rows.Intact == 0)
            return;
        var cells = await _reader.CellsAsync(step, cancellationToken);
        var set = cells
            .Where(cell => cell.Before != cell.After)
            .Select(cell => Sql.Of($"{new SqlName(cell.Column)} = {_sql.Before(step, cell.Column)}"));
        if (step.IsUnkeyed)
        {
            var back = await new UnkeyedRows(session, _reader, map.Catalog.Require(step.Table)).ReturnAsync(
                step,
                [.. cells.Where(cell => cell.Before != cell.After).Select(cell => cell.Column)],
                _sql.Intact(step, cells),
                Sql.Join(", ", set),
                cancellationToken
            );
            counter.Add(back);
            if (back != rows.Intact)
                throw new KettlefogException(
                    ErrorCode.ProofFailed,
                    $"{back} rows of {step.Table} were moved back instead of {rows.Intact}.",
                    "Everything was rolled back."
                );
            return;
        }

        var intact = cells.Select(cell =>
            Sql.Of(
                $"{new SqlName(cell.Column)} = {session.Dialect.Write(cell.After, _sql.ColumnOf(step, cell.Column))}"
            )
        );
        var columns = Sql.Join(", ", step.KeyColumns);
        var left = step.KeyColumns.Count == 1 ? columns : Sql.Of($"({columns})");
        var now = await keys.RowsNowAsync(step, cancellationToken);
        var returned = 0L;
        foreach (var (first, last) in RowRanges.Parts(step.RowCount))
        {
            var update = Sql.Of(
                $"""
                UPDATE {_sql.TableOf(step)} SET {Sql.Join(", ", set)}
                WHERE {Sql.Join(" AND ", intact)}
                  AND {left} IN (SELECT {Sql.Join(
                    ", ",
                    step.KeyColumns.Select((column, index) => _sql.Journaled(step, column, index))
                )} FROM {now} j WHERE j.row BETWEEN {first} AND {last})
                """
            );
            var some = await session.WithLargeJoinsAsync(
                step.RowCount,
                () => session.ExecuteAsync(update, cancellationToken),
                cancellationToken
            );
            returned += some;
            counter.Add(some);
        }

        if (returned != rows.Intact)
            throw new KettlefogException(
                ErrorCode.ProofFailed,
                $"{returned} rows of {step.Table} were moved back instead of {rows.Intact}.",
                "Everything was rolled back."
            );
    }

    private async Task<Dictionary<string, decimal>> ControlTotalsAsync(
        SingleReversal reversal,
        CancellationToken cancellationToken
    )
    {
        var type = reversal.Snapshot.Type;
        var key = map.Catalog.Require(type.Table).Require(type.Key);
        var keys = reversal.Snapshot.Records.Select(record => RecordKeyParser.Parse(record.Key, key)).ToList();
        var reader = new RelatedRowsReader(session, map.Catalog);
        var totals = new Dictionary<string, decimal>();
        var figures = type.Figures.Where(figure => figure.Control).ToList();
        var references = figures.Select(figure => figure.Reference).Distinct().Select(type.RequireReference).ToList();
        var details = DetailsJson.Read<MergeDetails>(reversal.Snapshot.Merge.Details);
        var targets = references.Select(reference => ReferenceTarget.Of(map, type, reference, details)).ToList();
        var related = await reader.ReadAsync(type, targets, keys, whole: false, cancellationToken);
        foreach (var figure in figures)
        {
            var rows = related[references.FindIndex(reference => reference.Name == figure.Reference)];
            totals[figure.Title] = rows.Sum(each =>
                each.Figures[figure.Name].TryGetDecimal(out var number) ? number : 0
            );
        }

        return totals;
    }
}

/// <summary>A reversal whose rows are changed back, and that is not recorded yet.</summary>
/// <param name="Reversal">Its plan.</param>
/// <param name="Journal">Where it journaled; see <see cref="JournalIdentifier"/>.</param>
/// <param name="Differences">What could not be restored exactly; see <see cref="ReversalProof"/>.</param>
internal sealed record ChangedBack(SingleReversal Reversal, long Journal, IReadOnlyList<string> Differences);
