using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Maps;
using Kettlefog.Core.Reversals;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Matching;

namespace Kettlefog.Database;

/// <summary>Plans and carries out reversals, in whatever session it is given.</summary>
internal sealed class MergeReverser(Session session, CheckedMap map, TimeProvider clock)
{
    private const int MostKeysListed = 100;

    private readonly JournalStore _journal = new(session);
    private readonly HistoryStore _history = new(session);

    /// <summary>The later merges that have to go first, latest first.</summary>
    /// <exception cref="Refusal">The entry is no merge, or is reversed already.</exception>
    public async Task<IReadOnlyList<HistoryEntry>> StandingOnAsync(long number, CancellationToken cancel)
    {
        var merge = await RequireStandingAsync(number, cancel);
        var found = new SortedDictionary<long, HistoryEntry>(Comparer<long>.Create((a, b) => b.CompareTo(a)));
        var open = new Queue<HistoryEntry>([merge]);
        while (open.TryDequeue(out var next))
        {
            foreach (var later in await _history.StandingOnAsync(next, cancel))
            {
                if (found.ContainsKey(later))
                    continue;
                found[later] = (await _history.RequireAsync(later, cancel)).Entry;
                open.Enqueue(found[later]);
            }
        }

        return [.. found.Values];
    }

    /// <summary>Plans the reversal of one merge on which none stands.</summary>
    public async Task<SingleReversal> PlanAsync(long number, CancellationToken cancel)
    {
        var merge = await RequireStandingAsync(number, cancel);
        var type = map.Map.Require(merge.RecordType);
        var steps = await _journal.StepsAsync(number, cancel);
        var deletions = new List<JournaledDeletion>();
        foreach (var step in steps.Where(step => step.Operation == JournalOperation.Delete))
        {
            var key = (await _journal.KeysAsync(step, cancel)).Single();
            deletions.Add(new JournaledDeletion(step.Step, key, await ExistsAsync(step, key, cancel)));
        }

        var cells = new List<JournaledCell>();
        foreach (var step in steps.Where(step => step.Operation == JournalOperation.Update))
            cells.AddRange(await ReadCellsAsync(step, cancel));
        var rows = new List<JournaledRows>();
        foreach (var step in steps.Where(step => step.Operation == JournalOperation.Reassign))
            rows.Add(await ReadRowsAsync(step, type, deletions, cancel));
        var records = DetailsJson.Read<MergeDetails>(merge.Details).Records;
        return SingleReversal.Of(new ReversalSnapshot(merge, type, records, rows, cells, deletions));
    }

    /// <summary>Carries out a planned reversal and appends it to the history. The caller commits.</summary>
    /// <exception cref="Refusal">The database refused a change, or the proof failed; the session must be given up.</exception>
    public async Task<HistoryEntry> ApplyAsync(SingleReversal reversal, string fingerprint, Accountability who, CancellationToken cancel)
    {
        var merge = reversal.Snapshot.Merge;
        var before = await ControlTotalsAsync(reversal, cancel);
        var steps = (await _journal.StepsAsync(merge.Number, cancel)).ToDictionary(step => step.Step);
        foreach (var cells in reversal.Cells.GroupBy(cell => cell.Step).OrderByDescending(group => group.Key))
            await RestoreCellsAsync(steps[cells.Key], [.. cells], cancel);
        foreach (var deletion in reversal.Restored)
            await RestoreRecordAsync(steps[deletion.Step], cancel);
        foreach (var rows in reversal.Rows.OrderByDescending(rows => rows.Step))
            await ReturnRowsAsync(steps[rows.Step], rows, cancel);
        var duplicates = reversal.Snapshot.Records.Skip(1).Select(record => record.Key).ToList();
        await new ForwardStore(session).RemoveAsync(merge.RecordType, duplicates, merge.Number, cancel);
        var after = await ControlTotalsAsync(reversal, cancel);
        foreach (var (figure, total) in before.Where(pair => after[pair.Key] != pair.Value))
            throw new Refusal(RefusalCode.ProofFailed, $"The control total {figure} would be {after[figure]} over all records instead of {total}.", "Everything was rolled back.");
        var (number, previousHash) = await _history.NextAsync(cancel);
        var entry = new HistoryEntry(
            number,
            EntryKind.Reversal,
            merge.RecordType,
            merge.Master,
            HistoryStore.Truncate(clock.GetUtcNow()),
            who.Actor,
            who.Reason,
            who.Rule,
            who.ApprovedBy,
            merge.Number,
            DetailsJson.Write(reversal.ToDetails(fingerprint)),
            await _journal.DigestAsync(number, cancel),
            previousHash);
        await _history.AppendAsync(entry, duplicates, cancel);
        await new ClusterStore(session).ReturnAsync(merge.Number, null, entry.At, cancel);
        await new ApartStore(session).ForgetAsync(merge.Number, cancel);
        return entry;
    }

