using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Records;

/// <summary>The values that a field may take, or usually takes.</summary>
/// <param name="IsClosed">True if the database allows no others; false if these are what records have now.</param>
/// <param name="Values">
/// The values in text form, each with the label of what it refers to, or null; empty if there are too many to list.
/// </param>
public sealed record FieldChoices(bool IsClosed, IReadOnlyList<(string Value, string? Label)> Values);

/// <summary>Reads what a field may hold: by a foreign key, a check, or because the column has few values.</summary>
internal sealed class FieldChoiceReader(Session session)
{
    /// <summary>So many can be chosen from; more are typed.</summary>
    private const int MaxListed = 200;

    /// <summary>A column with more values than these is no list of codes.</summary>
    private const int MaxUsual = 30;

    /// <summary>Reads the choices for a field.</summary>
    public async Task<FieldChoices> ReadAsync(RecordType type, Field field, CancellationToken cancellationToken)
    {
        var map = session.Map;
        var table = map.Catalog.Require(type.Table);
        var column = table.Require([field.Column])[0];
        if (column.Allowed is { } allowed)
            return new FieldChoices(true, [.. allowed.Select(value => (value, (string?)null))]);
        if (table.ForeignKeyOf(column.Name) is { } key && map.Catalog.Find(key.Target) is { } target)
            return new FieldChoices(true, await RowsOfAsync(target, key.TargetColumns[0], cancellationToken));
        return new FieldChoices(false, await UsualAsync(table, column, field, cancellationToken));
    }

    /// <summary>The rows of a table that a foreign key refers to, each with its first text.</summary>
    private async Task<IReadOnlyList<(string, string?)>> RowsOfAsync(
        TableSchema target,
        string keyColumn,
        CancellationToken cancellationToken
    )
    {
        var name = target.Columns.FirstOrDefault(column =>
            column.Storage == StorageClass.Text && !Identifiers.Same(column.Name, keyColumn)
        );
        var label = name is null ? Sql.Of($"NULL") : Text(name.Name);
        var rows = await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT {Text(keyColumn)}, {session.Dialect.AsText(label)} FROM {session.Dialect.Table(target)} t
                WHERE t.{new SqlName(keyColumn)} IS NOT NULL ORDER BY 1 LIMIT {MaxListed + 1L}
                """
            ),
            row => (row.Text(), row.OptionalText()),
            cancellationToken
        );
        return rows.Count > MaxListed ? [] : rows;
    }

    private async Task<IReadOnlyList<(string, string?)>> UsualAsync(
        TableSchema table,
        ColumnSchema column,
        Field field,
        CancellationToken cancellationToken
    )
    {
        if (field.Kind is FieldKind.LongText or FieldKind.Money or FieldKind.Number or FieldKind.Timestamp)
            return [];
        var rows = await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT DISTINCT {Text(column.Name)} FROM {session.Dialect.Table(table)} t
                WHERE t.{new SqlName(column.Name)} IS NOT NULL LIMIT {MaxUsual + 1L}
                """
            ),
            row => row.Text(),
            cancellationToken
        );
        return rows.Count > MaxUsual
            ? []
            :
            [
                .. rows.Where(value => !string.IsNullOrWhiteSpace(value))
                    .Order(StringComparer.Ordinal)
                    .Select(value => (value, (string?)null)),
            ];
    }

    private Sql Text(string column) => session.Dialect.AsText(Sql.Of($"t.{new SqlName(column)}"));
}
