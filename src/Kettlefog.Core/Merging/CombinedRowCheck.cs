using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>
/// A row that others were combined into may enter a unique key that it was not in before, such as a partial index
/// <c>WHERE amount &gt; 0</c>, and meet a row there that collided with none of them.
/// </summary>
internal static class CombinedRowCheck
{
    /// <summary>What prevents rows from being combined.</summary>
    /// <param name="snapshot">The snapshot.</param>
    /// <param name="reference">The reference whose rows collide.</param>
    /// <param name="rows">The rows that collide; the first is kept.</param>
    /// <param name="changes">What changes in the first.</param>
    public static IEnumerable<Blocker> Check(
        MergeSnapshot snapshot,
        ReferenceSnapshot reference,
        IReadOnlyList<CollidingRow> rows,
        IReadOnlyList<PlannedChange> changes
    )
    {
        var table = reference.Table;
        var combined = Moved(snapshot, reference, rows[0]);
        foreach (var change in changes)
            combined[table.IndexOf(change.Column.Name)] = change.Value;
        foreach (var unique in table.UniqueKeys.Append(UniqueKey.Of("primary key", table.PrimaryKey)))
        {
            var deciding = changes.Where(change => unique.DependsOn(change.Column.Name)).ToList();
            if (deciding.Count == 0 || StaysIn(unique, reference, rows[0], deciding))
                continue;
            var places = table
                .Columns.Select((column, place) => (column, place))
                .Where(each => unique.DependsOn(each.column.Name))
                .Select(each => each.place)
                .ToList();

            // For the key, the row is then what one of them is: whatever meets that one collides already.
            if (rows.Select(row => Moved(snapshot, reference, row)).Any(row => places.All(Same(row, combined))))
                continue;
            yield return new Blocker(
                $"{reference.Reference.Title} {string.Join(" and ", rows.Select(row => row.Key))} cannot be combined: "
                    + $"{string.Join(", ", deciding.Select(Said))} would decide whether {unique.Description} must be "
                    + $"unique ({unique.Name}), and another row may have the same.",
                "Void or renumber one of them in the operational system, or give "
                    + $"{deciding[0].Column.Name} another rule in the map, then plan again."
            );
        }
    }

    private static string Said(PlannedChange change) => $"{change.Column.Name} = {ValueText.Of(change.Value)}";

    private static Func<int, bool> Same(ColumnValue[] one, ColumnValue[] other) => place => one[place] == other[place];

    /// <summary>True if the row collides by the key already, and only its condition could change.</summary>
    private static bool StaysIn(
        UniqueKey unique,
        ReferenceSnapshot reference,
        CollidingRow kept,
        IEnumerable<PlannedChange> deciding
    ) =>
        deciding.All(change => !unique.Parts.Any(part => part.DependsOn(change.Column.Name)))
        && reference.Collisions.Any(collision =>
            collision.UniqueKey == unique.Name && collision.Rows.Any(row => row.Key.Equals(kept.Key))
        );

    /// <summary>A row's values once every reference of its table to a duplicate refers to the master.</summary>
    private static ColumnValue[] Moved(MergeSnapshot snapshot, ReferenceSnapshot reference, CollidingRow row)
    {
        var values = row.Row.ToArray();
        foreach (
            var other in snapshot.References.Where(other =>
                other.Table == reference.Table
                && other.Reference.Policy == ReferencePolicy.Reassign
                && MovePlanner.IndexOfReferencedRecord(other, (other.Table, row.Row)) > 0
            )
        )
        {
            foreach (var (column, value) in other.Reference.Columns.Zip(other.PointedAt[0].Parts))
                values[other.Table.IndexOf(column)] = value;
        }

        return values;
    }
}
