using System.Security.Claims;
using Kettlefog.Core;
using Kettlefog.Database.History;

namespace Kettlefog.Service.Endpoints;

/// <summary>The caller of a request, and the reason.</summary>
internal static class Callers
{
    private const int MaxReasonLength = 2000;

    /// <summary>What was written to be read by others.</summary>
    /// <exception cref="KettlefogException">The text is blank or too long, or no database could keep it.</exception>
    public static string CommentOf(string text) =>
        Checked("comment", text) is { Length: > 0 } comment
            ? comment
            : throw new KettlefogException(ErrorCode.InvalidChoice, "The comment is blank.", "Write something.");

    /// <exception cref="KettlefogException">The reason is too long, or no database could keep it.</exception>
    public static AuditContext ActorOf(ClaimsPrincipal caller, string reason, string? rule = null) =>
        new(caller.Identity!.Name!, Checked("reason", reason), rule ?? AuditContext.ByHand);

    private static string Checked(string what, string text)
    {
        if (text.Length > MaxReasonLength)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"The {what} is too long.",
                $"Write at most {MaxReasonLength} characters."
            );
        if (text.Contains('\0', StringComparison.Ordinal))
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"The {what} has a NUL character (U+0000).",
                "Leave it out: not every database can keep it."
            );
        return text.Trim();
    }
}
