using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.History;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Records;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Reversing;

/// <summary>
/// Later merges that retired records to which the rows of a merge would refer again: a removed contact cannot come back
/// to a household that was merged into another one since. They must be reversed first.
/// </summary>
internal sealed class RestoredReferences(Session session, CheckedMap map)
{
    private const int MaxKeysPerQuery = 200;

    private readonly JournalReader _journal = new(session);
    private readonly HistoryStore _entries = new(session);
    private readonly Sql _history = session.Dialect.Own("history");
    private readonly Sql _records = session.Dialect.Own("history_record");

    /// <summary>The numbers of the later merges in effect that must be reversed before a merge.</summary>
    /// <param name="merge">The merge.</param>
    /// <param name="steps">Its steps.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<IReadOnlySet<long>> LaterMergesAsync(
        long merge,
        IEnumerable<JournalStep> steps,
        CancellationToken cancellationToken
    )
    {
        var keys = new Dictionary<string, HashSet<string>>();
        var others = new List<(RecordType Type, Reference Reference, IReadOnlyDictionary<string, ColumnValue> Row)>();
        foreach (var step in steps.Where(step => step.Operation is JournalOperation.Delete or JournalOperation.Update))
        {
            var row = (await _journal.CellsAsync(step, cancellationToken)).ToDictionary(
                cell => cell.Column,
                cell => cell.Before,
                StringComparer.OrdinalIgnoreCase
            );
            foreach (var (type, reference) in ReferencesOf(step.Table, row))
            {
                if (reference.HoldsKey)
                    (keys.TryGetValue(type.Name, out var known) ? known : keys[type.Name] = []).Add(
                        new RecordKey([.. reference.Columns.Select(column => row[column])]).ToString()
                    );
                else
                    others.Add((type, reference, row));
            }
        }

        var found = new HashSet<long>();
        foreach (var (type, ofType) in keys)
        {
            foreach (var chunk in ofType.Chunk(MaxKeysPerQuery))
                found.UnionWith(
                    await LaterAsync(
                        merge,
                        type,
                        Sql.Of($"r.record_key IN ({Sql.Join(", ", chunk.Select(key => Sql.Of($"{key}")))})"),
                        cancellationToken
                    )
                );
        }

        // By other columns of the record, or by a text around its key: what referred to it is in the merge's details.
        foreach (var ofType in others.GroupBy(other => other.Type))
        {
            foreach (var later in await LaterAsync(merge, ofType.Key.Name, Sql.Of($"1 = 1"), cancellationToken))
            {
                var details = DetailsJson.Read<MergeDetails>(
                    (await _entries.RequireAsync(later, cancellationToken)).Entry.Details
                );
                if (
                    ofType.Any(other =>
                        other.Reference.IndexOfReferencedRecord(
                            column => other.Row[column],
                            ReferenceTarget.Of(map, ofType.Key, other.Reference, details).Keys
                        ) > 0
                    )
                )
                    found.Add(later);
            }
        }

        return found;
    }

    /// <summary>The references, of any type, by which a restored row refers to a record.</summary>
    private IEnumerable<(RecordType Type, Reference Reference)> ReferencesOf(
        string table,
        Dictionary<string, ColumnValue> row
    ) =>
        from type in map.Map.RecordTypes
        from reference in type.References
        where
            Identifiers.Same(reference.Table, table)
            && (reference.Policy == ReferencePolicy.Reassign || type.Retirement.Delete)
            && reference.Columns.All(column => row.TryGetValue(column, out var value) && !value.IsNull)
            && reference.When.All(when => !row.TryGetValue(when.Key, out var value) || value.ToText() == when.Value)
        select (type, reference);

    private Task<List<long>> LaterAsync(long merge, string type, Sql condition, CancellationToken cancellationToken) =>
        session.QueryAsync(
            Sql.Of(
                $"""
                SELECT DISTINCT r.number FROM {_records} r JOIN {_history} h ON h.number = r.number
                WHERE r.record_type = {type} AND r.is_master = 0 AND r.number > {merge} AND {condition}
                  AND h.kind = {EnumName.Of(EntryKind.Merge)}
                  AND NOT EXISTS (SELECT 1 FROM {_history} back WHERE back.reverses = h.number)
                """
            ),
            row => row.Long(),
            cancellationToken
        );
}
