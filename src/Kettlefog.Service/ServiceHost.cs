using System.Net.Sockets;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Database;
using Kettlefog.Service.Endpoints;
using Kettlefog.Service.Jobs;
using Kettlefog.Service.Security;
using Kettlefog.Service.Settings;
using Microsoft.OpenApi;
using Serilog;
using Serilog.Events;
using Serilog.Formatting.Compact;

namespace Kettlefog.Service;

/// <summary>Builds and runs the web service.</summary>
internal static class ServiceHost
{
    /// <summary>The path of the OpenAPI document.</summary>
    public const string OpenApiPath = "/api/openapi.json";

    /// <summary>The version of this program.</summary>
    public static string Version { get; } = typeof(ServiceHost).Assembly.GetName().Version!.ToString(3);

    /// <summary>Runs the service until it is stopped.</summary>
    /// <param name="database">The operational database.</param>
    /// <param name="settings">Where to listen, and how checkpoints of the history are kept.</param>
    /// <param name="cancellationToken">Stops the service.</param>
    /// <param name="started">Called with the address once the service is listening.</param>
    /// <exception cref="KettlefogException">The port is taken.</exception>
    public static async Task RunAsync(
        OperationalDatabase database,
        ServiceSettings settings,
        CancellationToken cancellationToken,
        Action<string>? started = null
    )
    {
        var listening = settings.Listening;
        await using var app = Build(database, listening, settings.Checkpoints);
        try
        {
            await app.StartAsync(cancellationToken);
        }
        catch (IOException error)
            when (error.InnerException is SocketException or Microsoft.AspNetCore.Connections.AddressInUseException)
        {
            throw new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"The service cannot listen on {listening.Host}:{listening.Port}: the port is taken.",
                "Stop the other program, or choose another port with '--port'.",
                inner: error
            );
        }

        Console.WriteLine($"Kettlefog is listening on {app.Urls.First()}");
        started?.Invoke(app.Urls.First());
        await app.WaitForShutdownAsync(cancellationToken);
        await Log.CloseAndFlushAsync();
    }

    private static WebApplication Build(
        OperationalDatabase database,
        ListeningSettings listening,
        CheckpointSettings checkpoints
    )
    {
        var builder = WebApplication.CreateSlimBuilder(
            new WebApplicationOptions { ContentRootPath = AppContext.BaseDirectory }
        );
        builder.Environment.WebRootFileProvider = new EmbeddedConsole();
        Listening.Configure(builder, listening);
        builder.Services.AddSerilog(log =>
            log.MinimumLevel.Information()
                .MinimumLevel.Override("Microsoft", LogEventLevel.Warning)
                .Enrich.FromLogContext()
                .WriteTo.Console(new RenderedCompactJsonFormatter(), standardErrorFromLevel: LogEventLevel.Verbose)
        );
        builder.Services.AddSingleton(database);
        builder.Services.AddSingleton(TimeProvider.System);
        builder.Services.AddSingleton<MergeJobs>();
        builder.Services.AddSingleton<ScanWorker>();
        builder.Services.AddSingleton<ChangeFeed>();
        builder.Services.AddSingleton<MapWatch>();
        builder.Services.AddSingleton(checkpoints);
        builder.Services.AddSingleton<CheckpointKeeper>();
        // A check in the background that fails must not stop the service.
        builder.Services.Configure<HostOptions>(options =>
            options.BackgroundServiceExceptionBehavior = BackgroundServiceExceptionBehavior.Ignore
        );
        builder.Services.AddHostedService(services => services.GetRequiredService<MapWatch>());
        builder.Services.AddHostedService(services => services.GetRequiredService<CheckpointKeeper>());
        builder.Services.AddHostedService(services => services.GetRequiredService<ChangeFeed>());
        builder.Services.AddHostedService(services => services.GetRequiredService<ScanWorker>());
        builder.Services.ConfigureHttpJsonOptions(options =>
        {
            // Responses are JSON and never part of a page, so quotes and accents need no escaping.
            options.SerializerOptions.Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping;
            options.SerializerOptions.NumberHandling = JsonNumberHandling.Strict;
            options.SerializerOptions.UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow;
            options.SerializerOptions.RespectNullableAnnotations = true;
            options.SerializerOptions.RespectRequiredConstructorParameters = true;
            options.SerializerOptions.TypeInfoResolver = (
                options.SerializerOptions.TypeInfoResolver ?? new DefaultJsonTypeInfoResolver()
            ).WithAddedModifier(ListElements.RefuseNull);
        });
        builder.Services.Configure<RouteHandlerOptions>(options => options.ThrowOnBadRequest = true);
        builder.Services.AddExceptionHandler<ProblemHandler>();
        builder.Services.AddOpenApi(options =>
        {
            options.OpenApiVersion = OpenApiSpecVersion.OpenApi3_1;
            options.AddDocumentTransformer<OpenApiDocumentTransformer>();
            options.AddSchemaTransformer<NullabilityTransformer>();
        });
        builder.Services.AddResponseCompression();
        SignInSetup.Add(builder.Services);

        var app = builder.Build();
        Listening.Use(app, listening);
        app.UseExceptionHandler(_ => { });
        app.UseResponseCompression();
        app.UseStatusCodePages(answer => ProblemHandler.DescribeAsync(answer.HttpContext));
        app.Use(SecurityHeaders);
        app.Use(RequestChecks.CheckAsync);
        ConsoleFiles.Use(app);
        app.UseAuthentication();
        app.UseAuthorization();
        app.MapGet("/healthz", HealthAsync).AllowAnonymous().ExcludeFromDescription();
        app.MapOpenApi(OpenApiPath).RequireAuthorization();
        var api = app.MapGroup("/api").RequireAuthorization().AddEndpointFilter<AntiForgeryFilter>();
        SessionEndpoints.MapSignIn(app);
        SessionEndpoints.Map(api);
        UserEndpoints.Map(api);
        MapEndpoints.Map(api);
        RecordEndpoints.Map(api);
        MergeEndpoints.Map(api);
        JobEndpoints.Map(api);
        HistoryEndpoints.Map(api);
        RuleEndpoints.Map(api);
        ScanEndpoints.Map(api);
        ClusterEndpoints.Map(api);
        ReviewEndpoints.Map(api);
        OverviewEndpoints.Map(api);
        EventEndpoints.Map(api);
        return app;
    }

    private static async Task<IResult> HealthAsync(OperationalDatabase database, CancellationToken cancellationToken)
    {
        var answers = await database.AnswersAsync(cancellationToken);
        return Results.Json(
            new HealthView(answers ? "ok" : "unavailable", Version),
            JsonSerializerOptions.Web,
            statusCode: answers ? StatusCodes.Status200OK : StatusCodes.Status503ServiceUnavailable
        );
    }

    private static Task SecurityHeaders(HttpContext context, RequestDelegate next)
    {
        var headers = context.Response.Headers;
        headers.ContentSecurityPolicy =
            "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; frame-ancestors "
            + "'none'; base-uri 'none'; form-action 'self'";
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "no-referrer";
        if (context.Request.Path.StartsWithSegments("/api"))
            headers.CacheControl = "no-store";
        return next(context);
    }
}
