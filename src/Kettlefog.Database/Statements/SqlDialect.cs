using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Database.Statements;

/// <summary>
/// The parts of SQL that engines write differently. Stores compose their statements from it, so a further
/// engine needs a further dialect, and no change in a store.
/// </summary>
internal abstract class SqlDialect
{
    /// <summary>A quoted identifier.</summary>
    /// <param name="name">The name, as the catalog has it.</param>
    public virtual string Quote(string name) => $"\"{name.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";

    /// <summary>The marker of a parameter in a statement's text.</summary>
    /// <param name="index">Its index, counted from 0.</param>
    public virtual string ParameterMarker(int index) => $"@p{index}";

    /// <summary>The concatenation of texts; NULL if one is.</summary>
    /// <param name="parts">The texts.</param>
    public virtual Sql Concatenate(params IEnumerable<Sql> parts) => Sql.Join(" || ", parts);

    /// <summary>The concatenation of texts with a separator; NULL if one is.</summary>
    /// <param name="separator">The separator: one character, not a quote.</param>
    /// <param name="parts">The texts; at least one.</param>
    public Sql ConcatenateWith(char separator, IEnumerable<Sql> parts) =>
        Concatenate(
            parts.SelectMany((part, index) => index == 0 ? [part] : new[] { Sql.Literal($"'{separator}'"), part })
        );

    /// <summary>True if two values are the same or both NULL.</summary>
    public virtual Sql NullSafeEqual(Sql a, Sql b) => Sql.Of($"{a} IS NOT DISTINCT FROM {b}");

    /// <summary>A value as text.</summary>
    public virtual Sql AsText(Sql value) => Sql.Of($"CAST({value} AS TEXT)");

    /// <summary>A value as a whole number.</summary>
    public virtual Sql AsInteger(Sql value) => Sql.Of($"CAST({value} AS INTEGER)");

    /// <summary>A value as an exact number.</summary>
    public virtual Sql AsNumeric(Sql value) => Sql.Of($"CAST({value} AS NUMERIC)");

    /// <summary>A text in a collation of the database.</summary>
    /// <param name="text">The text.</param>
    /// <param name="collation">The collation, as the catalog writes it.</param>
    public virtual Sql Collate(Sql text, string collation) => Sql.Of($"{text} COLLATE {Sql.Literal(collation)}");

    /// <summary>
    /// Joins two tables so that the left one is read first, and rows of the right one are looked up for each of its
    /// rows: <c>keys k … t WHERE t.id = k.key_1</c>.
    /// </summary>
    public virtual Sql LookupJoin => Sql.Literal("CROSS JOIN");

    /// <summary>A list of rows as a table, for a WITH clause.</summary>
    /// <param name="name">The name of the table.</param>
    /// <param name="columns">Its columns.</param>
    /// <param name="rows">
    /// The values of each row, separated by commas, in the order of the columns; at least one row.
    /// </param>
    public virtual Sql ValuesTable(string name, IEnumerable<string> columns, IEnumerable<Sql> rows) =>
        Sql.Of($"{new SqlName(name)} ({Sql.Join(", ", columns)}) AS (VALUES {Rows(rows)})");

    /// <summary>Inserts rows, or updates some columns where a row with the same key exists.</summary>
    /// <param name="table">The table.</param>
    /// <param name="columns">All columns of the rows.</param>
    /// <param name="rows">The values of each row, separated by commas.</param>
    /// <param name="key">The columns of the key.</param>
    /// <param name="update">The columns to update in an existing row; empty to leave it as it is.</param>
    public virtual Sql Upsert(
        Sql table,
        IReadOnlyList<string> columns,
        IEnumerable<Sql> rows,
        IReadOnlyList<string> key,
        IReadOnlyList<string> update
    )
    {
        var cells = update.Select(column => Sql.Of($"{new SqlName(column)} = excluded.{new SqlName(column)}"));
        var action = update.Count == 0 ? Sql.Literal("NOTHING") : Sql.Of($"UPDATE SET {Sql.Join(", ", cells)}");
        return Sql.Of($"{Insert(table, columns, rows)} ON CONFLICT ({Sql.Join(", ", key)}) DO {action}");
    }

    /// <summary>Inserts rows.</summary>
    /// <param name="table">The table.</param>
    /// <param name="columns">The columns.</param>
    /// <param name="rows">The values of each row, separated by commas, in the order of the columns.</param>
    public virtual Sql Insert(Sql table, IReadOnlyList<string> columns, IEnumerable<Sql> rows) =>
        Sql.Of($"INSERT INTO {table} ({Sql.Join(", ", columns)}) VALUES {Rows(rows)}");

