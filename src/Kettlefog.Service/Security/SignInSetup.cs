using System.Security.Claims;
using Kettlefog.Core.Naming;
using Kettlefog.Database.Users;
using Microsoft.AspNetCore.Authentication;

namespace Kettlefog.Service.Security;

/// <summary>Authentication: a cookie session for the console, bearer tokens for everything else.</summary>
internal static class SignInSetup
{
    /// <summary>The policy for merging and reversing.</summary>
    public const string Operate = "operate";

    /// <summary>The policy for managing users.</summary>
    public const string Administer = "administer";

    private const string Either = "either";

    public static void Add(IServiceCollection services)
    {
        services.AddSingleton<CallerCache>();
        services.AddSingleton<GuessLimits>();
        services
            .AddAuthentication(Either)
            .AddPolicyScheme(Either, null, options =>
                options.ForwardDefaultSelector = context =>
                    context.Request.Headers.Authorization.Count > 0 ? BearerTokenHandler.Scheme : SessionHandler.Scheme
            )
            .AddScheme<AuthenticationSchemeOptions, BearerTokenHandler>(BearerTokenHandler.Scheme, null)
            .AddScheme<AuthenticationSchemeOptions, SessionHandler>(SessionHandler.Scheme, null);
        services
            .AddAuthorizationBuilder()
            .AddPolicy(Operate, policy =>
                policy.RequireRole(Role.Operator.ToString(), Role.Approver.ToString(), Role.Administrator.ToString())
            )
            .AddPolicy(Administer, policy => policy.RequireRole(Role.Administrator.ToString()));
    }

    /// <summary>The user as a claims principal.</summary>
    /// <param name="user">The user.</param>
    /// <param name="scheme">How the user was authenticated.</param>
    /// <param name="session">The secret of the session of the console, or null with a token.</param>
    public static ClaimsPrincipal PrincipalOf(User user, string scheme, string? session = null)
    {
        var identity = new ClaimsIdentity(
            [
                new Claim(ClaimTypes.Name, user.Name),
                new Claim(ClaimTypes.GivenName, user.FullName),
                new Claim(ClaimTypes.Role, user.Role.ToString()),
            ],
            scheme
        );
        if (session is not null)
            identity.AddClaim(new Claim(ClaimTypes.Sid, session));
        return new ClaimsPrincipal(identity);
    }

    /// <summary>The secret of the caller's session, or null with a token.</summary>
    public static string? SessionOf(ClaimsPrincipal user) => user.FindFirstValue(ClaimTypes.Sid);

    /// <summary>The written name of the role.</summary>
    public static string RoleOf(ClaimsPrincipal user) =>
        EnumName.Of(Enum.Parse<Role>(user.FindFirstValue(ClaimTypes.Role)!));

    /// <summary>Responds to a caller who is not signed in, or not allowed.</summary>
    public static Task RefuseAsync(HttpContext context, int status) =>
        ProblemHandler.WriteAsync(
            context,
            status == 401
                ? ProblemHandler.Of(
                    context,
                    401,
                    "not-signed-in",
                    "You are not signed in, or your token is not valid.",
                    "Sign in, or send a valid token."
                )
                : ProblemHandler.Of(
                    context,
                    403,
                    "not-allowed",
                    "Your role does not allow this.",
                    "Ask an administrator, or someone with the role that does."
                )
        );
}
