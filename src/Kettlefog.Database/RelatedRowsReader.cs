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

    /// <summary>What each record has by a reference, in the order of the keys.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="reference">The reference.</param>
    /// <param name="keys">The records; at least one.</param>
    /// <param name="withDigest">True to digest all columns of all rows; else the digests are empty.</param>
    /// <param name="cancel">Cancels.</param>
    public async Task<IReadOnlyList<RelatedRows>> ReadAsync(
        RecordType type,
        Reference reference,
        IReadOnlyList<RecordKey> keys,
        bool withDigest,
        CancellationToken cancel)
    {
        var table = catalog.Require(reference.Table);
        var figures = type.Figures.Where(figure => figure.Reference == reference.Name).ToList();
        var computed = figures.Select(FigureSql)
            .Append(reference.Amount is null ? Sql.Of($"NULL") : session.Engine.DecimalSum(Column(reference.Amount)))
            .Append(withDigest ? session.Engine.RowDigest([.. table.Columns.Select(column => Column(column.Name))]) : Sql.Of($"''"));
        var rows = await session.QueryAsync(
            Sql.Of($"""
                WITH {KeyMatch.Table(keys)}
                SELECT k.ordinal, COUNT(*), {Sql.Join(", ", computed)}
                FROM keys k JOIN {new SqlName(table.Name)} t ON {KeyMatch.OnKeys(reference.Columns)}
                WHERE {KeyMatch.Holds(reference, table)}
                GROUP BY k.ordinal
                """),
            row =>
            {
                var ordinal = (int)row.Long();
                var count = row.Long();
                var values = figures.ToDictionary(figure => figure.Name, figure => Normalise(figure, row.Value()));
                return (ordinal, new RelatedRows(count, Worth(reference, row.OptionalText()), values, row.Text()));
            },
            cancel);
        var none = new RelatedRows(
            0,
            Worth(reference, null),
            figures.ToDictionary(figure => figure.Name, figure => Normalise(figure, ColumnValue.Null)),
            "");
        var byOrdinal = rows.ToDictionary(row => row.ordinal, row => row.Item2);
        return [.. keys.Select((_, ordinal) => byOrdinal.GetValueOrDefault(ordinal, none))];
    }

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
        var partition = others.Count == 0 ? Sql.Of($"1") : Sql.Join(", ", others.Select(Column));
        var notNull = others.Select(column => Sql.Of($"{Column(column)} IS NOT NULL"));
        var conditions = notNull.Append(KeyMatch.Holds(reference, table));
        if (unique.Filter is not null)
            conditions = conditions.Append(Filter(unique.Filter));
        var columns = others.Concat(reference.Key).Select((name, index) => (Column: Column(name), Alias: new SqlName($"c{index}"))).ToList();
        var rows = await session.QueryAsync(
            Sql.Of($"""
                WITH {KeyMatch.Table(keys)}
                SELECT {Sql.Join(", ", columns.Select(column => Sql.Of($"{column.Alias}")))} FROM (
                  SELECT {Sql.Join(", ", columns.Select(column => Sql.Of($"{column.Column} AS {column.Alias}")))},
                    COUNT(*) OVER (PARTITION BY {partition}) AS together
                  FROM keys k JOIN {new SqlName(table.Name)} t ON {KeyMatch.OnKeys(reference.Columns)}
                  WHERE {Sql.Join(" AND ", conditions)})
                WHERE together > 1
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

    /// <summary>The condition of a partial index, which is the catalog's own text and no one's input.</summary>
    private static Sql Filter(string filter)
    {
        var sql = new Sql(1, 0);
        sql.AppendLiteral($"({filter})");
        return sql;
    }
}
