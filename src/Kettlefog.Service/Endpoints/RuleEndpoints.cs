using System.Security.Claims;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Database;
using Kettlefog.Database.Duplicates.Rules;
using Kettlefog.Service.Security;

namespace Kettlefog.Service.Endpoints;

/// <summary>Reads, saves and tries match rules.</summary>
internal static class RuleEndpoints
{
    private const int MaxBodyLength = 100_000;
    private const int MaxLabelledPairs = 200_000;

    public static void Map(RouteGroupBuilder api)
    {
        var group = api.MapGroup("/match-rules/{type}").WithTags("match rules");
        group
            .MapGet("", ListAsync)
            .WithName("listRules")
            .WithSummary(
                "List the match rules of a record type: those in force, and those that are left out as broken."
            );
        group
            .MapGet("fields", (string type, OperationalDatabase database) =>
                database.Map.Map.Require(type).Fields.Select(DuplicateViews.Of).ToList()
            )
            .WithName("listComparableFields")
            .WithSummary("List the fields that rules can compare, with the comparators for each.");
        group
            .MapGet("learning", ReadLearningAsync)
            .WithName("readLearning")
            .WithSummary(
                "Read what the last scan learned from decisions, which of them are doubtful, and what to decide next."
            );
        group
            .MapGet("{name}/versions", VersionsAsync)
            .WithName("listRuleVersions")
            .WithSummary("List all saved versions of a rule, latest first.");
        group
            .MapPut("{name}", SaveAsync)
            .RequireAuthorization(SignInSetup.Administer)
            .WithName("saveRule")
            .WithSummary("Save a rule as a new version.");
        group
            .MapDelete("{name}", RemoveAsync)
            .RequireAuthorization(SignInSetup.Administer)
            .WithName("removeRule")
            .WithSummary("Remove a rule; its versions are kept.");
        group
            .MapPost("trials", TryAsync)
            .WithName("tryRule")
            .WithSummary("Try a rule on today's records without saving it.");
        group
            .MapPost("evaluations", EvaluateAsync)
            .WithName("evaluateRule")
            .WithSummary("Measure precision and recall of a rule, or of those in force, against labelled pairs.");
    }

    private static async Task<IReadOnlyList<RuleView>> ListAsync(
        string type,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var rules = await database.Rules.ReadAsync(database.Map.Map.Require(type), cancellationToken);
        return [.. rules.InForce.Select(DuplicateViews.Of), .. rules.Broken.Select(DuplicateViews.Of)];
    }

    private static async Task<LearningView> ReadLearningAsync(
        string type,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var recordType = database.Map.Map.Require(type);
        if (await database.Scans.ReadLearningAsync(recordType, cancellationToken) is not var (scan, learning))
            return new LearningView(type, null, null, 0, 0, [], [], []);
        var labels = await database.Records.ReadLabelsAsync(
            recordType,
            [.. learning.ToDecide.SelectMany(pair => new[] { pair.A, pair.B }).Distinct()],
            cancellationToken
        );
        var doubtful = new List<DoubtfulDecisionView>();
        foreach (var each in learning.Doubtful)
        {
            // What was reversed or reopened since the scan is settled.
            var entry = Views.Summary(await database.History.ReadAsync(each.Number, cancellationToken));
            if (entry.IsInEffect)
                doubtful.Add(
                    new DoubtfulDecisionView(
                        entry,
                        DuplicateViews.Percent(each.Score),
                        DuplicateViews.Percent(each.Doubt)
                    )
                );
        }

        return new LearningView(
            type,
            scan.Id,
            scan.EndedAt,
            learning.Matches,
            learning.NonMatches,
            [
                .. learning.Weights.Select(weight => new LearnedWeightView(
                    weight.Title,
                    weight.Words,
                    Math.Round(weight.Change, 1)
                )),
            ],
            doubtful,
            [
                .. learning
                    .ToDecide.Where(pair => labels.ContainsKey(pair.A) && labels.ContainsKey(pair.B))
                    .Select(pair => new SamplePairView(
                        pair.A,
                        labels[pair.A],
                        pair.B,
                        labels[pair.B],
                        DuplicateViews.Percent(pair.Score),
                        pair.Evidence,
                        pair.Proposed
                    )),
            ]
        );
    }

    private static async Task<IReadOnlyList<RuleVersionView>> VersionsAsync(
        string type,
        string name,
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) =>
        [
            .. (await database.Rules.ListVersionsAsync(database.Map.Map.Require(type), name, cancellationToken)).Select(
                DuplicateViews.Of
            ),
        ];

    private static async Task<RuleView> SaveAsync(
        string type,
        string name,
        RuleBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var recordType = database.Map.Map.Require(type);
        var saved = await database.Rules.SaveAsync(
            recordType,
            name,
            Checked(body.Body),
            Callers.ActorOf(caller, body.Note),
            cancellationToken
        );
        return DuplicateViews.Of(new RuleInForce(MatchRuleReader.Read(name, body.Body, recordType), saved));
    }

    private static async Task<IResult> RemoveAsync(
        string type,
        string name,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken,
        string? note = null
    )
    {
        await database.Rules.SaveAsync(
            database.Map.Map.Require(type),
            name,
            null,
            Callers.ActorOf(caller, note ?? ""),
            cancellationToken
        );
        return Results.NoContent();
    }

    private static async Task<RuleTrialView> TryAsync(
        string type,
        RuleTrialBody body,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var recordType = database.Map.Map.Require(type);
        return DuplicateViews.Of(
            await database.Rules.TryAsync(
                recordType,
                MatchRuleReader.Read("trial", Checked(body.Body), recordType),
                body.Replaces,
                cancellationToken
            )
        );
    }

    private static async Task<EvaluationView> EvaluateAsync(
        string type,
        EvaluationBody body,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        if (body.Pairs.Count is 0 or > MaxLabelledPairs)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"{body.Pairs.Count} labelled pairs are too {(body.Pairs.Count == 0 ? "few" : "many")}.",
                $"Send 1 to {MaxLabelledPairs}."
            );
        var recordType = database.Map.Map.Require(type);
        var rule = body.Body is null ? null : MatchRuleReader.Read("trial", Checked(body.Body), recordType);
        return DuplicateViews.Of(
            await database.Rules.EvaluateAsync(
                recordType,
                rule,
                [.. body.Pairs.Select(pair => new LabelledPair(pair.A, pair.B, pair.Match))],
                cancellationToken
            )
        );
    }

    private static string Checked(string body) =>
        body.Length <= MaxBodyLength
            ? body
            : throw new KettlefogException(
                ErrorCode.InvalidRule,
                "The rule is too long.",
                $"Write at most {MaxBodyLength} characters."
            );
}
