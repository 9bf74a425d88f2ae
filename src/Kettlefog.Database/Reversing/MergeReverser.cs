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

/// <summary>Plans and carries out reversals, in whatever session it is given.</summary>
internal sealed class MergeReverser(Session session, CheckedMap map, TimeProvider clock, RowCounter counter)
{
    private const int MaxKeysListed = 100;

    /// <summary>Apart, so that several rows of one step have steps of their own in the journal of a reversal.</summary>
    private const int FirstReclaimStep = 1_000_000;

    private readonly JournalStore _journal = new(session);
    private readonly HistoryStore _history = new(session);
    private int _reclaimed;

    /// <summary>The later merges that have to go first, latest first.</summary>
    /// <exception cref="KettlefogException">The entry is no merge, or is reversed already.</exception>
    public async Task<IReadOnlyList<HistoryEntry>> DependentMergesAsync(
        long number,
        CancellationToken cancellationToken
    )
    {
        var merge = await RequireInEffectAsync(number, cancellationToken);
        var found = new SortedDictionary<long, HistoryEntry>(Comparer<long>.Create((a, b) => b.CompareTo(a)));
        var open = new Queue<HistoryEntry>([merge]);
        while (open.TryDequeue(out var next))
        {
            foreach (var later in await _history.DependentMergesAsync(next, cancellationToken))
            {
                if (found.ContainsKey(later))
                    continue;
                found[later] = (await _history.RequireAsync(later, cancellationToken)).Entry;
                open.Enqueue(found[later]);
            }
        }

        return [.. found.Values];
    }

    /// <summary>The merges of linked records that were done with a merge and still stand.</summary>
    public async Task<IReadOnlyList<long>> LinkedAsync(long number, CancellationToken cancellationToken)
    {
        var standing = new List<long>();
        foreach (
            var linked in DetailsJson
                .Read<MergeDetails>((await RequireInEffectAsync(number, cancellationToken)).Details)
                .Linked
                ?? []
        )
        {
            if ((await _history.RequireAsync(linked, cancellationToken)).ReversedBy is null)
                standing.Add(linked);
        }

        return standing;
    }

    /// <summary>Keeps others from changing the records of a merge until the session ends.</summary>
    public async Task LockAsync(long number, CancellationToken cancellationToken)
    {
        var merge = await RequireInEffectAsync(number, cancellationToken);
        var type = map.Map.Require(merge.RecordType);
        var schema = map.Catalog.Require(type.Table).Require(type.Key);
        var keys = DetailsJson
            .Read<MergeDetails>(merge.Details)
            .Records.Select(record => RecordKeyParser.Parse(record.Key, schema));
        await new SnapshotReader(session, map).LockAsync(type, [.. keys], cancellationToken);
    }

