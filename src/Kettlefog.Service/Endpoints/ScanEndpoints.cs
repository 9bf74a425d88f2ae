using System.Security.Claims;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.Naming;
using Kettlefog.Database;
using Kettlefog.Database.Duplicates.Scans;
using Kettlefog.Service.Jobs;
using Kettlefog.Service.Security;

namespace Kettlefog.Service.Endpoints;

/// <summary>Requests, reads, stops and resumes scans, and exports their results.</summary>
internal static class ScanEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        var group = api.MapGroup("/scans").WithTags("scans");
        group
            .MapPost("", AddAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("addScan")
            .WithSummary("Request a scan.")
            .Produces<ScanView>(202);
        group.MapGet("", ListAsync).WithName("listScans").WithSummary("List scans, latest first.");
        group.MapGet("{id:long}", ReadAsync).WithName("readScan").WithSummary("Read the state of a scan.");
        group
            .MapPost("{id:long}/stop", (long id, OperationalDatabase database, CancellationToken cancellationToken) =>
                MoveAsync(id, ScanState.Stopped, database, null, cancellationToken)
            )
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("stopScan")
            .WithSummary("Stop a scan; it can be resumed.");
        group
            .MapPost(
                "{id:long}/resume",
                (long id, OperationalDatabase database, ScanWorker worker, CancellationToken cancellationToken) =>
                    MoveAsync(id, ScanState.Waiting, database, worker, cancellationToken)
            )
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("resumeScan")
            .WithSummary("Resume a stopped scan.");
        group
            .MapPost("{id:long}/cancel", (long id, OperationalDatabase database, CancellationToken cancellationToken) =>
                MoveAsync(id, ScanState.Cancelled, database, null, cancellationToken)
            )
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("cancelScan")
            .WithSummary("Cancel a scan.");
        api.MapGet("/exports/{type}/pairs", ExportPairsAsync)
            .WithTags("scans")
            .WithName("exportPairs")
            .WithSummary("Export the pairs of the last scan: id_a, id_b, score, proposed, rule.")
            .Produces<string>(200, Exports.Csv, Exports.JsonLines);
        api.MapGet("/exports/{type}/clusters", ExportClustersAsync)
            .WithTags("scans")
            .WithName("exportClusters")
            .WithSummary("Export the records in open clusters: id, cluster.")
            .Produces<string>(200, Exports.Csv, Exports.JsonLines);
    }

    private static async Task<IResult> AddAsync(
        ScanBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        ScanWorker worker,
        CancellationToken cancellationToken
    )
    {
        var type = database.Map.Map.Require(body.RecordType);
        if (!EnumName.TryRead<ScanScope>(body.Scope, out var scope))
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"'{body.Scope}' is not a scope of a scan.",
                $"Write one of: {string.Join(", ", EnumName.All<ScanScope>())}."
            );
        var scan = await database.Scans.AddAsync(type, scope, caller.Identity!.Name!, cancellationToken);
        worker.Wake();
        return Results.Accepted($"/api/scans/{scan.Id}", DuplicateViews.Of(scan));
    }

    private static async Task<IReadOnlyList<ScanView>> ListAsync(
        OperationalDatabase database,
        CancellationToken cancellationToken,
        string? type = null,
        bool open = false
    ) => [.. (await database.Scans.ListAsync(type, open, cancellationToken)).Select(DuplicateViews.Of)];

    private static async Task<ScanView> ReadAsync(
        long id,
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) => DuplicateViews.Of(await database.Scans.ReadAsync(id, cancellationToken));

    private static async Task<ScanView> MoveAsync(
        long id,
        ScanState to,
        OperationalDatabase database,
        ScanWorker? worker,
        CancellationToken cancellationToken
    )
    {
        var scan = await database.Scans.MoveAsync(id, to, cancellationToken);
        worker?.Wake();
        return DuplicateViews.Of(scan);
    }

    private static IResult ExportPairsAsync(
        string type,
        OperationalDatabase database,
        CancellationToken cancellationToken,
        double minScore = 0,
        string format = "csv"
    )
    {
        var least = DuplicateViews.Share("minScore", minScore);
        var recordType = database.Map.Map.Require(type);
        return Exports.Of(
            format,
            ["id_a", "id_b", "score", "proposed", "rule"],
            database
                .Scans.ReadPairsAsync(recordType, least, cancellationToken)
                .Select(pair => new object[] { pair.A, pair.B, pair.Score, pair.Proposed ? 1 : 0, pair.Rule })
        );
    }

    private static IResult ExportClustersAsync(
        string type,
        OperationalDatabase database,
        CancellationToken cancellationToken,
        string format = "csv"
    ) =>
        Exports.Of(
            format,
            ["id", "cluster"],
            database
                .Clusters.ReadMembersAsync(database.Map.Map.Require(type), cancellationToken)
                .Select(member => new object[] { member.Key, member.Cluster })
        );
}
