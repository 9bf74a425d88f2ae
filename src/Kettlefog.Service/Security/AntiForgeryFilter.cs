using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Authentication.Cookies;

namespace Kettlefog.Service.Security;

/// <summary>
/// Requires the anti-forgery token for every change of a cookie session. Bearer tokens need none: no
/// browser sends them by itself.
/// </summary>
internal sealed class AntiForgeryFilter(IAntiforgery antiforgery) : IEndpointFilter
{
    public async ValueTask<object?> InvokeAsync(EndpointFilterInvocationContext context, EndpointFilterDelegate next)
    {
        var http = context.HttpContext;
        var byCookie =
            http.User.Identity is
            { IsAuthenticated: true, AuthenticationType: CookieAuthenticationDefaults.AuthenticationScheme };
        if (
            !byCookie
            || HttpMethods.IsGet(http.Request.Method)
            || HttpMethods.IsHead(http.Request.Method)
            || await antiforgery.IsRequestValidAsync(http)
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
}
