using System.Data;
using System.Globalization;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Engines.Postgres;

/// <summary>
/// PostgreSQL's dialect. Every value of the operational database is passed in its text form, which the server reads
/// back exactly whatever the type.
/// </summary>
internal sealed class PostgresDialect : SqlDialect
{
    private const long MaxShownValueLength = 60;

    // Numbered parameters are sent as they are; the driver need not parse the text for names.
    public override string ParameterMarker(int index) => string.Create(CultureInfo.InvariantCulture, $"${index + 1}");

    // Inlined wherever it is used: PostgreSQL reads large tables with parallel workers only if it is not materialised.
    public override Sql ValuesTable(string name, IEnumerable<string> columns, IEnumerable<Sql> rows) =>
        Sql.Of($"{new SqlName(name)} ({Sql.Join(", ", columns)}) AS NOT MATERIALIZED (VALUES {Rows(rows)})");

    public override Sql Own(string table) => Sql.Of($"{new SqlName(PostgresOwnSchema.Name)}.{new SqlName(table)}");

    public override Sql Table(TableSchema table) =>
        table.Schema is null
            ? Sql.Of($"{new SqlName(table.Name)}")
            : Sql.Of($"{new SqlName(table.Schema)}.{new SqlName(table.BareName)}");

    public override Sql Read(Sql expression) => Sql.Of($"({expression})::text COLLATE \"C\"");

    public override Sql Write(ColumnValue value, ColumnSchema column) => Sql.Of($"CAST({value} AS {TypeOf(column)})");

    public override Sql Restore(Sql journaled, ColumnSchema column) => Sql.Of($"CAST({journaled} AS {TypeOf(column)})");

    public override Sql KeepIdentity => Sql.Literal("OVERRIDING SYSTEM VALUE");

    public override Sql LockRows => Sql.Literal(" FOR UPDATE OF t");

    public override (Sql Begin, Sql End)? LargeJoinHints { get; } =
        (Sql.Literal("SET LOCAL enable_nestloop = off"), Sql.Literal("SET LOCAL enable_nestloop = on"));

    public override Sql Fold(Sql text)
    {
        // As in FoldedText: compatibility decomposition, no combining marks, lower case, and the letters without a
        // decomposition.
        var plain = Sql.Of(
            $"regexp_replace(normalize({text}, NFKD), "
                + $"'[\\u0300-\\u036F\\u1AB0-\\u1AFF\\u1DC0-\\u1DFF\\u20D0-\\u20FF\\uFE20-\\uFE2F]', '', 'g')"
        );
        var letters = Sql.Of($"translate(lower({plain} COLLATE \"default\"), 'øØłŁđĐðÐıİ', 'oollddddii')");
        return Sql.Of(
            $"replace(replace(replace(replace(replace(replace({letters}, 'æ', 'ae'), 'Æ', 'ae'), 'œ', 'oe'), "
                + $"'Œ', 'oe'), 'ß', 'ss'), 'þ', 'th')"
        );
    }

    public override Sql Matches(Sql text, string foldedPattern) =>
        Sql.Of(
            $"(lower({text}) LIKE {foldedPattern} OR (octet_length({text}) <> length({text}) AND {Fold(text)} "
                + $"LIKE {foldedPattern}))"
        );

    public override Sql DecimalSum(Sql expression, ColumnSchema? column = null) =>
        column is { TextType: "numeric" } or { Storage: StorageClass.Integer }
            ? Sql.Of($"SUM({expression})::text")
            : Sql.Of(
                $"COALESCE({ExactSum.FaultMark.ToString()} || MIN(left(CASE WHEN {IsNumber(expression)} IS FALSE THEN "
                    + $"({expression})::text END, {AsInteger(Sql.Of($"{MaxShownValueLength}"))})), SUM(CASE WHEN "
                    + $"{IsNumber(expression)} THEN btrim(({expression})::text)::numeric END)::text)"
            );

    /// <summary>True if a text is a number, false if it is something else; NULL if it is blank.</summary>
    private static Sql IsNumber(Sql expression) =>
        Sql.Of(
            $"(NULLIF(btrim(({expression})::text), '') ~ '^[+-]?([0-9]+[.]?[0-9]*|[.][0-9]+)([eE][+-]?[0-9]{{1,3}})?$')"
        );

    // A sum of 64-bit hashes: the order of the rows does not matter. Of the whole row as text, not of each
    // value: hash_array and hash_record add up the hashes of their elements, so a value that moved to another row
    // would not be detected.
    public override Sql RowDigest(TableSchema table, string alias)
    {
        var columns = table.Columns.Select(column => Sql.Of($"{new SqlName(alias)}.{new SqlName(column.Name)}"));
        return Sql.Of($"SUM(hashtextextended(ROW({Sql.Join(", ", columns)})::text, 0))::text");
    }

    public override Sql RowIdentity(TableSchema table, string? alias) =>
        alias is null
            ? Sql.Literal("(tableoid, ctid)")
            : Sql.Of($"{new SqlName(alias)}.kettlefog_table, {new SqlName(alias)}.kettlefog_row");

    // A partitioned or inherited table consists of several, each with its own row numbers.
    public override Sql RowIdentityColumns(TableSchema table, string alias) =>
        Sql.Of($"{new SqlName(alias)}.tableoid AS kettlefog_table, {new SqlName(alias)}.ctid AS kettlefog_row");

    public override Sql JournalText(Sql journaled) =>
        Sql.Of($"COALESCE(length({journaled}) || ':' || {journaled}, 'n')");

    public override Sql ConcatenateRows(Sql text, Sql order) => Sql.Of($"string_agg({text}, ';' ORDER BY {order})");

    /// <summary>The name comes from the catalog, quoted by the server where needed.</summary>
    private static Sql TypeOf(ColumnSchema column) => Sql.Literal(column.TextType ?? "text");
}
