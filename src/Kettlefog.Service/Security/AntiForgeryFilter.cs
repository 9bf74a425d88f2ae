using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;

namespace Kettlefog.Service.Security;

/// <summary>
/// Requires the anti-forgery token for every change of a cookie session. Bearer tokens need none: no
/// browser sends them by itself.
/// </summary>
internal sealed class AntiForgeryFilter : IEndpointFilter
{
    private const string Header = "X-Kettlefog-Antiforgery";

    /// <summary>
    /// The anti-forgery token of a session: an HMAC under its secret, from which the secret cannot be found. It ends
    /// with the session and is of no use to another.
    /// </summary>
    /// <param name="session">The secret of the session.</param>
    public static string TokenOf(string session) =>
        Base64Url.EncodeToString(HMACSHA256.HashData(Encoding.UTF8.GetBytes(session), "anti-forgery"u8));

    public async ValueTask<object?> InvokeAsync(EndpointFilterInvocationContext context, EndpointFilterDelegate next)
    {
        var http = context.HttpContext;
        if (
            SignInSetup.SessionOf(http.User) is not { } session
            || HttpMethods.IsGet(http.Request.Method)
            || HttpMethods.IsHead(http.Request.Method)
            || IsTokenOf(session, http.Request.Headers[Header].ToString())
        )
            return await next(context);
        await ProblemHandler.WriteAsync(
            http,
            ProblemHandler.Of(
                http,
                400,
                "anti-forgery",
                "The request does not carry the session's anti-forgery token.",
                "Reload the page and try again."
            )
        );
        return Results.Empty;
    }

    private static bool IsTokenOf(string session, string given) =>
        CryptographicOperations.FixedTimeEquals(
            Encoding.UTF8.GetBytes(TokenOf(session)),
            Encoding.UTF8.GetBytes(given)
        );
}