    /// <summary>Inserts a row, and returns values of it.</summary>
    /// <param name="insert">The INSERT statement.</param>
    /// <param name="values">The values to return.</param>
    public virtual Sql Returning(Sql insert, IEnumerable<Sql> values) =>
        Sql.Of($"{insert} RETURNING {Sql.Join(", ", values)}");

    /// <summary>Updates columns of many rows, each found by one column, in one statement.</summary>
    /// <param name="table">The table.</param>
    /// <param name="key">The column by which a row is found.</param>
    /// <param name="columns">The columns that are written.</param>
    /// <param name="rows">The values of each row, separated by commas: the key, then the columns.</param>
    public virtual Sql UpdateFromValues(Sql table, string key, IReadOnlyList<string> columns, IEnumerable<Sql> rows) =>
        Sql.Of(
            $"""
            WITH {ValuesTable("w", columns.Prepend(key), rows)}
            UPDATE {table} SET {Sql.Join(
                ", ",
                columns.Select(column => Sql.Of($"{new SqlName(column)} = w.{new SqlName(column)}"))
            )}
            FROM w WHERE w.{new SqlName(key)} = {table}.{new SqlName(key)}
            """
        );

    /// <summary>Rows of values, as written after VALUES.</summary>
    protected static Sql Rows(IEnumerable<Sql> rows) => Sql.Join(", ", rows.Select(row => Sql.Of($"({row})")));

    /// <summary>One of Kettlefog's tables.</summary>
    public abstract Sql Own(string table);

    /// <summary>A table of the operational database.</summary>
    public virtual Sql Table(TableSchema table) => Sql.Of($"{new SqlName(table.Name)}");

    /// <summary>
    /// An expression of the operational database as it is read and journaled, so that its value is exact.
    /// </summary>
    public abstract Sql Read(Sql expression);

    /// <summary>A value, converted for comparison with a column or for writing to it.</summary>
    public abstract Sql Write(ColumnValue value, ColumnSchema column);

    /// <summary>A value of the journal, converted for comparison with a column or for writing to it.</summary>
    public abstract Sql Restore(Sql journaled, ColumnSchema column);

    /// <summary>Added to an INSERT that restores a row, so that no value is generated.</summary>
    public virtual Sql KeepIdentity => Sql.Empty;

    /// <summary>
    /// Ends a SELECT from <c>t</c> that locks its rows until the session ends; empty if the engine needs none.
    /// </summary>
    public virtual Sql LockRows => Sql.Empty;

    /// <summary>A text without case and accents.</summary>
    public abstract Sql Fold(Sql text);

    /// <summary>True if a text, without case and accents, is LIKE an already folded pattern.</summary>
    public abstract Sql Matches(Sql text, string foldedPattern);

    /// <summary>
    /// An exact decimal sum, as text that <see cref="ExactSum.Read"/> reads: a value that is no number does not abort
    /// the statement; null over no rows.
    /// </summary>
    /// <param name="expression">The expression to sum.</param>
    /// <param name="column">The column, if the expression is just that: numbers need no conversion from text.</param>
    public abstract Sql DecimalSum(Sql expression, ColumnSchema? column = null);

    /// <summary>The engine's own identity of a row, valid for one transaction: for tables without any key.</summary>
    /// <param name="table">The table.</param>
    /// <param name="alias">
    /// The alias of the query that selects <see cref="RowIdentityColumns"/>; null for the table itself.
    /// </param>
    public abstract Sql RowIdentity(TableSchema table, string? alias);

    /// <summary>The same as columns of a select list.</summary>
    /// <param name="table">The table.</param>
    /// <param name="alias">The alias of the table in the statement.</param>
    public abstract Sql RowIdentityColumns(TableSchema table, string alias);

    /// <summary>A column of a SELECT from one table that numbers the rows from 1, in any order.</summary>
    public virtual Sql RowNumber() => Sql.Literal("ROW_NUMBER() OVER ()");

    /// <summary>
    /// A digest of all rows of a group, whatever their order, as text: of all columns, exactly as stored.
    /// </summary>
    /// <param name="table">The table.</param>
    /// <param name="alias">The alias of the table in the statement.</param>
    public abstract Sql RowDigest(TableSchema table, string alias);

    /// <summary>One value of the journal as text: different values have different texts.</summary>
    public abstract Sql JournalText(Sql journaled);

    /// <summary>The concatenated texts of a group of rows, in the order of the rows.</summary>
    public abstract Sql ConcatenateRows(Sql text, Sql order);

    /// <summary>
    /// Two statements between which the engine joins very many rows by hashing or sorting, even if it has no
    /// statistics about rows just written and would assume few; null if the engine needs no such hint.
    /// </summary>
    public virtual (Sql Begin, Sql End)? LargeJoinHints => null;
}
