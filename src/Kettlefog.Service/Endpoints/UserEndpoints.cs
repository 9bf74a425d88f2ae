using System.Security.Claims;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.Naming;
using Kettlefog.Database;
using Kettlefog.Database.Users;
using Kettlefog.Service.Security;

namespace Kettlefog.Service.Endpoints;

/// <summary>Users and their tokens.</summary>
internal static class UserEndpoints
{
    private const int UsualDays = 365;
    private const int MaximumDays = 3650;

    /// <summary>The caller's name, whose sessions and tokens are meant; null for administrators: all.</summary>
    public static string? OwnOnly(ClaimsPrincipal caller) =>
        caller.IsInRole(Role.Administrator.ToString()) ? null : caller.Identity!.Name;

    public static void Map(RouteGroupBuilder api)
    {
        var users = api.MapGroup("/users").WithTags("users").RequireAuthorization(SignInSetup.Administer);
        users.MapGet("", ListAsync).WithName("listUsers").WithSummary("List users.");
        users.MapPost("", AddAsync).WithName("addUser").WithSummary("Add a user.");
        users
            .MapPatch("{name}", ChangeAsync)
            .WithName("changeUser")
            .WithSummary("Change a user: full name, role, password, or whether the user may sign in.");
        users
            .MapDelete("{name}/sessions", EndSessionsAsync)
            .WithName("endSessions")
            .WithSummary("End all sessions of a user of the console.");
        var tokens = api.MapGroup("/tokens").WithTags("users");
        tokens
            .MapPost("", IssueAsync)
            .AllowAnonymous()
            .WithName("issueToken")
            .WithSummary("Create an API token for yourself.");
        tokens
            .MapGet("", ListTokensAsync)
            .WithName("listTokens")
            .WithSummary("List your own tokens; administrators see all tokens.");
        tokens.MapDelete("{id:long}", RevokeAsync).WithName("revokeToken").WithSummary("Revoke a token.");
    }

    private static async Task<IReadOnlyList<UserView>> ListAsync(
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) => [.. (await database.Users.ListAsync(cancellationToken)).Select(View)];

    private static async Task<UserView> AddAsync(
        NewUser body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        ILogger<UserView> log,
        CancellationToken cancellationToken
    )
    {
        var user = await database.Users.AddAsync(
            body.Name,
            body.FullName,
            ReadRole(body.Role),
            body.Password,
            cancellationToken
        );
        log.LogInformation("{Caller} added the user {User}, {Role}", caller.Identity!.Name, user.Name, user.Role);
        return View(user);
    }

    private static async Task<UserView> ChangeAsync(
        string name,
        UserChangeBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CallerCache callers,
        GuessLimits limits,
        ILogger<UserView> log,
        CancellationToken cancellationToken
    )
    {
        var user = await database.Users.ChangeAsync(
            name,
            new UserChange(
                body.FullName,
                body.Role is null ? null : ReadRole(body.Role),
                body.IsDisabled,
                body.Password
            ),
            cancellationToken
        );
        callers.Forget();
        if (body.Password is not null)
            limits.Clear(user.Name);
        log.LogInformation(
            "{Caller} changed the user {User}: {Role}, {State}, password {Password}",
            caller.Identity!.Name,
            user.Name,
            user.Role,
            user.IsDisabled ? "disabled" : "enabled",
            body.Password is null ? "kept" : "reset"
        );
        return View(user);
    }

    private static async Task<EndedSessions> EndSessionsAsync(
        string name,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CallerCache callers,
        ILogger<UserView> log,
        CancellationToken cancellationToken
    )
    {
        await database.Users.RequireAsync(name, cancellationToken);
        var ended = await database.Sessions.EndAllAsync(name, cancellationToken);
        callers.Forget();
        log.LogInformation("{Caller} ended {Count} sessions of {User}", caller.Identity!.Name, ended, name);
        return new EndedSessions(ended);
    }

    private static async Task<IssuedToken> IssueAsync(
        TokenBody body,
        HttpContext http,
        OperationalDatabase database,
        GuessLimits limits,
        ILogger<UserView> log,
        CancellationToken cancellationToken
    )
    {
        if (body.Days is < 1 or > MaximumDays)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                "A token cannot be valid for that long.",
                $"Use 1 to {MaximumDays} days."
            );
        var caller = http.User;
        var byPassword = caller.Identity is not { IsAuthenticated: true } || body.Name is not null;
        if (!byPassword && SignInSetup.SessionOf(caller) is null)
            throw new KettlefogException(
                ErrorCode.NotAllowed,
                "A token cannot create tokens.",
                "Give a name and a password, or create the token in the console."
            );
        var name = byPassword ? await CheckAsync() : caller.Identity!.Name!;
        var secret = await database.Tokens.IssueAsync(
            new NewSecret(
                name,
                TokenPurpose.Api,
                body.Label,
                TimeSpan.FromDays(body.Days ?? UsualDays),
                body.Role is null ? null : ReadRole(body.Role),
                byPassword
            ),
            cancellationToken
        );
        log.LogInformation("{User} created the token {Label}", name, body.Label);
        return new IssuedToken(secret, name);

        async Task<string> CheckAsync()
        {
            var account = body.Name ?? "";
            var user = await limits.TryAsync(account, http, () =>
                database.Users.CheckPasswordAsync(account, body.Password ?? "", cancellationToken)
            );
            if (user is not null)
                return user.Name;
            log.LogWarning("Token refused for {User} from {Address}", account, http.Connection.RemoteIpAddress);
            throw new BadHttpRequestException("The name or the password is wrong.", StatusCodes.Status401Unauthorized);
        }
    }

    private static async Task<IReadOnlyList<TokenView>> ListTokensAsync(
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) =>
        [
            .. (await database.Tokens.ListAsync(OwnOnly(caller), cancellationToken)).Select(token => new TokenView(
                token.Id,
                token.User,
                token.Label,
                token.Role is { } role ? EnumName.Of(role) : null,
                token.CreatedAt,
                token.ExpiresAt,
                token.LastUsedAt
            )),
        ];

    private static async Task<IResult> RevokeAsync(
        long id,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CallerCache callers,
        CancellationToken cancellationToken
    )
    {
        var revoked = await database.Tokens.RevokeAsync(id, OwnOnly(caller), cancellationToken);
        callers.Forget();
        return revoked
            ? Results.NoContent()
            : throw new KettlefogException(
                ErrorCode.UnknownEntry,
                $"You have no token {id}.",
                "List the tokens to see their numbers."
            );
    }

    private static Role ReadRole(string name) =>
        EnumName.TryRead<Role>(name, out var role)
            ? role
            : throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"There is no role '{name}'.",
                $"Roles are: {string.Join(", ", EnumName.All<Role>())}."
            );

    private static UserView View(User user) =>
        new(user.Name, user.FullName, EnumName.Of(user.Role), user.CreatedAt, user.DisabledAt, user.LastSignInAt);
}
