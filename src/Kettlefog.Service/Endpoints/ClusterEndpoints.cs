using System.Security.Claims;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Values;
using Kettlefog.Database;
using Kettlefog.Database.Duplicates.Clusters;
using Kettlefog.Database.History;
using Kettlefog.Service.Security;

namespace Kettlefog.Service.Endpoints;

/// <summary>The queue of clusters, decisions about them, and single pairs.</summary>
internal static class ClusterEndpoints
{
    private const int MaxSimilar = 100;

    public static void Map(RouteGroupBuilder api)
    {
        var group = api.MapGroup("/clusters").WithTags("clusters");
        group.MapGet("", ListAsync).WithName("listClusters").WithSummary("List clusters of suspected duplicates.");
        group
            .MapGet("{id:long}", ReadAsync)
            .WithName("readCluster")
            .WithSummary("Read one cluster, with the evidence for its pairs.");
        group
            .MapPost("{id:long}/assignment", AssignAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("assignCluster")
            .WithSummary("Assign a cluster to a user, or to nobody.")
            .WithDescription("Refused with 409, code 'cluster-taken', if it is assigned to somebody else.");
        group
            .MapPost("{id:long}/claim", ClaimAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("claimCluster")
            .WithSummary("Assign a cluster to yourself.");
        group
            .MapPost("{id:long}/postponement", PostponeAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("postponeCluster")
            .WithSummary("Postpone a cluster until a date.");
        group
            .MapDelete(
                "{id:long}/postponement",
                (long id, OperationalDatabase database, CancellationToken cancellationToken) =>
                    ViewAsync(database.Clusters.ResumeAsync(id, cancellationToken), database, cancellationToken)
            )
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("resumeCluster")
            .WithSummary("Resume a postponed cluster.");
        group
            .MapPost("{id:long}/non-duplicates", MarkNonDuplicatesAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("markClusterNonDuplicates")
            .WithSummary("Mark the records of a cluster, or some of them, as not duplicates.");
        var pairs = api.MapGroup("").WithTags("pairs");
        pairs
            .MapPost("/explanations", ExplainAsync)
            .WithName("explainPair")
            .WithSummary("Explain the score of two records.");
        pairs
            .MapPost("/non-duplicates", MarkPairNonDuplicatesAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("markPairNonDuplicates")
            .WithSummary("Mark two records as not duplicates.");
        pairs
            .MapGet("/non-duplicates/{type}", ListNonDuplicatesAsync)
            .WithName("listNonDuplicates")
            .WithSummary("List the pairs marked as not duplicates.");
        pairs
            .MapPost("/reopenings", ReopenAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("reopenPair")
            .WithSummary("Reopen a decision that two records are not duplicates.");
        pairs
            .MapGet("/records/{type}/{key}/similar", FindSimilarToRecordAsync)
            .WithName("findSimilarToRecord")
            .WithSummary("Find records similar to a record.");
        pairs
            .MapPost("/similar/{type}", FindSimilarToValuesAsync)
            .WithName("findSimilarToValues")
            .WithSummary("Find records similar to given values.");
    }

    private static async Task<ClusterPage> ListAsync(
        OperationalDatabase database,
        CancellationToken cancellationToken,
        string? type = null,
        string state = "open",
        string? assigned = null,
        string? rule = null,
        double? minScore = null,
        double? maxScore = null,
        string? record = null,
        string order = "confidence",
        int? page = null,
        int? size = null
    )
    {
        var (number, length) = Paging.Check(page, size);
        if (type is not null)
            database.Map.Map.Require(type);
        ClusterState? wanted = state switch
        {
            "all" => null,
            _ when EnumName.TryRead<ClusterState>(state, out var read) => read,
            _ => throw new KettlefogException(
                ErrorCode.InvalidQuery,
                $"There is no state '{state}' of a cluster.",
                $"States are: {string.Join(", ", EnumName.All<ClusterState>())}, all."
            ),
        };
        if (!EnumName.TryRead<ClusterOrder>(order, out var sort))
            throw new KettlefogException(
                ErrorCode.InvalidQuery,
                $"Clusters cannot be sorted by '{order}'.",
                $"Sort by one of: {string.Join(", ", EnumName.All<ClusterOrder>())}."
            );
        var found = await database.Clusters.ListAsync(
            new ClusterFilter(type, wanted, assigned, rule, minScore / 100, maxScore / 100, record, sort),
            number,
            length,
            cancellationToken
        );
        return new ClusterPage(await ViewsAsync(found.Items, database, cancellationToken), found.Total, number, length);
    }

    private static async Task<ClusterDetailView> ReadAsync(
        long id,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var cluster = await database.Clusters.ReadAsync(id, cancellationToken);
        var view = (await ViewsAsync([cluster], database, cancellationToken))[0];
        var type = database.Map.Map.Require(cluster.RecordType);
        if (cluster.State is ClusterState.Merged or ClusterState.NonDuplicates)
            return new ClusterDetailView(view, [], null);
        var labels = view.Records.ToDictionary(record => record.Key, record => record.Label);
        var pairs = await database.Similar.ExplainAllAsync(type, cluster.Members, cancellationToken);
        var suggestion =
            pairs.Count == 0
                ? null
                : await database.Clusters.SuggestMasterAsync(
                    type,
                    [.. pairs.SelectMany(pair => new[] { pair.A, pair.B }).Distinct()],
                    cluster.Rule,
                    cancellationToken
                );
        return new ClusterDetailView(
            view,
            [
                .. pairs
                    .Select(pair => DuplicateViews.Of(pair.A, pair.B, labels[pair.B], pair.Explanation))
                    .OrderBy(pair => pair.Score),
            ],
            suggestion is null ? null : Views.Of(suggestion)
        );
    }

    private static Task<ClusterView> ClaimAsync(
        long id,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) =>
        ViewAsync(
            database.Clusters.AssignAsync(id, caller.Identity!.Name!, caller.Identity!.Name!, false, cancellationToken),
            database,
            cancellationToken
        );

    private static async Task<ClusterView> AssignAsync(
        long id,
        AssignBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        if (body.User is not null && await database.Users.FindAsync(body.User, cancellationToken) is null)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"There is no user '{body.User}'.",
                "List the users to see their names."
            );
        return await ViewAsync(
            database.Clusters.AssignAsync(id, body.User, caller.Identity!.Name!, body.Force, cancellationToken),
            database,
            cancellationToken
        );
    }

    private static Task<ClusterView> PostponeAsync(
        long id,
        PostponeBody body,
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) => ViewAsync(database.Clusters.PostponeAsync(id, body.Until, cancellationToken), database, cancellationToken);

    private static async Task<EntryView> MarkNonDuplicatesAsync(
        long id,
        NonDuplicatesBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var entry = await database.NonDuplicates.MarkAsync(
            id,
            body.Records,
            Callers.ActorOf(caller, body.Reason),
            cancellationToken
        );
        return Views.Full(new RecordedEntry(entry, entry.ComputeHash(), null));
    }

    private static async Task<PairView> ExplainAsync(
        PairBody body,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var (type, a, b) = Read(body, database);
        return DuplicateViews.Of(
            a.ToString(),
            b.ToString(),
            null,
            await database.Similar.ExplainAsync(type, a, b, cancellationToken)
        );
    }

    private static async Task<EntryView> MarkPairNonDuplicatesAsync(
        PairBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var (type, a, b) = Read(body, database);
        var entry = await database.NonDuplicates.MarkAsync(
            type,
            a,
            b,
            Callers.ActorOf(caller, body.Reason),
            cancellationToken
        );
        return Views.Full(new RecordedEntry(entry, entry.ComputeHash(), null));
    }

    private static async Task<EntryView> ReopenAsync(
        PairBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var (type, a, b) = Read(body, database);
        var entry = await database.NonDuplicates.ReopenAsync(
            type,
            a,
            b,
            Callers.ActorOf(caller, body.Reason),
            cancellationToken
        );
        return Views.Full(new RecordedEntry(entry, entry.ComputeHash(), null));
    }

    private static async Task<IReadOnlyList<NonDuplicateView>> ListNonDuplicatesAsync(
        string type,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var pairs = await database.NonDuplicates.ListAsync(database.Map.Map.Require(type), cancellationToken);
        var entries = new Dictionary<long, RecordedEntry>();
        foreach (var number in pairs.Select(pair => pair.Number).Distinct())
            entries[number] = await database.History.ReadAsync(number, cancellationToken);
        return
        [
            .. pairs
                .Select(pair => (pair, entries[pair.Number].Entry))
                .Select(each => new NonDuplicateView(
                    each.pair.A,
                    each.pair.B,
                    each.pair.Number,
                    each.Entry.Actor,
                    each.Entry.Reason,
                    each.Entry.At
                )),
        ];
    }

    private static async Task<IReadOnlyList<PairView>> FindSimilarToRecordAsync(
        string type,
        string key,
        HttpContext http,
        OperationalDatabase database,
        CancellationToken cancellationToken,
        int limit = 10
    )
    {
        var recordType = database.Map.Map.Require(type);
        var own = database.Records.ReadKey(recordType, AddressKey.Read(http));
        var similar = await database.Similar.FindToRecordAsync(recordType, own, Checked(limit), cancellationToken);
        return [.. similar.Select(each => DuplicateViews.Of(own.ToString(), each.Key, each.Label, each.Explanation))];
    }

    private static async Task<IReadOnlyList<PairView>> FindSimilarToValuesAsync(
        string type,
        SimilarBody body,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        if (body.Values.Values.All(string.IsNullOrWhiteSpace))
            throw new KettlefogException(
                ErrorCode.InvalidValue,
                "No values to search by.",
                "Send the value of at least one field."
            );
        var similar = await database.Similar.FindToValuesAsync(
            database.Map.Map.Require(type),
            body.Values,
            Checked(body.Limit),
            cancellationToken
        );
        return [.. similar.Select(each => DuplicateViews.Of(null, each.Key, each.Label, each.Explanation))];
    }

    private static int Checked(int limit) =>
        limit is >= 1 and <= MaxSimilar
            ? limit
            : throw new KettlefogException(
                ErrorCode.InvalidQuery,
                $"'limit' must be between 1 and {MaxSimilar}.",
                $"Write a number from 1 to {MaxSimilar}."
            );

    private static (RecordType Type, RecordKey A, RecordKey B) Read(PairBody body, OperationalDatabase database)
    {
        var type = database.Map.Map.Require(body.RecordType);
        return (type, database.Records.ReadKey(type, body.A), database.Records.ReadKey(type, body.B));
    }

    private static async Task<ClusterView> ViewAsync(
        Task<Cluster> cluster,
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) => (await ViewsAsync([await cluster], database, cancellationToken))[0];

    private static async Task<IReadOnlyList<ClusterView>> ViewsAsync(
        IReadOnlyList<Cluster> clusters,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var labels = new Dictionary<(string Type, string Key), string>();
        foreach (var group in clusters.GroupBy(cluster => cluster.RecordType))
        {
            var type = database.Map.Map.Require(group.Key);
            foreach (
                var (key, label) in await database.Records.ReadLabelsAsync(
                    type,
                    [.. group.SelectMany(cluster => cluster.Members).Distinct()],
                    cancellationToken
                )
            )
                labels[(group.Key, key)] = label;
        }

        return
        [
            .. clusters.Select(cluster =>
                DuplicateViews.Of(
                    cluster,
                    cluster
                        .Members.Where(key => labels.ContainsKey((cluster.RecordType, key)))
                        .ToDictionary(key => key, key => labels[(cluster.RecordType, key)])
                )
            ),
        ];
    }
}
