using System.Diagnostics.CodeAnalysis;
using Microsoft.AspNetCore.StaticFiles;
using Microsoft.Net.Http.Headers;

namespace Kettlefog.Service;

/// <summary>The console's files, with their compressed versions (RFC 7932) for clients that accept them.</summary>
internal static class ConsoleFiles
{
    private const string Brotli = ".br";

    public static void Use(WebApplication app)
    {
        app.Use(
            (context, next) =>
            {
                var request = context.Request;
                if (IsPage(context))
                    request.Path = "/index.html";
                else if (
                    request.Path.StartsWithSegments("/assets")
                    && request
                        .GetTypedHeaders()
                        .AcceptEncoding.Any(coding => coding.Value == "br" && coding.Quality is not 0)
                    && app.Environment.WebRootFileProvider.GetFileInfo(request.Path + Brotli).Exists
                )
                    request.Path += Brotli;
                return next(context);
            }
        );
        app.UseStaticFiles(
            new StaticFileOptions { ContentTypeProvider = new TypesBehindCompression(), OnPrepareResponse = Prepare }
        );
    }

    /// <summary>
    /// Whether a page of the console is asked for: what no endpoint answers, and is no file. An endpoint for all pages
    /// would be found for whatever the API does not take.
    /// </summary>
    private static bool IsPage(HttpContext context) =>
        context.GetEndpoint() is null
        && (HttpMethods.IsGet(context.Request.Method) || HttpMethods.IsHead(context.Request.Method))
        && !context.Request.Path.StartsWithSegments("/api")
        && !context.Request.Path.Value!.Split('/')[^1].Contains('.', StringComparison.Ordinal);

    private static void Prepare(StaticFileResponseContext file)
    {
        var (path, headers) = (file.Context.Request.Path, file.Context.Response.Headers);

        // Vite names each asset by its content, but the page itself keeps its name.
        headers.CacheControl = path.StartsWithSegments("/assets") ? "public, max-age=31536000, immutable" : "no-cache";
        if (!path.StartsWithSegments("/assets"))
            return;
        headers.Append(HeaderNames.Vary, HeaderNames.AcceptEncoding);
        if (path.Value!.EndsWith(Brotli, StringComparison.Ordinal))
            headers.ContentEncoding = "br";
    }

    private sealed class TypesBehindCompression : IContentTypeProvider
    {
        private readonly FileExtensionContentTypeProvider _known = new();

        public bool TryGetContentType(string subpath, [MaybeNullWhen(false)] out string contentType) =>
            _known.TryGetContentType(
                subpath.EndsWith(Brotli, StringComparison.Ordinal) ? subpath[..^Brotli.Length] : subpath,
                out contentType
            );
    }
}
