using System.Net.Http.Json;
using Kettlefog.Contracts;

namespace Kettlefog.Client;

/// <content>Calls about duplicates: rules, scans, clusters and pairs.</content>
public sealed partial class KettlefogClient
{
    /// <summary>Lists the match rules of a record type that are in force.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<IReadOnlyList<RuleView>> RulesAsync(string type, CancellationToken cancellationToken = default) =>
        GetAsync<IReadOnlyList<RuleView>>($"api/match-rules/{Escape(type)}", cancellationToken);

    /// <summary>List all saved versions of a rule, latest first.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="name">The rule's name.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<IReadOnlyList<RuleVersionView>> RuleVersionsAsync(
        string type,
        string name,
        CancellationToken cancellationToken = default
    ) =>
        GetAsync<IReadOnlyList<RuleVersionView>>(
            $"api/match-rules/{Escape(type)}/{Escape(name)}/versions",
            cancellationToken
        );

    /// <summary>Saves a rule as a new version.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="name">The rule's name.</param>
    /// <param name="body">The rule, and why.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<RuleView> SaveRuleAsync(
        string type,
        string name,
        RuleBody body,
        CancellationToken cancellationToken = default
    )
    {
        using var content = JsonContent.Create(body, options: ContractJson.Options);
        using var response = await SendAsync(
            HttpMethod.Put,
            $"api/match-rules/{Escape(type)}/{Escape(name)}",
            content,
            null,
            cancellationToken
        );
        return (await response.Content.ReadFromJsonAsync<RuleView>(ContractJson.Options, cancellationToken))!;
    }

    /// <summary>Removes a rule; its versions are kept.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="name">The rule's name.</param>
    /// <param name="note">Why.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task RemoveRuleAsync(
        string type,
        string name,
        string note = "",
        CancellationToken cancellationToken = default
    )
    {
        using var response = await SendAsync(
            HttpMethod.Delete,
            $"api/match-rules/{Escape(type)}/{Escape(name)}" + Query(("note", note)),
            null,
            null,
            cancellationToken
        );
    }

    /// <summary>The fields that rules can compare, and the comparators that fit each.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<IReadOnlyList<ComparableFieldView>> ComparableFieldsAsync(
        string type,
        CancellationToken cancellationToken = default
    ) => GetAsync<IReadOnlyList<ComparableFieldView>>($"api/match-rules/{Escape(type)}/fields", cancellationToken);

    /// <summary>Try a rule on today's records without saving it.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="body">The rule.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<RuleTrialView> TryRuleAsync(
        string type,
        RuleTrialBody body,
        CancellationToken cancellationToken = default
    ) =>
        PostAsync<RuleTrialBody, RuleTrialView>(
            $"api/match-rules/{Escape(type)}/trials",
            body,
            null,
            cancellationToken
        );

    /// <summary>
    /// Reads what the last scan learned from decisions, which of them are doubtful, and what to decide next.
    /// </summary>
    /// <param name="type">The record type.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<LearningView> LearningAsync(string type, CancellationToken cancellationToken = default) =>
        GetAsync<LearningView>($"api/match-rules/{Escape(type)}/learning", cancellationToken);

    /// <summary>Measures a rule against labelled pairs.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="body">The rule, or null for those in force, and the pairs.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<EvaluationView> EvaluateRuleAsync(
        string type,
        EvaluationBody body,
        CancellationToken cancellationToken = default
    ) =>
        PostAsync<EvaluationBody, EvaluationView>(
            $"api/match-rules/{Escape(type)}/evaluations",
            body,
            null,
            cancellationToken
        );

    /// <summary>Requests a scan.</summary>
    /// <param name="body">What to scan.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<ScanView> AddScanAsync(ScanBody body, CancellationToken cancellationToken = default) =>
        PostAsync<ScanBody, ScanView>("api/scans", body, null, cancellationToken);

    /// <summary>Reads the state of a scan.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<ScanView> ScanAsync(long id, CancellationToken cancellationToken = default) =>
        GetAsync<ScanView>($"api/scans/{id}", cancellationToken);

    /// <summary>List scans, latest first.</summary>
    /// <param name="type">Only of this record type.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<IReadOnlyList<ScanView>> ScansAsync(
        string? type = null,
        CancellationToken cancellationToken = default
    ) => GetAsync<IReadOnlyList<ScanView>>("api/scans" + Query(("type", type)), cancellationToken);

    /// <summary>Stops, resumes or cancels a scan.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="verb"><c>stop</c>, <c>resume</c> or <c>cancel</c>.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<ScanView> MoveScanAsync(long id, string verb, CancellationToken cancellationToken = default) =>
        PostAsync<object, ScanView>($"api/scans/{id}/{verb}", new { }, null, cancellationToken);

    /// <summary>Writes all pairs of the last scan to a stream: id_a, id_b, score, proposed, rule.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="minScore">The lowest score, in percent.</param>
    /// <param name="format"><c>csv</c> or <c>jsonl</c>.</param>
    /// <param name="into">The stream.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task ExportPairsAsync(
        string type,
        double minScore,
        string format,
        Stream into,
        CancellationToken cancellationToken = default
    ) =>
        CopyAsync(
            $"api/exports/{Escape(type)}/pairs"
                + Query(
                    ("minScore", minScore.ToString(System.Globalization.CultureInfo.InvariantCulture)),
                    ("format", format)
                ),
            into,
            cancellationToken
        );

    /// <summary>Writes all records in open clusters to a stream: id, cluster.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="format"><c>csv</c> or <c>jsonl</c>.</param>
    /// <param name="into">The stream.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task ExportClustersAsync(
        string type,
        string format,
        Stream into,
        CancellationToken cancellationToken = default
    ) => CopyAsync($"api/exports/{Escape(type)}/clusters" + Query(("format", format)), into, cancellationToken);

    /// <summary>Lists clusters.</summary>
    /// <param name="type">Only of this record type.</param>
    /// <param name="state"><c>open</c>, <c>merged</c>, <c>non-duplicates</c>, <c>postponed</c> or <c>all</c>.</param>
    /// <param name="assigned">Only those assigned to a user; empty for unassigned ones.</param>
    /// <param name="rule">Only clusters proposed by this rule.</param>
    /// <param name="minScore">Lowest confidence, in percent.</param>
    /// <param name="maxScore">Highest confidence, in percent.</param>
    /// <param name="record">Only the cluster with this record.</param>
    /// <param name="order"><c>confidence</c>, <c>impact</c>, <c>amount</c> or <c>age</c>.</param>
    /// <param name="reverse">True for the opposite order.</param>
    /// <param name="page">The page, counted from 1.</param>
    /// <param name="size">The number of clusters on a page.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<ClusterPage> ClustersAsync(
        string? type = null,
        string state = "open",
        string? assigned = null,
        string? rule = null,
        double? minScore = null,
        double? maxScore = null,
        string? record = null,
        string order = "confidence",
        bool reverse = false,
        int page = 1,
        int size = 50,
        CancellationToken cancellationToken = default
    ) =>
        GetAsync<ClusterPage>(
            "api/clusters"
                + Query(
                    ("type", type),
                    ("state", state),
                    ("assigned", assigned),
                    ("rule", rule),
                    ("minScore", minScore?.ToString(System.Globalization.CultureInfo.InvariantCulture)),
                    ("maxScore", maxScore?.ToString(System.Globalization.CultureInfo.InvariantCulture)),
                    ("record", record),
                    ("order", order),
                    ("reverse", reverse ? "true" : null),
                    ("page", $"{page}"),
                    ("size", $"{size}")
                ),
            cancellationToken
        );

    /// <summary>Reads one cluster, with the evidence for its pairs.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<ClusterDetailView> ClusterAsync(long id, CancellationToken cancellationToken = default) =>
        GetAsync<ClusterDetailView>($"api/clusters/{id}", cancellationToken);

    /// <summary>Comments on the records of a cluster; the comment stays with them.</summary>
    /// <param name="id">The number of the cluster.</param>
    /// <param name="text">What to say.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>All comments on the cluster, the oldest first.</returns>
    public Task<IReadOnlyList<CommentView>> CommentAsync(
        long id,
        string text,
        CancellationToken cancellationToken = default
    ) =>
        PostAsync<CommentBody, IReadOnlyList<CommentView>>(
            $"api/clusters/{id}/comments",
            new CommentBody(text),
            null,
            cancellationToken
        );

    /// <summary>Removes a comment.</summary>
    /// <param name="comment">The number of the comment.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task RemoveCommentAsync(long comment, CancellationToken cancellationToken = default) =>
        DeleteAsync($"api/clusters/comments/{comment}", cancellationToken);

    /// <summary>Lists the saved views of the queue that the caller sees.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<IReadOnlyList<SavedViewView>> ViewsAsync(CancellationToken cancellationToken = default) =>
        GetAsync<IReadOnlyList<SavedViewView>>("api/views", cancellationToken);

    /// <summary>Saves a view of the queue; one of the caller's with the same name is replaced.</summary>
    /// <param name="body">The view.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The views that the caller sees.</returns>
    public Task<IReadOnlyList<SavedViewView>> SaveViewAsync(
        SavedViewBody body,
        CancellationToken cancellationToken = default
    ) => PostAsync<SavedViewBody, IReadOnlyList<SavedViewView>>("api/views", body, null, cancellationToken);

    /// <summary>Removes a saved view.</summary>
    /// <param name="id">The number of the view.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task RemoveViewAsync(long id, CancellationToken cancellationToken = default) =>
        DeleteAsync($"api/views/{id}", cancellationToken);

    /// <summary>Lists the users to whom clusters can be assigned.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<IReadOnlyList<AssigneeView>> AssigneesAsync(CancellationToken cancellationToken = default) =>
        GetAsync<IReadOnlyList<AssigneeView>>("api/assignees", cancellationToken);

    /// <summary>Assigns a cluster to the caller, until ten minutes after the last such call.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="force">True to take it over from another user.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<ClusterView> ClaimAsync(long id, bool force = false, CancellationToken cancellationToken = default) =>
        PostAsync<object, ClusterView>(
            $"api/clusters/{id}/claim{(force ? "?force=true" : "")}",
            new { },
            null,
            cancellationToken
        );

    /// <summary>Assigns a cluster to a user, or to nobody.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="body">The assignee.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<ClusterView> AssignAsync(long id, AssignBody body, CancellationToken cancellationToken = default) =>
        PostAsync<AssignBody, ClusterView>($"api/clusters/{id}/assignment", body, null, cancellationToken);

    /// <summary>Postpone a cluster until a date.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="body">The day, and why.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<ClusterView> PostponeAsync(long id, PostponeBody body, CancellationToken cancellationToken = default) =>
        PostAsync<PostponeBody, ClusterView>($"api/clusters/{id}/postponement", body, null, cancellationToken);

    /// <summary>Decides about several clusters.</summary>
    /// <param name="body">The decision and the clusters.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The result for each cluster.</returns>
    public Task<IReadOnlyList<ClusterDecisionView>> DecideClustersAsync(
        ClusterDecisionsBody body,
        CancellationToken cancellationToken = default
    ) =>
        PostAsync<ClusterDecisionsBody, IReadOnlyList<ClusterDecisionView>>(
            "api/clusters/decisions",
            body,
            null,
            cancellationToken
        );

    /// <summary>Reopens all that a history entry marked as not duplicates.</summary>
    /// <param name="number">The number of the entry.</param>
    /// <param name="body">Why.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<EntryView> ReopenAsync(long number, ReopenBody body, CancellationToken cancellationToken = default) =>
        PostAsync<ReopenBody, EntryView>($"api/history/{number}/reopening", body, null, cancellationToken);

    /// <summary>Resume a postponed cluster.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<ClusterView> ResumeAsync(long id, CancellationToken cancellationToken = default)
    {
        using var response = await SendAsync(
            HttpMethod.Delete,
            $"api/clusters/{id}/postponement",
            null,
            null,
            cancellationToken
        );
        return (await response.Content.ReadFromJsonAsync<ClusterView>(ContractJson.Options, cancellationToken))!;
    }

    /// <summary>Reads the open work and recent activity.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<OverviewView> OverviewAsync(CancellationToken cancellationToken = default) =>
        GetAsync<OverviewView>("api/overview", cancellationToken);

    /// <summary>Marks the records of a cluster, or some of them, as not duplicates.</summary>
    /// <param name="id">The cluster.</param>
    /// <param name="body">Which records, and why.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<EntryView> MarkNonDuplicatesAsync(
        long id,
        NonDuplicatesBody body,
        CancellationToken cancellationToken = default
    ) => PostAsync<NonDuplicatesBody, EntryView>($"api/clusters/{id}/non-duplicates", body, null, cancellationToken);

    /// <summary>Marks two records as not duplicates.</summary>
    /// <param name="pair">The records, and why.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<EntryView> MarkPairNonDuplicatesAsync(PairBody pair, CancellationToken cancellationToken = default) =>
        PostAsync<PairBody, EntryView>("api/non-duplicates", pair, null, cancellationToken);

    /// <summary>List the pairs marked as not duplicates.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<IReadOnlyList<NonDuplicateView>> ListNonDuplicatesAsync(
        string type,
        CancellationToken cancellationToken = default
    ) => GetAsync<IReadOnlyList<NonDuplicateView>>($"api/non-duplicates/{Escape(type)}", cancellationToken);

    /// <summary>Reopen a decision that two records are not duplicates.</summary>
    /// <param name="pair">The records, and why.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<EntryView> ReopenAsync(PairBody pair, CancellationToken cancellationToken = default) =>
        PostAsync<PairBody, EntryView>("api/reopenings", pair, null, cancellationToken);

    /// <summary>Explain the score of two records.</summary>
    /// <param name="pair">The records.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<PairView> ExplainAsync(PairBody pair, CancellationToken cancellationToken = default) =>
        PostAsync<PairBody, PairView>("api/explanations", pair, null, cancellationToken);

    /// <summary>Finds records similar to a record.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="key">The record's key.</param>
    /// <param name="limit">Largest number of results.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<IReadOnlyList<PairView>> FindSimilarAsync(
        string type,
        string key,
        int limit = 10,
        CancellationToken cancellationToken = default
    ) =>
        GetAsync<IReadOnlyList<PairView>>(
            $"api/records/{Escape(type)}/{Escape(key)}/similar?limit={limit}",
            cancellationToken
        );

    /// <summary>Finds records similar to given values.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="body">The values, by field.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<IReadOnlyList<PairView>> FindSimilarAsync(
        string type,
        SimilarBody body,
        CancellationToken cancellationToken = default
    ) => PostAsync<SimilarBody, IReadOnlyList<PairView>>($"api/similar/{Escape(type)}", body, null, cancellationToken);

    private async Task CopyAsync(string address, Stream into, CancellationToken cancellationToken)
    {
        using var response = await SendAsync(HttpMethod.Get, address, null, null, cancellationToken);
        await response.Content.CopyToAsync(into, cancellationToken);
    }
}
