namespace Kettlefog.Database;

/// <summary>Markers of the current state: one that differs between two readings shows that something changed.</summary>
/// <param name="History">The number of the last entry of the history; 0 if there is none.</param>
/// <param name="Queue">Changes with every change of the queue.</param>
/// <param name="Rules">The number of saved rule versions.</param>
public sealed record ChangeMarkers(long History, string Queue, long Rules);
