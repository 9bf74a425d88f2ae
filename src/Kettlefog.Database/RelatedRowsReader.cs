using System.Globalization;
using Kettlefog.Core.Maps;
using Kettlefog.Core.Planning;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;

namespace Kettlefog.Database;

/// <summary>Reads what hangs on records by their references.</summary>
internal sealed class RelatedRowsReader(Session session, DatabaseCatalog catalog)
{
    private const int MostCollidingRows = 200;

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
        var selects = references.Select((reference, index) => Select(reference, index, figures[index], width, withDigest));
        var result = references
            .Select((reference, index) => Enumerable.Repeat(None(reference, figures[index]), keys.Count).ToArray())
            .ToArray();
        var rows = session.StreamAsync(
            Sql.Of($"WITH {KeyMatch.Table(keys)} {Sql.Join(" UNION ALL ", selects)}"),
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

    private Sql Select(Reference reference, int index, List<Figure> figures, int width, bool withDigest)
    {
        var table = catalog.Require(reference.Table);
        var worth = reference.Amount is null ? Sql.Of($"NULL") : session.Engine.DecimalSum(Column(reference.Amount));
        var digest = withDigest ? session.Engine.RowDigest([.. table.Columns.Select(column => Column(column.Name))]) : Sql.Of($"''");
        var computed = figures.Select(FigureSql).Concat(Enumerable.Repeat(Sql.Of($"NULL"), width - figures.Count));
        var columns = new[] { Sql.Literal(index.ToString(CultureInfo.InvariantCulture)), Sql.Of($"k.ordinal"), Sql.Of($"COUNT(*)"), worth, digest }.Concat(computed);
        return Sql.Of($"""
            SELECT {Sql.Join(", ", columns)}
            FROM keys k CROSS JOIN {new SqlName(table.Name)} t
            WHERE {KeyMatch.OnKeys(reference.Columns)} AND {KeyMatch.Holds(reference, table)} GROUP BY k.ordinal
            """);
    }

    private static RelatedRows None(Reference reference, List<Figure> figures) => new(
        0,
        Worth(reference, null),
        figures.ToDictionary(figure => figure.Name, figure => Normalise(figure, ColumnValue.Null)),
        "");

    /// <summary>The rows that could not all point at one record, by the unique keys that hold the reference.</summary>
    public async Task<IReadOnlyList<Collision>> CollisionsAsync(
        Reference reference,
        IReadOnlyList<RecordKey> keys,
        CancellationToken cancel)
    {
        var table = catalog.Require(reference.Table);
        var unique = table.UniqueKeys.Append(new UniqueKey("primary key", [.. table.PrimaryKey], null))
            .Where(key => key.Columns.All(column => column is not null))
            .Where(key => key.Columns.Any(column => reference.Columns.Contains(column!, StringComparer.OrdinalIgnoreCase)));
        var collisions = new List<Collision>();
        foreach (var key in unique)
            collisions.AddRange(await CollisionsAsync(reference, table, key, keys, cancel));
        return collisions;
    }

    private async Task<IEnumerable<Collision>> CollisionsAsync(
        Reference reference,
        TableSchema table,
        UniqueKey unique,
        IReadOnlyList<RecordKey> keys,
        CancellationToken cancel)
    {
        var others = unique.Columns
            .Select(column => column!)
            .Where(column => !reference.Columns.Contains(column, StringComparer.OrdinalIgnoreCase))
            .ToList();
        var holds = KeyMatch.Holds(reference, table);
        var filter = unique.Filter is null ? Sql.Of($"1 = 1") : Sql.Of($"({Sql.Literal(unique.Filter)})");
        var same = others.Select(column => Sql.Of($"other.{new SqlName(column)} = mine.{new SqlName(column)}")).Append(Sql.Of($"other.holder <> mine.holder"));
        var columns = others.Concat(reference.Key).ToList();

        // The unique key itself finds the rows of the other records; within one record it lets none collide.
        var rowsOfKeys = Sql.Of($"""
            (SELECT k.ordinal AS holder, t.* FROM keys k CROSS JOIN {new SqlName(table.Name)} t
             WHERE {KeyMatch.OnKeys(reference.Columns)} AND {holds} AND {filter})
            """);
        var rows = await session.QueryAsync(
            Sql.Of($"""
                WITH {KeyMatch.Table(keys)}
                SELECT {Sql.Join(", ", columns.Select(column => Sql.Of($"mine.{new SqlName(column)}")))}
                FROM {rowsOfKeys} mine
                WHERE EXISTS (SELECT 1 FROM {rowsOfKeys} other WHERE {Sql.Join(" AND ", same)})
                LIMIT {(long)MostCollidingRows}
                """),
            row => (Values: row.Values(others.Count), Key: row.Key(reference.Key.Count)),
            cancel);
        return rows
            .GroupBy(row => string.Join(", ", others.Select((column, index) => $"{column} = {row.Values[index]}")))
            .Select(group => new Collision(
                reference.Name,
                unique.Name,
                group.Key.Length > 0 ? group.Key : string.Join(", ", reference.Columns),
                [.. group.Select(row => row.Key)]));
    }

    private Sql FigureSql(Figure figure) => figure.Operation switch
    {
        FigureOperation.Count => Sql.Of($"COUNT(*)"),
        FigureOperation.Sum => session.Engine.DecimalSum(Column(figure.Column!)),
        FigureOperation.Last => Sql.Of($"MAX({Column(figure.Column!)})"),
        _ => Sql.Of($"MIN({Column(figure.Column!)})"),
    };

    private static ColumnValue Normalise(Figure figure, ColumnValue value) => figure.Operation switch
    {
        FigureOperation.Count => value.IsNull ? ColumnValue.Of(0L) : value,
        FigureOperation.Sum => value.IsNull ? ColumnValue.Of("0") : value,
        _ => value,
    };

    private static decimal? Worth(Reference reference, string? sum) =>
        reference.Amount is null ? null : decimal.Parse(sum ?? "0", CultureInfo.InvariantCulture);

    private static Sql Column(string name) => Sql.Of($"t.{new SqlName(name)}");
}
