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

    /// <summary>The values of a row of <c>t</c> except the referring columns, as one text.</summary>
    public Sql TextOf(IReadOnlyList<string> referringColumns) =>
        session.Dialect.Concatenate(
            Sql.Literal("''"),
            session.Dialect.ConcatenateWith(
                ',',
                table
                    .Columns.Where(column => !column.Generated && !referringColumns.ContainsIdentifier(column.Name))
                    .Select(column =>
                        session.Dialect.JournalText(session.Dialect.Read(Sql.Of($"t.{new SqlName(column.Name)}")))
                    )
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
    private Sql Candidates(JournalStep step, IReadOnlyList<string> referringColumns, Sql intact) =>
        Sql.Of(
            $"""
            (SELECT n.* FROM (SELECT {session.Dialect.RowIdentityColumns(table, "t")}, {TextOf(
                referringColumns
            )} AS {Text}, ROW_NUMBER() OVER (PARTITION BY {TextOf(referringColumns)}) AS {Place}
                              FROM {session.Dialect.Table(table)} t WHERE {intact}) n
             JOIN (SELECT key_1, COUNT(*) AS many FROM {journal.Rows(
                step
            )} r GROUP BY key_1) j ON j.key_1 = n.{Text} AND n.{Place} <= j.many)
            """
        );
}
