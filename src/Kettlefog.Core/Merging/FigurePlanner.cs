using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging.Survivorship;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>Computes figures before and after the merge, and blocks it if a control total would not agree.</summary>
internal static class FigurePlanner
{
    /// <summary>Plans one figure; what blocks the merge is added to the blockers.</summary>
    public static PlannedFigure Plan(
        Figure figure,
        MergeSnapshot snapshot,
        List<IReadOnlyList<PlannedCollision>> collisions,
        List<(TableSchema Table, IReadOnlyList<ColumnValue> Row)> gone,
        List<Blocker> blockers
    )
    {
        var place = snapshot.References.ToList().FindIndex(candidate => candidate.Reference.Name == figure.Reference);
        var reference = snapshot.References[place];
        var before = reference.Related.Select(related => related.Figures[figure.Name]).ToList();
        if (reference.Reference.Policy != ReferencePolicy.Reassign)
            return new PlannedFigure(figure, before, before[0]);
        var lost = gone.Where(row => MovePlanner.IndexOfReferencedRecord(reference, row) >= 0).ToList();
        var ended = snapshot
            .References.Zip(collisions)
            .Where(pair => pair.First.Table == reference.Table)
            .SelectMany(pair => pair.Second)
            .Where(collision =>
                MovePlanner.IndexOfReferencedRecord(reference, (reference.Table, collision.Kept.Row)) >= 0
            );
        var after = figure.Operation switch
        {
            FigureOperation.Count => ColumnValue.Of(before.Sum(value => (long)value.Raw!) - lost.Count),
            FigureOperation.Sum => Sum(before)
                .Minus(Sum(lost.Select(row => row.Row[reference.Table.IndexOf(figure.Column!)])))
                .Plus(AmountGainedByCombining(figure, reference, ended))
                .ToValue(),
            FigureOperation.Last => before.MaxBy(value => value, FigureOrder)!,
            _ => before.Where(value => !value.IsBlank).DefaultIfEmpty().MinBy(value => value, FigureOrder)!,
        };
        if (figure.Control && figure.Adds && Sum(before).Fault is { } fault)
        {
            var row = snapshot.Unsummable.GetValueOrDefault(figure.Name);
            blockers.Add(
                new Blocker(
                    $"The control total {figure.Title} cannot be computed: "
                        + (
                            row is null
                                ? ""
                                : $"{figure.Column} of {reference.Reference.Title.ToLowerInvariant()} {row}: "
                        )
                        + $"{fault}.",
                    "Correct the value in the operational system, or make the figure no control total."
                )
            );
        }
        else if (figure.Control && figure.Adds && Sum([after]) != Sum(before))
        {
            blockers.Add(
                new Blocker(
                    $"The control total {figure.Title} would become {after} instead of "
                        + $"{Sum(before).ToValue()}, because conflicting "
                        + $"{reference.Reference.Title.ToLowerInvariant()} are removed.",
                    figure.Operation == FigureOperation.Count
                        ? "Void or renumber one of the rows in the operational system, or make the figure no "
                            + "control total."
                        : "Combine the rows with the rule 'total' for this column, or void one of them in the "
                            + "operational system."
                )
            );
        }

        return new PlannedFigure(figure, before, after);
    }

    /// <summary>The increase of a figure's column by combined rows.</summary>
    private static ExactSum AmountGainedByCombining(
        Figure figure,
        ReferenceSnapshot reference,
        IEnumerable<PlannedCollision> collisions
    ) =>
        collisions
            .SelectMany(collision =>
                collision
                    .Changes.Where(change => Identifiers.Same(change.Column.Name, figure.Column))
                    .Select(change =>
                        Sum([change.Value]).Minus(Sum([collision.Kept.Row[reference.Table.IndexOf(figure.Column!)]]))
                    )
            )
            .Aggregate(new ExactSum(0, null), (sum, gained) => sum.Plus(gained));

    private static Comparer<ColumnValue> FigureOrder { get; } =
        Comparer<ColumnValue>.Create(SurvivorshipResolver.CompareValues);

    private static ExactSum Sum(IEnumerable<ColumnValue> values) => ExactSum.Of(values);
}
