using System.Globalization;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Records;

/// <summary>Reads the related rows of records.</summary>
internal sealed class RelatedRowsReader(Session session, DatabaseCatalog catalog)
{
    /// <summary>The related rows of each record by each reference, read in one statement.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="targets">The references, with the values that refer to each record.</param>
    /// <param name="keys">The records; at least one.</param>
    /// <param name="whole">
    /// True to digest all columns of all rows and to sum their amounts; otherwise the digests are empty and the amounts
    /// null.
    /// </param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>
    /// For each reference, in their order, the related rows of each record, in the order of the keys.
    /// </returns>
    public async Task<IReadOnlyList<IReadOnlyList<RelatedRows>>> ReadAsync(
        RecordType type,
        IReadOnlyList<ReferenceTarget> targets,
        IReadOnlyList<RecordKey> keys,
        bool whole,
        CancellationToken cancellationToken
    )
    {
        if (targets.Count == 0)
            return [];
        var references = targets.Select(target => target.Reference).ToList();
        var figures = references
            .Select(reference => type.Figures.Where(figure => figure.Reference == reference.Name).ToList())
            .ToList();
        var width = figures.Max(each => each.Count);
        var selects = targets.Select((target, index) => Select(type, target, index, figures[index], width, whole));
        var byColumns = targets
            .Select((target, index) => (target, index))
            .Where(each => !each.target.IsRecordKey)
            .Select(each => session.Keys.Table(each.target.Keys, each.target.Columns, KeysName(each.index)));
        var result = references
            .Select((reference, index) => Enumerable.Repeat(None(reference, figures[index]), keys.Count).ToArray())
            .ToArray();
        var rows = session.StreamAsync(
            Sql.Of(
                $"WITH {Sql.Join(", ", byColumns.Prepend(session.Keys.Table(keys, KeyOf(type))))} "
                    + $"{Sql.Join(" UNION ALL ", selects)}"
            ),
            row =>
                (
                    Reference: (int)row.Long(),
                    Record: (int)row.Long(),
                    Count: row.Long(),
                    Amount: row.OptionalText(),
                    Digest: row.Text(),
                    Figures: row.Values(width)
                ),
            cancellationToken
        );
        await foreach (var row in rows)
        {
            var values = figures[row.Reference]
                .Select(
                    (figure, index) =>
                        (
                            figure.Name,
                            Value: Normalise(
                                figure,
                                !IsAmount(figure, references[row.Reference]) ? row.Figures[index]
                                    : row.Amount is null ? ColumnValue.Null
                                    : ColumnValue.Of(row.Amount)
                            )
                        )
                )
                .ToDictionary(pair => pair.Name, pair => pair.Value);
            result[row.Reference][row.Record] = new RelatedRows(
                row.Count,
                references[row.Reference].Amount is null ? null : ExactSum.Read(row.Amount).Total,
                values,
                row.Digest
            );
        }

        return result;
    }

    private Sql Select(RecordType type, ReferenceTarget target, int index, List<Figure> figures, int width, bool whole)
    {
        var (reference, table) = (target.Reference, target.Table);
        var amount =
            reference.Amount is null || !(whole || figures.Exists(figure => IsAmount(figure, reference)))
                ? Nothing
                : session.Dialect.DecimalSum(Column(reference.Amount), table.Find(reference.Amount));

        // The records of a merge are not related rows of one another.
        var isRecord = type.Key.Select(
            (column, part) => Sql.Of($"s.{new SqlName($"key_{part + 1}")} = t.{new SqlName(column)}")
        );
        var others = Identifiers.Same(reference.Table, type.Table)
            ? Sql.Of($"NOT EXISTS (SELECT 1 FROM keys s WHERE {Sql.Join(" AND ", isRecord)})")
            : Sql.Of($"1 = 1");
        var digest = whole ? session.Dialect.RowDigest(table, "t") : Sql.Of($"''");
        var computed = figures
            .Select(figure => IsAmount(figure, reference) ? Nothing : FigureSql(figure, table))
            .Concat(Enumerable.Repeat(Nothing, width - figures.Count));
        var columns = new[]
        {
            Sql.Literal(index.ToString(CultureInfo.InvariantCulture)),
            Sql.Of($"k.ordinal"),
            Sql.Of($"COUNT(*)"),
            amount,
            digest,
        }.Concat(computed);
        return Sql.Of(
            $"""
            SELECT {Sql.Join(", ", columns)}
            FROM {new SqlName(
                target.IsRecordKey ? "keys" : KeysName(index)
            )} k {session.Dialect.LookupJoin} {session.Dialect.Table(table)} t
            WHERE {KeyConditions.OnKeys(reference.Columns)} AND {session.Keys.Holds(
                reference,
                table,
                "t"
            )} AND {others} GROUP BY k.ordinal
            """
        );
    }

