namespace Kettlefog.Core.Merging;

/// <summary>Plans which decisions that records are not duplicates the merge reopens.</summary>
internal static class NonDuplicatesPlanner
{
    /// <summary>The decisions that the merge reopens; if it may not, they are added to the blockers.</summary>
    public static IReadOnlyList<MarkedNonDuplicates> Plan(
        MergeChoices choices,
        MergeSnapshot snapshot,
        List<Blocker> blockers
    )
    {
        if (choices.Reopen)
            return snapshot.NonDuplicates;
        blockers.AddRange(
            snapshot.NonDuplicates.Select(marked => new Blocker(
                Describe(marked),
                "Leave one of them out, or reopen the decision with the merge (reopen)."
            )
            {
                Clearings = [new Clearing(ClearingKind.Reopen, "non-duplicates", "Reopen and merge")],
            })
        );
        return [];
    }

    /// <summary>The decision, in a sentence.</summary>
    public static string Describe(MarkedNonDuplicates marked) =>
        $"{marked.A} and {marked.B} were marked as not duplicates by {marked.Actor} on {marked.At:yyyy-MM-dd} "
        + $"(history entry {marked.Number}){(marked.Reason.Length > 0 ? $", with the reason “{marked.Reason}”" : "")}.";
}
