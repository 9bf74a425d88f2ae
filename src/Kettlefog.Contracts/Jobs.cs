namespace Kettlefog.Contracts;

/// <summary>A merge or reversal that continues after its request was answered.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Kind"><c>merge</c> or <c>reversal</c>.</param>
/// <param name="State">
/// <c>running</c>, <c>done</c>, <c>stopped</c> or <c>failed</c>; anything but done means that nothing was changed.
/// </param>
/// <param name="MovedRows">The related rows moved so far.</param>
/// <param name="TotalRows">How many there are to move; 0 while that is not known yet.</param>
/// <param name="Merge">The response of a merge that is done; otherwise null.</param>
/// <param name="Reversal">The response of a reversal that is done; otherwise null.</param>
/// <param name="Problem">Why it failed; otherwise null.</param>
public sealed record JobView(
    string Id,
    string Kind,
    string State,
    long MovedRows,
    long TotalRows,
    EntryView? Merge,
    ReversalResult? Reversal,
    Problem? Problem
);
