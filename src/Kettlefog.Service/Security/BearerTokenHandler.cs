using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Authentication;
using Microsoft.Extensions.Options;

namespace Kettlefog.Service.Security;

/// <summary>Authenticates callers by <c>Authorization: Bearer</c> (RFC 6750) and the hash of their token.</summary>
internal sealed class BearerTokenHandler(
    IOptionsMonitor<AuthenticationSchemeOptions> options,
    ILoggerFactory logger,
    UrlEncoder encoder,
    CallerCache callers,
    GuessLimits limits
) : AuthenticationHandler<AuthenticationSchemeOptions>(options, logger, encoder)
{
    public new const string Scheme = "token";

    private const string Prefix = "Bearer ";

    /// <summary>The token of a request, or null if it has none.</summary>
    public static string? TokenOf(HttpRequest request)
    {
        var header = request.Headers.Authorization.ToString();
        return header.StartsWith(Prefix, StringComparison.OrdinalIgnoreCase) ? header[Prefix.Length..].Trim() : null;
    }

    protected override async Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        if (TokenOf(Request) is not { } token)
            return AuthenticateResult.Fail("not a bearer token");
        var user = await callers.OfTokenAsync(token, isUse: true, Context.RequestAborted);
        if (user is not null)
            return AuthenticateResult.Success(new AuthenticationTicket(SignInSetup.PrincipalOf(user, Scheme), Scheme));
        if (limits.IsWorthNoting(Context))
            Logger.LogWarning("A token is not valid, from {Address}", Context.Connection.RemoteIpAddress);
        return AuthenticateResult.Fail("unknown token");
    }

    protected override Task HandleChallengeAsync(AuthenticationProperties properties)
    {
        Response.Headers.WWWAuthenticate = "Bearer";
        return SignInSetup.RefuseAsync(Context, 401);
    }

    protected override Task HandleForbiddenAsync(AuthenticationProperties properties) =>
        SignInSetup.RefuseAsync(Context, 403);
}
