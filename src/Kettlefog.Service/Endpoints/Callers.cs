using System.Security.Claims;
using Kettlefog.Core;
using Kettlefog.Database;

namespace Kettlefog.Service.Endpoints;

/// <summary>Who calls, and why.</summary>
internal static class Callers
{
    private const int LongestReason = 2000;

    /// <exception cref="Refusal">The reason is too long.</exception>
    public static Accountability Who(ClaimsPrincipal caller, string reason, string? rule = null) => reason.Length <= LongestReason
        ? new(caller.Identity!.Name!, reason.Trim(), rule ?? Accountability.ByHand)
        : throw new Refusal(RefusalCode.InvalidChoice, "The reason is too long.", $"Write {LongestReason} characters at most.");
}
