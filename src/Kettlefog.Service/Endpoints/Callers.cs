using System.Security.Claims;
using Kettlefog.Core;
using Kettlefog.Database.History;

namespace Kettlefog.Service.Endpoints;

/// <summary>The caller of a request, and the reason.</summary>
internal static class Callers
{
    private const int MaxReasonLength = 2000;

    /// <summary>What was written to be read by others.</summary>
    /// <exception cref="KettlefogException">The text is blank or too long.</exception>
    public static string CommentOf(string text) =>
        text.Trim() is { Length: > 0 and <= MaxReasonLength } comment
            ? comment
            : throw new KettlefogException(
                ErrorCode.InvalidChoice,
                string.IsNullOrWhiteSpace(text) ? "The comment is blank." : "The comment is too long.",
                $"Write 1 to {MaxReasonLength} characters."
            );

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
