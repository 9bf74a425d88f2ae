using System.Globalization;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Records;

/// <summary>Reads, and lets end, the rows of which one record of a merge at most may have any.</summary>
internal sealed class ActiveRowsReader(Session session, CheckedMap map)
{
    private const int MaxEndedRows = 1_000;

    /// <summary>How many rows count for each rule of the record type.</summary>
    public async Task<IReadOnlyList<ActiveRows>> ReadAsync(RecordType type, IReadOnlyList<RecordSnapshot> records, CancellationToken cancellationToken)
    {
        var active = new List<ActiveRows>();
        foreach (var rule in type.Blockers.AtMostOne)
        {
            var counts = new long[records.Count];
            foreach (var (record, count) in await session.QueryAsync(Sql.Of($"{Rows(type, rule, records, Sql.Of($"COUNT(*)"))} GROUP BY k.ordinal"), row => ((int)row.Long(), row.Long()), cancellationToken))
                counts[record] = count;
            active.Add(new ActiveRows(rule, counts));
        }

        return active;
    }

    /// <summary>Journals and ends the rows of the duplicates by the rules that were chosen, as the first steps of a merge.</summary>
    /// <exception cref="KettlefogException">There are too many, or the database refuses.</exception>
    public async Task<IReadOnlyList<EndedRow>> EndAsync(RecordType type, MergeChoices choices, IReadOnlyList<RecordSnapshot> records, long number, DateTimeOffset at, CancellationToken cancellationToken)
    {
        var journal = new JournalStore(session);
        var ended = new List<EndedRow>();
        foreach (var rule in type.Blockers.AtMostOne.Where(rule => choices.End.Contains(rule.Name)))
        {
            var reference = type.RequireReference(rule.Reference);
            var table = map.Catalog.Require(reference.Table);
            var key = reference.Key.Select(column => session.Dialect.Read(Sql.Of($"t.{new SqlName(column)}")));
            var rows = await session.QueryAsync(
                Sql.Of($"{Rows(type, rule, records, Sql.Join(", ", key))} AND k.ordinal > 0 ORDER BY 1, {Sql.Join(", ", reference.Key.Select(column => Sql.Of($"t.{new SqlName(column)}")))} LIMIT {(long)MaxEndedRows + 1}"),
                row => (Record: (int)row.Long(), Key: row.Key(reference.Key.Count)),
                cancellationToken);
            if (rows.Count > MaxEndedRows)
                throw new KettlefogException(ErrorCode.InvalidChoice, $"More than {MaxEndedRows} {rule.Title.ToLowerInvariant()} would end with the merge.", "End them in the operational system first.");
            var date = at.UtcDateTime.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
            var set = rule.End.Select(cell => (table.Require([cell.Key])[0], Value(table, cell.Key, cell.Value?.Replace(AtMostOneRule.DatePlaceholder, date, StringComparison.Ordinal)))).ToList();
            foreach (var (record, row) in rows)
            {
                ended.Add(new EndedRow(rule, record, row, ended.Count + 1));
                journal.Update(number, ended.Count, reference.Name, table, reference.Key, row, set);
            }
        }

        await journal.FlushAsync(cancellationToken);
        return ended;
    }

    private Sql Rows(RecordType type, AtMostOneRule rule, IReadOnlyList<RecordSnapshot> records, Sql columns)
    {
        var reference = type.RequireReference(rule.Reference);
        var pointing = ReferenceTarget.Of(map, type, reference, records);
        var counts = rule.When.Select(cell => cell.Value is null
            ? Sql.Of($"t.{new SqlName(cell.Key)} IS NULL")
            : Sql.Of($"t.{new SqlName(cell.Key)} = {session.Dialect.Write(Value(pointing.Table, cell.Key, cell.Value), pointing.Table.Require([cell.Key])[0])}"));
        return Sql.Of($"""
            WITH {session.Keys.Table(pointing.Keys, pointing.Columns)}
            SELECT k.ordinal, {columns} FROM keys k {session.Dialect.LookupJoin} {session.Dialect.Table(pointing.Table)} t
            WHERE {KeyConditions.OnKeys(reference.Columns)} AND {session.Keys.Holds(reference, pointing.Table, "t")} AND {Sql.Join(" AND ", counts.Prepend(Sql.Of($"1 = 1")))}
            """);
    }

    private static ColumnValue Value(TableSchema table, string column, string? text) =>
        text is null ? ColumnValue.Null : table.Require([column])[0].TryRead(text) ?? ColumnValue.Of(text);
}
