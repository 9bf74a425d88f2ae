using Kettlefog.Core.Schema;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Journal;

/// <summary>
/// Rows of a table without any key. They are journaled by all that they hold besides the columns that point: rows alike
/// in that cannot be told apart by anybody, so that it does not matter which of them goes back.
/// </summary>
internal sealed class UnkeyedRows(Session session, JournalReader journal, TableSchema table)
{
    /// <summary>Stands for the key columns of such a table in the journal.</summary>
    public const string WholeRow = "*";

    private static readonly Sql Text = Sql.Literal("kettlefog_text");
    private static readonly Sql Place = Sql.Literal("kettlefog_place");

    /// <summary>What a row of <c>t</c> holds besides the columns that point, as one text.</summary>
    public Sql TextOf(IReadOnlyList<string> pointing) =>
        session.Dialect.Concatenate(
            Sql.Literal("''"),
            session.Dialect.ConcatenateWith(
                ',',
                table
                    .Columns.Where(column => !column.Generated && !pointing.ContainsIdentifier(column.Name))
                    .Select(column =>
                        session.Dialect.JournalText(session.Dialect.Read(Sql.Of($"t.{new SqlName(column.Name)}")))
                    )
                    .Append(Sql.Literal("''"))
            )
        );

    /// <summary>How many of a step's rows are there as it left them.</summary>
    /// <param name="step">The step.</param>
    /// <param name="pointing">The columns that point.</param>
    /// <param name="intact">True for rows, as <c>t</c>, that point as the step left them.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<long> CountAsync(
        JournalStep step,
        IReadOnlyList<string> pointing,
        Sql intact,
        CancellationToken cancellationToken
    ) =>
        session.WithLargeJoinsAsync(
            step.RowCount,
            () =>
                session.QueryLongAsync(
                    Sql.Of($"SELECT COUNT(*) FROM {Candidates(step, pointing, intact)} c"),
                    cancellationToken
                ),
            cancellationToken
        );

    /// <summary>Lets as many rows go back as went, of each that are alike.</summary>
    public Task<int> ReturnAsync(
        JournalStep step,
        IReadOnlyList<string> pointing,
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
                            + $"{session.Dialect.RowIdentity(table, "c")} FROM {Candidates(step, pointing, intact)} "
                            + $"c)"
                    ),
                    cancellationToken
                ),
            cancellationToken
        );

    /// <summary>The rows as they are now, each alike numbered, as far as the journal has as many.</summary>
    private Sql Candidates(JournalStep step, IReadOnlyList<string> pointing, Sql intact) =>
        Sql.Of(
            $"""
            (SELECT n.* FROM (SELECT {session.Dialect.RowIdentityColumns(table, "t")}, {TextOf(
                pointing
            )} AS {Text}, ROW_NUMBER() OVER (PARTITION BY {TextOf(pointing)}) AS {Place}
                              FROM {session.Dialect.Table(table)} t WHERE {intact}) n
             JOIN (SELECT key_1, COUNT(*) AS many FROM {journal.Rows(
                step
            )} r GROUP BY key_1) j ON j.key_1 = n.{Text} AND n.{Place} <= j.many)
            """
        );
}
