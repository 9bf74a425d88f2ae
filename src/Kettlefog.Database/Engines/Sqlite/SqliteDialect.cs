using System.Data;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Engines.Sqlite;

/// <summary>
/// SQLite's dialect. Values are passed in their storage class, and sums and digests are functions of the connection.
/// </summary>
internal sealed class SqliteDialect : SqlDialect
{
    /// <summary>The prefix of the names of Kettlefog's tables.</summary>
    public const string OwnPrefix = "kettlefog_";

    private static long _numberings;

    private static readonly string[] RowIdNames = ["rowid", "_rowid_", "oid"];

    public override Sql Own(string table) => Sql.Of($"{new SqlName(OwnPrefix + table)}");

    public override Sql Read(Sql expression) => expression;

    public override Sql Write(ColumnValue value, ColumnSchema column) => Sql.Of($"{value}");

    public override Sql Restore(Sql journaled, ColumnSchema column) => journaled;

    public override Sql Fold(Sql text) => Function(SqliteFunctions.Fold, text);

    public override Sql Matches(Sql text, string foldedPattern) =>
        // LIKE ignores case in ASCII and is many times faster than a function of the program; only a text
        // with other characters, and so more bytes than characters, needs to be folded.
        Sql.Of(
            $"({text} LIKE {foldedPattern} ESCAPE '\\' OR (octet_length({text}) <> length({text}) AND "
                + $"{Fold(text)} LIKE {foldedPattern} ESCAPE '\\'))"
        );

    public override Sql DecimalSum(Sql expression, ColumnSchema? column = null) =>
        Function(SqliteFunctions.Sum, expression);

    public override Sql RowIdentity(TableSchema table, string? alias) =>
        alias is null ? RowId(table) : Sql.Of($"{new SqlName(alias)}.kettlefog_row");

    public override Sql RowIdentityColumns(TableSchema table, string alias) =>
        Sql.Of($"{new SqlName(alias)}.{RowId(table)} AS kettlefog_row");

    /// <summary>
    /// The first name of the row number that is not also a column. A table without row numbers has a primary key.
    /// </summary>
    private static Sql RowId(TableSchema table) => Sql.Literal(RowIdNames.First(name => table.IndexOf(name) < 0));

    // A window function would first materialise all rows, which takes as long as journaling them.
    public override Sql RowNumber() =>
        Function(SqliteFunctions.Number, Sql.Of($"{Interlocked.Increment(ref _numberings)}"));

    public override Sql RowDigest(TableSchema table, string alias) =>
        Function(
            SqliteFunctions.Digest,
            Sql.Join(", ", table.Columns.Select(column => Sql.Of($"{new SqlName(alias)}.{new SqlName(column.Name)}")))
        );

    public override Sql JournalText(Sql journaled) =>
        Sql.Of(
            $"""
            CASE typeof({journaled}) WHEN 'integer' THEN 'i' || {journaled} WHEN 'text' THEN 't' || hex({journaled})
              WHEN 'real' THEN 'r' || printf('%!.20g', {journaled}) WHEN 'blob' THEN 'b' || hex({journaled}) ELSE 'n'
              END
            """
        );

    // The rows arrive in the order of the primary key, by which they are found.
    public override Sql ConcatenateRows(Sql text, Sql order) => Sql.Of($"group_concat({text}, ';' ORDER BY {order})");

    private static Sql Function(string name, Sql arguments) => Sql.Of($"{new SqlName(name)}({arguments})");
}
