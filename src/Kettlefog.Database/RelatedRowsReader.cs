using System.Globalization;
using Kettlefog.Core;
using Kettlefog.Core.Maps;
using Kettlefog.Core.Planning;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;

namespace Kettlefog.Database;

/// <summary>Reads what hangs on records by their references.</summary>
internal sealed class RelatedRowsReader(Session session, DatabaseCatalog catalog)
{
    private const int MostCollidingRows = 10_000;

    /// <summary>A name that no column of anybody's table has.</summary>
    private static readonly Sql Holder = Sql.Literal("kettlefog_holder");

    /// <summary>What each record has by each reference, read in one statement.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="references">The references.</param>
    /// <param name="keys">The records; at least one.</param>
    /// <param name="withDigest">True to digest all columns of all rows; else the digests are empty.</param>
    /// <param name="cancel">Cancels.</param>
    /// <returns>For each reference, in their order, the related rows of each record, in the order of the keys.</returns>
    public async Task<IReadOnlyList<IReadOnlyList<RelatedRows>>> ReadAsync(
        RecordType type,
        IReadOnlyList<Reference> references,
        IReadOnlyList<RecordKey> keys,
        bool withDigest,
        CancellationToken cancel)
    {
        if (references.Count == 0)
            return [];
        var figures = references.Select(reference => type.Figures.Where(figure => figure.Reference == reference.Name).ToList()).ToList();
        var width = figures.Max(each => each.Count);
        var selects = references.Select((reference, index) => Select(type, reference, index, figures[index], width, withDigest));
        var result = references
            .Select((reference, index) => Enumerable.Repeat(None(reference, figures[index]), keys.Count).ToArray())
            .ToArray();
        var rows = session.StreamAsync(
            Sql.Of($"WITH {session.Keys.Table(keys, KeyOf(type))} {Sql.Join(" UNION ALL ", selects)}"),
            row => (Reference: (int)row.Long(), Record: (int)row.Long(), Count: row.Long(), Worth: row.OptionalText(), Digest: row.Text(), Figures: row.Values(width)),
            cancel);
        await foreach (var row in rows)
        {
            var values = figures[row.Reference]
                .Select((figure, index) => (figure.Name, Value: Normalise(figure, row.Figures[index])))
                .ToDictionary(pair => pair.Name, pair => pair.Value);
            result[row.Reference][row.Record] = new RelatedRows(row.Count, Worth(references[row.Reference], row.Worth), values, row.Digest);
        }

        return result;
    }

    private Sql Select(RecordType type, Reference reference, int index, List<Figure> figures, int width, bool withDigest)
    {
        var table = catalog.Require(reference.Table);
        var worth = reference.Amount is null ? Nothing : session.Engine.DecimalSum(Column(reference.Amount));

        // Records that become one are not related rows of one another.
        var others = Same(reference.Table, type.Table)
            ? Sql.Of($"NOT EXISTS (SELECT 1 FROM keys s WHERE {Sql.Join(" AND ", type.Key.Select((column, part) => Sql.Of($"s.{new SqlName($"key_{part + 1}")} = t.{new SqlName(column)}")))})")
            : Sql.Of($"1 = 1");
        var digest = withDigest ? session.Engine.RowDigest([.. table.Columns.Select(column => Column(column.Name))]) : Sql.Of($"''");
        var computed = figures.Select(FigureSql).Concat(Enumerable.Repeat(Nothing, width - figures.Count));
        var columns = new[] { Sql.Literal(index.ToString(CultureInfo.InvariantCulture)), Sql.Of($"k.ordinal"), Sql.Of($"COUNT(*)"), worth, digest }.Concat(computed);
        return Sql.Of($"""
            SELECT {Sql.Join(", ", columns)}
            FROM keys k CROSS JOIN {session.Engine.Table(table)} t
            WHERE {KeyMatch.OnKeys(reference.Columns)} AND {session.Keys.Holds(reference, table, "t")} AND {others} GROUP BY k.ordinal
            """);
    }

    private static RelatedRows None(Reference reference, List<Figure> figures) => new(
        0,
        Worth(reference, null),
        figures.ToDictionary(figure => figure.Name, figure => Normalise(figure, ColumnValue.Null)),
        "");

