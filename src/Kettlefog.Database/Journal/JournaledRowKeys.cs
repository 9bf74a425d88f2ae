using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Journal;

/// <summary>
/// Follows the rows of a merge's journal through the changes of their own keys, where a reference is part of a key: by
/// the merge itself, and by the steps of it that are undone.
/// </summary>
/// <param name="session">The session to read in.</param>
/// <param name="journal">The journal.</param>
/// <param name="all">All steps of the merge.</param>
/// <param name="undone">The numbers of the steps that are undone so far.</param>
internal sealed class JournaledRowKeys(
    Session session,
    JournalReader journal,
    IReadOnlyList<JournalStep> all,
    HashSet<int> undone
)
{
    /// <summary>The numbers of the steps that are undone; the caller adds each one that it undoes.</summary>
    public HashSet<int> Undone => undone;

    /// <summary>
    /// The rows of a step under their current keys: where several references of a table are part of its key,
    /// later steps of the merge changed the keys again, and steps that were undone already changed them back.
    /// </summary>
    public async Task<Sql> RowsNowAsync(JournalStep step, CancellationToken cancellationToken)
    {
        var rows = await RowsInTheEndAsync(step, cancellationToken);
        var changedBack =
            new List<(
                SqlName Alias,
                Sql Rows,
                Dictionary<string, (string Column, ColumnValue Before, ColumnValue After)> Moved
            )>();
        foreach (var other in all.Where(other => Undone.Contains(other.Step) && SharesKey(other, step)))
        {
            if (await MovedInKeyAsync(other, cancellationToken) is { Count: > 0 } moved)
                changedBack.Add(
                    (new SqlName($"u{changedBack.Count}"), await RowsInTheEndAsync(other, cancellationToken), moved)
                );
        }

        if (changedBack.Count == 0)
            return rows;
        var keys = KeysOf(step);
        var now = keys.Select(key =>
        {
            var cases = changedBack
                .Where(each => each.Moved.ContainsKey(key.Column))
                .Select(each => Sql.Of($"WHEN {each.Alias}.row IS NOT NULL THEN {each.Moved[key.Column].Before}"))
                .ToList();
            return cases.Count == 0
                ? Sql.Of($"s.{key.Key}")
                : Sql.Of($"CASE {Sql.Join(" ", cases)} ELSE s.{key.Key} END AS {key.Key}");
        });
        var joins = changedBack.Select(each =>
            Sql.Of(
                $"LEFT JOIN {each.Rows} {each.Alias} ON "
                    + $"{Sql.Join(" AND ", keys.Select(key => Sql.Of($"{each.Alias}.{key.Key} = s.{key.Key}")))}"
            )
        );
        return Sql.Of($"(SELECT s.row, {Sql.Join(", ", now)} FROM {rows} s {Sql.Join(" ", joins)})");
    }

    /// <summary>The key that the one row of a step has now.</summary>
    public async Task<RecordKey> KeyNowAsync(JournalStep step, CancellationToken cancellationToken) =>
        (
            await session.QueryAsync(
                Sql.Of(
                    $"SELECT {Sql.Join(", ", KeysOf(step).Select(key => Sql.Of($"j.{key.Key}")))} FROM "
                        + $"{await RowsNowAsync(step, cancellationToken)} j"
                ),
                row => row.Key(step.KeyColumns.Count),
                cancellationToken
            )
        ).Single();

    /// <summary>The rows of a step under the keys that they had when the merge was done.</summary>
    public async Task<Sql> RowsInTheEndAsync(JournalStep step, CancellationToken cancellationToken)
    {
        var rows = journal.Rows(step);
        foreach (var later in all.Where(other => other.Step > step.Step && SharesKey(other, step)))
        {
            var moved = await MovedInKeyAsync(later, cancellationToken);
            if (moved.Count == 0)
                continue;
            var keys = KeysOf(step);
            var on = keys.Select(key =>
                moved.TryGetValue(key.Column, out var cell)
                    ? Sql.Of($"s.{key.Key} = {cell.Before} AND m.{key.Key} = {cell.After}")
                    : Sql.Of($"m.{key.Key} = s.{key.Key}")
            );
            var now = keys.Select(key => Sql.Of($"COALESCE(m.{key.Key}, s.{key.Key}) AS {key.Key}"));
            rows = Sql.Of(
                $"(SELECT s.row, {Sql.Join(", ", now)} "
                    + $"FROM {rows} s LEFT JOIN {journal.Rows(later)} m ON {Sql.Join(" AND ", on)})"
            );
        }

        return rows;
    }

    private static bool SharesKey(JournalStep other, JournalStep step) =>
        other.Operation == JournalOperation.Reassign
        && Identifiers.Same(other.Table, step.Table)
        && other.KeyColumns.SequenceEqual(step.KeyColumns);

    private static List<(string Column, SqlName Key)> KeysOf(JournalStep step) =>
        [
            .. step.KeyColumns.Zip(KeyConditions.JournalColumns(step.KeyColumns.Count), (column, key) =>
                (column, new SqlName(key))
            ),
        ];

    /// <summary>The columns of its rows' key that a step changed.</summary>
    private async Task<Dictionary<string, (string Column, ColumnValue Before, ColumnValue After)>> MovedInKeyAsync(
        JournalStep step,
        CancellationToken cancellationToken
    ) =>
        (await journal.CellsAsync(step, cancellationToken))
            .Where(cell => cell.Before != cell.After && step.KeyColumns.Contains(cell.Column))
            .ToDictionary(cell => cell.Column);
}
