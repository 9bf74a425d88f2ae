namespace Kettlefog.Database;

/// <summary>How far things are: what differs from one reading to the next went on meanwhile.</summary>
/// <param name="History">The number of the last entry of the history; 0 if there is none.</param>
/// <param name="Queue">Changes with every change of the queue.</param>
/// <param name="Rules">How many versions of rules there are.</param>
public sealed record ChangeMarkers(long History, string Queue, long Rules);
