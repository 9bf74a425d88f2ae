using System.Security.Claims;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Reversing;
using Kettlefog.Database;
using Kettlefog.Database.History;
using Kettlefog.Database.Merging;
using Kettlefog.Database.Reversing;
using Kettlefog.Service.Jobs;
using Kettlefog.Service.Security;
using Microsoft.AspNetCore.Mvc;

namespace Kettlefog.Service.Endpoints;

/// <summary>Planning, merging and taking back.</summary>
internal static class MergeEndpoints
{
    private const string IdempotencyHeader = "Idempotency-Key";

    private const string PreferHeader = "Prefer";

    private const string Async =
        "With 'Prefer: respond-async, wait=1' (RFC 7240) a request that takes longer is answered with 202 and "
        + "continues as a job, at the address in 'Location'.";

    public static void Map(RouteGroupBuilder api)
    {
        var group = api.MapGroup("").WithTags("merges");
        group.MapPost("/plans", PlanAsync).WithName("planMerge").WithSummary("Plan a merge; nothing is changed.");
        group
            .MapPost("/merges", MergeAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("merge")
            .WithSummary("Apply a plan.")
            .Produces<EntryView>(201)
            .Produces<EntryView>()
            .WithDescription(
                "Takes the plan's fingerprint. A stale plan is refused with 409, code 'plan-stale', what "
                    + "changed in 'details', and the fresh plan in 'plan'. "
                    + Async
            )
            .Produces<JobView>(202)
            .Produces<Problem>(409, "application/problem+json");
        group
            .MapPost("/merges/{number:long}/reversal-plans", PlanReversalAsync)
            .WithName("planReversal")
            .WithSummary("Plan a reversal; nothing is changed.");
        group
            .MapPost("/merges/{number:long}/reversals", ReverseAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("reverse")
            .WithSummary("Reverse a merge.")
            .WithDescription(Async)
            .Produces<JobView>(202)
            .Produces<ReversalResult>(201)
            .Produces<ReversalResult>();
    }

    private static async Task<PlanView> PlanAsync(
        PlanRequest body,
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) => Views.Of(await database.Merges.PlanAsync(Choices(body, database), cancellationToken), database.Map.Map);

    private static async Task<IResult> MergeAsync(
        MergeBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        MergeJobs jobs,
        ILogger<MergeBody> log,
        HttpContext context,
        [FromHeader(Name = IdempotencyHeader)] string? idempotencyKey = null,
        [FromHeader(Name = PreferHeader)] string? prefer = null
    )
    {
        var choices = Choices(body.Plan, database);
        var request = new MergeRequest(
            choices,
            body.Fingerprint,
            Callers.ActorOf(caller, body.Reason, body.Plan.Rule),
            Key(idempotencyKey, body.DryRun),
            body.DryRun
        );
        var repeated = body.DryRun;
        var (done, goesOn) = await JobEndpoints.RunAsync(
            context,
            jobs,
            new JobRequest("merge", request.Audit.Actor, request.IdempotencyKey, request.Fingerprint),
            async (progress, cancellationToken) =>
            {
                MergeOutcome outcome;
                try
                {
                    outcome = await database.Merges.ApplyAsync(request with { Progress = progress }, cancellationToken);
                }
                catch (KettlefogException stale) when (stale.Code == ErrorCode.PlanStale)
                {
                    throw new StaleException(
                        stale,
                        Views.Of(await database.Merges.PlanAsync(choices, cancellationToken), database.Map.Map)
                    );
                }

                var entry = outcome.Entry;
                var recorded = RecordedEntry.New(entry);
                var view = outcome.Details is { } details ? Views.Full(recorded, details) : Views.Full(recorded);
                repeated |= outcome.Repeated;
                if (!repeated)
                {
                    log.LogInformation(
                        "Merge {Number}: {Duplicates} of type {RecordType} merged into {Master}, {Rows} rows "
                            + "moved, by {Actor}",
                        entry.Number,
                        body.Plan.Duplicates,
                        entry.RecordType,
                        entry.Master,
                        view.Summary.Rows,
                        entry.Actor
                    );
                }

                return view;
            }
        );
        return goesOn
            ?? (
                repeated ? Results.Ok(done) : Results.Created($"/api/history/{((EntryView)done!).Summary.Number}", done)
            );
    }

    private static async Task<ReversalPlanView> PlanReversalAsync(
        long number,
        ReversalPlanBody body,
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) =>
        Views.Of(
            await database.Reversals.PlanAsync(
                Choices(number, body.WithLater, body.UndoDrift, body.Only, body.KeepLinked),
                cancellationToken
            )
        );

    private static async Task<IResult> ReverseAsync(
        long number,
        ReversalBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        MergeJobs jobs,
        ILogger<ReversalBody> log,
        HttpContext context,
        [FromHeader(Name = IdempotencyHeader)] string? idempotencyKey = null,
        [FromHeader(Name = PreferHeader)] string? prefer = null
    )
    {
        var request = new ReversalRequest(
            Choices(number, body.WithLater, body.UndoDrift, body.Only, body.KeepLinked),
            body.Fingerprint,
            Callers.ActorOf(caller, body.Reason),
            Key(idempotencyKey, body.DryRun),
            body.DryRun
        );
        var repeated = body.DryRun;
        var (done, goesOn) = await JobEndpoints.RunAsync(
            context,
            jobs,
            new JobRequest("reversal", request.Audit.Actor, request.IdempotencyKey, request.Fingerprint),
            async (progress, cancellationToken) =>
            {
                var outcome = await database.Reversals.ApplyAsync(
                    request with
                    {
                        Progress = progress,
                    },
                    cancellationToken
                );
                var result = new ReversalResult([
                    .. outcome.Entries.Select(each => Views.Summary(RecordedEntry.New(each))),
                ]);
                repeated |= outcome.Repeated;
                foreach (var each in repeated ? [] : result.Entries)
                {
                    log.LogInformation(
                        "Reversal {Number}: merge {Reverses} of type {RecordType} into {Master} reversed, "
                            + "{Rows} rows returned, by {Actor}",
                        each.Number,
                        each.Reverses,
                        each.RecordType,
                        each.Records[0].Key,
                        each.Rows,
                        each.Actor
                    );
                }

                return result;
            }
        );
        if (goesOn is not null)
            return goesOn;
        if (repeated)
            return Results.Ok(done);
        var reversal = ((ReversalResult)done!).Entries.First(entry => entry.Reverses == number);
        return Results.Created($"/api/history/{reversal.Number}", done);
    }

    private static ReversalChoices Choices(
        long number,
        bool withLater,
        IReadOnlyList<string>? undoDrift,
        string? only,
        bool keepLinked
    ) =>
        new(number, withLater)
        {
            UndoDrift = (undoDrift ?? []).ToHashSet(StringComparer.Ordinal),
            Only = only,
            KeepLinked = keepLinked,
        };

    /// <summary>A request for a plan in the terms of the database.</summary>
    public static MergeChoices Choices(PlanRequest body, OperationalDatabase database) =>
        Choices(
            new LinkedMerge(body.RecordType, body.Master, body.Duplicates, body.Fields, body.Exclude, body.End),
            database
        ) with
        {
            Rule = body.Rule,
            Reopen = body.Reopen,
            Linked = [.. (body.Linked ?? []).Select(linked => Choices(linked, database))],
        };

    private static MergeChoices Choices(LinkedMerge merge, OperationalDatabase database)
    {
        var type = database.Map.Map.Require(merge.RecordType);
        return new MergeChoices(
            merge.RecordType,
            database.Records.ReadKey(type, merge.Master),
            [.. merge.Duplicates.Select(key => database.Records.ReadKey(type, key))],
            (merge.Fields ?? new Dictionary<string, FieldChoiceView>()).ToDictionary(
                pair => pair.Key,
                pair =>
                    pair.Value switch
                    {
                        { From: { } from, Typed: null, Rule: null } => (FieldChoice)
                            new FieldChoice.FromRecord(database.Records.ReadKey(type, from)),
                        { From: null, Typed: { } typed, Rule: null } => new FieldChoice.Typed(typed),
                        { From: null, Typed: null, Rule: { } rule } => EnumName.TryRead<SurvivorshipRule>(
                            rule,
                            out var chosen
                        )
                            ? new FieldChoice.ByRule(chosen)
                            : throw new KettlefogException(
                                ErrorCode.InvalidChoice,
                                $"There is no survivorship rule '{rule}' for {pair.Key}.",
                                $"Rules are: {string.Join(", ", EnumName.All<SurvivorshipRule>())}."
                            ),
                        _ => throw new KettlefogException(
                            ErrorCode.InvalidChoice,
                            $"The choice for {pair.Key} must have either 'from' or 'typed' or 'rule'.",
                            "Take a record's value, type one, or take what a rule makes of all."
                        ),
                    }
            )
        )
        {
            Exclude = (merge.Exclude ?? []).ToHashSet(StringComparer.Ordinal),
            End = (merge.End ?? []).ToHashSet(StringComparer.Ordinal),
        };
    }

    private static string? Key(string? header, bool dryRun)
    {
        if (dryRun)
            return null;
        return header is { Length: > 0 and <= 200 }
            ? header
            : throw new KettlefogException(
                ErrorCode.InvalidQuery,
                $"The header {IdempotencyHeader} is missing, or longer than 200 characters.",
                "Send a new random value with every new request, and the same one when you repeat it."
            );
    }
}
