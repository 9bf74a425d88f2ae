using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Reversing;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.History;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Records;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Reversing;

/// <summary>Reads the current state of a merge's rows, and plans its reversal.</summary>
internal sealed class ReversalPlanner(Session session, CheckedMap map)
{
    private const int MaxKeysListed = 100;

    private readonly JournalReader _reader = new(session);
    private readonly HistoryStore _history = new(session);
    private readonly ReversibleMerges _merges = new(session, map);
    private readonly StepSql _sql = new(session, map);

    /// <summary>Plans the reversal of one merge on which no other depends.</summary>
    /// <exception cref="KettlefogException">
    /// The entry is not a merge, or is reversed already; or the one record cannot be taken out of it.
    /// </exception>
    public async Task<SingleReversal> PlanAsync(
        long number,
        ReversalChoices choices,
        CancellationToken cancellationToken
    )
    {
        var merge = await _merges.RequireInEffectAsync(number, cancellationToken);
        var type = map.Map.Require(merge.RecordType);
        var details = DetailsJson.Read<MergeDetails>(merge.Details);

        // Refuses keys that several rows have by now.
        if (!type.HasUniqueKey)
            await new SnapshotReader(session, map).FindRecordsAsync(
                type,
                [
                    .. details.Records.Select(record =>
                        RecordKeyParser.Parse(record.Key, map.Catalog.Require(type.Table).Require(type.Key))
                    ),
                ],
                cancellationToken
            );
        var parts = new MergeParts(_reader, map, type, details);
        var all = await _reader.StepsAsync(number, cancellationToken);
        var partlyReversed = await _history.ReadPartialReversalsAsync(number, cancellationToken);
        var keys = new JournaledRowKeys(
            session,
            _reader,
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
        var restored = new List<(string Table, IReadOnlyDictionary<string, ColumnValue> Row)>();
        var unique = new UniqueCheck(session, _reader, map, steps);
        foreach (var step in steps.Where(step => step.Operation == JournalOperation.Delete))
        {
            var key = (await _reader.KeysAsync(step, cancellationToken)).Single();
            var keyTaken = await IsTakenAsync(step, key, steps, keys, cancellationToken);
            var values = (await _reader.CellsAsync(step, cancellationToken)).ToDictionary(
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
                        && await new UniqueCheck(session, _reader, map, all).TakenAsync(
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
                    $"The merge cannot be reversed for {alone} only: {StepSql.TitleOf(step, type)} {key} cannot be "
                        + "restored while a row of another record of the merge is in its place.",
                    "Reverse the whole merge, and merge the others again."
                );
            }

            if (!keyTaken && taken is null)
                restored.Add((step.Table, values));
            deletions.Add(
                new JournaledDeletion(
                    step.Step,
                    StepSql.TitleOf(step, type),
                    step.Reference is null,
                    key,
                    keyTaken,
                    taken
                )
            );
        }

        var cells = new List<JournaledCell>();
        foreach (var step in steps.Where(step => step.Operation == JournalOperation.Update))
            cells.AddRange(
                await ReadCellsAsync(
                    step,
                    StepSql.TitleOf(step, type),
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
                    restored,
                    cancellationToken
                )
            );
        var insertions = new List<JournaledInsertion>();
        foreach (var step in steps.Where(step => step.Operation == JournalOperation.Insert))
            insertions.Add(await ReadInsertionAsync(step, cancellationToken));
        var snapshot = new ReversalSnapshot(merge, type, details.Records, rows, cells, deletions, insertions)
        {
            Added = await new AddedRowsReader(session, map).ReadAsync(merge, type, details, cancellationToken),
            Lost = await LossesAsync(number, type, steps, cancellationToken),
            CatalogVersion = map.Version,
        };
        return SingleReversal.Of(snapshot, choices);
    }

    /// <summary>What cannot be restored as it was, because the tables changed since.</summary>
    private async Task<IReadOnlyList<JournalLoss>> LossesAsync(
        long number,
        RecordType type,
        IReadOnlyList<JournalStep> steps,
        CancellationToken cancellationToken
    )
    {
        var losses = new List<JournalLoss>();
        foreach (var step in await _reader.AllStepsAsync(number, cancellationToken))
        {
            var title = StepSql.TitleOf(step, type);
            if (await _reader.LossOfAsync(step, cancellationToken) is { } because)
            {
                losses.Add(new JournalLoss(step.Step, await WhatIsLostAsync(step, title, cancellationToken), because));
                continue;
            }

            if (steps.All(other => other.Step != step.Step))
                continue;
            var lost = await _reader.LostColumnsAsync(step, cancellationToken);
            if (step.Operation == JournalOperation.Update)
            {
                foreach (var column in lost)
                    losses.Add(
                        new JournalLoss(
                            step.Step,
                            $"{column} of {await KeyTextAsync(step, cancellationToken)} cannot be restored",
                            $"{step.Table} no longer has a column {column}"
                        )
                    );
            }

            if (step.Operation == JournalOperation.Delete)
                losses.AddRange(await ChangedColumnsAsync(step, title, lost, cancellationToken));
        }

        return losses;
    }

    private async Task<string> WhatIsLostAsync(JournalStep step, string title, CancellationToken cancellationToken) =>
        step.Operation switch
        {
            JournalOperation.Reassign => $"{step.RowCount} {title.ToLowerInvariant()} cannot be moved back",
            JournalOperation.Insert => $"The row {await KeyTextAsync(step, cancellationToken)} that the merge added to "
                + $"{step.Table} cannot be removed",
            _ => $"{title} {await KeyTextAsync(step, cancellationToken)} cannot be restored",
        };

    /// <summary>A removed row is restored to a table that lost columns, or got new ones.</summary>
    private async Task<IEnumerable<JournalLoss>> ChangedColumnsAsync(
        JournalStep step,
        string title,
        IReadOnlyList<string> lost,
        CancellationToken cancellationToken
    )
    {
        var key = await KeyTextAsync(step, cancellationToken);
        var known = (await _reader.CellsAsync(step, cancellationToken)).Select(cell => cell.Column).ToList();
        var added = map
            .Catalog.Require(step.Table)
            .Columns.Where(column => !column.Generated && !known.ContainsIdentifier(column.Name))
            .Select(column => column.Name);
        return
        [
            .. lost.Select(column => new JournalLoss(
                step.Step,
                $"{title} {key} is restored without its {column}",
                $"{step.Table} no longer has a column {column}"
            )),
            .. added.Select(column => new JournalLoss(
                step.Step,
                $"{title} {key} is restored with the default value of {column}",
                $"{step.Table} did not have this column at the time of the merge"
            )),
        ];
    }

    private async Task<string> KeyTextAsync(JournalStep step, CancellationToken cancellationToken) =>
        (await _reader.KeysAsync(step, cancellationToken)).Single().ToString();

    /// <summary>
    /// True if another row has the key of a deleted one, and will not get its own back before that is restored.
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
                Sql.Of($"SELECT COUNT(*) FROM {_sql.TableOf(deletion)} WHERE {_sql.Equal(deletion, key)}"),
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
            var cells = await _reader.CellsAsync(step, cancellationToken);
            if (!cells.Exists(cell => cell.Before != cell.After && step.KeyColumns.Contains(cell.Column)))
                continue;
            var joined = Sql.Of(
                $"{await keys.RowsNowAsync(step, cancellationToken)} j JOIN {_sql.TableOf(step)} t ON "
                    + $"{_sql.OnRows(step)}"
            );
            var has = session.Keys.Equal(map.Catalog.Require(step.Table).Require(deletion.KeyColumns), key, "t");
            if (
                await session.QueryLongAsync(
                    Sql.Of($"SELECT COUNT(*) FROM {joined} WHERE {_sql.Intact(step, cells)} AND {has}"),
                    cancellationToken
                ) > 0
            )
                return false;
        }