    /// <summary>For some records and all above them in their own hierarchy, the key of the parent.</summary>
    public async Task<IReadOnlyDictionary<RecordKey, RecordKey?>> ParentsAsync(RecordType type, Reference reference, IReadOnlyList<RecordKey> keys, CancellationToken cancel)
    {
        var table = catalog.Require(type.Table);
        var name = session.Engine.Table(table);
        var parts = type.Key.Count;
        var columns = Sql.Join(", ", type.Key.Concat(reference.Columns).Select(column => Sql.Of($"t.{new SqlName(column)}")));
        var names = Sql.Join(", ", Enumerable.Range(1, parts).Select(part => $"own_{part}").Concat(Enumerable.Range(1, parts).Select(part => $"above_{part}")));
        var up = Sql.Join(" AND ", type.Key.Select((column, part) => Sql.Of($"t.{new SqlName(column)} = u.{new SqlName($"above_{part + 1}")}")));
        var holds = session.Keys.Holds(reference, table, "t");
        var read = Enumerable.Range(1, parts).Select(part => $"own_{part}").Concat(Enumerable.Range(1, parts).Select(part => $"above_{part}"));

        // UNION, not UNION ALL: it ends even where the hierarchy has a loop already.
        var rows = await session.QueryAsync(
            Sql.Of($"""
                WITH RECURSIVE {session.Keys.Table(keys, KeyOf(type))}, up ({names}) AS (
                  SELECT {columns} FROM keys k CROSS JOIN {name} t WHERE {KeyMatch.OnKeys(type.Key)} AND {holds}
                  UNION
                  SELECT {columns} FROM up u CROSS JOIN {name} t WHERE {up} AND {holds})
                SELECT {Sql.Join(", ", read.Select(column => session.Engine.Read(Sql.Of($"{new SqlName(column)}"))))} FROM up
                """),
            row => (Key: row.Key(parts), Parent: row.Key(parts)),
            cancel);
        return rows.ToDictionary(row => row.Key, row => row.Parent.Parts.Any(part => part.IsNull) ? null : row.Parent);
    }

    /// <summary>The rows that could not all point at one record, by the unique keys that hold the reference.</summary>
    public async Task<(IReadOnlyList<Collision> Collisions, IReadOnlyList<string> Obstacles)> CollisionsAsync(
        RecordType type,
        Reference reference,
        IReadOnlyList<RecordKey> keys,
        CancellationToken cancel)
    {
        var table = catalog.Require(reference.Table);
        var collisions = new List<Collision>();
        foreach (var unique in UniqueKeysWith(table, reference.Columns))
        {
            var groups = await CollidingAsync(table, reference.Columns, session.Keys.Holds(reference, table, "t"), reference.Key, unique, keys, KeyOf(type), cancel);
            collisions.AddRange(groups.Select(group => new Collision(reference.Name, unique.Name, group.Values, group.Rows)));
        }

        if (collisions.Count == 0 || reference.Collision == CollisionPolicy.Block)
            return (collisions, []);
        return await WithDependentsAsync(reference, table, collisions, cancel);
    }

    private static IEnumerable<UniqueKey> UniqueKeysWith(TableSchema table, IReadOnlyList<string> columns) =>
        table.UniqueKeys.Append(new UniqueKey("primary key", [.. table.PrimaryKey], null))
            .Where(key => key.Columns.All(column => column is not null))
            .Where(key => key.Columns.Any(column => columns.Contains(column!, StringComparer.OrdinalIgnoreCase)));

    /// <summary>The groups of rows that would meet in a unique key if their columns held the same key.</summary>
    private async Task<IEnumerable<(string Values, List<CollidingRow> Rows)>> CollidingAsync(
        TableSchema table,
        IReadOnlyList<string> columns,
        Sql holds,
        IReadOnlyList<string> rowKey,
        UniqueKey unique,
        IReadOnlyList<RecordKey> keys,
        IReadOnlyList<ColumnSchema> keyColumns,
        CancellationToken cancel)
    {
        var others = unique.Columns
            .Select(column => column!)
            .Where(column => !columns.Contains(column, StringComparer.OrdinalIgnoreCase))
            .ToList();
        var filter = unique.Filter is null ? Sql.Of($"1 = 1") : Sql.Of($"({Sql.Literal(unique.Filter)})");
        var same = others.Select(column => Sql.Of($"other.{new SqlName(column)} = mine.{new SqlName(column)}")).Append(Sql.Of($"other.{Holder} <> mine.{Holder}"));

        // The unique key itself finds the rows of the other records; within one record it lets none collide.
        var rowsOfKeys = Sql.Of($"""
            (SELECT k.ordinal AS {Holder}, t.* FROM keys k CROSS JOIN {session.Engine.Table(table)} t
             WHERE {KeyMatch.OnKeys(columns)} AND {holds} AND {filter})
            """);
        var rows = await session.QueryAsync(
            Sql.Of($"""
                WITH {session.Keys.Table(keys, keyColumns)}
                SELECT mine.{Holder}, {Sql.Join(", ", table.Columns.Select(column => session.Engine.Read(Sql.Of($"mine.{new SqlName(column.Name)}"))))}
                FROM {rowsOfKeys} mine
                WHERE EXISTS (SELECT 1 FROM {rowsOfKeys} other WHERE {Sql.Join(" AND ", same)})
                LIMIT {(long)MostCollidingRows}
                """),
            row => (Holder: (int)row.Long(), Values: row.Values(table.Columns.Count)),
            cancel);
        if (rows.Count == MostCollidingRows)
            throw new Refusal(RefusalCode.DatabaseRefused, $"More than {MostCollidingRows} rows of {table.Name} collide by {unique.Name}.", "Merge fewer records at once, or void copies in the operational system first.");
        return rows
            .Select(row => new CollidingRow(new RecordKey([.. rowKey.Select(column => row.Values[table.PlaceOf(column)])]), row.Holder, row.Values, []))
            .GroupBy(row => string.Join(", ", others.Select(column => $"{column} = {row.Row[table.PlaceOf(column)]}")))
            .Select(group => (group.Key.Length > 0 ? group.Key : string.Join(", ", columns), group.ToList()));
    }

