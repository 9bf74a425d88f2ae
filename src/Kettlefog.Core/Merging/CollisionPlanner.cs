using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging.Survivorship;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>Decides which of several conflicting rows is kept, and with which values.</summary>
internal static class CollisionPlanner
{
    /// <summary>
    /// Plans how the collisions of a reference are resolved; whatever prevents that is added to the blockers.
    /// </summary>
    public static IReadOnlyList<PlannedCollision> Plan(
        MergeSnapshot snapshot,
        ReferenceSnapshot reference,
        List<Blocker> blockers
    )
    {
        if (reference.Reference.Policy != ReferencePolicy.Reassign)
            return [];
        blockers.AddRange(
            reference.Obstacles.Select(obstacle => new Blocker(
                obstacle,
                "Resolve it in the operational system, then plan again."
            ))
        );
        foreach (
            var collision in reference.Collisions.Where(collision => collision.Rows.Any(row => row.RecordIndex < 0))
        )
        {
            var stranger = collision.Rows.First(row => row.RecordIndex < 0);
            var others = collision.Rows.Where(row => row != stranger).Select(row => row.Key);
            blockers.Add(
                new Blocker(
                    $"{reference.Reference.Title} {string.Join(" and ", others)} "
                        + $"cannot belong to the master: {collision.Values} must be unique ({collision.UniqueKey}), "
                        + $"and {stranger.Key}, which belongs to none of the records, has it.",
                    "Void or renumber one of them in the operational system, then plan again."
                )
            );
        }

        if (reference.Collisions.Any(collision => collision.Rows.Any(row => row.RecordIndex < 0)))
            return [];
        if (reference.Reference.Collision == CollisionPolicy.Block)
        {
            blockers.AddRange(
                reference.Collisions.Select(collision => new Blocker(
                    $"{reference.Reference.Title} "
                        + $"{string.Join(" and ", collision.Rows.Select(row => row.Key))} cannot both belong to the "
                        + $"master: {collision.Values} must be unique ({collision.UniqueKey}).",
                    "If one of them is a copy, void or renumber it in the operational system, then plan again."
                ))
            );
            return [];
        }

        return
        [
            .. Groups(reference.Collisions)
                .Where(group =>
                    reference.Reference.Collision != CollisionPolicy.KeepEqual || AreEqual(reference, group, blockers)
                )
                .Select(group => End(snapshot, reference, group, blockers)),
        ];
    }

    /// <summary>
    /// True if the rows are equal in all columns but those of their own key, the reference and bookkeeping; otherwise
    /// they block the merge.
    /// </summary>
    private static bool AreEqual(
        ReferenceSnapshot reference,
        (string Values, List<CollidingRow> Rows) group,
        List<Blocker> blockers
    )
    {
        var first = group.Rows[0];
        var differing = group
            .Rows.Skip(1)
            .SelectMany(row => Differences(reference, first.Row, row.Row))
            .Select(difference => difference.Column)
            .Distinct()
            .ToList();
        if (differing.Count == 0)
            return true;
        var values = differing.Select(column =>
        {
            var place = reference.Table.IndexOf(column);
            return $"{column} ({string.Join(", ", group.Rows.Select(row => ValueText.Of(row.Row[place])))})";
        });
        blockers.Add(
            new Blocker(
                $"{reference.Reference.Title} "
                    + $"{string.Join(" and ", group.Rows.Select(row => row.Key))} cannot both belong "
                    + $"to the master ({group.Values} must be unique), and they differ in {string.Join(", ", values)}.",
                "Correct or remove one of them in the operational system, then plan again."
            )
        );
        return false;
    }

    /// <summary>
    /// In what a removed row differs from the one that is kept, but for the key, the reference and bookkeeping.
    /// </summary>
    /// <param name="reference">The reference.</param>
    /// <param name="kept">The values of the row that is kept, in the order of the table's columns.</param>
    /// <param name="removed">Those of the other.</param>
    private static IEnumerable<RowDifference> Differences(
        ReferenceSnapshot reference,
        IReadOnlyList<ColumnValue> kept,
        IReadOnlyList<ColumnValue> removed
    )
    {
        var ignored = reference
            .Reference.Key.Concat(reference.Table.PrimaryKey)
            .Concat(reference.Reference.Columns)
            .Concat(reference.Reference.Bookkeeping)
            .ToHashSet(StringComparer.OrdinalIgnoreCase);
        for (var place = 0; place < reference.Table.Columns.Count; place++)
        {
            var column = reference.Table.Columns[place];
            if (!column.Generated && !ignored.Contains(column.Name) && kept[place] != removed[place])
                yield return new RowDifference(column.Name, kept[place], removed[place]);
        }
    }

