using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Records;

/// <summary>Reads the snapshot that a plan is computed from.</summary>
internal sealed class SnapshotReader(Session session, CheckedMap map)
{
    private const long MaxFurtherValues = 10_000;

    /// <summary>Reads the records of a merge and their related rows.</summary>
    /// <param name="choices">The records and choices.</param>
    /// <param name="rule">The match rule that the choices name, or null.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">A record does not exist or is retired.</exception>
    public async Task<MergeSnapshot> ReadAsync(
        MergeChoices choices,
        MatchRule? rule,
        CancellationToken cancellationToken
    )
    {
        choices.Check();
        var type = choices.Applied(map.Map.Require(choices.RecordType));
        var keys = choices.Keys.ToList();
        await EnsureNotRetiredAsync(type, keys, cancellationToken);
        var records = await ReadRecordsAsync(type, keys, cancellationToken);
        var related = new RelatedRowsReader(session, map.Catalog);
        var targets = type.References.Select(reference => ReferenceTarget.Of(map, type, reference, records)).ToList();
        var rows = await related.ReadAsync(type, targets, keys, whole: true, cancellationToken);
        var collisions = await CollisionsAsync(targets, rows, cancellationToken);
        var references = new List<ReferenceSnapshot>();
        foreach (var (target, place) in targets.Select((target, place) => (target, place)))
        {
            var (colliding, obstacles) = collisions.GetValueOrDefault(target.Reference, ([], []));
            var parents =
                target.Reference.Hierarchy == true
                    ? await related.ParentsAsync(type, target.Reference, keys, cancellationToken)
                    : null;
            references.Add(
                new ReferenceSnapshot(
                    target.Reference,
                    target.Keys,
                    rows[place],
                    target.Table,
                    colliding,
                    obstacles,
                    parents
                )
            );
        }

        return new MergeSnapshot(map.Map, type, records, references, rule)
        {
            Unsummable = await UnsummableAsync(type, targets, rows, cancellationToken),
            CatalogVersion = map.Version,
            CatalogChanges = map.Changes,
            Active = await new ActiveRowsReader(session, map).ReadAsync(type, records, cancellationToken),
            Further = await FurtherAsync(type, targets, cancellationToken),
        };
    }

    /// <summary>For each control total that cannot be computed, a row whose value is no number.</summary>
    private async Task<IReadOnlyDictionary<string, RecordKey>> UnsummableAsync(
        RecordType type,
        List<ReferenceTarget> targets,
        IReadOnlyList<IReadOnlyList<RelatedRows>> related,
        CancellationToken cancellationToken
    )
    {
        var found = new Dictionary<string, RecordKey>();
        foreach (
            var figure in type.Figures.Where(figure => figure is { Control: true, Operation: FigureOperation.Sum })
        )
        {
            var place = targets.FindIndex(target => target.Reference.Name == figure.Reference);
            if (
                targets[place] is not { Reference.Key.Count: > 0 } target
                || related[place].All(rows => ExactSum.Of([rows.Figures[figure.Name]]).Fault is null)
            )
                continue;
            var column = target.Table.Require([figure.Column!])[0];
            var read = target.Reference.Key.Select(part => session.Dialect.Read(Sql.Of($"t.{new SqlName(part)}")));
            var sum = session.Dialect.DecimalSum(Sql.Of($"s.v"), column);
            var rows = await session.QueryAsync(
                Sql.Of(
                    $"""
                    WITH {session.Keys.Table(target.Keys, target.Columns)}
                    SELECT {Sql.Join(", ", read)} FROM keys k {session.Dialect.LookupJoin} {session.Dialect.Table(
                        target.Table
                    )} t
                    WHERE {KeyConditions.OnKeys(target.Reference.Columns)} AND {session.Keys.Holds(
                        target.Reference,
                        target.Table,
                        "t"
                    )}
                      AND (SELECT CASE WHEN {sum} LIKE '?%' OR {sum} IN ('NaN', 'Infinity', '-Infinity') THEN 1 END FROM
                        (SELECT t.{new SqlName(column.Name)} AS v) s) = 1
                    LIMIT 1
                    """
                ),
                row => row.Key(target.Reference.Key.Count),
                cancellationToken
            );
            if (rows.Count > 0)
                found[figure.Name] = rows[0];
        }

        return found;
    }

