using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Duplicates.Decisions;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Records;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Merging;

/// <summary>Reads the records that are linked with those of a merge.</summary>
internal sealed class LinkedReader(Session session, CheckedMap map)
{
    /// <summary>With more linked records than this, nobody could review what is offered.</summary>
    private const long MaxRecords = 5_000;

    private readonly List<string> _passedOver = [];

    /// <summary>What was not compared, because there are too many records; one sentence each.</summary>
    public IReadOnlyList<string> PassedOver => _passedOver;

    /// <summary>The linked records by each link of the record type.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="records">The records of the merge, the master first.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<IReadOnlyList<LinkedSnapshot>> ReadAsync(
        RecordType type,
        IReadOnlyList<RecordSnapshot> records,
        CancellationToken cancellationToken
    )
    {
        var found = new List<LinkedSnapshot>();
        foreach (var link in type.Linked)
        {
            var other = map.Map.Require(link.Type);
            var holders = link.Through is null
                ? Above(link, other, records)
                : await BelowAsync(type, link, other, records, cancellationToken);

            // The records of the merge itself are not offered.
            if (other.Name == type.Name)
                records.ToList().ForEach(own => holders.Remove(own.Key));
            foreach (
                var retired in holders.Count == 0
                    ? []
                    : await new RedirectStore(session).FindAsync(
                        other.Name,
                        [.. holders.Keys.Select(key => key.ToString())],
                        cancellationToken
                    )
            )
                holders.Remove(RecordKeyParser.Parse(retired.OldKey, KeyOf(other)));
            if (holders.Count < 2)
                continue;
            var linked = (
                await new SnapshotReader(session, map).FindRecordsAsync(other, [.. holders.Keys], cancellationToken)
            )
                .OfType<RecordSnapshot>()
                .Select(record => new LinkedRecord(record, holders[record.Key]));
            var nonDuplicates = (await new NonDuplicateStore(session).ListAsync(other.Name, cancellationToken))
                .Select(pair => NonDuplicateStore.Ordered(pair.A, pair.B))
                .ToHashSet();
            found.Add(new LinkedSnapshot(link, other, [.. linked], nonDuplicates));
        }

        return found;
    }

    /// <summary>The records that columns of the merge's records refer to.</summary>
    private Dictionary<RecordKey, HashSet<int>> Above(
        LinkedRecords link,
        RecordType other,
        IReadOnlyList<RecordSnapshot> records
    )
    {
        var holders = new Dictionary<RecordKey, HashSet<int>>();
        var columns = KeyOf(other);
        for (var index = 0; index < records.Count; index++)
        {
            var parts = link
                .Columns.Select(
                    (column, part) =>
                        records[index][column] is { IsNull: false } value
                            ? columns[part].TryRead(value.ToText()!) ?? ColumnValue.Null
                            : ColumnValue.Null
                )
                .ToList();
            if (!parts.Exists(part => part.IsNull))
                Note(holders, new RecordKey(parts), index);
        }

        return holders;
    }

    /// <summary>The records that refer to the merge's records, or are named in rows that do.</summary>
    private async Task<Dictionary<RecordKey, HashSet<int>>> BelowAsync(
        RecordType type,
        LinkedRecords link,
        RecordType other,
        IReadOnlyList<RecordSnapshot> records,
        CancellationToken cancellationToken
    )
    {
        var reference = type.RequireReference(link.Through!);
        var target = ReferenceTarget.Of(map, type, reference, records);
        var key = KeyOf(other);
        var columns = link.Columns.Count == 0 ? key : target.Table.Require(link.Columns);
        var rows = await session.QueryAsync(
            Sql.Of(
                $"""
                WITH {session.Keys.Table(target.Keys, target.Columns)}
                SELECT k.ordinal, {Sql.Join(
                    ", ",
                    columns.Select(column => session.Dialect.Read(Sql.Of($"t.{new SqlName(column.Name)}")))
                )}
                FROM keys k {session.Dialect.LookupJoin} {session.Dialect.Table(target.Table)} t
                WHERE {KeyConditions.OnKeys(reference.Columns)} AND {session.Keys.Holds(reference, target.Table, "t")}
                LIMIT {MaxRecords + 1}
                """
            ),
            row => (Holder: (int)row.Long(), Key: row.Values(columns.Count)),
            cancellationToken
        );
        var holders = new Dictionary<RecordKey, HashSet<int>>();
        if (rows.Count > MaxRecords)
        {
            _passedOver.Add($"{link.Title} are too many (more than {MaxRecords}) to find duplicates among them.");
            return holders;
        }

        foreach (var (holder, values) in rows)
        {
            var parts = values
                .Select(
                    (value, part) =>
                        value.IsNull ? ColumnValue.Null : key[part].TryRead(value.ToText()!) ?? ColumnValue.Null
                )
                .ToList();
            if (!parts.Exists(part => part.IsNull))
                Note(holders, new RecordKey(parts), holder);
        }

        return holders;
    }

    private static void Note(Dictionary<RecordKey, HashSet<int>> holders, RecordKey key, int holder)
    {
        if (!holders.TryGetValue(key, out var of))
            holders[key] = of = [];
        of.Add(holder);
    }

    private IReadOnlyList<ColumnSchema> KeyOf(RecordType other) => map.Catalog.Require(other.Table).Require(other.Key);
}
