using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace Kettlefog.Service;

/// <summary>Adds what the endpoints do not declare: title, version and authentication.</summary>
internal sealed class OpenApiDocumentTransformer : IOpenApiDocumentTransformer
{
    public Task TransformAsync(
        OpenApiDocument document,
        OpenApiDocumentTransformerContext context,
        CancellationToken cancellationToken
    )
    {
        document.Info = new OpenApiInfo
        {
            Title = "Kettlefog",
            Version = ServiceHost.Version,
            Description = "Merge duplicate records in an operational database, and reverse merges.",
        };

        // The server address is left out: it depends on the installation, and the document is kept with the source.
        document.Servers = [];
        document.Components ??= new OpenApiComponents();
        document.Components.SecuritySchemes = new Dictionary<string, IOpenApiSecurityScheme>
        {
            ["token"] = new OpenApiSecurityScheme
            {
                Type = SecuritySchemeType.Http,
                Scheme = "bearer",
                Description = "An API token.",
            },
            ["session"] = new OpenApiSecurityScheme
            {
                Type = SecuritySchemeType.ApiKey,
                In = ParameterLocation.Cookie,
                Name = "kettlefog",
                Description = "The console's session.",
            },
        };
        return Task.CompletedTask;
    }
}
