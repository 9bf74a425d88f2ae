using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>Plans which related rows move.</summary>
internal static class MovePlanner
{
    /// <summary>Plans the related rows of one reference.</summary>
    public static PlannedMove Plan(
        MergeSnapshot snapshot,
        ReferenceSnapshot reference,
        IReadOnlyList<PlannedCollision> collisions,
        List<(TableSchema Table, IReadOnlyList<ColumnValue> Row)> gone
    )
    {
        var removed = new long[snapshot.Records.Count];
        var amount = reference
            .Related.Skip(1)
            .Select(related =>
                related is { Count: > 0, Amount: null }
                    ? new ExactSum(null, "")
                    : new ExactSum(related.Amount ?? 0, null)
            )
            .Aggregate(new ExactSum(0, null), (sum, each) => sum.Plus(each));
        foreach (var row in gone)
        {
            if (IndexOfReferencedRecord(reference, row) is not (>= 0 and var holder))
                continue;
            removed[holder]++;
            if (holder > 0 && reference.Reference.Amount is { } column)
                amount = amount.Minus(ExactSum.Of([row.Row[reference.Table.IndexOf(column)]]));
        }

        return new PlannedMove(
            reference.Reference,
            reference.PointedAt,
            reference.Table,
            reference.Related.Select(related => related.Count).ToList(),
            reference.Reference.Amount is null ? null : amount.Total,
            collisions,
            removed
        );
    }

    /// <summary>
    /// The index of the record that a row refers to by a reference, or -1. One row may refer to several.
    /// </summary>
    public static int IndexOfReferencedRecord(
        ReferenceSnapshot reference,
        (TableSchema Table, IReadOnlyList<ColumnValue> Row) row
    ) =>
        row.Table == reference.Table
            ? reference.Reference.IndexOfReferencedRecord(
                column => row.Row[row.Table.IndexOf(column)],
                reference.PointedAt
            )
            : -1;
}
