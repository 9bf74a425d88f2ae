using Kettlefog.Core.Schema;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Journal;

/// <summary>
/// Rows of a table without any key. They are journaled by all their values except the referring columns: rows that are
/// equal in these cannot be told apart, so it does not matter which of them is moved back.
/// </summary>
internal sealed class UnkeyedRows(Session session, JournalReader journal, TableSchema table)
{
    /// <summary>The marker in the journal for the key columns of such a table.</summary>
    public const string WholeRow = "*";

    private static readonly Sql Text = Sql.Literal("kettlefog_text");
    private static readonly Sql Place = Sql.Literal("kettlefog_place");

    /// <summary>The columns by whose values the rows of a table are journaled.</summary>
    /// <param name="table">The table.</param>
    /// <param name="referringColumns">The referring columns.</param>
    public static IReadOnlyList<string> ColumnsOf(TableSchema table, IReadOnlyList<string> referringColumns) =>
        [
            .. table
                .Columns.Where(column => !column.Generated && !referringColumns.ContainsIdentifier(column.Name))
                .Select(column => column.Name),
        ];

    /// <summary>The values of some columns of a row of <c>t</c>, as one text.</summary>
    /// <param name="dialect">The engine's dialect.</param>
    /// <param name="columns">The columns.</param>
    public static Sql TextOf(SqlDialect dialect, IReadOnlyList<string> columns) =>
        dialect.Concatenate(
            Sql.Literal("''"),
            dialect.ConcatenateWith(
                ',',
                columns
                    .Select(column => dialect.JournalText(dialect.Read(Sql.Of($"t.{new SqlName(column)}"))))
                    .Append(Sql.Literal("''"))
            )
        );

    /// <summary>The number of a step's rows that are unchanged since.</summary>
    /// <param name="step">The step.</param>
    /// <param name="referringColumns">The referring columns.</param>
    /// <param name="intact">
    /// The condition for rows, as <c>t</c>, whose referring columns are unchanged since the step.
    /// </param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<long> CountAsync(
        JournalStep step,
        IReadOnlyList<string> referringColumns,
        Sql intact,
        CancellationToken cancellationToken
    ) =>
        session.WithLargeJoinsAsync(
            step.RowCount,
            () =>
                session.QueryLongAsync(
                    Sql.Of($"SELECT COUNT(*) FROM {Candidates(step, referringColumns, intact)} c"),
                    cancellationToken
                ),
            cancellationToken
        );

    /// <summary>Moves as many of the equal rows back as were moved.</summary>
    public Task<int> ReturnAsync(
        JournalStep step,
        IReadOnlyList<string> referringColumns,
        Sql intact,
        Sql set,
        CancellationToken cancellationToken
    ) =>
        session.WithLargeJoinsAsync(
            step.RowCount,
            () =>
                session.ExecuteAsync(
                    Sql.Of(
                        $"UPDATE {session.Dialect.Table(table)} SET {set} WHERE "
                            + $"{session.Dialect.RowIdentity(table, null)} IN (SELECT "
                            + $"{session.Dialect.RowIdentity(table, "c")} FROM "
                            + $"{Candidates(step, referringColumns, intact)} "
                            + $"c)"
                    ),
                    cancellationToken
                ),
            cancellationToken
        );

    /// <summary>The current rows, equal ones numbered, up to the number in the journal.</summary>
    private Sql Candidates(JournalStep step, IReadOnlyList<string> referringColumns, Sql intact)
    {
        var columns = step.WholeColumns.Count > 0 ? step.WholeColumns : ColumnsOf(table, referringColumns);
        var text = TextOf(session.Dialect, columns);
        return Sql.Of(
            $"""
            (SELECT n.* FROM (SELECT {session.Dialect.RowIdentityColumns(
                table,
                "t"
            )}, {text} AS {Text}, ROW_NUMBER() OVER (PARTITION BY {text}) AS {Place}
                              FROM {session.Dialect.Table(table)} t WHERE {intact}) n
             JOIN (SELECT key_1, COUNT(*) AS many FROM {journal.Rows(
                step
            )} r GROUP BY key_1) j ON j.key_1 = n.{Text} AND n.{Place} <= j.many)
            """
        );
    }
}
