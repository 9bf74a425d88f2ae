namespace Kettlefog.Contracts;

/// <summary>The data of a server-sent event; the event's type says what happened.</summary>
/// <param name="History">For <c>history</c>: the number of the last entry.</param>
/// <param name="Scan">For <c>scan</c>: the state of a scan.</param>
public sealed record EventView(long? History = null, ScanView? Scan = null);
