using System.Security.Claims;
using Kettlefog.Core;
using Kettlefog.Database.History;

namespace Kettlefog.Service.Endpoints;

/// <summary>The caller of a request, and the reason.</summary>
internal static class Callers
{
    private const int MaxReasonLength = 2000;

    /// <exception cref="KettlefogException">The reason is too long.</exception>
    public static AuditContext ActorOf(ClaimsPrincipal caller, string reason, string? rule = null) =>
        reason.Length <= MaxReasonLength
            ? new(caller.Identity!.Name!, reason.Trim(), rule ?? AuditContext.ByHand)
            : throw new KettlefogException(
                ErrorCode.InvalidChoice,
                "The reason is too long.",
                $"Write at most {MaxReasonLength} characters."
            );
}