    /// <summary>What hangs on rows that may give way, and why it could not move along.</summary>
    private async Task<(IReadOnlyList<Collision> Collisions, IReadOnlyList<string> Obstacles)> WithDependentsAsync(
        Reference reference,
        TableSchema table,
        List<Collision> collisions,
        CancellationToken cancel)
    {
        var rows = collisions.SelectMany(collision => collision.Rows).DistinctBy(row => row.Key).ToList();
        var found = rows.ToDictionary(row => row.Key, _ => new List<DependentRows>());
        var obstacles = new List<string>();
        foreach (var (dependent, foreignKey) in catalog.Tables.SelectMany(each => each.ForeignKeys.Where(key => Same(key.Target, table.Name)).Select(key => (each, key))))
        {
            var target = table.Require(foreignKey.TargetColumns);
            var values = rows.Select(row => (row.Key, Target: new RecordKey([.. target.Select(column => row.Row[table.PlaceOf(column.Name)])]))).Where(row => row.Target.Parts.All(part => !part.IsNull)).ToList();
            if (values.Count == 0)
                continue;
            var counts = await session.QueryAsync(
                Sql.Of($"""
                    WITH {session.Keys.Table([.. values.Select(row => row.Target)], target)}
                    SELECT k.ordinal, COUNT(*) FROM keys k CROSS JOIN {session.Engine.Table(dependent)} t WHERE {KeyMatch.OnKeys(foreignKey.Columns)} GROUP BY k.ordinal
                    """),
                row => (Place: (int)row.Long(), Count: row.Long()),
                cancel);
            if (counts.Count == 0)
                continue;
            foreach (var (place, count) in counts)
                found[values[place].Key].Add(new DependentRows(dependent.Name, foreignKey.Columns, foreignKey.TargetColumns, count));
            if (dependent.PrimaryKey.Count == 0)
                obstacles.Add($"Rows of {dependent.Name} hang on {reference.Title.ToLowerInvariant()} that collide, and cannot move along: the table has no primary key.");
            if (foreignKey.TargetColumns.Any(column => reference.Columns.Contains(column, StringComparer.OrdinalIgnoreCase)))
                obstacles.Add($"Rows of {dependent.Name} hang on {reference.Title.ToLowerInvariant()} that collide by a column that changes itself ({string.Join(", ", foreignKey.TargetColumns)}).");
            foreach (var unique in UniqueKeysWith(dependent, foreignKey.Columns))
            {
                foreach (var collision in collisions)
                {
                    var targets = values.Where(row => collision.Rows.Any(each => each.Key.Equals(row.Key))).Select(row => row.Target).ToList();
                    if (targets.Count > 1 && (await CollidingAsync(dependent, foreignKey.Columns, Sql.Of($"1 = 1"), dependent.PrimaryKey, unique, targets, target, cancel)).FirstOrDefault() is { Rows: not null } deep)
                        obstacles.Add($"{reference.Title} {string.Join(" and ", collision.Rows.Select(row => row.Key))} collide, and so would what hangs on them: {deep.Values} must be unique in {dependent.Name} ({unique.Name}).");
                }
            }
        }

        return ([.. collisions.Select(collision => collision with { Rows = [.. collision.Rows.Select(row => row with { Dependents = found[row.Key] })] })], obstacles);
    }

    private Sql FigureSql(Figure figure) => figure.Operation switch
    {
        FigureOperation.Count => session.Engine.Read(Sql.Of($"COUNT(*)")),
        FigureOperation.Sum => session.Engine.DecimalSum(Column(figure.Column!)),
        FigureOperation.Last => session.Engine.Read(Sql.Of($"MAX({Column(figure.Column!)})")),
        _ => session.Engine.Read(Sql.Of($"MIN({Column(figure.Column!)})")),
    };

    private static ColumnValue Normalise(Figure figure, ColumnValue value) => figure.Operation switch
    {
        FigureOperation.Count => ColumnValue.Of(value.IsNull ? 0L : long.Parse(value.ToText()!, CultureInfo.InvariantCulture)),
        FigureOperation.Sum => value.IsNull ? ColumnValue.Of("0") : value,
        _ => value,
    };

    private static decimal? Worth(Reference reference, string? sum) =>
        reference.Amount is null ? null : decimal.Parse(sum ?? "0", CultureInfo.InvariantCulture);

    private static bool Same(string left, string right) => string.Equals(left, right, StringComparison.OrdinalIgnoreCase);

    private static Sql Nothing => Sql.Of($"CAST(NULL AS TEXT)");

    private IReadOnlyList<ColumnSchema> KeyOf(RecordType type) => catalog.Require(type.Table).Require(type.Key);

    private static Sql Column(string name) => Sql.Of($"t.{new SqlName(name)}");
}