    /// <summary>Rows that collide by one key or another belong together.</summary>
    private static List<(string Values, List<CollidingRow> Rows)> Groups(IReadOnlyList<Collision> collisions)
    {
        var groups = new List<(string Values, List<CollidingRow> Rows)>();
        foreach (var collision in collisions)
        {
            var rows = collision.Rows.ToList();
            var values = collision.Values;
            foreach (
                var met in groups
                    .Where(group => group.Rows.Any(row => collision.Rows.Any(each => each.Key.Equals(row.Key))))
                    .ToList()
            )
            {
                groups.Remove(met);
                rows.AddRange(met.Rows.Where(row => !rows.Any(each => each.Key.Equals(row.Key))));
                values = $"{met.Values}; {values}";
            }

            groups.Add((values, rows));
        }

        return groups;
    }

    private static PlannedCollision End(
        MergeSnapshot snapshot,
        ReferenceSnapshot reference,
        (string Values, List<CollidingRow> Rows) group,
        List<Blocker> blockers
    )
    {
        var rows = group
            .Rows.OrderBy(row => row.RecordIndex)
            .ThenBy(row => row.Key.ToString(), StringComparer.Ordinal)
            .ToList();
        bool Meet(CollidingRow one, CollidingRow other) =>
            reference.Collisions.Any(collision =>
                collision.Rows.Any(row => row.Key.Equals(one.Key))
                && collision.Rows.Any(row => row.Key.Equals(other.Key))
            );
        if (
            rows.GroupBy(row => row.RecordIndex)
                .FirstOrDefault(each => each.Any(one => each.Any(other => one != other && !Meet(one, other)))) is
            { } several
        )
        {
            blockers.Add(
                new Blocker(
                    $"{reference.Reference.Title} {string.Join(" and ", several.Select(row => row.Key))} of "
                        + "one record collide with those of another by different keys.",
                    "Void or renumber one of them in the operational system, then plan again."
                )
            );
        }

        var changes =
            reference.Reference.Collision == CollisionPolicy.Combine
                ? Combine(snapshot, reference, rows, blockers)
                : [];
        blockers.AddRange(CombinedRowCheck.Check(snapshot, reference, rows, changes));
        var kept = rows[0].Row.ToList();
        foreach (var change in changes)
            kept[reference.Table.IndexOf(change.Column.Name)] = change.Value;
        return new PlannedCollision(
            group.Values,
            rows[0],
            rows[1..],
            changes,
            [.. rows[1..].Select(row => (IReadOnlyList<RowDifference>)[.. Differences(reference, kept, row.Row)])]
        );
    }

    private static List<PlannedChange> Combine(
        MergeSnapshot snapshot,
        ReferenceSnapshot reference,
        List<CollidingRow> rows,
        List<Blocker> blockers
    )
    {
        var table = reference.Table;
        var referringColumns = snapshot
            .References.Where(other => other.Table == table)
            .SelectMany(other => other.Reference.Columns.Concat(other.Reference.When.Keys))
            .ToHashSet(StringComparer.OrdinalIgnoreCase);
        var fixedColumns = referringColumns
            .Concat(reference.Reference.Key)
            .Concat(
                table
                    .UniqueKeys.Where(key =>
                        key.Columns.Any(column => column is not null && referringColumns.Contains(column))
                    )
                    .SelectMany(key => key.Columns)
                    .OfType<string>()
            )
            .ToHashSet(StringComparer.OrdinalIgnoreCase);
        var changes = new List<PlannedChange>();
        for (var place = 0; place < table.Columns.Count; place++)
        {
            var column = table.Columns[place];
            if (column.Generated || fixedColumns.Contains(column.Name))
                continue;
            var rule = reference.Reference.Combine.TryGetValue(column.Name, out var own)
                ? own
                : snapshot.Type.Survivorship;
            var candidates = rows.Select(row => new Candidate(
                    row.Row[place],
                    snapshot.Of(row.RecordIndex, snapshot.Type.Created),
                    snapshot.Of(row.RecordIndex, snapshot.Type.Changed),
                    snapshot.Type.IsBlank(row.Row[place]),
                    snapshot.SourceRank(row.RecordIndex),
                    row.Key.ToString()
                ))
                .ToList();
            if (SurvivorshipResolver.Decide(rule, candidates) is not { } survivor)
            {
                blockers.Add(
                    new Blocker(
                        $"{column.Name} of {reference.Reference.Title.ToLowerInvariant()} "
                            + $"{string.Join(" and ", rows.Select(row => row.Key))} cannot be added up.",
                        "Correct the values in the operational system, or give the column another rule in the map."
                    )
                );
                continue;
            }

            var value = survivor.From is null ? column.TryRead(survivor.Value.ToText()!) : survivor.Value;
            if (value is null || (survivor.From is null && !column.HasRoomFor(survivor.Value.ToText()!)))
            {
                blockers.Add(
                    new Blocker(
                        $"{column.Name} of {reference.Reference.Title.ToLowerInvariant()} {rows[0].Key} would "
                            + $"be '{survivor.Value}', which the column cannot hold.",
                        "Shorten the values in the operational system, or give the column another rule in the map."
                    )
                );
            }
            else if (value.Value != rows[0].Row[place])
            {
                changes.Add(
                    new PlannedChange(column, value.Value, survivor.From is { } from and > 0 ? rows[from] : null)
                );
            }
        }

        return changes;
    }
}
