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
using Microsoft.AspNetCore.Mvc;

namespace Kettlefog.Service.Endpoints;

/// <summary>The queue of clusters, decisions about them, and single pairs.</summary>
internal static class ClusterEndpoints
{
    private const int MaxSimilar = 100;
    private const int MaxSkipped = 500;

    /// <summary>Stands for whoever has a cluster; no user's name has a star.</summary>
    private const string Anybody = "*";

    public static void Map(RouteGroupBuilder api)
    {
        var group = api.MapGroup("/clusters").WithTags("clusters");
        ClusterDecisionEndpoints.Map(group);
        group.MapGet("", ListAsync).WithName("listClusters").WithSummary("List clusters of suspected duplicates.");
        group
            .MapGet("{id:long}", ReadAsync)
            .WithName("readCluster")
            .WithSummary("Read one cluster, with the evidence for its pairs.");
        group
            .MapGet("{id:long}/place", FindPlaceAsync)
            .WithName("findClusterPlace")
            .WithSummary("Find the place of a cluster in the queue, and its neighbours.")
            .WithDescription(
                "Neighbours are clusters that the caller may decide; 'skip' leaves out some. Works for a decided "
                    + "cluster, too: its neighbours are those of the place where it was."
            );
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
            .WithSummary("Assign a cluster to yourself, for as long as you look at it.")
            .WithDescription(
                "A claim lapses ten minutes after the last call; 'force' takes it over from another user. A cluster "
                    + "that was assigned to you stays so."
            );
        group
            .MapDelete("{id:long}/claim", ReleaseAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("releaseCluster")
            .WithSummary("End your claim of a cluster; what was assigned to you stays so.");
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
            .MapPost("/history/{number:long}/reopening", ReopenEntryAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("reopenEntry")
            .WithSummary("Reopen all that a history entry marked as not duplicates.");
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
        [AsParameters] ClusterQuery query,
        OperationalDatabase database,
        CancellationToken cancellationToken,
        int? page = null,
        int? size = null
    )
    {
        var (number, length) = Paging.Check(page, size);
        var found = await database.Clusters.ListAsync(query.ToFilter(database), number, length, cancellationToken);
        return new ClusterPage(await ViewsAsync(found.Items, database, cancellationToken), found.Total, number, length);
    }

    private static async Task<ClusterPlaceView> FindPlaceAsync(
        long id,
        [AsParameters] ClusterQuery query,
        OperationalDatabase database,
        ClaimsPrincipal caller,
        CancellationToken cancellationToken,
        long[]? skip = null
    )
    {
        if (skip?.Length > MaxSkipped)
            throw new KettlefogException(
                ErrorCode.InvalidQuery,
                $"{skip.Length} clusters are to be skipped: at most {MaxSkipped} may be named.",
                "Name the clusters skipped last."
            );
        var place = await database.Clusters.FindPlaceAsync(
            id,
            query.ToFilter(database),
            caller.Identity!.Name!,
            skip ?? [],
            cancellationToken
        );
        static ClusterNeighbour? Of((long Id, string RecordType)? neighbour) =>
            neighbour is var (number, type) ? new ClusterNeighbour(number, type) : null;
        return new ClusterPlaceView(place.Position, place.Total, Of(place.Previous), Of(place.Next));
    }

    /// <summary>The filter and order of the queue in a request.</summary>
    private sealed record ClusterQuery(
        [FromQuery(Name = "type")] string? Type,
        [FromQuery(Name = "state")] string? State,
        [FromQuery(Name = "assigned")] string? Assigned,
        [FromQuery(Name = "rule")] string? Rule,
        [FromQuery(Name = "minScore")] double? MinScore,
        [FromQuery(Name = "maxScore")] double? MaxScore,
        [FromQuery(Name = "record")] string? Record,
        [FromQuery(Name = "order")] string? Order,
        [FromQuery(Name = "reverse")] bool? Reverse
    )
    {
        public ClusterFilter ToFilter(OperationalDatabase database)
        {
            if (Type is not null)
                database.Map.Map.Require(Type);
            ClusterState? wanted = State switch
            {
                null => ClusterState.Open,
                "all" => null,
                _ when EnumName.TryRead<ClusterState>(State, out var read) => read,
                _ => throw new KettlefogException(
                    ErrorCode.InvalidQuery,
                    $"There is no state '{State}' of a cluster.",
                    $"States are: {string.Join(", ", EnumName.All<ClusterState>())}, all."
                ),
            };
            var sort = ClusterOrder.Confidence;
            if (Order is not null && !EnumName.TryRead(Order, out sort))
                throw new KettlefogException(
                    ErrorCode.InvalidQuery,
                    $"Clusters cannot be sorted by '{Order}'.",
                    $"Sort by one of: {string.Join(", ", EnumName.All<ClusterOrder>())}."
                );
            var assignee = Assigned switch
            {
                null => null,
                Anybody => AssigneeFilter.Somebody,
                _ => new AssigneeFilter(Assigned),
            };
            return new ClusterFilter(
                Type,
                wanted,
                assignee,
                Rule,
                MinScore is { } least ? DuplicateViews.Share("minScore", least) : null,
                MaxScore is { } most ? DuplicateViews.Share("maxScore", most) : null,
                Record,
                sort,
                Reverse ?? false
            );
        }
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
        var decision = await database.Clusters.FindDecisionAsync(id, cancellationToken) is { } number
            ? Views.Summary(await database.History.ReadAsync(number, cancellationToken))
            : null;
        var comments = (await database.Clusters.ListCommentsAsync(id, cancellationToken))
            .Select(DuplicateViews.Of)
            .ToList();
        if (cluster.State is ClusterState.Merged or ClusterState.NonDuplicates)
            return new ClusterDetailView(view, [], null, decision, Comments: comments);
        var labels = view.Records.ToDictionary(record => record.Key, record => record.Label);
        var rules = await database.Rules.ListAsync(type, cancellationToken);
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
            suggestion is null ? null : Views.Of(suggestion),
            decision,
            rules.Any(each => each.Rule.Name == cluster.Rule) ? cluster.Rule : null,
            comments
        );
    }

    private static Task<ClusterView> ClaimAsync(
        long id,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken,
        bool force = false
    ) =>
        ViewAsync(
            database.Clusters.ClaimAsync(id, caller.Identity!.Name!, force, cancellationToken),
            database,
            cancellationToken
        );

    private static Task<ClusterView> ReleaseAsync(
        long id,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) =>
        ViewAsync(
            database.Clusters.ReleaseAsync(id, caller.Identity!.Name!, cancellationToken),
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
        await RequireUserAsync(body.User, database, cancellationToken);
        var (cluster, _) = await database.Clusters.AssignAsync(
            id,
            body.User,
            caller.Identity!.Name!,
            body.Force,
            cancellationToken
        );
        return (await ViewsAsync([cluster], database, cancellationToken))[0];
    }

    /// <summary>Checks that somebody to whom clusters are assigned exists; null is nobody.</summary>
    /// <exception cref="KettlefogException">There is no such user.</exception>
    public static async Task RequireUserAsync(
        string? user,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        if (user is not null && await database.Users.FindAsync(user, cancellationToken) is null)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"There is no user '{user}'.",
                "List the users to see their names."
            );
    }

    private static Task<ClusterView> PostponeAsync(
        long id,
        PostponeBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var audit = Callers.ActorOf(caller, body.Reason);
        return ViewAsync(
            database.Clusters.PostponeAsync(
                id,
                new Postponement(body.Until, audit.Actor, audit.Reason),
                cancellationToken
            ),
            database,
            cancellationToken
        );
    }

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
        return Views.Full(RecordedEntry.New(entry));
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
        return Views.Full(RecordedEntry.New(entry));
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
        return Views.Full(RecordedEntry.New(entry));
    }

    private static async Task<EntryView> ReopenEntryAsync(
        long number,
        ReopenBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var entry = await database.NonDuplicates.ReopenAsync(
            number,
            Callers.ActorOf(caller, body.Reason),
            cancellationToken
        );
        return Views.Full(RecordedEntry.New(entry));
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
