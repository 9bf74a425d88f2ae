using System.Text;
using Microsoft.Net.Http.Headers;

namespace Kettlefog.Service;

/// <summary>Refuses requests that no endpoint could read: they are wrong whatever they ask for.</summary>
internal static class RequestChecks
{
    public static Task CheckAsync(HttpContext context, RequestDelegate next)
    {
        var request = context.Request;
        if (!request.Path.StartsWithSegments("/api"))
            return next(context);
        if (request.QueryString.Value?.Contains("%00", StringComparison.Ordinal) == true)
            return RefuseAsync(
                400,
                "bad-request",
                "The address contains a NUL character, which no value can have.",
                "Remove '%00' from the address."
            );
        if (
            MediaTypeHeaderValue.TryParse(request.ContentType, out var type)
            && type.Charset is { Length: > 0 } charset
            && !IsKnown(charset.Value!)
        )
            return RefuseAsync(
                415,
                "unsupported-media-type",
                $"The character set '{charset}' is not known.",
                "Send JSON in UTF-8."
            );
        return next(context);

        Task RefuseAsync(int status, string code, string title, string hint) =>
            ProblemHandler.WriteAsync(context, ProblemHandler.Of(context, status, code, title, hint));
    }

    private static bool IsKnown(string charset)
    {
        try
        {
            return Encoding.GetEncoding(charset.Trim('"')) is not null;
        }
        catch (ArgumentException)
        {
            return false;
        }
    }
}