    private async Task<HistoryEntry> RequireStandingAsync(long number, CancellationToken cancel)
    {
        var recorded = await _history.RequireAsync(number, cancel);
        if (recorded.Entry.Kind != EntryKind.Merge)
        {
            throw new Refusal(
                RefusalCode.NotReversible,
                $"Entry {number} is a reversal, not a merge.",
                "To do the merge again, plan it anew.");
        }

        return recorded.ReversedBy is { } reversal
            ? throw new Refusal(
                RefusalCode.NotReversible,
                $"Merge {number} was taken back already, by entry {reversal}.",
                "To do the merge again, plan it anew.")
            : recorded.Entry;
    }

    private async Task<bool> ExistsAsync(JournalStep step, RecordKey key, CancellationToken cancel) =>
        await session.NumberAsync(
            Sql.Of($"SELECT COUNT(*) FROM {new SqlName(step.Table)} WHERE {KeyMatch.Equal(step.KeyColumns, key)}"),
            cancel) > 0;

    private async Task<IEnumerable<JournaledCell>> ReadCellsAsync(JournalStep step, CancellationToken cancel)
    {
        var key = (await _journal.KeysAsync(step, cancel)).Single();
        var cells = await _journal.CellsAsync(step, cancel);
        var current = await session.QueryAsync(
            Sql.Of($"SELECT {Sql.Join(", ", cells.Select(cell => cell.Column))} FROM {new SqlName(step.Table)} WHERE {KeyMatch.Equal(step.KeyColumns, key)}"),
            row => row.Values(cells.Count),
            cancel);
        return cells.Select((cell, index) => new JournaledCell(
            step.Step,
            key,
            cell.Column,
            cell.Before,
            cell.After,
            current.Count == 0 ? null : current[0][index]));
    }

    private async Task<JournaledRows> ReadRowsAsync(
        JournalStep step,
        RecordType type,
        List<JournaledDeletion> deletions,
        CancellationToken cancel)
    {
        var cells = await _journal.CellsAsync(step, cancel);
        var reference = type.References.FirstOrDefault(known => known.Name == step.Reference);
        var columns = reference?.Columns ?? [.. cells.Where(cell => cell.Before != cell.After).Select(cell => cell.Column)];
        var from = new RecordKey([.. columns.Select(column => cells.First(cell => Same(cell.Column, column)).Before)]);
        var joined = Sql.Of($"{_journal.Rows(step)} j LEFT JOIN {new SqlName(step.Table)} t ON {OnRows(step)}");
        var intact = Sql.Join(" AND ", cells.Select(cell => Sql.Of($"t.{new SqlName(cell.Column)} = {cell.After}")));
        var gone = Sql.Of($"t.{new SqlName(step.KeyColumns[0])} IS NULL");
        var count = await session.NumberAsync(Sql.Of($"SELECT COUNT(*) FROM {joined} WHERE {intact}"), cancel);
        var elsewhere = new List<RecordKey>();
        var missing = new List<RecordKey>();
        if (count < step.RowCount)
        {
            missing = await KeysAsync(step, joined, gone, cancel);
            elsewhere = await KeysAsync(step, joined, Sql.Of($"NOT ({gone}) AND ({intact}) IS NOT TRUE"), cancel);
        }

        var exists = deletions.Any(deletion => deletion.Record.Equals(from) && !deletion.KeyTaken)
            || await session.NumberAsync(
                Sql.Of($"SELECT COUNT(*) FROM {new SqlName(type.Table)} WHERE {KeyMatch.Equal(type.Key, from)}"),
                cancel) > 0;
        return new JournaledRows(
            step.Step,
            step.Reference ?? step.Table,
            reference?.Title ?? step.Table,
            from,
            exists,
            step.RowCount,
            count,
            elsewhere,
            missing);
    }