    /// <summary>The values in related rows into which a field overflows.</summary>
    /// <exception cref="KettlefogException">There are too many.</exception>
    private async Task<IReadOnlyDictionary<string, IReadOnlyList<ColumnValue>>> FurtherAsync(
        RecordType type,
        List<ReferenceTarget> targets,
        CancellationToken cancellationToken
    )
    {
        var further = new Dictionary<string, IReadOnlyList<ColumnValue>>();
        foreach (var field in type.Fields.Where(field => field.OverflowRows is not null))
        {
            var target = targets.Find(each => each.Reference.Name == field.OverflowRows!.Reference)!;
            var values = await session.QueryAsync(
                Sql.Of(
                    $"""
                    WITH {session.Keys.Table(target.Keys, target.Columns)}
                    SELECT {session.Dialect.Read(
                        Sql.Of($"t.{new SqlName(field.OverflowRows!.Column)}")
                    )} FROM keys k {session.Dialect.LookupJoin} {session.Dialect.Table(target.Table)} t
                    WHERE {KeyConditions.OnKeys(target.Reference.Columns)} AND {session.Keys.Holds(
                        target.Reference,
                        target.Table,
                        "t"
                    )} LIMIT {MaxFurtherValues + 1}
                    """
                ),
                row => row.Value(),
                cancellationToken
            );
            if (values.Count > MaxFurtherValues)
                throw new KettlefogException(
                    ErrorCode.DatabaseRefused,
                    $"The records have more than {MaxFurtherValues} "
                        + $"{target.Reference.Title.ToLowerInvariant()}, too many to compare.",
                    "Leave 'overflow_rows' out of the map, or merge fewer records at once."
                );
            further[field.Name] = values;
        }

        return further;
    }

    /// <summary>The collisions in every table whose rows move to the master.</summary>
    private async Task<Dictionary<Reference, (IReadOnlyList<Collision>, IReadOnlyList<string>)>> CollisionsAsync(
        List<ReferenceTarget> targets,
        IReadOnlyList<IReadOnlyList<RelatedRows>> rows,
        CancellationToken cancellationToken
    )
    {
        var collisions = new Dictionary<Reference, (IReadOnlyList<Collision>, IReadOnlyList<string>)>();
        foreach (
            var ofTable in Reference
                .InReassignmentOrder(targets.Zip(rows), pair => pair.First.Reference)
                .GroupBy(pair => pair.First.Table)
        )
        {
            // Rows that all refer to one record by one reference conflict with no others.
            if (ofTable.All(pair => pair.Second.Skip(1).All(each => each.Count == 0)))
                continue;
            if (
                ofTable.Count() == 1
                && ofTable.All(pair =>
                    pair.First.Reference.When.Count == 0 && pair.Second.Count(each => each.Count > 0) < 2
                )
            )
                continue;
            foreach (
                var (reference, found) in await new CollisionReader(
                    session,
                    map.Catalog,
                    ofTable.Key,
                    [.. ofTable.Select(pair => pair.First)]
                ).ReadAsync(cancellationToken)
            )
                collisions[reference] = found;
        }

        return collisions;
    }

