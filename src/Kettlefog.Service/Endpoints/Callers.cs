using System.Security.Claims;
using Kettlefog.Core;
using Kettlefog.Database.History;

namespace Kettlefog.Service.Endpoints;

/// <summary>Who calls, and why.</summary>
internal static class Callers
{
    private const int LongestReason = 2000;

    /// <exception cref="KettlefogException">The reason is too long.</exception>
    public static AuditContext ActorOf(ClaimsPrincipal caller, string reason, string? rule = null) =>
        reason.Length <= LongestReason
            ? new(caller.Identity!.Name!, reason.Trim(), rule ?? AuditContext.ByHand)
            : throw new KettlefogException(
                ErrorCode.InvalidChoice,
                "The reason is too long.",
                $"Write {LongestReason} characters at most."
            );
}