    private Task<List<RecordKey>> KeysAsync(JournalStep step, Sql joined, Sql condition, CancellationToken cancel)
    {
        var keys = KeyMatch.JournalColumns(step.KeyColumns.Count).Select(column => Sql.Of($"j.{new SqlName(column)}"));
        return session.QueryAsync(
            Sql.Of($"SELECT {Sql.Join(", ", keys)} FROM {joined} WHERE {condition} ORDER BY j.row LIMIT {(long)MostKeysListed}"),
            row => row.Key(step.KeyColumns.Count),
            cancel);
    }

    private async Task RestoreCellsAsync(JournalStep step, List<JournaledCell> cells, CancellationToken cancel)
    {
        var set = cells.Select(cell => Sql.Of($"{new SqlName(cell.Column)} = {_journal.Before(step, cell.Column)}"));
        await session.ExecuteAsync(
            Sql.Of($"UPDATE {new SqlName(step.Table)} SET {Sql.Join(", ", set)} WHERE {KeyMatch.Equal(step.KeyColumns, cells[0].Record)}"),
            cancel);
    }

    private async Task RestoreRecordAsync(JournalStep step, CancellationToken cancel)
    {
        var columns = (await _journal.CellsAsync(step, cancel)).Select(cell => cell.Column).ToList();
        await session.ExecuteAsync(
            Sql.Of($"""
                INSERT INTO {new SqlName(step.Table)} ({Sql.Join(", ", columns)})
                VALUES ({Sql.Join(", ", columns.Select(column => _journal.Before(step, column)))})
                """),
            cancel);
    }

    private async Task ReturnRowsAsync(JournalStep step, JournaledRows rows, CancellationToken cancel)
    {
        if (rows.Intact == 0)
            return;
        var cells = await _journal.CellsAsync(step, cancel);
        var set = cells.Where(cell => cell.Before != cell.After)
            .Select(cell => Sql.Of($"{new SqlName(cell.Column)} = {_journal.Before(step, cell.Column)}"));
        var intact = cells.Select(cell => Sql.Of($"{new SqlName(cell.Column)} = {cell.After}"));
        var keys = Sql.Join(", ", step.KeyColumns);
        var left = step.KeyColumns.Count == 1 ? keys : Sql.Of($"({keys})");
        var returned = await session.ExecuteAsync(
            Sql.Of($"""
                UPDATE {new SqlName(step.Table)} SET {Sql.Join(", ", set)}
                WHERE {Sql.Join(" AND ", intact)}
                  AND {left} IN (SELECT {Sql.Join(", ", KeyMatch.JournalColumns(step.KeyColumns.Count))} FROM {_journal.Rows(step)})
                """),
            cancel);
        if (returned != rows.Intact)
            throw new Refusal(RefusalCode.ProofFailed, $"{returned} rows of {step.Table} went back instead of {rows.Intact}.", "Everything was rolled back.");
    }

    private async Task<Dictionary<string, decimal>> ControlTotalsAsync(SingleReversal reversal, CancellationToken cancel)
    {
        var type = reversal.Snapshot.Type;
        var key = map.Catalog.Require(type.Table).Require(type.Key);
        var keys = reversal.Snapshot.Records.Select(record => RecordKey.Parse(record.Key, key)).ToList();
        var reader = new RelatedRowsReader(session, map.Catalog);
        var totals = new Dictionary<string, decimal>();
        var figures = type.Figures.Where(figure => figure.Control).ToList();
        var references = figures.Select(figure => figure.Reference).Distinct().Select(type.RequireReference).ToList();
        var related = await reader.ReadAsync(type, references, keys, withDigest: false, cancel);
        foreach (var figure in figures)
        {
            var rows = related[references.FindIndex(reference => reference.Name == figure.Reference)];
            totals[figure.Title] = rows.Sum(each => each.Figures[figure.Name].TryGetDecimal(out var number) ? number : 0);
        }

        return totals;
    }

    private static Sql OnRows(JournalStep step) => Sql.Join(
        " AND ",
        step.KeyColumns.Select((column, index) => Sql.Of($"t.{new SqlName(column)} = j.{new SqlName($"key_{index + 1}")}")));

    private static bool Same(string left, string right) => string.Equals(left, right, StringComparison.OrdinalIgnoreCase);
}
