using Kettlefog.Core.Merging;
using Kettlefog.Database.Engines;

namespace Kettlefog.Database.Merging;

/// <summary>
/// Recent plans, so that their input need not be read again as long as nothing was committed since: the
/// same input gives the same plan. Where the engine cannot detect commits, every merge is planned again.
/// </summary>
internal sealed class RecentPlans(DatabaseEngine engine)
{
    private const int MaxPlans = 32;

    private readonly Lock _keeping = new();
    private readonly Queue<(MergePlan Plan, long State)> _plans = [];

    /// <summary>Stores a plan.</summary>
    /// <param name="plan">The plan.</param>
    /// <param name="before">The state of the database before anything was read for it.</param>
    public void Remember(MergePlan plan, long? before)
    {
        if (before is not { } state || plan.Choices.NeedsTrial || engine.CommitCounter() != state)
            return;
        lock (_keeping)
        {
            if (_plans.Count == MaxPlans)
                _plans.Dequeue();
            _plans.Enqueue((plan, state));
        }
    }

    /// <summary>
    /// The plan of a fingerprint, made for the same choices, if nothing was committed since. Call it only when nobody
    /// else can commit.
    /// </summary>
    public MergePlan? Find(MergeChoices choices, string fingerprint)
    {
        MergePlan? plan;
        long state;
        lock (_keeping)
            (plan, state) = _plans.LastOrDefault(kept => kept.Plan.Fingerprint.Text == fingerprint);
        return plan is not null && plan.Choices.IsSameAs(choices) && engine.CommitCounter() == state ? plan : null;
    }
}
