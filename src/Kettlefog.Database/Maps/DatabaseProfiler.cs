using Kettlefog.Core.Drafting;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Maps;

/// <summary>
/// Reads the input of a draft: a sample of each table, and how well the values support guessed references.
/// </summary>
internal sealed class DatabaseProfiler(Session session, DatabaseCatalog catalog)
{
    private const int SampledRows = 200;
    private const int MaxValueLength = 400;
    private const int MeasuredValues = 300;

    /// <summary>Samples all tables; views are left out, as their rows cannot be merged.</summary>
    /// <param name="name">The name of the database.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<DatabaseProfile> ReadAsync(string name, CancellationToken cancellationToken)
    {
        var tables = new List<TableProfile>();
        foreach (var table in catalog.Tables.Where(table => !table.IsView))
            tables.Add(await SampleAsync(table, cancellationToken));
        return new DatabaseProfile(name, tables);
    }

    /// <summary>Measures the share of a guessed reference's values found among those it refers to.</summary>
    public async Task<ReferenceGuess> MeasureAsync(ReferenceGuess guess, CancellationToken cancellationToken)
    {
        var (table, target) = (catalog.Require(guess.Table), catalog.Require(guess.Target));
        var pairs = table
            .Require(guess.Columns)
            .Zip(target.Require(guess.TargetColumns), (column, key) => (Column: column, Key: key))
            .ToList();
        if (table == target && guess.Prefix is null)
            guess = guess with { PointsAtItself = await AnyPointsAtItselfAsync(table, pairs, cancellationToken) };
        if (guess.Declared)
            return guess;
        Sql Value(ColumnSchema column) => Sql.Of($"t.{new SqlName(column.Name)}");
        Sql Taken(int part) => Sql.Of($"s.{new SqlName($"v{part}")}");
        var filled = Sql.Join(
            " AND ",
            pairs.Select(pair =>
                pair.Column.Storage == StorageClass.Text
                    ? Sql.Of($"{Value(pair.Column)} IS NOT NULL AND {Value(pair.Column)} <> ''")
                    : Sql.Of($"{Value(pair.Column)} IS NOT NULL")
            )
        );

        // Databases count characters, and not halves of surrogate pairs.
        var length = (long)(guess.Prefix ?? "").EnumerateRunes().Count();
        var holds = guess switch
        {
            { When: { } when } => Sql.Of(
                $"{session.Dialect.AsText(Sql.Of($"t.{new SqlName(when.Column)}"))} = {when.Value}"
            ),
            { Prefix: { } prefix } => Sql.Of(
                $"SUBSTR({Value(pairs[0].Column)}, 1, {session.Dialect.AsInteger(Sql.Of($"{length}"))}) = {prefix}"
            ),
            _ => Sql.Of($"1 = 1"),
        };

        // Text and numbers are compared as text; columns of one type directly, so that an index is used.
        var meets = Sql.Join(
            " AND ",
            pairs.Select(
                (pair, part) =>
                {
                    var pointed = Sql.Of($"k.{new SqlName(pair.Key.Name)}");
                    return pair.Column.IsComparableWith(pair.Key)
                        ? Sql.Of($"{pointed} = {Taken(part)}")
                        : Sql.Of($"{session.Dialect.AsText(pointed)} = {session.Dialect.AsText(Taken(part))}");
                }
            )
        );
        var values = Sql.Join(
            ", ",
            pairs.Select(
                (pair, part) =>
                    guess.Prefix is null
                        ? Sql.Of($"{Value(pair.Column)} AS {new SqlName($"v{part}")}")
                        : Sql.Of(
                            $"SUBSTR({Value(pair.Column)}, "
                                + $"{session.Dialect.AsInteger(Sql.Of($"{length + 1}"))}) AS "
                                + $"{new SqlName($"v{part}")}"
                        )
            )
        );
        var (all, there) = (
            await session.QueryAsync(
                Sql.Of(
                    $"""
                    SELECT COUNT(*), COUNT(CASE WHEN EXISTS (SELECT 1 FROM {session.Dialect.Table(
                        target
                    )} k WHERE {meets}) THEN 1 END)
                    FROM (SELECT DISTINCT {values} FROM {session.Dialect.Table(
                        table
                    )} t WHERE {filled} AND {holds} LIMIT {(long)MeasuredValues}) s
                    """
                ),
                row => (row.Long(), row.Long()),
                cancellationToken
            )
        )[0];
        return guess with { Included = all == 0 ? null : (double)there / all, Measured = all };
    }

