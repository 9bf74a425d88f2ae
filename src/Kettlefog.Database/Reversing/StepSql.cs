using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Reversing;

/// <summary>SQL fragments about the rows of a journal step, in their current state.</summary>
internal sealed class StepSql(Session session, CheckedMap map)
{
    private readonly JournalReader _journal = new(session);

    /// <summary>The condition for rows, as <c>t</c>, that are unchanged since a step.</summary>
    public Sql Intact(JournalStep step, List<(string Column, ColumnValue Before, ColumnValue After)> cells) =>
        Sql.Join(
            " AND ",
            cells.Select(cell =>
                Sql.Of(
                    $"t.{new SqlName(cell.Column)} = {session.Dialect.Write(cell.After, ColumnOf(step, cell.Column))}"
                )
            )
        );

    /// <summary>The condition for rows, as <c>t</c>, that a journal row, as <c>j</c>, identifies.</summary>
    public Sql OnRows(JournalStep step) =>
        Sql.Join(
            " AND ",
            step.KeyColumns.Select(
                (column, index) => Sql.Of($"t.{new SqlName(column)} = {Journaled(step, column, index)}")
            )
        );

    /// <summary>A key column of a journal row, as <c>j</c>, in the type of its table.</summary>
    public Sql Journaled(JournalStep step, string column, int index) =>
        session.Dialect.Restore(Sql.Of($"j.{new SqlName($"key_{index + 1}")}"), ColumnOf(step, column));

    /// <summary>The value that a column had before a step, in the type of its table.</summary>
    public Sql Before(JournalStep step, string column) =>
        session.Dialect.Restore(_journal.Before(step.Journal, step.Step, column), ColumnOf(step, column));

    /// <summary>The condition for the row of a key.</summary>
    public Sql Equal(JournalStep step, RecordKey key) =>
        session.Keys.Equal(map.Catalog.Require(step.Table).Require(step.KeyColumns), key);

    /// <summary>The table that a step wrote to.</summary>
    public Sql TableOf(JournalStep step) => session.Dialect.Table(map.Catalog.Require(step.Table));

    /// <summary>A column that a step wrote.</summary>
    public ColumnSchema ColumnOf(JournalStep step, string column) =>
        map.Catalog.Require(step.Table).Require([column])[0];

    /// <summary>The title of a step's rows.</summary>
    public static string TitleOf(JournalStep step, RecordType type) =>
        step.Reference is null
            ? type.Title
            : type.References.FirstOrDefault(known => known.Name == step.Reference)?.Title ?? step.Table;
}
