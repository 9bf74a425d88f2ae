using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Records;

namespace Kettlefog.Database.Reversing;

/// <summary>Which steps of a merge belong to one of its duplicates.</summary>
internal sealed class MergeParts(JournalReader journal, CheckedMap map, RecordType type, MergeDetails details)
{
    /// <summary>Checks that a duplicate can be taken out of the merge.</summary>
    /// <exception cref="KettlefogException">
    /// It is the master, not a record of the merge, taken out already, or its rows were combined with others.
    /// </exception>
    public void Require(string key, IReadOnlyDictionary<string, long> partlyReversed, long number)
    {
        var index = IndexOf(key);
        if (index < 1)
        {
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                index == 0
                    ? $"{key} is the master of merge {number} and cannot be taken out of it."
                    : $"{key} is not a record of merge {number}.",
                "Name one of its duplicates: "
                    + $"{string.Join(", ", details.Records.Skip(1).Select(record => record.Key))}."
            );
        }

        if (partlyReversed.TryGetValue(key, out var entry))
            throw new KettlefogException(
                ErrorCode.NotReversible,
                $"Merge {number} was already reversed for {key}, by entry {entry}.",
                "Show that entry."
            );
        foreach (var move in details.Moves)
        {
            if (
                move.Collisions?.FirstOrDefault(each =>
                    each.Changes.Count > 0 && each.Removed.Any(gone => Holds(move, gone, index))
                ) is
                { } combined
            )
            {
                throw new KettlefogException(
                    ErrorCode.NotReversible,
                    $"The merge cannot be reversed for {key} only: {move.Title.ToLowerInvariant()} of several "
                        + $"records were combined into {combined.Kept}.",
                    "Reverse the whole merge, and merge the others again."
                );
            }
        }
    }

    /// <summary>
    /// The steps that one record's part in the merge consists of: its rows, those removed as repeats, its retirement.
    /// </summary>
    /// <param name="key">The record's key in text form.</param>
    /// <param name="partlyReversed">
    /// The records that were taken out before it. A row that refers to two of them is restored with the last.
    /// </param>
    /// <param name="steps">The steps of the merge.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<List<JournalStep>> OfAsync(
        string key,
        IEnumerable<string> partlyReversed,
        List<JournalStep> steps,
        CancellationToken cancellationToken
    )
    {
        var record = IndexOf(key);
        var before = partlyReversed.Select(IndexOf).ToHashSet();
        var found = new List<JournalStep>();
        var along = new List<JournalStep>();
        foreach (var step in steps)
        {
            // Rows that referred to a removed row moved just before it was removed.
            if (step is { Operation: JournalOperation.Reassign, Reference: null })
            {
                along.Add(step);
                continue;
            }

            if (await BelongsToAsync(step, record, before, cancellationToken))
                found.AddRange(step.Operation == JournalOperation.Delete ? along.Append(step) : [step]);
            along.Clear();
        }

        return found;
    }

    /// <summary>The numbers of the steps undone earlier, with records that were taken out before.</summary>
    public async Task<HashSet<int>> UndoneAsync(
        IReadOnlyDictionary<string, long> partlyReversed,
        List<JournalStep> steps,
        CancellationToken cancellationToken
    )
    {
        var undone = new HashSet<int>();
        var before = new List<string>();
        foreach (var key in partlyReversed.OrderBy(pair => pair.Value).Select(pair => pair.Key))
        {
            undone.UnionWith((await OfAsync(key, before, steps, cancellationToken)).Select(step => step.Step));
            before.Add(key);
        }

        return undone;
    }

    private async Task<bool> BelongsToAsync(
        JournalStep step,
        int record,
        HashSet<int> partlyReversed,
        CancellationToken cancellationToken
    )
    {
        if (step.Operation == JournalOperation.Insert)
            return false;
        if (step.Reference is null)
            return (await journal.KeysAsync(step, cancellationToken)).Single().ToString()
                == details.Records[record].Key;
        if (step.Operation == JournalOperation.Update)
            return (details.Ended ?? [])
                .Zip(details.EndedSteps ?? [])
                .Any(ended => ended.Second == step.Step && ended.First.Record == details.Records[record].Key);
        var cells = (await journal.CellsAsync(step, cancellationToken)).ToDictionary(
            cell => cell.Column,
            cell => cell.Before,
            StringComparer.OrdinalIgnoreCase
        );
        if (step.Operation == JournalOperation.Reassign)
            return RecordOf(type.RequireReference(step.Reference), cells) == record;
        var holders = Reference
            .InReassignmentOrder(type.References, reference => reference)
            .Where(reference => Identifiers.Same(reference.Table, step.Table))
            .Select(reference => RecordOf(reference, cells))
            .Where(holder => holder > 0)
            .ToList();
        return holders.Contains(record)
            && holders.TrueForAll(holder => holder == record || partlyReversed.Contains(holder));
    }

    /// <summary>The index of the record that a row referred to by a reference, or -1.</summary>
    private int RecordOf(Reference reference, Dictionary<string, ColumnValue> cells) =>
        reference.IndexOfReferencedRecord(
            column => cells.GetValueOrDefault(column, ColumnValue.Null),
            ReferenceTarget.Of(map, type, reference, details).Keys
        );

    private int IndexOf(string key) => details.Records.ToList().FindIndex(record => record.Key == key);

    private bool Holds(PlanMove move, PlanRemovedRow gone, int record)
    {
        var reference = type.RequireReference(move.Reference);
        var referring = new RecordKey([
            .. reference.Columns.Select(column =>
                gone.Values.GetValueOrDefault(column) is { } text ? ColumnValue.Of(text) : ColumnValue.Null
            ),
        ]);
        return referring.ToString() == details.PointedAt(move.Reference)[record];
    }
}
