namespace Kettlefog.Contracts;

/// <summary>What went on, as a server-sent event says it; the event's type says what.</summary>
/// <param name="History">For <c>history</c>: the number of the last entry.</param>
/// <param name="Scan">For <c>scan</c>: how a scan stands.</param>
public sealed record EventView(long? History = null, ScanView? Scan = null);