    /// <summary>Plans the reversal of one merge on which none stands.</summary>
    /// <exception cref="KettlefogException">
    /// The entry is no merge, or is reversed already; or the one record cannot be taken out of it.
    /// </exception>
    public async Task<SingleReversal> PlanAsync(
        long number,
        ReversalChoices choices,
        CancellationToken cancellationToken
    )
    {
        var merge = await RequireInEffectAsync(number, cancellationToken);
        var type = map.Map.Require(merge.RecordType);
        var details = DetailsJson.Read<MergeDetails>(merge.Details);
        var parts = new MergeParts(_journal, map, type, details);
        var all = await _journal.StepsAsync(number, cancellationToken);
        var partlyReversed = await _history.ReadPartialReversalsAsync(number, cancellationToken);
        var keys = new JournaledRowKeys(
            session,
            _journal,
            all,
            await parts.UndoneAsync(partlyReversed, all, cancellationToken)
        );
        var steps = all.FindAll(step => !keys.Undone.Contains(step.Step));
        if (choices.Only is { } only)
        {
            parts.Require(only, partlyReversed, number);
            steps = await parts.OfAsync(only, partlyReversed.Keys, steps, cancellationToken);
        }

        var deletions = new List<JournaledDeletion>();
        var unique = new UniqueCheck(session, _journal, map, steps);
        foreach (var step in steps.Where(step => step.Operation == JournalOperation.Delete))
        {
            var key = (await _journal.KeysAsync(step, cancellationToken)).Single();
            var keyTaken = await IsTakenAsync(step, key, steps, keys, cancellationToken);
            var values = (await _journal.CellsAsync(step, cancellationToken)).ToDictionary(
                cell => cell.Column,
                cell => cell.Before
            );
            var taken = keyTaken ? null : await unique.TakenAsync(step, key, values, cancellationToken);
            if (
                choices.Only is { } alone
                && (
                    (keyTaken && !await IsTakenAsync(step, key, all, keys, cancellationToken))
                    || (
                        taken is not null
                        && await new UniqueCheck(session, _journal, map, all).TakenAsync(
                            step,
                            key,
                            values,
                            cancellationToken
                        )
                            is null
                    )
                )
            )
            {
                throw new KettlefogException(
                    ErrorCode.NotReversible,
                    $"The merge cannot be reversed for {alone} only: {TitleOf(step, type)} {key} cannot be "
                        + "restored while a row of another record of the merge is in its place.",
                    "Reverse the whole merge, and merge the others again."
                );
            }

            deletions.Add(
                new JournaledDeletion(step.Step, TitleOf(step, type), step.Reference is null, key, keyTaken, taken)
            );
        }

        var cells = new List<JournaledCell>();
        foreach (var step in steps.Where(step => step.Operation == JournalOperation.Update))
            cells.AddRange(
                await ReadCellsAsync(
                    step,
                    TitleOf(step, type),
                    keys,
                    unique,
                    [
                        .. deletions
                            .Where(deletion =>
                                deletion is { IsKeyTaken: false, Taken: null }
                                && deletion.Step > step.Step
                                && Identifiers.Same(all.Find(other => other.Step == deletion.Step)!.Table, step.Table)
                            )
                            .Select(deletion => deletion.Record),
                    ],
                    cancellationToken
                )
            );
        var rows = new List<JournaledRows>();
        foreach (var step in steps.Where(step => step.Operation == JournalOperation.Reassign))
            rows.Add(
                await ReadRowsAsync(
                    step,
                    await keys.RowsNowAsync(step, cancellationToken),
                    type,
                    details,
                    deletions,
                    cancellationToken
                )
            );
        var insertions = new List<JournaledInsertion>();
        foreach (var step in steps.Where(step => step.Operation == JournalOperation.Insert))
            insertions.Add(await ReadInsertionAsync(step, cancellationToken));
        var snapshot = new ReversalSnapshot(merge, type, details.Records, rows, cells, deletions, insertions)
        {
            Added = await new AddedRowsReader(session, map).ReadAsync(merge, type, details, cancellationToken),
        };
        return SingleReversal.Of(snapshot, choices);
    }