        return true;
    }

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
        var cells = await _reader.CellsAsync(step, cancellationToken);
        if (cells.Count == 0)
            return [];
        var current = await ReadCellsAsync(step, cells, key, cancellationToken);

        // A row that ended and was then removed is restored as it was when removed.
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
        List<(string Table, IReadOnlyDictionary<string, ColumnValue> Row)> restored,
        CancellationToken cancellationToken
    )
    {
        var cells = await _reader.CellsAsync(step, cancellationToken);
        var reference = type.References.FirstOrDefault(known => known.Name == step.Reference);
        IReadOnlyList<string> columns =
            reference?.Columns.All(column => cells.Exists(cell => Identifiers.Same(cell.Column, column))) == true
                ? reference.Columns
                : [.. cells.Where(cell => cell.Before != cell.After).Select(cell => cell.Column)];
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
            var there = await new UnkeyedRows(session, _reader, map.Catalog.Require(step.Table)).CountAsync(
                step,
                reference!.Columns,
                _sql.Intact(step, cells),
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

        var joined = Sql.Of($"{rowsNow} j LEFT JOIN {_sql.TableOf(step)} t ON {_sql.OnRows(step)}");
        var intact = _sql.Intact(step, cells);
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
            // Where records refer to each other, a row may be a duplicate itself, which is restored before this step:
            // it is known by the key of its row, which need not be the key of the record.
            var back = restored
                .Where(each => Identifiers.Same(each.Table, step.Table))
                .Select(each => new RecordKey([.. step.KeyColumns.Select(column => each.Row[column])]))
                .ToHashSet();
            missing = await session.WithLargeJoinsAsync(
                step.RowCount,
                () => KeysAsync(step, joined, gone, MaxKeysListed + back.Count, cancellationToken),
                cancellationToken
            );
            count += missing.RemoveAll(back.Contains);
            missing = [.. missing.Take(MaxKeysListed)];
            elsewhere = await session.WithLargeJoinsAsync(
                step.RowCount,
                () =>
                    KeysAsync(
                        step,
                        joined,
                        Sql.Of($"NOT ({gone}) AND ({intact}) IS NOT TRUE"),
                        MaxKeysListed,
                        cancellationToken
                    ),
                cancellationToken
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

    /// <summary>True if a record exists, or will be restored.</summary>
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
        int limit,
        CancellationToken cancellationToken
    )
    {
        var keys = KeyConditions
            .JournalColumns(step.KeyColumns.Count)
            .Select(column => Sql.Of($"j.{new SqlName(column)}"));
        return session.QueryAsync(
            Sql.Of(
                $"SELECT {Sql.Join(", ", keys)} FROM {joined} WHERE {condition} ORDER BY j.row LIMIT "
                    + $"{(long)limit}"
            ),
            row => row.Key(step.KeyColumns.Count),
            cancellationToken
        );
    }

    /// <summary>The current values of a step's cells in the row of a key; none if the row has been deleted.</summary>
    private Task<List<IReadOnlyList<ColumnValue>>> ReadCellsAsync(
        JournalStep step,
        List<(string Column, ColumnValue Before, ColumnValue After)> cells,
        RecordKey key,
        CancellationToken cancellationToken
    )
    {
        var columns = cells.Select(cell => session.Dialect.Read(Sql.Of($"{new SqlName(cell.Column)}")));
        return session.QueryAsync(
            Sql.Of($"SELECT {Sql.Join(", ", columns)} FROM {_sql.TableOf(step)} WHERE {_sql.Equal(step, key)}"),
            row => row.Values(cells.Count),
            cancellationToken
        );
    }

    private async Task<JournaledInsertion> ReadInsertionAsync(JournalStep step, CancellationToken cancellationToken)
    {
        var key = (await _reader.KeysAsync(step, cancellationToken)).Single();
        var cells = await _reader.CellsAsync(step, cancellationToken);
        var now = await ReadCellsAsync(step, cells, key, cancellationToken);
        return new JournaledInsertion(
            step.Step,
            step.Table,
            key,
            now.Count > 0,
            now.Count > 0 && now[0].SequenceEqual(cells.Select(cell => cell.After))
        );
    }
}
