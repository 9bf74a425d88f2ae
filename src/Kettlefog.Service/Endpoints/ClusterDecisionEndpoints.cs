using System.Security.Claims;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.Naming;
using Kettlefog.Database;
using Kettlefog.Database.Duplicates.Clusters;
using Kettlefog.Service.Security;

namespace Kettlefog.Service.Endpoints;

/// <summary>One decision about several clusters in one call.</summary>
internal static class ClusterDecisionEndpoints
{
    private const int MaxClusters = 500;

    private enum Decision
    {
        NonDuplicates,
        Reopen,
        Postpone,
        Resume,
        Assign,
    }

    public static void Map(RouteGroupBuilder clusters) =>
        clusters
            .MapPost("decisions", DecideAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("decideClusters")
            .WithSummary("Decide about several clusters: one decision, one result for each.")
            .WithDescription(
                "'decision' is one of: non-duplicates, reopen, postpone (with 'until'), resume, assign (with 'user', "
                    + "or null for nobody; 'force' reassigns clusters of others). Each cluster is decided on its own, "
                    + "in the order given: what is refused for one, with its 'problem', does not affect the others."
            );

    private static async Task<IReadOnlyList<ClusterDecisionView>> DecideAsync(
        ClusterDecisionsBody body,
        HttpContext http,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var decide = await DecisionOfAsync(body, caller, database, cancellationToken);
        var clusters = body.Clusters.Distinct().ToList();
        if (clusters.Count is 0 or > MaxClusters)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                clusters.Count == 0 ? "No cluster is named." : $"{clusters.Count} clusters are too many at once.",
                $"Name 1 to {MaxClusters} clusters."
            );
        var results = new List<ClusterDecisionView>();
        foreach (var id in clusters)
        {
            try
            {
                results.Add(await decide(id));
            }
            catch (KettlefogException refusal)
            {
                results.Add(new ClusterDecisionView(id, null, ProblemHandler.Of(refusal, http)));
            }
        }

        return results;
    }

    /// <summary>What is done to each cluster, and what became of it.</summary>
    /// <exception cref="KettlefogException">The decision is unknown or incomplete.</exception>
    private static async Task<Func<long, Task<ClusterDecisionView>>> DecisionOfAsync(
        ClusterDecisionsBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        if (!EnumName.TryRead<Decision>(body.Decision, out var decision))
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"There is no decision '{body.Decision}'.",
                $"Decisions are: {string.Join(", ", EnumName.All<Decision>())}."
            );
        var audit = Callers.ActorOf(caller, body.Reason);
        static async Task<ClusterDecisionView> Unnumbered(Task<Cluster> change) => new((await change).Id, null, null);

        switch (decision)
        {
            case Decision.NonDuplicates:
                return async id => new ClusterDecisionView(
                    id,
                    (await database.NonDuplicates.MarkAsync(id, null, audit, cancellationToken)).Number,
                    null
                );
            case Decision.Reopen:
                return async id => new ClusterDecisionView(
                    id,
                    (await database.NonDuplicates.ReopenClusterAsync(id, audit, cancellationToken)).Number,
                    null
                );
            case Decision.Postpone:
                var postponement = new Postponement(
                    body.Until
                        ?? throw new KettlefogException(
                            ErrorCode.InvalidChoice,
                            "It is not said until when the clusters are postponed.",
                            "Send a date as 'until', such as 2030-01-15."
                        ),
                    audit.Actor,
                    audit.Reason
                );
                return id => Unnumbered(database.Clusters.PostponeAsync(id, postponement, cancellationToken));
            case Decision.Resume:
                return id => Unnumbered(database.Clusters.ResumeAsync(id, cancellationToken));
            default:
                await ClusterEndpoints.RequireUserAsync(body.User, database, cancellationToken);
                return async id =>
                {
                    var (_, before) = await database.Clusters.AssignAsync(
                        id,
                        body.User,
                        audit.Actor,
                        body.Force,
                        cancellationToken
                    );
                    return new ClusterDecisionView(id, null, null, before);
                };
        }
    }
}