    /// <summary>Carries out a planned reversal and appends it to the history. The caller commits.</summary>
    /// <exception cref="KettlefogException">
    /// The database refused a change, or the proof failed; the session must be given up.
    /// </exception>
    public async Task<HistoryEntry> ApplyAsync(
        SingleReversal reversal,
        string fingerprint,
        AuditContext audit,
        CancellationToken cancellationToken
    )
    {
        var merge = reversal.Snapshot.Merge;
        var only = reversal.Choices.Only;
        counter.Expect(reversal.Rows.Sum(rows => rows.Intact));
        var (number, previousHash) = await _history.NextAsync(cancellationToken);
        var all = await _journal.StepsAsync(merge.Number, cancellationToken);

        // What the merge added came last and was not counted then; it is not counted now.
        foreach (var insertion in reversal.Removed)
            await RemoveAsync(number, all.Find(step => step.Step == insertion.Step)!, insertion, cancellationToken);
        var before = await ControlTotalsAsync(reversal, cancellationToken);
        var steps = all.ToDictionary(step => step.Step);
        var parts = new MergeParts(
            _journal,
            map,
            reversal.Snapshot.Type,
            DetailsJson.Read<MergeDetails>(merge.Details)
        );
        var keys = new JournaledRowKeys(
            session,
            _journal,
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
                        () => RestoreCellsAsync(number, steps[cells.Key], [.. cells], keys, cancellationToken)
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
                            () => ReclaimRowAsync(number, steps[fetched.Rows.Step], fetched.Key, cancellationToken)
                        )
                    )
                )
            );
        foreach (var step in undo.OrderByDescending(step => step.Step))
        {
            await step.Run();
            keys.Undone.Add(step.Step);
        }

        foreach (var row in reversal.TransferredRows)
            await TransferRowAsync(number, reversal, row, cancellationToken);
        await _journal.FlushAsync(cancellationToken);
        List<string> duplicates = only is not null
            ? [only]
            : [.. reversal.Snapshot.Records.Skip(1).Select(record => record.Key)];
        await new RedirectStore(session).RemoveAsync(merge.RecordType, duplicates, merge.Number, cancellationToken);
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
            DetailsJson.Write(reversal.ToDetails(fingerprint)),
            await _journal.DigestAsync(number, cancellationToken),
            previousHash
        );
        _history.Append(entry, duplicates);
        if (only is not null)
            await _history.AddPartialReversalAsync(merge.Number, only, number, cancellationToken);
        await new ClusterStore(session).ReturnAsync(
            merge.Number,
            only is null ? null : duplicates,
            entry.At,
            cancellationToken
        );
        await new NonDuplicateStore(session).ForgetAsync(merge.Number, cancellationToken);
        return entry;
    }

    private async Task<HistoryEntry> RequireInEffectAsync(long number, CancellationToken cancellationToken)
    {
        var recorded = await _history.RequireAsync(number, cancellationToken);
        if (recorded.Entry.Kind != EntryKind.Merge)
        {
            throw new KettlefogException(
                ErrorCode.NotReversible,
                $"Entry {number} is a reversal, not a merge.",
                "To merge again, make a new plan."
            );
        }

        return recorded.ReversedBy is { } reversal
            ? throw new KettlefogException(
                ErrorCode.NotReversible,
                $"Merge {number} was already reversed, by entry {reversal}.",
                "To merge again, make a new plan."
            )
            : recorded.Entry;
    }

    /// <summary>
    /// True if another row has the key of a deleted one, and will not go back to its own before that returns.
    /// </summary>
    private async Task<bool> IsTakenAsync(
        JournalStep deletion,
        RecordKey key,
        IReadOnlyList<JournalStep> steps,
        JournaledRowKeys keys,
        CancellationToken cancellationToken
    )
    {
        if (
            await session.QueryLongAsync(
                Sql.Of($"SELECT COUNT(*) FROM {TableOf(deletion)} WHERE {Equal(deletion, key)}"),
                cancellationToken
            ) == 0
        )
            return false;
        foreach (
            var step in steps.Where(step =>
                step.Operation == JournalOperation.Reassign
                && Identifiers.Same(step.Table, deletion.Table)
                && !keys.Undone.Contains(step.Step)
            )
        )
        {
            var cells = await _journal.CellsAsync(step, cancellationToken);
            if (!cells.Exists(cell => cell.Before != cell.After && step.KeyColumns.Contains(cell.Column)))
                continue;
            var joined = Sql.Of(
                $"{await keys.RowsNowAsync(step, cancellationToken)} j JOIN {TableOf(step)} t ON {OnRows(step)}"
            );
            var has = session.Keys.Equal(map.Catalog.Require(step.Table).Require(deletion.KeyColumns), key, "t");
            if (
                await session.QueryLongAsync(
                    Sql.Of($"SELECT COUNT(*) FROM {joined} WHERE {Intact(step, cells)} AND {has}"),
                    cancellationToken
                ) > 0
            )
                return false;
        }

        return true;
    }

    /// <summary>True for the rows, as <c>t</c>, that still are as a step left them.</summary>
    private Sql Intact(JournalStep step, List<(string Column, ColumnValue Before, ColumnValue After)> cells) =>
        Sql.Join(
            " AND ",
            cells.Select(cell =>
                Sql.Of(
                    $"t.{new SqlName(cell.Column)} = {session.Dialect.Write(cell.After, ColumnOf(step, cell.Column))}"
                )
            )
        );

    private async Task<IEnumerable<JournaledCell>> ReadCellsAsync(
        JournalStep step,
        string title,
        JournaledRowKeys keys,
        UniqueCheck unique,
        IReadOnlyList<RecordKey> restored,
        CancellationToken cancellationToken
    )
    {
        var key = await keys.KeyNowAsync(step, cancellationToken);
        var cells = await _journal.CellsAsync(step, cancellationToken);
        var current = await session.QueryAsync(
            Sql.Of(
                $"SELECT "
                    + $"{Sql.Join(", ", cells.Select(cell => session.Dialect.Read(Sql
                        .Of($"{new SqlName(cell.Column)}"))))} "
                    + $"FROM {TableOf(step)} WHERE {Equal(step, key)}"
            ),
            row => row.Values(cells.Count),
            cancellationToken
        );

        // A row that ended and then gave way comes back as it was when it did.
        if (current.Count == 0 && restored.Contains(key))
            current.Add([.. cells.Select(cell => cell.After)]);
        var taken =
            current.Count == 0
                ? null
                : await unique.TakenColumnsAsync(
                    step,
                    key,
                    cells.ToDictionary(cell => cell.Column, cell => cell.Before),
                    cancellationToken
                );
        return cells.Select(
            (cell, index) =>
                new JournaledCell(
                    step.Step,
                    title,
                    key,
                    cell.Column,
                    cell.Before,
                    cell.After,
                    current.Count == 0 ? null : current[0][index],
                    taken?.Contains(cell.Column) ?? false
                )
        );
    }

    private async Task<JournaledRows> ReadRowsAsync(
        JournalStep step,
        Sql rowsNow,
        RecordType type,
        MergeDetails details,
        List<JournaledDeletion> deletions,
        CancellationToken cancellationToken
    )
    {
        var cells = await _journal.CellsAsync(step, cancellationToken);
        var reference = type.References.FirstOrDefault(known => known.Name == step.Reference);
        var columns = reference?.Columns
            ?? [.. cells.Where(cell => cell.Before != cell.After).Select(cell => cell.Column)];
        var from = new RecordKey([
            .. columns.Select(column => cells.First(cell => Identifiers.Same(cell.Column, column)).Before),
        ]);
        if (
            reference is not null
            && details.PointedAt(reference.Name).ToList().IndexOf(from.ToString()) is >= 0 and var index
        )
            from = RecordKeyParser.Parse(details.Records[index].Key, map.Catalog.Require(type.Table).Require(type.Key));
        if (step.IsUnkeyed)
        {
            var there = await new UnkeyedRows(session, _journal, map.Catalog.Require(step.Table)).CountAsync(
                step,
                reference!.Columns,
                Intact(step, cells),
                cancellationToken
            );
            return new JournaledRows(
                step.Step,
                step.Reference!,
                reference.Title,
                from,
                await ExistsAsync(type, from, deletions, cancellationToken),
                step.RowCount,
                there,
                [],
                []
            );
        }

        var joined = Sql.Of($"{rowsNow} j LEFT JOIN {TableOf(step)} t ON {OnRows(step)}");
        var intact = Intact(step, cells);
        var gone = Sql.Of($"t.{new SqlName(step.KeyColumns[0])} IS NULL");
        var count = await session.WithLargeJoinsAsync(
            step.RowCount,
            () => session.QueryLongAsync(Sql.Of($"SELECT COUNT(*) FROM {joined} WHERE {intact}"), cancellationToken),
            cancellationToken
        );
        var elsewhere = new List<RecordKey>();
        var missing = new List<RecordKey>();
        if (count < step.RowCount)
        {
            missing = await session.WithLargeJoinsAsync(
                step.RowCount,
                () => KeysAsync(step, joined, gone, cancellationToken),
                cancellationToken
            );
            elsewhere = await session.WithLargeJoinsAsync(
                step.RowCount,
                () => KeysAsync(step, joined, Sql.Of($"NOT ({gone}) AND ({intact}) IS NOT TRUE"), cancellationToken),
                cancellationToken
            );

            // In a hierarchy a row may be a duplicate itself, which comes back before its own parent does.
            if (Identifiers.Same(step.Table, type.Table))
                count += missing.RemoveAll(key =>
                    deletions.Exists(deletion =>
                        deletion.IsRecord && !deletion.IsKeyTaken && deletion.Record.Equals(key)
                    )
                );
        }

        var exists = reference is null
            ? deletions.Where(deletion => deletion.Step > step.Step).MinBy(deletion => deletion.Step)
                is { IsKeyTaken: false }
            : await ExistsAsync(type, from, deletions, cancellationToken);
        return new JournaledRows(
            step.Step,
            step.Reference ?? step.Table,
            reference?.Title ?? step.Table,
            from,
            exists,
            step.RowCount,
            count,
            elsewhere,
            missing,
            step.Reference is not null
        );
    }

    /// <summary>True if a record is there, or will be.</summary>
    private async Task<bool> ExistsAsync(
        RecordType type,
        RecordKey key,
        List<JournaledDeletion> deletions,
        CancellationToken cancellationToken
    ) =>
        deletions.Any(deletion => deletion.IsRecord && deletion.Record.Equals(key) && !deletion.IsKeyTaken)
        || await session.QueryLongAsync(
            Sql.Of(
                $"SELECT COUNT(*) FROM {session.Dialect.Table(map.Catalog.Require(type.Table))} WHERE "
                    + $"{session.Keys.Equal(map.Catalog.Require(type.Table).Require(type.Key), key)}"
            ),
            cancellationToken
        ) > 0;

    private Task<List<RecordKey>> KeysAsync(
        JournalStep step,
        Sql joined,
        Sql condition,
        CancellationToken cancellationToken
    )
    {
        var keys = KeyConditions
            .JournalColumns(step.KeyColumns.Count)
            .Select(column => Sql.Of($"j.{new SqlName(column)}"));
        return session.QueryAsync(
            Sql.Of(
                $"SELECT {Sql.Join(", ", keys)} FROM {joined} WHERE {condition} ORDER BY j.row LIMIT "
                    + $"{(long)MaxKeysListed}"
            ),
            row => row.Key(step.KeyColumns.Count),
            cancellationToken
        );
    }

    private async Task<JournaledInsertion> ReadInsertionAsync(JournalStep step, CancellationToken cancellationToken)
    {
        var key = (await _journal.KeysAsync(step, cancellationToken)).Single();
        var cells = await _journal.CellsAsync(step, cancellationToken);
        var now = await session.QueryAsync(
            Sql.Of(
                $"SELECT "
                    + $"{Sql.Join(", ", cells.Select(cell => session.Dialect.Read(Sql
                        .Of($"{new SqlName(cell.Column)}"))))} "
                    + $"FROM {TableOf(step)} WHERE {Equal(step, key)}"
            ),
            row => row.Values(cells.Count),
            cancellationToken
        );
        return new JournaledInsertion(
            step.Step,
            step.Table,
            key,
            now.Count > 0,
            now.Count > 0 && now[0].SequenceEqual(cells.Select(cell => cell.After))
        );
    }

    /// <summary>Removes a row that the merge added; if somebody changed it, what it holds is journaled first.</summary>
    private async Task RemoveAsync(
        long number,
        JournalStep step,
        JournaledInsertion insertion,
        CancellationToken cancellationToken
    )
    {
        if (!insertion.Intact)
        {
            _journal.Delete(number, step.Step, null, map.Catalog.Require(step.Table), step.KeyColumns, insertion.Key);
            return;
        }

        await session.ExecuteAsync(
            Sql.Of($"DELETE FROM {TableOf(step)} WHERE {Equal(step, insertion.Key)}"),
            cancellationToken
        );
    }

    /// <summary>
    /// Puts values back; what somebody wrote since is journaled under the reversal's own number first.
    /// </summary>
    private async Task RestoreCellsAsync(
        long number,
        JournalStep step,
        List<JournaledCell> cells,
        JournaledRowKeys keys,
        CancellationToken cancellationToken
    )
    {
        // Later steps may have changed the row's key, and are undone by now.
        var key = await keys.KeyNowAsync(step, cancellationToken);
        var drifted = cells.Where(cell => cell.Current != cell.After).Select(cell => cell.Column).ToList();
        if (drifted.Count > 0)
            _journal.RecordBefore(
                number,
                step.Step,
                step.Reference,
                map.Catalog.Require(step.Table),
                step.KeyColumns,
                key,
                drifted
            );
        var set = cells.Select(cell => Sql.Of($"{new SqlName(cell.Column)} = {Before(step, cell.Column)}"));
        await session.ExecuteAsync(
            Sql.Of($"UPDATE {TableOf(step)} SET {Sql.Join(", ", set)} WHERE {Equal(step, key)}"),
            cancellationToken
        );
    }

    /// <summary>
    /// Brings one row back that was moved on since, which is journaled under the reversal's own number.
    /// </summary>
    private async Task ReclaimRowAsync(
        long number,
        JournalStep step,
        RecordKey key,
        CancellationToken cancellationToken
    )
    {
        var columns = (await _journal.CellsAsync(step, cancellationToken)).Select(cell => cell.Column).ToList();
        _reclaimed++;
        _journal.RecordBefore(
            number,
            step.Step + (FirstReclaimStep * _reclaimed),
            step.Reference,
            map.Catalog.Require(step.Table),
            step.KeyColumns,
            key,
            columns
        );
        var set = columns.Select(column => Sql.Of($"{new SqlName(column)} = {Before(step, column)}"));
        await session.ExecuteAsync(
            Sql.Of($"UPDATE {TableOf(step)} SET {Sql.Join(", ", set)} WHERE {Equal(step, key)}"),
            cancellationToken
        );
    }

    /// <summary>
    /// Points a row that was added to the master at a duplicate, which is journaled under the reversal's own number.
    /// </summary>
    private async Task TransferRowAsync(
        long number,
        SingleReversal reversal,
        AddedRow row,
        CancellationToken cancellationToken
    )
    {
        var details = DetailsJson.Read<MergeDetails>(reversal.Snapshot.Merge.Details);
        var pointing = ReferenceTarget.Of(
            map,
            reversal.Snapshot.Type,
            reversal.Snapshot.Type.RequireReference(row.Reference),
            details
        );
        var to = pointing.Keys[details.Records.ToList().FindIndex(record => record.Key == reversal.TransferredTo)];
        var key = pointing.Reference.Key;
        _journal.RecordBefore(
            number,
            FirstReclaimStep * ++_reclaimed,
            row.Reference,
            pointing.Table,
            key,
            row.Key,
            pointing.Reference.Columns
        );
        var set = pointing.Columns.Select(
            (column, part) => Sql.Of($"{new SqlName(column.Name)} = {session.Dialect.Write(to.Parts[part], column)}")
        );
        await session.ExecuteAsync(
            Sql.Of(
                $"UPDATE {session.Dialect.Table(pointing.Table)} SET {Sql.Join(", ", set)} WHERE "
                    + $"{session.Keys.Equal(pointing.Table.Require(key), row.Key)}"
            ),
            cancellationToken
        );
    }

    private async Task RestoreRowAsync(JournalStep step, CancellationToken cancellationToken)
    {
        var columns = (await _journal.CellsAsync(step, cancellationToken)).Select(cell => cell.Column).ToList();
        await session.ExecuteAsync(
            Sql.Of(
                $"""
                INSERT INTO {TableOf(step)} ({Sql.Join(", ", columns)}) {session.Dialect.KeepIdentity}
                VALUES ({Sql.Join(", ", columns.Select(column => Before(step, column)))})
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
        var cells = await _journal.CellsAsync(step, cancellationToken);
        var set = cells
            .Where(cell => cell.Before != cell.After)
            .Select(cell => Sql.Of($"{new SqlName(cell.Column)} = {Before(step, cell.Column)}"));
        if (step.IsUnkeyed)
        {
            var back = await new UnkeyedRows(session, _journal, map.Catalog.Require(step.Table)).ReturnAsync(
                step,
                [.. cells.Where(cell => cell.Before != cell.After).Select(cell => cell.Column)],
                Intact(step, cells),
                Sql.Join(", ", set),
                cancellationToken
            );
            counter.Add(back);
            if (back != rows.Intact)
                throw new KettlefogException(
                    ErrorCode.ProofFailed,
                    $"{back} rows of {step.Table} returned instead of {rows.Intact}.",
                    "Everything was rolled back."
                );
            return;
        }

        var intact = cells.Select(cell =>
            Sql.Of($"{new SqlName(cell.Column)} = {session.Dialect.Write(cell.After, ColumnOf(step, cell.Column))}")
        );
        var columns = Sql.Join(", ", step.KeyColumns);
        var left = step.KeyColumns.Count == 1 ? columns : Sql.Of($"({columns})");
        var now = await keys.RowsNowAsync(step, cancellationToken);
        var returned = 0L;
        foreach (var (first, last) in JournalStore.Parts(step.RowCount))
        {
            var update = Sql.Of(
                $"""
                UPDATE {TableOf(step)} SET {Sql.Join(", ", set)}
                WHERE {Sql.Join(" AND ", intact)}
                  AND {left} IN (SELECT {Sql.Join(
                    ", ",
                    step.KeyColumns.Select((column, index) => Journaled(step, column, index))
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
                $"{returned} rows of {step.Table} returned instead of {rows.Intact}.",
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
        var pointings = references.Select(reference => ReferenceTarget.Of(map, type, reference, details)).ToList();
        var related = await reader.ReadAsync(type, pointings, keys, whole: false, cancellationToken);
        foreach (var figure in figures)
        {
            var rows = related[references.FindIndex(reference => reference.Name == figure.Reference)];
            totals[figure.Title] = rows.Sum(each =>
                each.Figures[figure.Name].TryGetDecimal(out var number) ? number : 0
            );
        }

        return totals;
    }

    private static string TitleOf(JournalStep step, RecordType type) =>
        step.Reference is null
            ? type.Title
            : type.References.FirstOrDefault(known => known.Name == step.Reference)?.Title ?? step.Table;

    private Sql OnRows(JournalStep step) =>
        Sql.Join(
            " AND ",
            step.KeyColumns.Select(
                (column, index) => Sql.Of($"t.{new SqlName(column)} = {Journaled(step, column, index)}")
            )
        );

    private Sql Journaled(JournalStep step, string column, int index) =>
        session.Dialect.Restore(Sql.Of($"j.{new SqlName($"key_{index + 1}")}"), ColumnOf(step, column));

    private Sql Before(JournalStep step, string column) =>
        session.Dialect.Restore(_journal.Before(step, column), ColumnOf(step, column));

    private Sql Equal(JournalStep step, RecordKey key) =>
        session.Keys.Equal(map.Catalog.Require(step.Table).Require(step.KeyColumns), key);

    private Sql TableOf(JournalStep step) => session.Dialect.Table(map.Catalog.Require(step.Table));

    private ColumnSchema ColumnOf(JournalStep step, string column) =>
        map.Catalog.Require(step.Table).Require([column])[0];
}
