using Kettlefog.Core.History;
using Kettlefog.Core.Planning;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Reversals;

/// <summary>What taking back one merge would do.</summary>
/// <param name="Snapshot">What it was computed from.</param>
/// <param name="Rows">The related rows that go back.</param>
/// <param name="Cells">The values that come back.</param>
/// <param name="Restored">The deleted rows that come back.</param>
/// <param name="Drift">What was changed since by somebody else and is left as it is, one sentence each.</param>
public sealed record SingleReversal(
    ReversalSnapshot Snapshot,
    IReadOnlyList<JournaledRows> Rows,
    IReadOnlyList<JournaledCell> Cells,
    IReadOnlyList<JournaledDeletion> Restored,
    IReadOnlyList<string> Drift)
{
    /// <summary>Computes what taking back one merge would do: all that nobody touched since comes back.</summary>
    /// <param name="snapshot">The state now.</param>
    public static SingleReversal Of(ReversalSnapshot snapshot)
    {
        ArgumentNullException.ThrowIfNull(snapshot);
        var drift = new List<string>();
        foreach (var deletion in snapshot.Deletions.Where(deletion => deletion.KeyTaken))
            drift.Add($"{deletion.Title} {deletion.Record} cannot come back: another row has its key now.");
        foreach (var cell in snapshot.Cells.Where(cell => cell.Current is null))
            drift.Add($"{cell.Title} {cell.Record} was deleted since; its {cell.Column} cannot come back.");
        foreach (var cell in snapshot.Cells.Where(cell => cell.Current is { } now && now != cell.After))
        {
            drift.Add($"{cell.Column} of {cell.Record} was changed since: the merge wrote {Say(cell.After)}, now it is {Say(cell.Current!.Value)}, and so it stays.");
        }

        foreach (var rows in snapshot.Rows)
        {
            if (!rows.FromExists)
            {
                drift.Add($"{rows.Journaled} {rows.Title.ToLowerInvariant()} stay with the master: {(rows.OfRecord ? snapshot.Type.Title.ToLowerInvariant() : "row")} {rows.From} is not there to take them back.");
                continue;
            }

            drift.AddRange(rows.Elsewhere.Select(key => $"{rows.Title} {key} points at another record now, and stays there."));
            drift.AddRange(rows.Gone.Select(key => $"{rows.Title} {key} was deleted since."));
        }

        return new SingleReversal(
            snapshot,
            [.. snapshot.Rows.Where(rows => rows.FromExists)],
            [.. snapshot.Cells.Where(cell => cell.Current is { } now && now == cell.After)],
            [.. snapshot.Deletions.Where(deletion => !deletion.KeyTaken)],
            drift);
    }

    /// <summary>The details that the history keeps.</summary>
    /// <param name="fingerprint">The fingerprint of the whole plan.</param>
    public ReversalDetails ToDetails(string fingerprint) => new(
        fingerprint,
        Snapshot.Records,
        [.. Rows.Select(rows => new ReturnedRows(rows.Reference, rows.Title, rows.From.ToString(), rows.Intact, rows.Journaled))],
        [.. Cells.Select(cell => new ReturnedCell(cell.Record.ToString(), cell.Column, cell.After.ToText(), cell.Before.ToText()))],
        [.. Restored.Select(deletion => deletion.IsRecord ? deletion.Record.ToString() : $"{deletion.Title} {deletion.Record}")],
        Drift);

    private static string Say(ColumnValue value) => value.IsNull ? "blank" : $"'{value.ToText()}'";
}

/// <summary>What taking back a merge would do, with the later merges that have to go first.</summary>
/// <param name="Entry">The number of the merge to take back.</param>
/// <param name="Reversals">
/// What is done, in order: the reversals of the later merges if asked for, then that of the merge itself.
/// </param>
/// <param name="Standing">The numbers of the later merges that stand on it, latest first.</param>
/// <param name="Fingerprint">Stands for all the plan was computed from.</param>
public sealed record ReversalPlan(
    long Entry,
    IReadOnlyList<SingleReversal> Reversals,
    IReadOnlyList<long> Standing,
    Fingerprint Fingerprint)
{
    /// <summary>The fingerprint of a chain of reversals.</summary>
    /// <param name="entry">The number of the merge to take back.</param>
    /// <param name="withLater">True if later merges are taken back first.</param>
    /// <param name="reversals">What is done, in order.</param>
    public static Fingerprint FingerprintOf(long entry, bool withLater, IReadOnlyList<SingleReversal> reversals)
    {
        ArgumentNullException.ThrowIfNull(reversals);
        var builder = new Fingerprint.Builder(digest => digest.Add("reversal").Add(entry).Add(withLater ? 1 : 0));
        builder.Part("Later merges were made or taken back.", digest =>
        {
            foreach (var reversal in reversals)
                digest.Add(reversal.Snapshot.Merge.Number);
        });
        builder.Part("A record of the merge was changed.", digest =>
        {
            foreach (var cell in reversals.SelectMany(reversal => reversal.Snapshot.Cells))
                digest.Add(cell.Current is null ? 0 : 1).Add(cell.Current ?? ColumnValue.Null);
            foreach (var deletion in reversals.SelectMany(reversal => reversal.Snapshot.Deletions))
                digest.Add(deletion.KeyTaken ? 1 : 0);
        });
        builder.Part("A related row was moved on or deleted.", digest =>
        {
            foreach (var rows in reversals.SelectMany(reversal => reversal.Snapshot.Rows))
            {
                digest.Add(rows.FromExists ? 1 : 0).Add(rows.Intact);
                foreach (var key in rows.Elsewhere.Concat(rows.Gone))
                    digest.Add(key);
            }
        });
        return builder.Build();
    }
}
