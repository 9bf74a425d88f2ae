using Kettlefog.Core;
using Kettlefog.Core.Maps;
using Kettlefog.Core.Planning;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;

namespace Kettlefog.Database;

/// <summary>Reads what a plan is computed from.</summary>
internal sealed class SnapshotReader(Session session, CheckedMap map)
{
    /// <summary>Reads the records of a merge and what hangs on them.</summary>
    /// <exception cref="Refusal">A record does not exist or is retired.</exception>
    public async Task<MergeSnapshot> ReadAsync(MergeChoices choices, CancellationToken cancel)
    {
        choices.Check();
        var type = map.Map.Require(choices.RecordType);
        var keys = choices.Keys.ToList();
        await DemandNotRetiredAsync(type, keys, cancel);
        var records = await ReadRecordsAsync(type, keys, cancel);
        var related = new RelatedRowsReader(session, map.Catalog);
        var references = new List<ReferenceSnapshot>();
        foreach (var (reference, rows) in type.References.Zip(await related.ReadAsync(type, type.References, keys, withDigest: true, cancel)))
        {
            var mayCollide = reference.Policy == ReferencePolicy.Reassign && rows.Count(each => each.Count > 0) > 1;
            var collisions = mayCollide ? await related.CollisionsAsync(reference, keys, cancel) : [];
            references.Add(new ReferenceSnapshot(reference, rows, collisions));
        }

        return new MergeSnapshot(map.Map, type, records, references);
    }

    /// <summary>Reads records by key, in the order of the keys.</summary>
    /// <exception cref="Refusal">A record does not exist.</exception>
    public async Task<IReadOnlyList<RecordSnapshot>> ReadRecordsAsync(
        RecordType type,
        IReadOnlyList<RecordKey> keys,
        CancellationToken cancel)
    {
        var table = map.Catalog.Require(type.Table);
        var columns = table.Columns.Select(column => Sql.Of($"t.{new SqlName(column.Name)}"));
        var rows = await session.QueryAsync(
            Sql.Of($"""
                WITH {KeyMatch.Table(keys)}
                SELECT k.ordinal, {Sql.Join(", ", columns)}
                FROM keys k CROSS JOIN {new SqlName(table.Name)} t WHERE {KeyMatch.OnKeys(type.Key)}
                """),
            row => (Ordinal: (int)row.Long(), Row: row.Values(table.Columns.Count)),
            cancel);
        var byOrdinal = rows.ToDictionary(row => row.Ordinal, row => row.Row);
        return [.. keys.Select((key, ordinal) => byOrdinal.TryGetValue(ordinal, out var row)
            ? new RecordSnapshot(table, key, row)
            : throw new Refusal(
                RefusalCode.UnknownRecord,
                $"There is no {type.Title.ToLowerInvariant()} with the key {key}.",
                "Search for the record and take its key from there."))];
    }

    private async Task DemandNotRetiredAsync(RecordType type, List<RecordKey> keys, CancellationToken cancel)
    {
        foreach (var forward in await new ForwardStore(session).FindAsync(type.Name, [.. keys.Select(key => key.ToString())], cancel))
        {
            throw new Refusal(
                RefusalCode.RecordRetired,
                $"{type.Title} {forward.OldKey} is retired: it became {forward.Master} by merge {forward.Number}.",
                $"Use {forward.Master}, or take merge {forward.Number} back first.");
        }
    }
}
