using Kettlefog.Contracts;
using Kettlefog.Core.History;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Reversing;

/// <summary>The plan to reverse one merge.</summary>
/// <param name="Snapshot">The snapshot it was computed from.</param>
/// <param name="Choices">The operator's choices.</param>
/// <param name="Rows">The related rows that are moved back.</param>
/// <param name="ReclaimedRows">Single rows that were moved elsewhere since and are moved back too.</param>
/// <param name="Cells">The values that are restored.</param>
/// <param name="Restored">The deleted rows that are restored.</param>
/// <param name="Removed">The rows that the merge added and that are removed.</param>
/// <param name="Drift">The changes made since the merge.</param>
public sealed record SingleReversal(
    ReversalSnapshot Snapshot,
    ReversalChoices Choices,
    IReadOnlyList<JournaledRows> Rows,
    IReadOnlyList<(JournaledRows Rows, RecordKey Key)> ReclaimedRows,
    IReadOnlyList<JournaledCell> Cells,
    IReadOnlyList<JournaledDeletion> Restored,
    IReadOnlyList<JournaledInsertion> Removed,
    IReadOnlyList<Drift> Drift
)
{
    /// <summary>Plans the reversal of one merge: everything that has not changed since is restored.</summary>
    /// <param name="snapshot">The state now.</param>
    /// <param name="choices">The choices about drift; ids that do not exist are ignored.</param>
    public static SingleReversal Of(ReversalSnapshot snapshot, ReversalChoices choices)
    {
        ArgumentNullException.ThrowIfNull(snapshot);
        ArgumentNullException.ThrowIfNull(choices);
        var drift = new List<Drift>();
        Drift Found(string id, string left, string text, string? undo)
        {
            id = $"{snapshot.Merge.Number}.{id}";
            var taken = undo is not null && choices.UndoDrift.Contains(id);
            drift.Add(new Drift(id, taken ? $"{text}, and is undone: {undo}." : $"{text}{left}", undo, taken));
            return drift[^1];
        }

        foreach (var (loss, place) in snapshot.Lost.Select((loss, place) => (loss, place)))
            Found($"{loss.Step}.lost.{place}", $": {loss.Because}.", loss.What, null);
        foreach (var deletion in snapshot.Deletions.Where(deletion => deletion.IsKeyTaken))
            Found(
                $"{deletion.Step}",
                ": another row has its key now.",
                $"{deletion.Title} {deletion.Record} cannot be restored",
                null
            );
        foreach (
            var deletion in snapshot.Deletions.Where(deletion => !deletion.IsKeyTaken && deletion.Taken is not null)
        )
            Found(
                $"{deletion.Step}",
                $": another row has {deletion.Taken} now, which must be unique.",
                $"{deletion.Title} {deletion.Record} cannot be restored",
                null
            );
        foreach (var cell in snapshot.Cells.Where(cell => cell.Current is null))
            Found(
                $"{cell.Step}.{cell.Column}",
                $"; its {cell.Column} cannot be restored.",
                $"{cell.Title} {cell.Record} has been deleted since",
                null
            );
        foreach (var cell in snapshot.Cells.Where(cell => cell.Current is not null && cell.Taken))
            Found(
                $"{cell.Step}.{cell.Column}",
                $": another row has {Say(cell.Before)} now, which must be unique.",
                $"{cell.Column} of {cell.Record} cannot be restored",
                null
            );
        var cells = snapshot
            .Cells.Where(cell => cell is { Current: not null, Taken: false })
            .Where(cell =>
                cell.Current == cell.After
                || Found(
                    $"{cell.Step}.{cell.Column}",
                    ", which is kept.",
                    $"{cell.Column} of {cell.Record} has changed since: the merge wrote {Say(cell.After)}, now "
                        + $"it is {Say(cell.Current!.Value)}",
                    $"it is restored to {Say(cell.Before)}"
                ).Undone
            )
            .ToList();
        var restored = snapshot.Deletions.Where(deletion => deletion is { IsKeyTaken: false, Taken: null }).ToList();
        var fetched = new List<(JournaledRows, RecordKey)>();
        foreach (var rows in snapshot.Rows)
        {
            if (!rows.OriginExists)
            {
                Found(
                    $"{rows.Step}",
                    "",
                    $"{rows.Journaled} {rows.Title.ToLowerInvariant()} remain with the master: "
                        + $"{(rows.OfRecord ? snapshot.Type.Title.ToLowerInvariant() : "row")} {rows.From} no longer "
                        + "exists.",
                    null
                );
                continue;
            }

            fetched.AddRange(
                rows.Elsewhere.Where(key =>
                        Found(
                            $"{rows.Step}.{key}",
                            ", and is left there.",
                            $"{rows.Title} {key} refers to another record now",
                            $"it is moved back to {rows.From}"
                        ).Undone
                    )
                    .Select(key => (rows, key))
            );
            foreach (var key in rows.Deleted)
                Found($"{rows.Step}.{key}", ".", $"{rows.Title} {key} has been deleted since", null);

            // Rows without a key cannot be identified.
            if (rows.Intact < rows.Journaled && rows.Elsewhere.Count + rows.Deleted.Count == 0)
                Found(
                    $"{rows.Step}",
                    ", and are left as they are.",
                    $"{rows.Journaled - rows.Intact} {rows.Title.ToLowerInvariant()} were changed, moved elsewhere or "
                        + "deleted since",
                    null
                );
        }

        foreach (var insertion in snapshot.Insertions.Where(insertion => !insertion.Exists))
            Found(
                $"{insertion.Step}",
                ".",
                $"The row {insertion.Key} that the merge added to {insertion.Table} has been deleted since",
                null
            );
        var removed = snapshot
            .Insertions.Where(insertion =>
                insertion.Exists
                && (
                    insertion.Intact
                    || Found(
                        $"{insertion.Step}",
                        ", and is kept.",
                        $"The row {insertion.Key} that the merge added to {insertion.Table} was changed since",
                        "it is removed"
                    ).Undone
                )
            )
            .ToList();

        // It cannot be known which of several duplicates a new row belongs to.
        var to = choices.Only ?? (snapshot.Records.Count == 2 ? snapshot.Records[1].Key : null);
        var handed = snapshot
            .Added.Where(row =>
                Found(
                    $"{row.Reference}.{row.Key}",
                    ", and is left with it.",
                    $"{row.Title} {row.Key} was added to the master since",
                    to is null ? null : $"it is moved to {to}"
                ).Undone
            )
            .ToList();
        return new SingleReversal(
            snapshot,
            choices,
            [.. snapshot.Rows.Where(rows => rows.OriginExists)],
            fetched,
            cells,
            restored,
            removed,
            drift
        )
        {
            TransferredRows = handed,
            TransferredTo = to,
        };
    }

    /// <summary>The rows added since that are moved to a duplicate.</summary>
    public IReadOnlyList<AddedRow> TransferredRows { get; init; } = [];

    /// <summary>The key, in text form, of the duplicate that they are moved to; null if that cannot be known.</summary>
    public string? TransferredTo { get; init; }

    /// <summary>The details that the history stores.</summary>
    /// <param name="fingerprint">The fingerprint of the whole plan.</param>
    /// <param name="differences">What is not as the journal says afterwards, one sentence each.</param>
    public ReversalDetails ToDetails(string fingerprint, IReadOnlyList<string> differences) =>
        new(
            fingerprint,
            Snapshot.Records,
            [
                .. Rows.Select(rows => new ReturnedRows(
                    rows.Reference,
                    rows.Title,
                    rows.From.ToString(),
                    rows.Intact + ReclaimedRows.Count(each => each.Rows == rows),
                    rows.Journaled
                )),
            ],
            [
                .. Cells.Select(cell => new ReturnedCell(
                    cell.Record.ToString(),
                    cell.Column,
                    cell.Current?.ToText(),
                    cell.Before.ToText()
                )),
            ],
            [
                .. Restored.Select(deletion =>
                    deletion.IsRecord ? deletion.Record.ToString() : $"{deletion.Title} {deletion.Record}"
                ),
            ],
            [.. Drift.Select(each => each.Text), .. differences],
            Removed.Count == 0
                ? null
                :
                [
                    .. Removed.Select(insertion =>
                        $"The row {insertion.Key} that the merge added to {insertion.Table} is removed."
                    ),
                ],
            Choices.Only is null ? null : Snapshot.Merge.Number,
            Choices.Only,
            Snapshot.CatalogVersion
        );

    private static string Say(ColumnValue value) => value.IsNull ? "blank" : $"'{value.ToText()}'";
}

