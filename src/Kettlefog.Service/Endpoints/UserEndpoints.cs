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
    public static void Map(RouteGroupBuilder api)
    {
        var users = api.MapGroup("/users").WithTags("users").RequireAuthorization(SignInSetup.Administer);
        users.MapGet("", ListAsync).WithName("listUsers").WithSummary("List users.");
        users.MapPost("", AddAsync).WithName("addUser").WithSummary("Add a user.");
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
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        if (!EnumName.TryRead<Role>(body.Role, out var role))
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"There is no role '{body.Role}'.",
                $"Roles are: {string.Join(", ", EnumName.All<Role>())}."
            );
        return View(await database.Users.AddAsync(body.Name, body.FullName, role, body.Password, cancellationToken));
    }

    private static async Task<IssuedToken> IssueAsync(
        TokenBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var name =
            caller.Identity is { IsAuthenticated: true } identity && body.Name is null
                ? identity.Name!
                : (
                    await database.Users.CheckPasswordAsync(body.Name ?? "", body.Password ?? "", cancellationToken)
                )?.Name
                    ?? throw new BadHttpRequestException(
                        "The name or the password is wrong.",
                        StatusCodes.Status401Unauthorized
                    );
        return new IssuedToken(
            await database.Users.IssueAsync(name, TokenPurpose.Api, body.Label, null, cancellationToken),
            name
        );
    }

    private static async Task<IReadOnlyList<TokenView>> ListTokensAsync(
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) =>
        [
            .. (await database.Users.ListTokensAsync(OwnOnly(caller), cancellationToken)).Select(token => new TokenView(
                token.Id,
                token.User,
                token.Label,
                token.CreatedAt
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
        var revoked = await database.Users.RevokeAsync(id, OwnOnly(caller), cancellationToken);
        callers.Forget();
        return revoked
            ? Results.NoContent()
            : throw new KettlefogException(
                ErrorCode.UnknownEntry,
                $"You have no token {id}.",
                "List the tokens to see their numbers."
            );
    }

    private static string? OwnOnly(ClaimsPrincipal caller) =>
        caller.IsInRole(Role.Administrator.ToString()) ? null : caller.Identity!.Name;

    private static UserView View(User user) => new(user.Name, user.FullName, EnumName.Of(user.Role), user.CreatedAt);
}