    private static string KeysName(int reference) => $"keys_{reference}";

    private static RelatedRows None(Reference reference, List<Figure> figures) =>
        new(
            0,
            reference.Amount is null ? null : 0,
            figures.ToDictionary(figure => figure.Name, figure => Normalise(figure, ColumnValue.Null)),
            ""
        );

    /// <summary>For some records and all above them in their own hierarchy, the key of the parent.</summary>
    public async Task<IReadOnlyDictionary<RecordKey, RecordKey?>> ParentsAsync(
        RecordType type,
        Reference reference,
        IReadOnlyList<RecordKey> keys,
        CancellationToken cancellationToken
    )
    {
        var table = catalog.Require(type.Table);
        var name = session.Dialect.Table(table);
        var parts = type.Key.Count;
        var columns = Sql.Join(
            ", ",
            type.Key.Concat(reference.Columns).Select(column => Sql.Of($"t.{new SqlName(column)}"))
        );
        var names = Sql.Join(
            ", ",
            Enumerable
                .Range(1, parts)
                .Select(part => $"own_{part}")
                .Concat(Enumerable.Range(1, parts).Select(part => $"above_{part}"))
        );
        var up = Sql.Join(
            " AND ",
            type.Key.Select((column, part) => Sql.Of($"t.{new SqlName(column)} = u.{new SqlName($"above_{part + 1}")}"))
        );
        var holds = session.Keys.Holds(reference, table, "t");
        var read = Enumerable
            .Range(1, parts)
            .Select(part => $"own_{part}")
            .Concat(Enumerable.Range(1, parts).Select(part => $"above_{part}"));

        // UNION, not UNION ALL: it ends even if the hierarchy already has a loop.
        var rows = await session.QueryAsync(
            Sql.Of(
                $"""
                WITH RECURSIVE {session.Keys.Table(keys, KeyOf(type))}, up ({names}) AS (
                  SELECT {columns} FROM keys k {session.Dialect.LookupJoin} {name} t WHERE {KeyConditions.OnKeys(
                    type.Key
                )} AND {holds}
                  UNION
                  SELECT {columns} FROM up u {session.Dialect.LookupJoin} {name} t WHERE {up} AND {holds})
                SELECT {Sql.Join(
                    ", ",
                    read.Select(column => session.Dialect.Read(Sql.Of($"{new SqlName(column)}")))
                )} FROM up
                """
            ),
            row => (Key: row.Key(parts), Parent: row.Key(parts)),
            cancellationToken
        );
        return rows.ToDictionary(row => row.Key, row => row.Parent.Parts.Any(part => part.IsNull) ? null : row.Parent);
    }

    /// <summary>True if a figure is the amount of the rows, which is summed only once.</summary>
    private static bool IsAmount(Figure figure, Reference reference) =>
        figure.Operation == FigureOperation.Sum
        && reference.Amount is not null
        && Identifiers.Same(figure.Column!, reference.Amount);

    private Sql FigureSql(Figure figure, TableSchema table) =>
        figure.Operation switch
        {
            FigureOperation.Count => session.Dialect.Read(Sql.Of($"COUNT(*)")),
            FigureOperation.Sum => session.Dialect.DecimalSum(Column(figure.Column!), table.Find(figure.Column!)),
            FigureOperation.Last => session.Dialect.Read(Sql.Of($"MAX({Column(figure.Column!)})")),
            _ => session.Dialect.Read(Sql.Of($"MIN({Column(figure.Column!)})")),
        };

    private static ColumnValue Normalise(Figure figure, ColumnValue value) =>
        figure.Operation switch
        {
            FigureOperation.Count => ColumnValue.Of(
                value.IsNull ? 0L : long.Parse(value.ToText()!, CultureInfo.InvariantCulture)
            ),
            FigureOperation.Sum => ExactSum.Read(value.ToText()).ToValue(),
            _ => value,
        };

    private Sql Nothing => session.Dialect.AsText(Sql.Literal("NULL"));

    private IReadOnlyList<ColumnSchema> KeyOf(RecordType type) => catalog.Require(type.Table).Require(type.Key);

    private static Sql Column(string name) => Sql.Of($"t.{new SqlName(name)}");
}
