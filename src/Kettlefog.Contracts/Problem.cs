namespace Kettlefog.Contracts;

/// <summary>An error, as RFC 9457 problem details with extension members.</summary>
/// <param name="Type">What kind of problem it is: <c>urn:kettlefog:problem:CODE</c>.</param>
/// <param name="Title">One plain sentence.</param>
/// <param name="Status">The HTTP status.</param>
/// <param name="Code">The kind of problem in one word.</param>
/// <param name="Hint">What to do about it, or null.</param>
/// <param name="Details">Single findings, one sentence each.</param>
/// <param name="TraceId">The id of the request in the service's log.</param>
/// <param name="Plan">For a stale plan, the updated one.</param>
public sealed record Problem(
    string Type,
    string Title,
    int Status,
    string Code,
    string? Hint,
    IReadOnlyList<string> Details,
    string? TraceId,
    PlanView? Plan = null
)
{
    /// <summary>The prefix of every type.</summary>
    public const string TypePrefix = "urn:kettlefog:problem:";
}
