using System.Globalization;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Records;

/// <summary>Finds the rows of one table that a unique key prevents from all referring to the master.</summary>
/// <param name="session">The session to read in.</param>
/// <param name="catalog">The tables.</param>
/// <param name="table">The table.</param>
/// <param name="targets">
/// The references of the table whose rows are reassigned, in order, with the values that refer to each record; the
/// master's first.
/// </param>
internal sealed class CollisionReader(
    Session session,
    DatabaseCatalog catalog,
    TableSchema table,
    IReadOnlyList<ReferenceTarget> targets
)
{
    private const int MaxCollidingRows = 10_000;

    /// <summary>Names that no operational column is likely to have.</summary>
    private static readonly Sql Holder = Sql.Literal("kettlefog_holder");
    private static readonly Sql Meeting = Sql.Literal("kettlefog_meeting");
    private static readonly Sql Group = Sql.Literal("kettlefog_group");

    /// <summary>The collisions by each reference that resolves them, and why their rows could not be removed.</summary>
    public async Task<
        IReadOnlyDictionary<Reference, (IReadOnlyList<Collision> Collisions, IReadOnlyList<string> Obstacles)>
    > ReadAsync(CancellationToken cancellationToken)
    {
        var found = new Dictionary<Reference, (IReadOnlyList<Collision> Collisions, IReadOnlyList<string> Obstacles)>();
        var referringColumns = targets
            .SelectMany(each => each.Reference.Columns)
            .ToHashSet(StringComparer.OrdinalIgnoreCase);
        foreach (var keys in UniqueKeysWith(table, referringColumns).GroupBy(unique => Concerned(unique).Reference))
        {
            var collisions = new List<Collision>();
            var onTheWay = new List<string>();
            foreach (var unique in keys)
            {
                var single = SingleOf(unique, referringColumns);
                var groups = single is not null
                    ? await MeetingAsync(single, unique, cancellationToken)
                    : await MeetingAfterwardsAsync(unique, targets.Count, cancellationToken);
                collisions.AddRange(
                    groups.Select(group => new Collision(keys.Key.Name, unique.Name, group.Values, group.Rows))
                );
                if (single is null && targets.Any(each => each.Reference.When.Count > 0))
                    onTheWay.AddRange(await OnTheWayAsync(unique, groups, cancellationToken));
            }

            if (collisions.Count + onTheWay.Count == 0)
                continue;
            var (ended, obstacles) =
                keys.Key.Collision == CollisionPolicy.Block
                    ? (collisions, [])
                    : await WithDependentsAsync(keys.Key, referringColumns, collisions, cancellationToken);
            found[keys.Key] = (ended, [.. onTheWay, .. obstacles]);
        }

        return WithoutSharedRows(found);
    }

    /// <summary>A row that collides by the keys of two references cannot be removed by the policy of one.</summary>
    private Dictionary<
        Reference,
        (IReadOnlyList<Collision> Collisions, IReadOnlyList<string> Obstacles)
    > WithoutSharedRows(
        Dictionary<Reference, (IReadOnlyList<Collision> Collisions, IReadOnlyList<string> Obstacles)> found
    )
    {
        var shared = found
            .SelectMany(each =>
                each.Value.Collisions.SelectMany(collision => collision.Rows).Select(row => row.Key).Distinct()
            )
            .GroupBy(key => key)
            .Where(group => group.Count() > 1)
            .Select(group =>
                (
                    $"The row {group.Key} of {table.Name} collides with others by several references at once: "
                    + $"{string.Join(", ", found.Keys.Select(reference => reference.Title.ToLowerInvariant()))}."
                )
            )
            .ToList();
        return shared.Count == 0
            ? found
            : found.ToDictionary(
                each => each.Key,
                each => (each.Value.Collisions, (IReadOnlyList<string>)[.. each.Value.Obstacles, .. shared])
            );
    }

    private static IEnumerable<UniqueKey> UniqueKeysWith(TableSchema table, HashSet<string> columns) =>
        table
            .UniqueKeys.Append(UniqueKey.Of("primary key", table.PrimaryKey))
            .Where(key => key.Parts.Any(part => columns.Any(part.DependsOn)));

    /// <summary>The reference that resolves a conflict in a unique key; where several could, one that blocks.</summary>
    private ReferenceTarget Concerned(UniqueKey unique) =>
        targets
            .Where(each => each.Reference.Columns.Any(column => unique.Parts.Any(part => part.DependsOn(column))))
            .OrderBy(each => each.Reference.Collision == CollisionPolicy.Block ? 0 : 1)
            .First();

    /// <summary>
    /// The one reference by which rows conflict in a unique key, if comparing columns as they are is enough to find the
    /// conflicts: then the key's own index finds the rows, however many there are.
    /// </summary>
    private ReferenceTarget? SingleOf(UniqueKey unique, HashSet<string> referringColumns)
    {
        var concerned = targets
            .Where(each => each.Reference.Columns.Any(column => unique.Columns.ContainsIdentifier(column)))
            .ToList();
        return
            concerned is [var single]
            && unique.Columns.All(column => column is not null)
            && !referringColumns.Any(unique.FilterDependsOn)
            ? single
            : null;
    }

    private Task<List<(string Values, List<CollidingRow> Rows)>> MeetingAsync(
        ReferenceTarget target,
        UniqueKey unique,
        CancellationToken cancellationToken
    ) =>
        MeetingAsync(
            table,
            target.Reference.Columns,
            session.Keys.Holds(target.Reference, table, "t"),
            target.Reference.Key,
            unique,
            target.Keys,
            target.Columns,
            cancellationToken
        );

    /// <summary>
    /// The groups of rows that would conflict in a unique key if their columns held the same key. Rows that hold the
    /// first key without referring to its record conflict too.
    /// </summary>
    private async Task<List<(string Values, List<CollidingRow> Rows)>> MeetingAsync(
        TableSchema where,
        IReadOnlyList<string> columns,
        Sql holds,
        IReadOnlyList<string> rowKey,
        UniqueKey unique,
        IReadOnlyList<RecordKey> keys,
        IReadOnlyList<ColumnSchema> keyColumns,
        CancellationToken cancellationToken
    )
    {
        var others = unique.Parts.Where(part => !columns.ContainsIdentifier(part.Column!)).ToList();
        Sql Of(string row, KeyPart part) => Compared(Sql.Of($"{Sql.Literal(row)}.{new SqlName(part.Column!)}"), part);
        var same = others
            .Select(part =>
                unique.NullsCollide
                    ? session.Dialect.NullSafeEqual(Of("other", part), Of("mine", part))
                    : Sql.Of($"{Of("other", part)} = {Of("mine", part)}")
            )
            .Append(Sql.Of($"other.{Holder} <> mine.{Holder}"));
        var source = unique.Filter is null
            ? session.Dialect.Table(where)
            : Sql.Of($"(SELECT * FROM {session.Dialect.Table(where)} WHERE ({Sql.Literal(unique.Filter)}))");

        // The unique key itself finds the rows of the other records; within one record it allows no conflict.
        var rowsOfKeys = Sql.Of(
            $"""
            (SELECT CASE WHEN {holds} THEN k.ordinal ELSE -1 END AS {Holder}, t.* FROM keys k
              {session.Dialect.LookupJoin} {source} t
             WHERE {KeyConditions.OnKeys(columns)} AND (k.ordinal = 0 OR {holds}))
            """
        );

        // The database itself decides which values are equal: 0 and -0, or upper and lower case by a collation.
        var group =
            others.Count == 0
                ? Sql.Of($"1")
                : Sql.Of($"DENSE_RANK() OVER (ORDER BY {Sql.Join(", ", others.Select(part => Of("mine", part)))})");
        var rows = await session.QueryAsync(
            Sql.Of(
                $"""
                WITH {session.Keys.Table(keys, keyColumns)}
                SELECT {group}, mine.{Holder}, {Sql.Join(
                    ", ",
                    where.Columns.Select(column => session.Dialect.Read(Sql.Of($"mine.{new SqlName(column.Name)}")))
                )}
                FROM {rowsOfKeys} mine
                WHERE EXISTS (SELECT 1 FROM {rowsOfKeys} other WHERE {Sql.Join(" AND ", same)})
                LIMIT {(long)MaxCollidingRows}
                """
            ),
            row => (Group: row.Long(), Holder: (int)row.Long(), Values: row.Values(where.Columns.Count)),
            cancellationToken
        );
        string Values(IReadOnlyList<ColumnValue> row) =>
            others.Count == 0
                ? string.Join(", ", columns)
                : string.Join(", ", others.Select(part => $"{part.Column} = {row[where.IndexOf(part.Column!)]}"));
        return [.. Groups(where, rowKey, unique, rows).Select(each => (Values(each[0].Row), each))];
    }

    /// <summary>
    /// The groups of rows that conflict once all referring columns have their new values. The key's index does not
    /// contain those values, so all rows of all records are compared.
    /// </summary>
    /// <param name="unique">The unique key.</param>
    /// <param name="moved">The number of references whose rows have been moved.</param>
    /// <param name="cancellationToken">Cancels.</param>
    private async Task<List<(string Values, List<CollidingRow> Rows)>> MeetingAfterwardsAsync(
        UniqueKey unique,
        int moved,
        CancellationToken cancellationToken
    )
    {
        Sql Keys(int place) => Sql.Of($"{new SqlName($"keys_{place}")}");
        var tables = targets.Select(
            (target, place) => session.Keys.Table(target.Keys, target.Columns, $"keys_{place}")
        );
        Sql Points(int place, Sql also) =>
            Sql.Of(
                $"EXISTS (SELECT 1 FROM {Keys(place)} k WHERE "
                    + $"{KeyConditions.OnKeys(targets[place].Reference.Columns)} AND {also})"
            );
        Sql Holds(ReferenceTarget target) => session.Keys.Holds(target.Reference, table, "t");
        var candidates = targets.Select(
            (target, place) =>
                Sql.Of(
                    $"""
                    SELECT t.* FROM {Keys(place)} k {session.Dialect.LookupJoin} {session.Dialect.Table(table)} t
                    WHERE {KeyConditions.OnKeys(target.Reference.Columns)} AND {Sql.Join(
                        " AND ",
                        Enumerable.Range(0, place).Select(before =>
                            Sql.Of($"NOT {Points(before, Sql.Of($"1 = 1"))}")
                        ).Prepend(Sql.Of($"1 = 1"))
                    )}
                    """
                )
        );
        var holders = targets.Select(
            (target, place) =>
                Sql.Of(
                    $"(SELECT MIN(k.ordinal) FROM {Keys(place)} k WHERE "
                        + $"{KeyConditions.OnKeys(target.Reference.Columns)} AND {Holds(target)})"
                )
        );
        Sql After(ColumnSchema column)
        {
            var moves = targets
                .Select(
                    (target, place) =>
                        (
                            Target: target,
                            Place: place,
                            Part: target
                                .Reference.Columns.ToList()
                                .FindIndex(name => Identifiers.Same(name, column.Name))
                        )
                )
                .Where(each => each.Part >= 0 && each.Place < moved)
                .Select(each =>
                    Sql.Of(
                        $"WHEN {Points(each.Place, Sql.Of($"k.ordinal > 0 AND {Holds(each.Target)}"))} THEN "
                            + $"{session.Dialect.Write(each.Target.Keys[0].Parts[each.Part], column)}"
                    )
                )
                .ToList();
            return moves.Count == 0
                ? Sql.Of($"t.{new SqlName(column.Name)}")
                : Sql.Of(
                    $"CASE {Sql.Join(" ", moves)} ELSE t.{new SqlName(column.Name)} END AS {new SqlName(column.Name)}"
                );
        }

        var was = table.Columns.Select(
            (column, place) => Sql.Of($"t.{new SqlName(column.Name)} AS {new SqlName($"kettlefog_was_{place}")}")
        );
        var terms = unique
            .Parts.Select(part =>
                Compared(
                    part.Column is null
                        ? Sql.Of($"({Sql.Literal(part.Expression!)})")
                        : Sql.Of($"i.{new SqlName(part.Column)}"),
                    part
                )
            )
            .ToList();
        var counted = terms
            .Where(_ => !unique.NullsCollide)
            .Select(term => Sql.Of($"({term}) IS NOT NULL"))
            .Append(unique.Filter is null ? Sql.Of($"1 = 1") : Sql.Of($"({Sql.Literal(unique.Filter)})"));
        var rows = await session.QueryAsync(
            Sql.Of(
                $"""
                WITH {Sql.Join(", ", tables)}
                SELECT m.{Group}, m.{Holder}, {Sql.Join(
                    ", ",
                    table.Columns.Select(
                        (_, place) => session.Dialect.Read(Sql.Of($"m.{new SqlName($"kettlefog_was_{place}")}"))
                    )
                )}
                FROM (SELECT i.*, COUNT(*) OVER (PARTITION BY {Sql.Join(
                    ", ",
                    terms
                )}) AS {Meeting}, DENSE_RANK() OVER (ORDER BY {Sql.Join(", ", terms)}) AS {Group}
                      FROM (SELECT COALESCE({Sql.Join(", ", holders.Append(Sql.Of($"-1")))}) AS {Holder}, {Sql.Join(
                    ", ",
                    was
                )}, {Sql.Join(", ", table.Columns.Select(After))}
                            FROM ({Sql.Join(" UNION ALL ", candidates)}) t) i
                      WHERE {Sql.Join(" AND ", counted)}) m
                WHERE m.{Meeting} > 1 LIMIT {(long)MaxCollidingRows}
                """
            ),
            row => (Group: row.Long(), Holder: (int)row.Long(), Values: row.Values(table.Columns.Count)),
            cancellationToken
        );
        return
        [
            .. Groups(table, Concerned(unique).Reference.Key, unique, rows).Select(each => (unique.Description, each)),
        ];
    }

    /// <summary>
    /// Rows that do not conflict in the end, but would temporarily, because references move their rows one after the
    /// other and one of them has a condition.
    /// </summary>
    private async Task<IEnumerable<string>> OnTheWayAsync(
        UniqueKey unique,
        List<(string Values, List<CollidingRow> Rows)> inTheEnd,
        CancellationToken cancellationToken
    )
    {
        var found = new List<string>();
        for (var moved = 1; moved < targets.Count; moved++)
        {
            foreach (var (values, rows) in await MeetingAfterwardsAsync(unique, moved, cancellationToken))
            {
                if (
                    !inTheEnd.Exists(group =>
                        rows.TrueForAll(row => group.Rows.Exists(other => other.Key.Equals(row.Key)))
                    )
                )
                    found.Add(
                        $"Rows {string.Join(" and ", rows.Select(row => row.Key))} of {table.Name} block each "
                            + $"other: one cannot move before the other, as {values} must be unique "
                            + $"({unique.Name})."
                    );
            }
        }

        return found.Distinct();
    }

    /// <summary>The rows by the groups in which they conflict.</summary>
    /// <exception cref="KettlefogException">There are more than were read, so some would be missed.</exception>
    private static IEnumerable<List<CollidingRow>> Groups(
        TableSchema where,
        IReadOnlyList<string> rowKey,
        UniqueKey unique,
        List<(long Group, int Holder, IReadOnlyList<ColumnValue> Values)> rows
    )
    {
        if (rows.Count == MaxCollidingRows)
            throw new KettlefogException(
                ErrorCode.DatabaseRefused,
                $"More than {MaxCollidingRows.ToString(CultureInfo.InvariantCulture)} rows of {where.Name} "
                    + $"collide by {unique.Name}.",
                "Merge fewer records at once, or void copies in the operational system first."
            );
        return rows.GroupBy(row => row.Group)
            .Select(group =>
                group
                    .Select(row => new CollidingRow(
                        new RecordKey([.. rowKey.Select(column => row.Values[where.IndexOf(column)])]),
                        row.Holder,
                        row.Values,
                        []
                    ))
                    .ToList()
            );
    }

    private Sql Compared(Sql value, KeyPart part) =>
        part.Collation is null ? value : session.Dialect.Collate(value, part.Collation);

    /// <summary>Rows that refer to rows that may be removed, and why they could not move with them.</summary>
    private async Task<(IReadOnlyList<Collision> Collisions, IReadOnlyList<string> Obstacles)> WithDependentsAsync(
        Reference reference,
        HashSet<string> referringColumns,
        List<Collision> collisions,
        CancellationToken cancellationToken
    )
    {
        var rows = collisions.SelectMany(collision => collision.Rows).DistinctBy(row => row.Key).ToList();
        var found = rows.ToDictionary(row => row.Key, _ => new List<DependentRows>());
        var obstacles = new List<string>();
        foreach (var source in DependentsOf(reference))
        {
            var dependent = catalog.Require(source.Table);
            var target = table.Require(source.To);
            var values = rows.Select(row =>
                    (row.Key, Target: new RecordKey([.. target.Select(column => row.Row[table.IndexOf(column.Name)])]))
                )
                .Where(row => row.Target.Parts.All(part => !part.IsNull))
                .ToList();
            if (values.Count == 0)
                continue;
            var counts = await session.QueryAsync(
                Sql.Of(
                    $"""
                    WITH {session.Keys.Table([.. values.Select(row => row.Target)], target)}
                    SELECT k.ordinal, COUNT(*) FROM keys k {session.Dialect.LookupJoin} {session.Dialect.Table(
                        dependent
                    )} t WHERE {KeyConditions.OnKeys(source.Columns)} AND {session.Keys.Holds(
                        source.When,
                        dependent,
                        "t"
                    )} GROUP BY k.ordinal
                    """
                ),
                row => (Place: (int)row.Long(), Count: row.Long()),
                cancellationToken
            );
            if (counts.Count == 0)
                continue;
            foreach (var (place, count) in counts)
                found[values[place].Key]
                    .Add(new DependentRows(dependent.Name, source.Columns, source.To, count) { When = source.When });
            if (dependent.PrimaryKey.Count == 0)
                obstacles.Add(
                    $"Rows of {dependent.Name} refer to conflicting {reference.Title.ToLowerInvariant()}, and "
                        + "cannot move with them: the table has no primary key."
                );
            if (source.To.Any(referringColumns.Contains))
                obstacles.Add(
                    $"Rows of {dependent.Name} refer to conflicting {reference.Title.ToLowerInvariant()} by a "
                        + $"column that changes itself ({string.Join(", ", source.To)})."
                );
            foreach (
                var unique in UniqueKeysWith(dependent, source.Columns.ToHashSet(StringComparer.OrdinalIgnoreCase))
                    .Where(key => key.Columns.All(column => column is not null))
            )
            {
                foreach (var collision in collisions)
                {
                    var targets = values
                        .Where(row => collision.Rows.Any(each => each.Key.Equals(row.Key)))
                        .Select(row => row.Target)
                        .ToList();
                    if (
                        targets.Count > 1
                        && (
                            await MeetingAsync(
                                dependent,
                                source.Columns,
                                session.Keys.Holds(source.When, dependent, "t"),
                                dependent.PrimaryKey,
                                unique,
                                targets,
                                target,
                                cancellationToken
                            )
                        ).FirstOrDefault()
                            is { Rows: not null } deep
                    )
                        obstacles.Add(
                            $"{reference.Title} {string.Join(" and ", collision.Rows.Select(row => row.Key))} "
                                + $"conflict, and so would rows that refer to them: {deep.Values} must be unique in "
                                + $"{dependent.Name} ({unique.Name})."
                        );
                }
            }
        }

        return (
            [
                .. collisions.Select(collision =>
                    collision with
                    {
                        Rows = [.. collision.Rows.Select(row => row with { Dependents = found[row.Key] })],
                    }
                ),
            ],
            obstacles
        );
    }

    /// <summary>What refers to rows of the table: declared foreign keys, and what the map names.</summary>
    private IEnumerable<DependentReference> DependentsOf(Reference reference)
    {
        var declared = catalog
            .Tables.SelectMany(each =>
                each.ForeignKeys.Where(key => Identifiers.Same(key.Target, table.Name))
                    .Select(key => new DependentReference(
                        each.Name,
                        each.Name,
                        key.Columns,
                        key.TargetColumns,
                        new Dictionary<string, string>()
                    ))
            )
            .ToList();
        return declared.Concat(
            reference.Dependents.Where(named =>
                !declared.Any(key =>
                    Identifiers.Same(key.Table, named.Table)
                    && key.Columns.SequenceEqual(named.Columns, StringComparer.OrdinalIgnoreCase)
                )
            )
        );
    }
}
