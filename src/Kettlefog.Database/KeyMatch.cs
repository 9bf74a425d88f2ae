using Kettlefog.Core.Maps;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Database;

/// <summary>Conditions on keys, as fragments of statements.</summary>
internal static class KeyMatch
{
    /// <summary>The most columns that a key may have, as the journal's tables are made.</summary>
    public const int MaxColumns = 8;

    /// <summary><c>keys (ordinal, key_1, …) AS (VALUES …)</c>, for a WITH clause.</summary>
    public static Sql Table(IReadOnlyList<RecordKey> keys)
    {
        var columns = Sql.Join(", ", JournalColumns(keys[0].Parts.Count).Prepend("ordinal"));
        var rows = keys.Select((key, ordinal) =>
            Sql.Of($"({(long)ordinal}, {Sql.Join(", ", key.Parts.Select(part => Sql.Of($"{part}")))})"));
        return Sql.Of($"keys ({columns}) AS (VALUES {Sql.Join(", ", rows)})");
    }

    /// <summary>
    /// Joins columns of <c>t</c> to <c>keys</c> as <c>k</c>. Write <c>keys k CROSS JOIN … t WHERE</c>: SQLite keeps the
    /// order of a cross join, and so looks each key up instead of walking through all rows that meet another condition.
    /// </summary>
    public static Sql OnKeys(IReadOnlyList<string> columns) => Sql.Join(
        " AND ",
        columns.Select((column, index) => Sql.Of($"t.{new SqlName(column)} = k.{new SqlName($"key_{index + 1}")}")));

    /// <summary>Columns equal to a key.</summary>
    public static Sql Equal(IReadOnlyList<string> columns, RecordKey key) => Sql.Join(
        " AND ",
        columns.Select((column, index) => Sql.Of($"{new SqlName(column)} = {key.Parts[index]}")));

    /// <summary>The conditions under which a reference holds; always true if it has none.</summary>
    public static Sql Holds(Reference reference, TableSchema table) => reference.When.Count == 0
        ? Sql.Of($"1 = 1")
        : Sql.Join(" AND ", WhenCells(reference, table).Select(cell => Sql.Of($"{new SqlName(cell.Column)} = {cell.Value}")));

    /// <summary>The columns that a reference's conditions speak of, with their values as the columns hold them.</summary>
    public static IEnumerable<(string Column, ColumnValue Value)> WhenCells(Reference reference, TableSchema table) =>
        reference.When.Select(pair =>
        {
            var column = table.Require([pair.Key])[0];
            return (column.Name, column.TryRead(pair.Value) ?? ColumnValue.Of(pair.Value));
        });

    /// <summary>The names of the journal's key columns.</summary>
    public static IEnumerable<string> JournalColumns(int count) =>
        Enumerable.Range(1, count).Select(number => $"key_{number}");

    /// <summary>A key's text form, computed by the database from columns of <c>t</c>.</summary>
    public static Sql Text(IReadOnlyList<ColumnSchema> columns) => Sql.Join(
        " || '|' || ",
        columns.Select(column => column.Storage == StorageClass.Integer
            ? Sql.Of($"CAST(t.{new SqlName(column.Name)} AS TEXT)")
            : Sql.Of($"replace(replace(CAST(t.{new SqlName(column.Name)} AS TEXT), '\\', '\\\\'), '|', '\\|')")));
}
