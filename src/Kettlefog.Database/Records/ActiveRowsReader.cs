using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Records;

/// <summary>Reads the rows that only one record of a merge may have, such as running agreements.</summary>
internal sealed class ActiveRowsReader(Session session, CheckedMap map)
{
    /// <summary>How many rows count for each rule of the record type.</summary>
    public async Task<IReadOnlyList<ActiveRows>> ReadAsync(
        RecordType type,
        IReadOnlyList<RecordSnapshot> records,
        CancellationToken cancellationToken
    )
    {
        var active = new List<ActiveRows>();
        foreach (var rule in type.Blockers.AtMostOne)
        {
            var counts = new long[records.Count];
            foreach (
                var (record, count) in await session.QueryAsync(
                    Sql.Of($"{Rows(type, rule, records, Sql.Of($"COUNT(*)"))} GROUP BY k.ordinal"),
                    row => ((int)row.Long(), row.Long()),
                    cancellationToken
                )
            )
                counts[record] = count;
            active.Add(new ActiveRows(rule, counts));
        }

        return active;
    }

    /// <summary>The rows of the duplicates that count for a rule, with the index of each row's record.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="rule">The rule.</param>
    /// <param name="records">The records, the master first.</param>
    /// <param name="limit">How many to read at most.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<List<(int Record, RecordKey Key)>> ReadKeysAsync(
        RecordType type,
        AtMostOneRule rule,
        IReadOnlyList<RecordSnapshot> records,
        long limit,
        CancellationToken cancellationToken
    )
    {
        var reference = type.RequireReference(rule.Reference);
        var key = reference.Key.Select(column => session.Dialect.Read(Sql.Of($"t.{new SqlName(column)}")));
        var order = Sql.Join(", ", reference.Key.Select(column => Sql.Of($"t.{new SqlName(column)}")));
        return session.QueryAsync(
            Sql.Of(
                $"{Rows(type, rule, records, Sql.Join(", ", key))} AND k.ordinal > 0 ORDER BY 1, {order} LIMIT {limit}"
            ),
            row => (Record: (int)row.Long(), Key: row.Key(reference.Key.Count)),
            cancellationToken
        );
    }

    private Sql Rows(RecordType type, AtMostOneRule rule, IReadOnlyList<RecordSnapshot> records, Sql columns)
    {
        var reference = type.RequireReference(rule.Reference);
        var target = ReferenceTarget.Of(map, type, reference, records);
        Sql Written(string column, string text) =>
            session.Dialect.Write(Value(target.Table, column, text), target.Table.Require([column])[0]);
        var counts = rule.When.Select(cell =>
            cell.Value is null
                ? Sql.Of($"t.{new SqlName(cell.Key)} IS NULL")
                : Sql.Of($"t.{new SqlName(cell.Key)} = {Written(cell.Key, cell.Value)}")
        );
        return Sql.Of(
            $"""
            WITH {session.Keys.Table(target.Keys, target.Columns)}
            SELECT k.ordinal, {columns} FROM keys k {session.Dialect.LookupJoin} {session.Dialect.Table(
                target.Table
            )} t
            WHERE {KeyConditions.OnKeys(reference.Columns)} AND {session.Keys.Holds(
                reference,
                target.Table,
                "t"
            )} AND {Sql.Join(" AND ", counts.Prepend(Sql.Of($"1 = 1")))}
            """
        );
    }

    /// <summary>A text of the map in the type of its column.</summary>
    public static ColumnValue Value(TableSchema table, string column, string? text) =>
        text is null ? ColumnValue.Null : table.Require([column])[0].TryRead(text) ?? ColumnValue.Of(text);
}
