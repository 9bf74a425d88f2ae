using System.Text.Encodings.Web;
using Kettlefog.Database.Users;
using Microsoft.AspNetCore.Authentication;
using Microsoft.Extensions.Options;

namespace Kettlefog.Service.Security;

/// <summary>
/// Authenticates the console by a cookie that holds the secret of a session, of which the database knows only the hash.
/// The cookie says nothing by itself, so that no key has to protect it.
/// </summary>
internal sealed class SessionHandler(
    IOptionsMonitor<AuthenticationSchemeOptions> options,
    ILoggerFactory logger,
    UrlEncoder encoder,
    CallerCache callers
) : AuthenticationHandler<AuthenticationSchemeOptions>(options, logger, encoder)
{
    public new const string Scheme = "session";

    /// <summary>Has the browser keep the secret of a session.</summary>
    public static void Keep(HttpContext http, string secret) =>
        http.Response.Cookies.Append(CookieOf(http.Request), secret, OptionsOf(http.Request, SessionStore.Lifetime));

    /// <summary>Has the browser forget the secret of its session.</summary>
    public static void Forget(HttpContext http) =>
        http.Response.Cookies.Delete(CookieOf(http.Request), OptionsOf(http.Request, null));

    protected override async Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        if (!Request.Cookies.TryGetValue(CookieOf(Request), out var secret) || string.IsNullOrEmpty(secret))
            return AuthenticateResult.NoResult();
        return await callers.OfSessionAsync(secret, isUse: true, Context.RequestAborted) is { } user
            ? AuthenticateResult.Success(
                new AuthenticationTicket(SignInSetup.PrincipalOf(user, Scheme, secret), Scheme)
            )
            : AuthenticateResult.Fail("the session is over");
    }

    protected override Task HandleChallengeAsync(AuthenticationProperties properties) =>
        SignInSetup.RefuseAsync(Context, 401);

    protected override Task HandleForbiddenAsync(AuthenticationProperties properties) =>
        SignInSetup.RefuseAsync(Context, 403);

    /// <summary>
    /// A browser takes a cookie with this prefix only over TLS, for this host alone (RFC 6265bis, section 4.1.3.2).
    /// </summary>
    private static string CookieOf(HttpRequest request) => request.IsHttps ? "__Host-kettlefog" : "kettlefog";

    private static CookieOptions OptionsOf(HttpRequest request, TimeSpan? lifetime) =>
        new()
        {
            HttpOnly = true,
            SameSite = SameSiteMode.Strict,
            Secure = request.IsHttps,
            Path = "/",
            MaxAge = lifetime,
        };
}
