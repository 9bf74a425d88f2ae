using System.Globalization;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Serialization;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.Naming;
using Kettlefog.Service.Security;
using Microsoft.AspNetCore.Diagnostics;

namespace Kettlefog.Service;

/// <summary>Converts every error to problem details (RFC 9457).</summary>
internal sealed class ProblemHandler(ILogger<ProblemHandler> log) : IExceptionHandler
{
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    public async ValueTask<bool> TryHandleAsync(
        HttpContext httpContext,
        Exception exception,
        CancellationToken cancellationToken
    )
    {
        // The client has gone.
        if (exception is OperationCanceledException && httpContext.RequestAborted.IsCancellationRequested)
            return true;
        var problem = Of(exception, httpContext);
        if (problem.Status >= 500)
            log.LogError(
                exception,
                "Request {Method} {Path} failed: {Title}",
                httpContext.Request.Method,
                httpContext.Request.Path,
                problem.Title
            );
        if (exception is KettlefogException { Code: ErrorCode.DatabaseBusy })
            httpContext.Response.Headers.RetryAfter = "2";
        if (exception is TooManyAttemptsException { Seconds: var seconds })
            httpContext.Response.Headers.RetryAfter = seconds.ToString(CultureInfo.InvariantCulture);
        try
        {
            await WriteAsync(httpContext, problem);
        }
        catch (OperationCanceledException) when (httpContext.RequestAborted.IsCancellationRequested)
        {
            // The client went while the response was on its way.
        }

        return true;
    }

    /// <summary>The problem for an exception.</summary>
    public static Problem Of(Exception exception, HttpContext context) =>
        exception switch
        {
            StaleException stale => Of(stale.Error, context) with { Plan = stale.Plan },
            KettlefogException refusal => Of(refusal, context),
            TooManyAttemptsException tooMany => Of(
                context,
                429,
                "too-many-attempts",
                "Too many passwords were tried.",
                $"Wait {(tooMany.Seconds == 1 ? "a second" : $"{tooMany.Seconds} seconds")} and try again, "
                    + "or ask an administrator for a new password or link."
            ),
            BadHttpRequestException { StatusCode: 401 } refused => Of(
                context,
                401,
                "sign-in-refused",
                refused.Message,
                "Try again, or ask an administrator for a new password or link."
            ),
            BadHttpRequestException bad => Of(
                context,
                bad.StatusCode,
                "bad-request",
                ReasonOf(bad),
                "See the API's description at " + ServiceHost.OpenApiPath + "."
            ),
            OperationCanceledException => Of(
                context,
                503,
                "stopped",
                "The request was cancelled.",
                "This request changed nothing."
            ),
            _ => Of(
                context,
                500,
                "internal-error",
                "Internal error.",
                $"{Changed(context)} The log has details under {context.TraceIdentifier}."
            ),
        };

    /// <summary>What is known, after an error that nobody expected, about what the request did.</summary>
    private static string Changed(HttpContext context) =>
        HttpMethods.IsGet(context.Request.Method) || HttpMethods.IsHead(context.Request.Method)
            ? "This request changed nothing."
            : "It is not known whether the request was carried out: look before you repeat it. "
                + "A merge or a reversal that "
                + "is repeated with the same Idempotency-Key is done once.";

    /// <summary>Responds with a problem.</summary>
    public static Task WriteAsync(HttpContext context, Problem problem)
    {
        context.Response.StatusCode = problem.Status;
        return context.Response.WriteAsJsonAsync(problem, Json, "application/problem+json", context.RequestAborted);
    }

    /// <summary>A problem that has no KettlefogException.</summary>
    public static Problem Of(HttpContext context, int status, string code, string title, string? hint) =>
        new(Problem.TypePrefix + code, title, status, code, hint, [], context.TraceIdentifier);

    /// <summary>Describes an answer of the API that is only a status: no endpoint was found for the request.</summary>
    public static Task DescribeAsync(HttpContext context)
    {
        if (!context.Request.Path.StartsWithSegments("/api"))
            return Task.CompletedTask;
        var (method, status) = (context.Request.Method, context.Response.StatusCode);
        var description = "See the API's description at " + ServiceHost.OpenApiPath + ".";
        return WriteAsync(
            context,
            status switch
            {
                404 => Of(context, status, "not-found", "No such endpoint.", description),
                405 => Of(
                    context,
                    status,
                    "method-not-allowed",
                    $"This address does not take {method}.",
                    $"Use {context.Response.Headers.Allow.ToString().Replace(", ", " or ", StringComparison.Ordinal)}."
                ),
                415 => Of(
                    context,
                    status,
                    "unsupported-media-type",
                    "The request body is not JSON.",
                    "Send it with 'Content-Type: application/json'."
                ),
                _ => Of(context, status, "bad-request", $"The request was refused with status {status}.", description),
            }
        );
    }

    private static Problem Of(KettlefogException refusal, HttpContext context)
    {
        var code = EnumName.Of(refusal.Code);
        return new Problem(
            Problem.TypePrefix + code,
            refusal.Message,
            StatusOf(refusal.Code),
            code,
            refusal.Hint,
            refusal.Details,
            context.TraceIdentifier
        );
    }

    private static int StatusOf(ErrorCode code) =>
        code switch
        {
            ErrorCode.UnknownRecordType
            or ErrorCode.UnknownRecord
            or ErrorCode.UnknownReference
            or ErrorCode.UnknownEntry
            or ErrorCode.UnknownRule
            or ErrorCode.UnknownScan
            or ErrorCode.UnknownJob
            or ErrorCode.UnknownCluster
            or ErrorCode.UnknownUser
            or ErrorCode.UnknownSession => 404,
            ErrorCode.NotAllowed => 403,
            ErrorCode.InvalidKey or ErrorCode.InvalidQuery => 400,
            ErrorCode.UnknownField
            or ErrorCode.InvalidChoice
            or ErrorCode.InvalidValue
            or ErrorCode.ForeignFingerprint
            or ErrorCode.IdempotencyKeyReused
            or ErrorCode.InvalidRule
            or ErrorCode.NotProven
            or ErrorCode.ReasonMissing => 422,
            ErrorCode.RecordRetired
            or ErrorCode.AmbiguousKey
            or ErrorCode.PlanBlocked
            or ErrorCode.PlanStale
            or ErrorCode.NotReversible
            or ErrorCode.ProofFailed
            or ErrorCode.CatalogChanged
            or ErrorCode.DatabaseRefused
            or ErrorCode.ScanRunning
            or ErrorCode.ClusterTaken
            or ErrorCode.LastAdministrator => 409,
            ErrorCode.DatabaseBusy
            or ErrorCode.DatabaseUnavailable
            or ErrorCode.NotInitialised
            or ErrorCode.MapOutdated
            or ErrorCode.OutcomeUnknown => 503,
            _ => 500,
        };

    private static string ReasonOf(BadHttpRequestException bad) =>
        bad.InnerException is JsonException json
            ? $"The request body is not valid: {json.Message.Split(" Path:")[0].TrimEnd('.')} (at "
                + $"{json.Path ?? "$"}, line {(json.LineNumber ?? 0) + 1})."
            : bad.Message;
}

/// <summary>A stale plan, with the updated one.</summary>
internal sealed class StaleException(KettlefogException refusal, PlanView plan) : Exception(refusal.Message, refusal)
{
    public KettlefogException Error => refusal;

    public PlanView Plan => plan;
}
