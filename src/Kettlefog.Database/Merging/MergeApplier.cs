using System.Globalization;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Duplicates.Clusters;
using Kettlefog.Database.Duplicates.Decisions;
using Kettlefog.Database.Engines;
using Kettlefog.Database.History;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Records;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Merging;

/// <summary>
/// Carries out a plan inside a write session. First it changes the rows: journals and reassigns related rows, retires
/// the duplicates, writes the master and proves the result. Then it records the merge in the history, one at a time.
/// The caller commits.
/// </summary>
internal sealed class MergeApplier(
    Session session,
    CheckedMap map,
    MergePlan plan,
    long journal,
    TimeProvider clock,
    RowCounter counter
)
{
    private readonly JournalWriter _journal = new(session) { Counter = counter };
    private readonly JournalReader _written = new(session);
    private readonly HistoryStore _history = new(session);
    private readonly Dictionary<(RecordKey Record, string Column), int> _overwritten = [];
    private readonly Dictionary<CollidingRow, int> _removed = new(ReferenceEqualityComparer.Instance);
    private int _step = plan.Ended.Count;

    private IReadOnlyDictionary<string, string> _lastKeys = new Dictionary<string, string>();

    /// <summary>Changes the rows.</summary>
    /// <exception cref="KettlefogException">
    /// The database refused a change, or the proof failed; the session must be given up.
    /// </exception>
    public async Task ChangeAsync(CancellationToken cancellationToken)
    {
        _lastKeys = await new AddedRowsReader(session, map).LastKeysAsync(plan.Type, cancellationToken);
        await ReassignAsync(cancellationToken);

        // Duplicates first: a deleted one frees the values of unique columns for the master.
        foreach (var duplicate in plan.Duplicates)
            Retire(duplicate.Key);
        UpdateMaster();
        await _journal.FlushAsync(cancellationToken);
        await ProveAsync(cancellationToken);
        await AddFurtherAsync(cancellationToken);
    }

    /// <summary>
    /// Records the merge, once its rows are changed. Meanwhile no other session may write to the history: see
    /// <see cref="DatabaseEngine.AcquireWriterLockAsync"/>.
    /// </summary>
    /// <param name="linkedTo">The number of the merge that this one is linked to; otherwise null.</param>
    /// <param name="linked">The numbers of the linked merges that are done with this one.</param>
    /// <param name="audit">Who merges, and why.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<(HistoryEntry Entry, MergeDetails Details)> RecordAsync(
        long? linkedTo,
        IReadOnlyList<long> linked,
        AuditContext audit,
        CancellationToken cancellationToken
    )
    {
        if (session.Engine.AllowsConcurrentWriters)
            await EnsureNotMarkedSinceAsync(cancellationToken);
        var details = MergeDetails.Of(plan, map.Map) with
        {
            Catalog = map.Version,
            LinkedTo = linkedTo,
            Linked = linked.Count == 0 ? null : linked,
        };
        details = details.WithLastKeys(_lastKeys);
        var (number, previousHash) = await _history.NextAsync(cancellationToken);
        var redirects = new RedirectStore(session);
        foreach (var duplicate in plan.Duplicates)
            redirects.Add(plan.Type.Name, duplicate.Key.ToString(), plan.Master.Key.ToString(), number);
        var at = HistoryStore.Truncate(clock.GetUtcNow());
        await AddToTimelineAsync(number, audit, at, cancellationToken);
        var entry = new HistoryEntry(
            number,
            EntryKind.Merge,
            plan.Type.Name,
            plan.Master.Key.ToString(),
            at,
            audit.Actor,
            audit.Reason,
            audit.Rule,
            audit.ApprovedBy,
            null,
            DetailsJson.Write(details),
            await new JournalDigest(session).ComputeAsync(journal, cancellationToken),
            previousHash
        );
        _history.Append(entry, journal, plan.Duplicates.Select(duplicate => duplicate.Key.ToString()));
        await DecideAsync(entry, details.Reopened, cancellationToken);
        return (entry, details);
    }

    /// <summary>
    /// Checks that nobody marked the records as not duplicates since the plan was made: that changes no row of theirs,
    /// so that no lock keeps others from it.
    /// </summary>
    private async Task EnsureNotMarkedSinceAsync(CancellationToken cancellationToken)
    {
        var marked = await new NonDuplicateStore(session).ListAmongAsync(
            plan.Type.Name,
            [.. plan.Records.Select(record => record.Key.ToString())],
            cancellationToken
        );
        if (!marked.Select(each => each.Marked).SequenceEqual(plan.Reopened.Select(each => each.Marked)))
            throw new KettlefogException(
                ErrorCode.PlanStale,
                "Records of the merge were marked as not duplicates while it was carried out.",
                "Everything was rolled back. Make a new plan."
            );
    }

    /// <summary>The queue of clusters and the examples for learning follow the merge.</summary>
    private async Task DecideAsync(
        HistoryEntry entry,
        IReadOnlyList<ReopenedPair>? reopened,
        CancellationToken cancellationToken
    )
    {
        await new NonDuplicateStore(session).RemoveAsync(entry.RecordType, reopened ?? [], cancellationToken);
        await new ClusterStore(session, entry.At).LeaveAsync(
            entry.RecordType,
            [.. plan.Duplicates.Select(duplicate => duplicate.Key.ToString())],
            null,
            ClusterState.Merged,
            entry.Number,
            cancellationToken
        );
        string?[] Values(int record) =>
            [
                .. plan.Type.Fields.Select(field =>
                    plan.Fields.First(planned => planned.Field == field).Values[record].ToText()
                ),
            ];
        new NonDuplicateStore(session).KeepDecision(
            entry.Number,
            plan.Type,
            [.. Enumerable.Range(1, plan.Records.Count - 1).Select(record => (Values(0), Values(record)))],
            match: true
        );
    }

    private async Task ReassignAsync(CancellationToken cancellationToken)
    {
        var moves = Reference.InReassignmentOrder(plan.Moves, move => move.Reference);
        counter.Expect(moves.Sum(move => move.Count - move.RemovedCounts.Skip(1).Sum()));

        // Repeats are removed first, which frees their unique values; rows that refer to them move to the kept row.
        foreach (var move in moves)
        {
            foreach (var collision in move.Collisions)
            {
                foreach (var gone in collision.Removed)
                    await ResolveCollisionAsync(move, collision.Kept, gone, cancellationToken);
            }
        }

        MoveMasterUp();
        foreach (var move in moves)
        {
            var isOwnTable = Identifiers.Same(move.Reference.Table, plan.Type.Table);
            for (var index = 1; index < plan.Records.Count; index++)
            {
                // One duplicate may refer to another, which is not counted.
                if (move.Counts[index] > move.RemovedCounts[index] || isOwnTable)
                    await _journal.ReassignAsync(
                        journal,
                        ++_step,
                        move.Reference,
                        move.Table,
                        move.PointedAt[index],
                        move.PointedAt[0],
                        move.Counts[index],
                        cancellationToken
                    );
            }
        }

        // Last the values of the kept rows, under their current keys.
        foreach (var move in moves)
        {
            foreach (var collision in move.Collisions.Where(collision => collision.Changes.Count > 0))
                _journal.Update(
                    journal,
                    ++_step,
                    move.Reference.Name,
                    move.Table,
                    move.Reference.Key,
                    KeyAfter(move, collision.Kept),
                    [
                        .. collision.Changes.Select(change =>
                            change.From is { } from
                                ? (
                                    change.Column,
                                    session.Dialect.Restore(
                                        _written.Before(journal, _removed[from], change.Column.Name),
                                        change.Column
                                    )
                                )
                                : _journal.Written((change.Column, change.Value))
                        ),
                    ]
                );
        }
    }

    /// <summary>Before the duplicates' children move to it, the master leaves its place below them.</summary>
    private void MoveMasterUp()
    {
        var table = map.Catalog.Require(plan.Type.Table);
        foreach (var parent in plan.Parents)
        {
            var cells = table
                .Require(parent.Reference.Columns)
                .Select((column, part) => (column, parent.After?.Parts[part] ?? ColumnValue.Null))
                .ToList();
            _journal.Update(journal, ++_step, null, table, plan.Type.Key, plan.Master.Key, cells);
        }
    }

    private async Task ResolveCollisionAsync(
        PlannedMove move,
        CollidingRow stays,
        CollidingRow gone,
        CancellationToken cancellationToken
    )
    {
        foreach (var along in gone.Dependents)
        {
            var table = map.Catalog.Require(along.Table);
            RecordKey Target(CollidingRow row) =>
                new([.. along.TargetColumns.Select(column => row.Row[move.Table.IndexOf(column)])]);
            await _journal.ReassignAsync(
                journal,
                ++_step,
                null,
                table,
                along.Columns,
                table.PrimaryKey,
                session.Keys.Holds(along.When, table),
                [.. KeyConditions.WhenCells(along.When, table)],
                Target(gone),
                Target(stays),
                along.Count,
                cancellationToken
            );
        }

        _journal.Delete(journal, ++_step, move.Reference.Name, move.Table, move.Reference.Key, gone.Key);
        _removed[gone] = _step;
    }

    /// <summary>A row's key once it refers to the master, where a reference is part of the key.</summary>
    private RecordKey KeyAfter(PlannedMove move, CollidingRow row)
    {
        var parts = row.Key.Parts.ToList();
        ColumnValue Of(string column) => row.Row[move.Table.IndexOf(column)];
        foreach (
            var other in Reference.InReassignmentOrder(plan.Moves.Where(each => each.Table == move.Table), each =>
                each.Reference
            )
        )
        {
            if (other.Reference.IndexOfReferencedRecord(Of, other.PointedAt) < 0)
                continue;
            foreach (var (column, part) in other.Reference.Columns.Select((column, part) => (column, part)))
            {
                if (move.Reference.Key.IndexOfIdentifier(column) is >= 0 and var place)
                    parts[place] = other.PointedAt[0].Parts[part];
            }
        }

        return new RecordKey(parts);
    }

    /// <summary>
    /// Adds related rows for values that did not survive; the proof covers the rows that existed before.
    /// </summary>
    private async Task AddFurtherAsync(CancellationToken cancellationToken)
    {
        foreach (var addition in plan.Additions)
        {
            var rows = addition.Field.OverflowRows!;
            var move = plan.Moves.First(each => each.Reference.Name == rows.Reference);
            var column = move.Table.Require([rows.Column])[0];
            var values = move
                .Table.Require(move.Reference.Columns)
                .Select((referring, part) => (referring, move.PointedAt[0].Parts[part]))
                .Concat(
                    rows.Values.Select(cell => (Column: move.Table.Require([cell.Key])[0], cell.Value))
                        .Select(cell => (cell.Column, cell.Column.TryRead(cell.Value) ?? ColumnValue.Of(cell.Value)))
                )
                .Select(_journal.Written)
                .Append((column, OriginOf((addition.Record, addition.Column), column)));
            await _journal.InsertAsync(journal, ++_step, move.Table, [.. values], cancellationToken);
        }

        await _journal.FlushAsync(cancellationToken);
    }

    /// <summary>Adds the timeline row for the master; the proof covers the rows that existed before.</summary>
    private async Task AddToTimelineAsync(
        long number,
        AuditContext audit,
        DateTimeOffset at,
        CancellationToken cancellationToken
    )
    {
        if (plan.Type.Timeline is not { } timeline)
            return;
        var table = map.Catalog.Require(timeline.Table);
        var words = new Dictionary<string, string>
        {
            ["key"] = plan.Master.Key.ToString(),
            ["label"] = plan.Master.Label,
            ["duplicates"] = string.Join(", ", plan.Duplicates.Select(duplicate => duplicate.Key)),
            ["actor"] = audit.Actor,
            ["reason"] = audit.Reason,
            ["number"] = number.ToString(CultureInfo.InvariantCulture),
            ["at"] = at.UtcDateTime.ToString("yyyy-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture),
            ["date"] = at.UtcDateTime.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
        };
        var values = new List<(ColumnSchema, ColumnValue)>();
        foreach (var (name, template) in timeline.Values)
        {
            var column = table.Require([name])[0];
            var text = Timeline.Fill(template, words);
            if (column.MaxLength is { } max)
                text = CharacterText.Shorten(text, max);
            values.Add(
                (
                    column,
                    column.TryRead(text)
                        ?? throw new KettlefogException(
                            ErrorCode.DatabaseRefused,
                            $"The row for the master's timeline would have '{text}' in "
                                + $"{table.Name}.{column.Name} ({column.DeclaredType}), which cannot hold it.",
                            "Correct 'timeline' in the record map."
                        )
                )
            );
        }

        await _journal.InsertAsync(journal, ++_step, table, [.. values.Select(_journal.Written)], cancellationToken);
        await _journal.FlushAsync(cancellationToken);
    }

    private void Retire(RecordKey duplicate)
    {
        var table = map.Catalog.Require(plan.Type.Table);
        if (plan.Type.Retirement.Delete)
        {
            _journal.Delete(journal, ++_step, null, table, plan.Type.Key, duplicate);
            Overwritten(duplicate, table.Columns);
            return;
        }

        var marks = plan
            .Type.Retirement.Mark.Select(mark => (Column: table.Require([mark.Key])[0], mark.Value))
            .Select(mark => (mark.Column, mark.Column.TryRead(mark.Value) ?? ColumnValue.Of(mark.Value)))
            .ToList();
        _journal.Update(journal, ++_step, null, table, plan.Type.Key, duplicate, marks);
        Overwritten(duplicate, marks.Select(mark => mark.Column));
    }

    /// <summary>
    /// True for a column by which records of the type refer to each other, which the merge reassigns.
    /// </summary>
    private bool IsReassigned(string column) =>
        plan.Moves.Any(move =>
            Identifiers.Same(move.Reference.Table, plan.Type.Table) && move.Reference.Columns.ContainsIdentifier(column)
        );

    private void Overwritten(RecordKey record, IEnumerable<ColumnSchema> columns)
    {
        foreach (var column in columns)
            _overwritten.TryAdd((record, column.Name), _step);
    }

    /// <summary>
    /// A value of one of the records as it was before the merge, from where the database has it, so that not a byte of
    /// it passes through this program.
    /// </summary>
    private Sql OriginOf((int Record, string Column) origin, ColumnSchema column)
    {
        var table = map.Catalog.Require(plan.Type.Table);
        var key = plan.Records[origin.Record].Key;
        var name = table.Require([origin.Column])[0].Name;
        return session.Dialect.Restore(
            _overwritten.TryGetValue((key, name), out var step)
                ? _written.Before(journal, step, name)
                : _journal.Now(table, plan.Type.Key, key, name),
            column
        );
    }

    private void UpdateMaster()
    {
        var table = map.Catalog.Require(plan.Type.Table);
        var changes = plan
            .Fields.Where(field => field.Changes)
            .Select(field => (Column: table.Require([field.Field.Column])[0], field.Value, field.Origin))
            .ToList();
        if (changes.Count == 0)
            return;
        _journal.Update(
            journal,
            ++_step,
            null,
            table,
            plan.Type.Key,
            plan.Master.Key,
            [
                .. changes.Select(change =>
                    change.Origin is { } origin && !IsReassigned(origin.Column)
                        ? (change.Column, OriginOf(origin, change.Column))
                        : _journal.Written((change.Column, change.Value))
                ),
            ]
        );
        Overwritten(plan.Master.Key, changes.Select(change => change.Column));
    }

    private async Task ProveAsync(CancellationToken cancellationToken)
    {
        var moves = Reference.InReassignmentOrder(plan.Moves, move => move.Reference);
        var related = await new RelatedRowsReader(session, map.Catalog).ReadAsync(
            plan.Type,
            [.. moves.Select(move => ReferenceTarget.Of(map, plan.Type, move.Reference, move.PointedAt))],
            [.. plan.Records.Select(record => record.Key)],
            whole: false,
            cancellationToken
        );
        foreach (var (move, now) in moves.Zip(related))
        {
            if (now.Skip(1).Any(rows => rows.Count > 0))
                throw Disproved($"{move.Reference.Title} would still refer to a duplicate.");
            var wantedCount = move.Counts.Sum() - move.RemovedCounts.Sum();
            if (now[0].Count != wantedCount)
                throw Disproved(
                    $"The master would have {now[0].Count} {move.Reference.Title.ToLowerInvariant()} instead "
                        + $"of {wantedCount}."
                );
            foreach (
                var figure in plan.Figures.Where(figure =>
                    figure.Figure.Control && figure.Figure.Reference == move.Reference.Name
                )
            )
            {
                var after = now[0].Figures[figure.Figure.Name];
                if (
                    !after.TryGetDecimal(out var found)
                    || !figure.After.TryGetDecimal(out var wanted)
                    || found != wanted
                )
                    throw Disproved(
                        $"The control total {figure.Figure.Title} would be {after} instead of {figure.After}."
                    );
            }
        }
    }

    private static KettlefogException Disproved(string what) =>
        new(
            ErrorCode.ProofFailed,
            what,
            "Everything was rolled back. A trigger of the database may have changed rows; check triggers first."
        );
}