    private async Task<bool> AnyPointsAtItselfAsync(
        TableSchema table,
        IReadOnlyList<(ColumnSchema Column, ColumnSchema Key)> pairs,
        CancellationToken cancellationToken
    )
    {
        var same = pairs.Select(pair =>
            Sql.Of(
                $"{session.Dialect.AsText(Sql.Of($"t.{new SqlName(pair.Column.Name)}"))} = "
                    + $"{session.Dialect.AsText(Sql.Of($"t.{new SqlName(pair.Key.Name)}"))}"
            )
        );
        return await session.QueryLongAsync(
                Sql.Of(
                    $"SELECT COUNT(*) FROM (SELECT 1 FROM {session.Dialect.Table(table)} t WHERE "
                        + $"{Sql.Join(" AND ", same)} LIMIT 1) s"
                ),
                cancellationToken
            ) > 0;
    }

    private async Task<TableProfile> SampleAsync(TableSchema table, CancellationToken cancellationToken)
    {
        var read = table.Columns.Select(column =>
            column.Storage == StorageClass.Blob
                ? Sql.Of($"NULL")
                : session.Dialect.Read(Sql.Of($"t.{new SqlName(column.Name)}"))
        );
        var rows = await session.QueryAsync(
            Sql.Of($"SELECT {Sql.Join(", ", read)} FROM {session.Dialect.Table(table)} t LIMIT {(long)SampledRows}"),
            row => row.Values(table.Columns.Count),
            cancellationToken
        );
        var count = await session.QueryLongAsync(
            Sql.Of(
                $"SELECT COUNT(*) FROM (SELECT 1 FROM {session.Dialect.Table(table)} t LIMIT "
                    + $"{TableProfile.MaxCounted}) s"
            ),
            cancellationToken
        );
        return new TableProfile(
            table,
            [
                .. table.Columns.Select(
                    (column, at) =>
                        new ColumnProfile(
                            column,
                            [
                                .. rows.Select(row => row[at].ToText())
                                    .OfType<string>()
                                    .Where(text => !string.IsNullOrWhiteSpace(text))
                                    .Select(text => text.Length > MaxValueLength ? text[..MaxValueLength] : text),
                            ]
                        )
                ),
            ]
        )
        {
            Rows = count,
            UniqueColumns =
                table.PrimaryKey.Count == 0 && count > 0 ? await UniqueColumnsAsync(table, cancellationToken) : [],
        };
    }

    /// <summary>The columns whose values are all given and all different, in all rows.</summary>
    private async Task<IReadOnlyList<string>> UniqueColumnsAsync(TableSchema table, CancellationToken cancellationToken)
    {
        var candidates = table
            .Columns.Where(column =>
                column is { Generated: false, Storage: StorageClass.Integer or StorageClass.Text or null }
            )
            .ToList();
        var unique = new List<string>();

        // Most columns repeat a value among their first rows, and are not read whole.
        foreach (var column in candidates)
        {
            var name = new SqlName(column.Name);
            Sql Repeats(Sql rows) =>
                Sql.Of(
                    $"SELECT COUNT(*) - COUNT(DISTINCT {session.Dialect.AsText(Sql.Of($"s.{name}"))}) FROM {rows} s"
                );
            var some = Sql.Of(
                $"(SELECT t.{name} FROM {session.Dialect.Table(table)} t LIMIT {TableProfile.MaxCounted})"
            );
            if (
                await session.QueryLongAsync(Repeats(some), cancellationToken) == 0
                && await session.QueryLongAsync(Repeats(session.Dialect.Table(table)), cancellationToken) == 0
            )
                unique.Add(column.Name);
        }

        return unique;
    }
}
