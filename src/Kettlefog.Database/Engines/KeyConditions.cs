using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Engines;

/// <summary>Conditions on keys, as fragments of statements.</summary>
internal sealed class KeyConditions(SqlDialect dialect)
{
    /// <summary>The maximum number of key columns, given by the journal's tables.</summary>
    public const int MaxColumns = 8;

    /// <summary><c>keys (ordinal, key_1, …) AS (VALUES …)</c>, for a WITH clause.</summary>
    /// <param name="keys">The keys; at least one.</param>
    /// <param name="columns">The columns of the key.</param>
    /// <param name="name">A name other than <c>keys</c>, where a statement needs several.</param>
    public Sql Table(IReadOnlyList<RecordKey> keys, IReadOnlyList<ColumnSchema> columns, string name = "keys") =>
        dialect.ValuesTable(
            name,
            JournalColumns(columns.Count).Prepend("ordinal"),
            keys.Select(
                (key, ordinal) =>
                    Sql.Join(
                        ", ",
                        key.Parts.Select((part, index) => dialect.Write(part, columns[index]))
                            .Prepend(Sql.Of($"{(long)ordinal}"))
                    )
            )
        );

    /// <summary>
    /// Joins columns of <c>t</c> to <c>keys</c> as <c>k</c>. See <see cref="SqlDialect.LookupJoin"/>: each key
    /// is looked up, instead of scanning all rows that meet another condition.
    /// </summary>
    public static Sql OnKeys(IReadOnlyList<string> columns) =>
        Sql.Join(
            " AND ",
            columns.Select((column, index) => Sql.Of($"t.{new SqlName(column)} = k.{new SqlName($"key_{index + 1}")}"))
        );

    /// <summary>Columns equal to a key.</summary>
    /// <param name="columns">The columns.</param>
    /// <param name="key">The key.</param>
    /// <param name="alias">The alias of the table in the statement, or null.</param>
    public Sql Equal(IReadOnlyList<ColumnSchema> columns, RecordKey key, string? alias = null) =>
        Sql.Join(
            " AND ",
            columns.Select(
                (column, index) =>
                    Sql.Of(
                        $"{Sql.Literal(alias is null ? "" : alias + ".")}{new SqlName(column.Name)} = "
                            + $"{dialect.Write(key.Parts[index], column)}"
                    )
            )
        );

    /// <summary>The conditions of a reference; always true if it has none.</summary>
    /// <param name="reference">The reference.</param>
    /// <param name="table">The table of its rows.</param>
    /// <param name="alias">The alias of the table in the statement, or null.</param>
    public Sql Holds(Reference reference, TableSchema table, string? alias = null) =>
        Holds(reference.When, table, alias);

    /// <summary>Conditions on columns; always true if there are none.</summary>
    /// <param name="when">The columns and the text that each must have.</param>
    /// <param name="table">The table of the rows.</param>
    /// <param name="alias">The alias of the table in the statement, or null.</param>
    public Sql Holds(IReadOnlyDictionary<string, string> when, TableSchema table, string? alias = null) =>
        when.Count == 0
            ? Sql.Of($"1 = 1")
            : Sql.Join(
                " AND ",
                WhenCells(when, table)
                    .Select(cell =>
                        Sql.Of(
                            $"{Sql.Literal(alias is null ? "" : alias + ".")}{new SqlName(cell.Column.Name)} = "
                                + $"{dialect.Write(cell.Value, cell.Column)}"
                        )
                    )
            );

    /// <summary>The columns of conditions, with their values in the type of the column.</summary>
    public static IEnumerable<(ColumnSchema Column, ColumnValue Value)> WhenCells(
        IReadOnlyDictionary<string, string> when,
        TableSchema table
    ) =>
        when.Select(pair =>
        {
            var column = table.Require([pair.Key])[0];
            return (column, column.TryRead(pair.Value) ?? ColumnValue.Of(pair.Value));
        });

    /// <summary>The names of the journal's key columns.</summary>
    public static IEnumerable<string> JournalColumns(int count) =>
        Enumerable.Range(1, count).Select(number => $"key_{number}");

    /// <summary>A key's text form, computed by the database from columns of <c>t</c> or another alias.</summary>
    public Sql Text(IReadOnlyList<ColumnSchema> columns, string alias = "t") =>
        dialect.ConcatenateWith(
            '|',
            columns
                .Select(column =>
                    (
                        Schema: column,
                        Text: dialect.AsText(dialect.Read(Sql.Of($"{new SqlName(alias)}.{new SqlName(column.Name)}")))
                    )
                )
                .Select(column =>
                    column.Schema.Storage == StorageClass.Integer
                        ? column.Text
                        : Sql.Of($"replace(replace({column.Text}, '\\', '\\\\'), '|', '\\|')")
                )
        );
}
