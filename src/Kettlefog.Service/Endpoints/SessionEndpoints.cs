using System.Security.Claims;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Database;
using Kettlefog.Service.Security;

namespace Kettlefog.Service.Endpoints;

/// <summary>Signs in and out.</summary>
internal static class SessionEndpoints
{
    /// <summary>Signing in starts a new session, so the token of an old one is not checked.</summary>
    public static void MapSignIn(IEndpointRouteBuilder app) =>
        app.MapPost("/api/session", SignInAsync)
            .AllowAnonymous()
            .WithTags("session")
            .WithName("signIn")
            .WithSummary("Sign in to the console by password or one-time link.");

    public static void Map(RouteGroupBuilder api)
    {
        var group = api.MapGroup("/session").WithTags("session");
        group.MapGet("", Read).WithName("readSession").WithSummary("Read the current session.");
        group.MapDelete("", (Delegate)SignOutAsync).WithName("signOut").WithSummary("Sign out of the console.");
        group
            .MapPut("/password", ChangePasswordAsync)
            .WithName("changePassword")
            .WithSummary("Change your own password; your other sessions end.");
        var sessions = api.MapGroup("/sessions").WithTags("session");
        sessions
            .MapGet("", ListAsync)
            .WithName("listSessions")
            .WithSummary("List your own sessions of the console; administrators see all sessions.");
        sessions.MapDelete("{id:long}", EndAsync).WithName("endSession").WithSummary("End a session of the console.");
    }

    private static async Task<SessionView> SignInAsync(
        SignInBody body,
        HttpContext http,
        OperationalDatabase database,
        GuessLimits limits,
        ILogger<SessionView> log,
        CancellationToken cancellationToken
    )
    {
        var user = body switch
        {
            { Link: { } link } => await database.Tokens.RedeemLinkAsync(link, cancellationToken),
            { Name: { } name, Password: { } password } => await limits.TryAsync(name, http, () =>
                database.Users.CheckPasswordAsync(name, password, cancellationToken)
            ),
            _ => throw new KettlefogException(
                ErrorCode.InvalidChoice,
                "A sign-in needs a name and a password, or the secret of a link."
            ),
        };
        var session = user is null
            ? null
            : await database.Sessions.StartAsync(
                user.Name,
                http.Connection.RemoteIpAddress?.ToString(),
                cancellationToken
            );
        if (user is null || session is null)
        {
            log.LogWarning(
                "Sign-in refused for {User} from {Address}",
                body.Name ?? "a link",
                http.Connection.RemoteIpAddress
            );
            throw new BadHttpRequestException(
                body.Link is null
                    ? "The name or the password is wrong."
                    : "The sign-in link has been used, or has expired.",
                StatusCodes.Status401Unauthorized
            );
        }

        http.User = SignInSetup.PrincipalOf(user, SessionHandler.Scheme, session);
        SessionHandler.Keep(http, session);
        return View(http);
    }

    private static SessionView Read(HttpContext http) => View(http);

    private static async Task<IResult> SignOutAsync(HttpContext http, OperationalDatabase database, CallerCache callers)
    {
        var user = http.User.Identity!.Name!;
        if (SignInSetup.SessionOf(http.User) is { } session)
            await database.Sessions.EndAsync(session, http.RequestAborted);
        callers.Forget();
        SessionHandler.Forget(http);
        try
        {
            await database.Clusters.ReleaseAllAsync(user, http.RequestAborted);
        }
        catch (KettlefogException)
        {
            // Claims lapse by themselves.
        }

        return Results.NoContent();
    }

    private static async Task<IResult> ChangePasswordAsync(
        PasswordBody body,
        HttpContext http,
        OperationalDatabase database,
        CallerCache callers,
        GuessLimits limits,
        ILogger<SessionView> log,
        CancellationToken cancellationToken
    )
    {
        var user = http.User.Identity!.Name!;
        await limits.TryAsync(user, http, async () =>
        {
            await database.Users.ChangePasswordAsync(
                user,
                body.Current,
                body.Password,
                SignInSetup.SessionOf(http.User),
                cancellationToken
            );
            return user;
        });
        callers.Forget();
        log.LogInformation("{User} changed the own password", user);
        return Results.NoContent();
    }

    private static async Task<IReadOnlyList<OpenSessionView>> ListAsync(
        HttpContext http,
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) =>
        [
            .. (
                await database.Sessions.ListAsync(
                    UserEndpoints.OwnOnly(http.User),
                    SignInSetup.SessionOf(http.User),
                    cancellationToken
                )
            ).Select(session => new OpenSessionView(
                session.Id,
                session.User,
                session.Address,
                session.CreatedAt,
                session.LastSeenAt,
                session.ExpiresAt,
                session.IsCurrent
            )),
        ];

    private static async Task<IResult> EndAsync(
        long id,
        HttpContext http,
        OperationalDatabase database,
        CallerCache callers,
        ILogger<SessionView> log,
        CancellationToken cancellationToken
    )
    {
        var ended = await database.Sessions.EndAsync(id, UserEndpoints.OwnOnly(http.User), cancellationToken);
        callers.Forget();
        if (!ended)
            throw new KettlefogException(
                ErrorCode.UnknownSession,
                $"You have no session {id}.",
                "It may have ended: list the sessions again."
            );
        log.LogInformation("{User} ended session {Session}", http.User.Identity!.Name, id);
        return Results.NoContent();
    }

    private static SessionView View(HttpContext http) =>
        new(
            http.User.Identity!.Name!,
            http.User.FindFirstValue(ClaimTypes.GivenName)!,
            SignInSetup.RoleOf(http.User),
            SignInSetup.SessionOf(http.User) is { } session ? AntiForgeryFilter.TokenOf(session) : null
        );
}
