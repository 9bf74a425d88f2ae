namespace Kettlefog.Core.Reversing;

/// <summary>What to reverse, and how to treat what has changed since.</summary>
/// <param name="Number">The merge.</param>
/// <param name="WithLater">True to reverse later merges that depend on it first.</param>
public sealed record ReversalChoices(long Number, bool WithLater = false)
{
    /// <summary>The drift to undo, by <see cref="Drift.Id"/>; all other drift is kept.</summary>
    public IReadOnlySet<string> UndoDrift { get; init; } = new HashSet<string>();

    /// <summary>
    /// The key, in text form, of the one duplicate to take out of the merge; null to reverse the whole merge.
    /// </summary>
    public string? Only { get; init; }

    /// <summary>True to keep the linked merges in effect.</summary>
    public bool KeepLinked { get; init; }
}

/// <summary>A change made since a merge.</summary>
/// <param name="Id">Its id, for <see cref="ReversalChoices.UndoDrift"/>.</param>
/// <param name="Text">What it is and how it is treated, in one sentence.</param>
/// <param name="Undo">What undoing it would do; null if it can only be kept.</param>
/// <param name="Undone">True if it is undone.</param>
public sealed record Drift(string Id, string Text, string? Undo = null, bool Undone = false);