    /// <summary>Reads records by key, in the order of the keys.</summary>
    /// <exception cref="KettlefogException">A record does not exist.</exception>
    public async Task<IReadOnlyList<RecordSnapshot>> ReadRecordsAsync(
        RecordType type,
        IReadOnlyList<RecordKey> keys,
        CancellationToken cancellationToken
    ) =>
        [
            .. (await FindRecordsAsync(type, keys, cancellationToken)).Zip(keys, (record, key) =>
                record
                ?? throw new KettlefogException(
                    ErrorCode.UnknownRecord,
                    $"There is no {type.Title.ToLowerInvariant()} with the key {key}.",
                    "Search for the record and take its key from there."
                )
            ),
        ];

    /// <summary>Reads records by key, in the order of the keys; null for one that does not exist.</summary>
    /// <exception cref="KettlefogException">Several rows have one of the keys.</exception>
    public async Task<IReadOnlyList<RecordSnapshot?>> FindRecordsAsync(
        RecordType type,
        IReadOnlyList<RecordKey> keys,
        CancellationToken cancellationToken
    )
    {
        var table = map.Catalog.Require(type.Table);
        var columns = table.Columns.Select(column => session.Dialect.Read(Sql.Of($"t.{new SqlName(column.Name)}")));
        var rows = await session.QueryAsync(
            Sql.Of(
                $"""
                WITH {session.Keys.Table(keys, table.Require(type.Key))}
                SELECT k.ordinal, {Sql.Join(", ", columns)}
                FROM keys k {session.Dialect.LookupJoin} {session.Dialect.Table(table)} t WHERE {KeyConditions.OnKeys(
                    type.Key
                )}
                """
            ),
            row => (Ordinal: (int)row.Long(), Row: row.Values(table.Columns.Count)),
            cancellationToken
        );
        if (rows.CountBy(row => row.Ordinal).FirstOrDefault(each => each.Value > 1) is { Value: > 1 } repeated)
            throw new KettlefogException(
                ErrorCode.AmbiguousKey,
                $"{repeated.Value} rows of '{table.Name}' have the key {keys[repeated.Key]}, which must be unique.",
                "Give each its own key in the operational system, or name other columns as the key in the record map."
            );
        var byOrdinal = rows.ToDictionary(row => row.Ordinal, row => row.Row);
        return
        [
            .. keys.Select(
                (key, ordinal) =>
                    byOrdinal.TryGetValue(ordinal, out var row) ? new RecordSnapshot(table, key, row) : null
            ),
        ];
    }

    /// <summary>
    /// Locks records until the session ends, in the order of their keys, so that two sessions that lock the
    /// same ones do not deadlock. A row that refers to a locked record by a foreign key cannot be added
    /// either.
    /// </summary>
    public async Task LockAsync(RecordType type, IReadOnlyList<RecordKey> keys, CancellationToken cancellationToken)
    {
        if (!session.Engine.AllowsConcurrentWriters)
            return;
        var table = map.Catalog.Require(type.Table);
        await session.QueryAsync(
            Sql.Of(
                $"""
                WITH {session.Keys.Table(keys, table.Require(type.Key))}
                SELECT k.ordinal FROM keys k {session.Dialect.LookupJoin} {session.Dialect.Table(
                    table
                )} t WHERE {KeyConditions.OnKeys(type.Key)}
                ORDER BY {Sql.Join(
                    ", ",
                    type.Key.Select(column => Sql.Of($"t.{new SqlName(column)}"))
                )}{session.Dialect.LockRows}
                """
            ),
            row => row.Long(),
            cancellationToken
        );
    }

    private async Task EnsureNotRetiredAsync(RecordType type, List<RecordKey> keys, CancellationToken cancellationToken)
    {
        foreach (
            var redirect in await new RedirectStore(session).FindAsync(
                type.Name,
                [.. keys.Select(key => key.ToString())],
                cancellationToken
            )
        )
        {
            throw new KettlefogException(
                ErrorCode.RecordRetired,
                $"{type.Title} {redirect.OldKey} was merged into {redirect.Master} (merge {redirect.Number}).",
                $"Use {redirect.Master}, or reverse merge {redirect.Number} first."
            );
        }
    }
}
