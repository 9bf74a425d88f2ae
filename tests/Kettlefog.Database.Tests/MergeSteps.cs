using Kettlefog.Core.Merging;
using Kettlefog.Core.Reversing;
using Kettlefog.Database.History;
using Kettlefog.Database.Merging;
using Kettlefog.Database.Reversing;

namespace Kettlefog.Database.Tests;

/// <summary>A merge and a reversal as an operator does them: review the plan, then apply it.</summary>
internal static class MergeSteps
{
    /// <summary>Applies a plan, and returns the number of its entry.</summary>
    public static async Task<long> ApplyAsync(this OperationalDatabase database, MergePlan plan) =>
        (
            await database.Merges.ApplyAsync(
                new MergeRequest(
                    plan.Choices,
                    plan.Fingerprint.Text,
                    new AuditContext("c.weeks", "one"),
                    Guid.NewGuid().ToString()
                ),
                default
            )
        )
            .Entry
            .Number;

    /// <summary>Reverses a merge, and returns the drift of its preview.</summary>
    public static Task<IReadOnlyList<string>> TakeBackAsync(this OperationalDatabase database, long number) =>
        database.TakeBackAsync(new ReversalChoices(number));

    /// <summary>Reverses what was chosen, and returns the drift of its preview.</summary>
    public static async Task<IReadOnlyList<string>> TakeBackAsync(
        this OperationalDatabase database,
        ReversalChoices choices
    )
    {
        var plan = await database.Reversals.PlanAsync(choices, default);
        await database.Reversals.ApplyAsync(
            new ReversalRequest(
                choices,
                plan.Fingerprint.Text,
                new AuditContext("c.weeks", "two"),
                Guid.NewGuid().ToString()
            ),
            default
        );
        return [.. plan.Reversals.SelectMany(reversal => reversal.Drift).Select(drift => drift.Text)];
    }
}
