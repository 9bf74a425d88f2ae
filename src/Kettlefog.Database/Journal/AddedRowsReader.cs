using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Reversing;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Records;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Journal;

/// <summary>
/// Finds related rows that were added to a master since a merge. That is known where the key of a table is one whole
/// number generated in order: the highest at the time of the merge is stored with it.
/// </summary>
internal sealed class AddedRowsReader(Session session, CheckedMap map)
{
    private const int MaxListed = 100;

    /// <summary>The highest keys now, in text form, by reference; none where keys are not generated in order.</summary>
    public async Task<IReadOnlyDictionary<string, string>> LastKeysAsync(
        RecordType type,
        CancellationToken cancellationToken
    )
    {
        var counted = type.References.Where(reference => CountedUp(type, reference) is not null).ToList();
        if (counted.Count == 0)
            return new Dictionary<string, string>();
        var tables = counted.Select(reference => reference.Table).Distinct().ToList();
        var highest = tables.Select(table =>
        {
            var key = CountedUp(type, counted.First(reference => reference.Table == table))!;
            return Sql.Of(
                $"(SELECT {session.Dialect.Read(Sql.Of($"MAX({new SqlName(key.Name)})"))} FROM "
                    + $"{session.Dialect.Table(map.Catalog.Require(table))})"
            );
        });
        var row = (
            await session.QueryAsync(
                Sql.Of($"SELECT {Sql.Join(", ", highest)}"),
                row => row.Values(tables.Count),
                cancellationToken
            )
        ).Single();
        return counted.ToDictionary(
            reference => reference.Name,
            reference => row[tables.IndexOf(reference.Table)].ToText() ?? "0"
        );
    }

    /// <summary>
    /// The rows that were added to the master of a merge since, without those that it added itself, that later merges
    /// moved there, and that reversals restored; the first hundred of each reference.
    /// </summary>
    public async Task<IReadOnlyList<AddedRow>> ReadAsync(
        HistoryEntry merge,
        RecordType type,
        MergeDetails details,
        CancellationToken cancellationToken
    )
    {
        var found = new List<AddedRow>();
        foreach (var reference in Reference.InReassignmentOrder(type.References, reference => reference))
        {
            if (
                details.ReferenceStateOf(reference.Name)?.LastKey is not { } last
                || details.Moves.FirstOrDefault(move => move.Reference == reference.Name)?.Policy
                    != EnumName.Of(ReferencePolicy.Reassign)
                || CountedUp(type, reference) is not { } key
            )
                continue;
            var target = ReferenceTarget.Of(map, type, reference, details);
            var after = key.TryRead(last) ?? ColumnValue.Of(last);
            var column = Sql.Of($"t.{new SqlName(key.Name)}");
            var rows = await session.QueryAsync(
                Sql.Of(
                    $"""
                    SELECT {session.Dialect.Read(column)} FROM {session.Dialect.Table(target.Table)} t
                    WHERE {session.Keys.Equal(target.Columns, target.Keys[0], "t")} AND {session.Keys.Holds(
                        reference,
                        target.Table,
                        "t"
                    )} AND {column} > {session.Dialect.Write(after, key)}
                      AND NOT EXISTS (
                        SELECT 1 FROM {session.Dialect.Own("history")} h
                        JOIN {session.Dialect.Own("journal_step")} s ON s.journal = h.journal
                        JOIN {session.Dialect.Own("journal_row")} r ON r.journal = s.journal AND r.step = s.step
                        WHERE (h.number > {merge.Number}
                            OR h.number = {merge.Number} AND s.operation = {EnumName.Of(JournalOperation.Insert)}
                            OR s.operation = {EnumName.Of(JournalOperation.Delete)})
                          AND s.table_name = {target.Table.Name}
                          AND {session.Dialect.Restore(Sql.Of($"r.key_1"), key)} = {column})
                    ORDER BY {column} LIMIT {(long)MaxListed}
                    """
                ),
                row => row.Key(1),
                cancellationToken
            );
            found.AddRange(rows.Select(row => new AddedRow(reference.Name, reference.Title, row)));
        }

        return found;
    }

    /// <summary>
    /// The key column of a table whose keys are generated in order: one whole number that is no reference itself.
    /// </summary>
    private ColumnSchema? CountedUp(RecordType type, Reference reference) =>
        reference.Key.Count == 1
        && map.Catalog.Require(reference.Table).Require(reference.Key)[0] is { Storage: StorageClass.Integer } key
        && !type.References.Any(other => other.Table == reference.Table && other.Columns.ContainsIdentifier(key.Name))
            ? key
            : null;
}