/// <summary>The plan to reverse a merge, with the later merges that must be reversed first.</summary>
/// <param name="Entry">The number of the merge to reverse.</param>
/// <param name="Reversals">
/// The reversals, in order: those of the later merges if requested, then that of the merge itself.
/// </param>
/// <param name="DependentMerges">The numbers of the later merges that depend on it, latest first.</param>
/// <param name="Fingerprint">Identifies everything the plan was computed from.</param>
public sealed record ReversalPlan(
    long Entry,
    IReadOnlyList<SingleReversal> Reversals,
    IReadOnlyList<long> DependentMerges,
    Fingerprint Fingerprint
)
{
    /// <summary>The fingerprint of a chain of reversals.</summary>
    /// <param name="choices">The operator's choices.</param>
    /// <param name="reversals">The reversals, in order.</param>
    public static Fingerprint FingerprintOf(ReversalChoices choices, IReadOnlyList<SingleReversal> reversals)
    {
        ArgumentNullException.ThrowIfNull(choices);
        ArgumentNullException.ThrowIfNull(reversals);
        var builder = new Fingerprint.Builder(digest =>
        {
            digest
                .Add("reversal")
                .Add(choices.Number)
                .Add(choices.WithLater ? 1 : 0)
                .Add(choices.KeepLinked ? 1 : 0)
                .Add(choices.Only ?? "");
            foreach (var id in choices.UndoDrift.Order(StringComparer.Ordinal))
                digest.Add(id);
        });
        builder.Part("Later merges were made or reversed.", digest =>
        {
            foreach (var reversal in reversals)
                digest.Add(reversal.Snapshot.Merge.Number);
        });
        builder.Part("The tables of the database were changed.", digest =>
        {
            foreach (var reversal in reversals)
                digest.Add(reversal.Snapshot.CatalogVersion);
        });
        builder.Part("A record of the merge was changed.", digest =>
        {
            foreach (var cell in reversals.SelectMany(reversal => reversal.Snapshot.Cells))
                digest
                    .Add(
                        cell.Current is null ? 0
                        : cell.Taken ? 2
                        : 1
                    )
                    .Add(cell.Current ?? ColumnValue.Null);
            foreach (var deletion in reversals.SelectMany(reversal => reversal.Snapshot.Deletions))
                digest.Add(deletion.IsKeyTaken ? 1 : 0).Add(deletion.Taken ?? "");
            foreach (var insertion in reversals.SelectMany(reversal => reversal.Snapshot.Insertions))
                digest.Add(insertion.Exists ? 1 : 0).Add(insertion.Intact ? 1 : 0);
        });
        builder.Part("A related row was moved elsewhere, deleted or added.", digest =>
        {
            foreach (var rows in reversals.SelectMany(reversal => reversal.Snapshot.Rows))
            {
                digest.Add(rows.OriginExists ? 1 : 0).Add(rows.Intact);
                foreach (var key in rows.Elsewhere.Concat(rows.Deleted))
                    digest.Add(key);
            }

            foreach (var row in reversals.SelectMany(reversal => reversal.Snapshot.Added))
                digest.Add(row.Reference).Add(row.Key);
        });
        return builder.Build();
    }
}
