using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using Kettlefog.Contracts;

namespace Kettlefog.Client;

/// <summary>The service refused a request; nothing was changed by it.</summary>
/// <param name="problem">The problem.</param>
public sealed class ProblemException(Problem problem) : Exception(problem.Title)
{
    /// <summary>The problem.</summary>
    public Problem Problem => problem;
}

/// <summary>Calls the service.</summary>
/// <param name="http">A client whose base address is the service's. It is not disposed.</param>
/// <param name="token">The API token, or null to call without.</param>
/// <remarks>
/// Every call throws <see cref="ProblemException"/> if the service refuses it, and <see cref="HttpRequestException"/>
/// if the service cannot be reached.
/// </remarks>
public sealed partial class KettlefogClient(HttpClient http, string? token = null)
{
    private static readonly TimeSpan Between = TimeSpan.FromMilliseconds(300);

    /// <summary>Reads the health of the service.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<HealthView> HealthAsync(CancellationToken cancellationToken = default) =>
        GetAsync<HealthView>("healthz", cancellationToken);

    /// <summary>Reads who is signed in.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<SessionView> SessionAsync(CancellationToken cancellationToken = default) =>
        GetAsync<SessionView>("api/session", cancellationToken);

    /// <summary>Creates an API token.</summary>
    /// <param name="body">The user and the label.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<IssuedToken> IssueTokenAsync(TokenBody body, CancellationToken cancellationToken = default) =>
        PostAsync<TokenBody, IssuedToken>("api/tokens", body, null, cancellationToken);

    /// <summary>Lists tokens.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<IReadOnlyList<TokenView>> TokensAsync(CancellationToken cancellationToken = default) =>
        GetAsync<IReadOnlyList<TokenView>>("api/tokens", cancellationToken);

    /// <summary>Revokes a token.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task RevokeTokenAsync(long id, CancellationToken cancellationToken = default) =>
        DeleteAsync($"api/tokens/{id}", cancellationToken);

    /// <summary>Lists the users.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<IReadOnlyList<UserView>> UsersAsync(CancellationToken cancellationToken = default) =>
        GetAsync<IReadOnlyList<UserView>>("api/users", cancellationToken);

    /// <summary>Adds a user.</summary>
    /// <param name="user">The user.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<UserView> AddUserAsync(NewUser user, CancellationToken cancellationToken = default) =>
        PostAsync<NewUser, UserView>("api/users", user, null, cancellationToken);

    /// <summary>Changes a user: full name, role, password, or whether the user may sign in.</summary>
    /// <param name="name">The user's name.</param>
    /// <param name="change">What to change.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<UserView> ChangeUserAsync(
        string name,
        UserChangeBody change,
        CancellationToken cancellationToken = default
    )
    {
        using var content = JsonContent.Create(change, options: ContractJson.Options);
        using var response = await SendAsync(
            HttpMethod.Patch,
            $"api/users/{Escape(name)}",
            content,
            null,
            cancellationToken
        );
        return (await response.Content.ReadFromJsonAsync<UserView>(ContractJson.Options, cancellationToken))!;
    }

    /// <summary>Lists the sessions of the console: one's own; to administrators all.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<IReadOnlyList<OpenSessionView>> SessionsAsync(CancellationToken cancellationToken = default) =>
        GetAsync<IReadOnlyList<OpenSessionView>>("api/sessions", cancellationToken);

    /// <summary>Ends a session of the console.</summary>
    /// <param name="id">Its number.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task EndSessionAsync(long id, CancellationToken cancellationToken = default) =>
        DeleteAsync($"api/sessions/{id}", cancellationToken);

    /// <summary>Ends all sessions of a user of the console.</summary>
    /// <param name="user">The user's name.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<EndedSessions> EndSessionsAsync(string user, CancellationToken cancellationToken = default)
    {
        using var response = await SendAsync(
            HttpMethod.Delete,
            $"api/users/{Escape(user)}/sessions",
            null,
            null,
            cancellationToken
        );
        return (await response.Content.ReadFromJsonAsync<EndedSessions>(ContractJson.Options, cancellationToken))!;
    }

    /// <summary>Reads the record map.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<MapView> MapAsync(CancellationToken cancellationToken = default) =>
        GetAsync<MapView>("api/map", cancellationToken);

    /// <summary>Reads the record map in full, with the findings of its check.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<MapDetailsView> MapDetailsAsync(CancellationToken cancellationToken = default) =>
        GetAsync<MapDetailsView>("api/map/details", cancellationToken);

    /// <summary>Reads the JSON Schema of record maps.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<string> MapSchemaAsync(CancellationToken cancellationToken = default) =>
        TextAsync("api/map/schema", cancellationToken);

    /// <summary>Reads the OpenAPI document.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<string> OpenApiAsync(CancellationToken cancellationToken = default) =>
        TextAsync("api/openapi.json", cancellationToken);

    /// <summary>Finds records.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="text">The search; null for all.</param>
    /// <param name="sort">The field to sort by, with <c>-</c> before it to reverse the order; null for the key.</param>
    /// <param name="page">The page, counted from 1.</param>
    /// <param name="size">The number of records on a page.</param>
    /// <param name="retired">True to find retired records too.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<RecordPage> SearchAsync(
        string type,
        string? text = null,
        string? sort = null,
        int page = 1,
        int size = 50,
        bool retired = false,
        CancellationToken cancellationToken = default
    ) =>
        GetAsync<RecordPage>(
            $"api/records/{Escape(type)}"
                + Query(
                    ("q", text),
                    ("sort", sort),
                    ("page", $"{page}"),
                    ("size", $"{size}"),
                    ("retired", retired ? "true" : null)
                ),
            cancellationToken
        );

    /// <summary>Reads one record.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="key">The record's key.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<RecordView> RecordAsync(string type, string key, CancellationToken cancellationToken = default) =>
        GetAsync<RecordView>($"api/records/{Escape(type)}/{Escape(key)}", cancellationToken);

    /// <summary>Reads the related rows of a record.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="key">The record's key.</param>
    /// <param name="reference">The reference.</param>
    /// <param name="page">The page, counted from 1.</param>
    /// <param name="size">The number of rows on a page.</param>
    /// <param name="text">A search as typed; null finds all.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<RelatedRowsPage> RelatedAsync(
        string type,
        string key,
        string reference,
        int page = 1,
        int size = 50,
        string? text = null,
        CancellationToken cancellationToken = default
    ) =>
        GetAsync<RelatedRowsPage>(
            $"api/records/{Escape(type)}/{Escape(key)}/related/{Escape(reference)}"
                + Query(("page", $"{page}"), ("size", $"{size}"), ("q", text)),
            cancellationToken
        );

    /// <summary>Reads the history of a record.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="key">The record's key, old or new.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<RecordHistory> RecordHistoryAsync(
        string type,
        string key,
        CancellationToken cancellationToken = default
    ) => GetAsync<RecordHistory>($"api/records/{Escape(type)}/{Escape(key)}/history", cancellationToken);

    /// <summary>Lists the values that a field may take, or usually takes.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="field">The name of the field.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<FieldChoicesView> FieldChoicesAsync(
        string type,
        string field,
        CancellationToken cancellationToken = default
    ) => GetAsync<FieldChoicesView>($"api/field-choices/{Escape(type)}/{Escape(field)}", cancellationToken);

    /// <summary>Plans a merge.</summary>
    /// <param name="request">The records and choices.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<PlanView> PlanAsync(PlanRequest request, CancellationToken cancellationToken = default) =>
        PostAsync<PlanRequest, PlanView>("api/plans", request, null, cancellationToken);

    /// <summary>Applies a plan. If it takes long, it continues as a job, which is waited for.</summary>
    /// <param name="body">The plan's request, its fingerprint and the reason.</param>
    /// <param name="idempotencyKey">The key of the request: repeated with the same key, it merges only once.</param>
    /// <param name="reportProgress">Receives the state of a job from time to time.</param>
    /// <param name="cancellationToken">Cancels: a job that has not reached its commit is rolled back.</param>
    public Task<EntryView> MergeAsync(
        MergeBody body,
        string? idempotencyKey,
        Action<JobView>? reportProgress = null,
        CancellationToken cancellationToken = default
    ) => PostOrFollowAsync("api/merges", body, idempotencyKey, job => job.Merge, reportProgress, cancellationToken);

    /// <summary>Plans a reversal.</summary>
    /// <param name="number">The merge.</param>
    /// <param name="body">The choices; null for the merge alone.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<ReversalPlanView> PlanReversalAsync(
        long number,
        ReversalPlanBody? body = null,
        CancellationToken cancellationToken = default
    ) =>
        PostAsync<ReversalPlanBody, ReversalPlanView>(
            $"api/merges/{number}/reversal-plans",
            body ?? new ReversalPlanBody(),
            null,
            cancellationToken
        );

    /// <summary>Reverses a merge. If it takes long, it continues as a job, which is waited for.</summary>
    /// <param name="number">The merge.</param>
    /// <param name="body">The reversal plan's fingerprint and the reason.</param>
    /// <param name="idempotencyKey">The key of the request: repeated with the same key, it is done only once.</param>
    /// <param name="reportProgress">Receives the state of a job from time to time.</param>
    /// <param name="cancellationToken">Cancels: a job that has not reached its commit is rolled back.</param>
    public Task<ReversalResult> ReverseAsync(
        long number,
        ReversalBody body,
        string? idempotencyKey,
        Action<JobView>? reportProgress = null,
        CancellationToken cancellationToken = default
    ) =>
        PostOrFollowAsync(
            $"api/merges/{number}/reversals",
            body,
            idempotencyKey,
            job => job.Reversal,
            reportProgress,
            cancellationToken
        );

    /// <summary>Reads the state of a job.</summary>
    /// <param name="id">The job.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<JobView> JobAsync(string id, CancellationToken cancellationToken = default) =>
        GetAsync<JobView>($"api/jobs/{Escape(id)}", cancellationToken);

    /// <summary>Stops a job, unless it reaches its commit first, and waits for its end.</summary>
    /// <param name="id">The job.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<JobView> StopJobAsync(string id, CancellationToken cancellationToken = default)
    {
        using var response = await SendAsync(
            HttpMethod.Delete,
            $"api/jobs/{Escape(id)}",
            null,
            null,
            cancellationToken
        );
        return (await response.Content.ReadFromJsonAsync<JobView>(ContractJson.Options, cancellationToken))!;
    }

    /// <summary>Lists the history, latest first.</summary>
    /// <param name="type">Only of this record type.</param>
    /// <param name="record">Only of the record with this key.</param>
    /// <param name="actor">Only of this user.</param>
    /// <param name="kind">Only <c>merge</c> or <c>reversal</c>.</param>
    /// <param name="page">The page, counted from 1.</param>
    /// <param name="size">The number of entries on a page.</param>
    /// <param name="before">Only entries with a smaller number.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<HistoryPage> HistoryAsync(
        string? type = null,
        string? record = null,
        string? actor = null,
        string? kind = null,
        int page = 1,
        int size = 50,
        long? before = null,
        CancellationToken cancellationToken = default
    ) =>
        GetAsync<HistoryPage>(
            "api/history"
                + Query(
                    ("type", type),
                    ("record", record),
                    ("actor", actor),
                    ("kind", kind),
                    ("page", $"{page}"),
                    ("size", $"{size}"),
                    ("before", before is null ? null : $"{before}")
                ),
            cancellationToken
        );

    /// <summary>Writes all entries of the history, one per line, latest first.</summary>
    /// <param name="format"><c>csv</c> or <c>jsonl</c>.</param>
    /// <param name="into">The stream.</param>
    /// <param name="type">Only of this record type.</param>
    /// <param name="record">Only of the record with this key.</param>
    /// <param name="actor">Only of this user.</param>
    /// <param name="kind">Only of this kind.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task ExportHistoryAsync(
        string format,
        Stream into,
        string? type = null,
        string? record = null,
        string? actor = null,
        string? kind = null,
        CancellationToken cancellationToken = default
    ) =>
        CopyAsync(
            "api/exports/history"
                + Query(("format", format), ("type", type), ("record", record), ("actor", actor), ("kind", kind)),
            into,
            cancellationToken
        );

    /// <summary>Reads one entry of the history.</summary>
    /// <param name="number">Its number.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<EntryView> EntryAsync(long number, CancellationToken cancellationToken = default) =>
        GetAsync<EntryView>($"api/history/{number}", cancellationToken);

    /// <summary>Checks that the history was not altered.</summary>
    /// <param name="after">The last entry of an earlier check, to check only what follows; null for everything.</param>
    /// <param name="hash">The hash of that entry.</param>
    /// <param name="checkpoint">The text of a signed checkpoint, with which the history must begin.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<HistoryCheck> CheckHistoryAsync(
        long? after = null,
        string? hash = null,
        string? checkpoint = null,
        CancellationToken cancellationToken = default
    ) =>
        GetAsync<HistoryCheck>(
            "api/history/check"
                + Query(("after", after is null ? null : $"{after}"), ("hash", hash), ("checkpoint", checkpoint)),
            cancellationToken
        );

    private static string Escape(string part) => Uri.EscapeDataString(part);

    private static string Query(params (string Name, string? Value)[] parts)
    {
        var given = parts
            .Where(part => part.Value is not null)
            .Select(part => $"{part.Name}={Escape(part.Value!)}")
            .ToList();
        return given.Count == 0 ? "" : "?" + string.Join('&', given);
    }

    private async Task<T> GetAsync<T>(string address, CancellationToken cancellationToken)
    {
        using var response = await SendAsync(HttpMethod.Get, address, null, null, cancellationToken);
        return (await response.Content.ReadFromJsonAsync<T>(ContractJson.Options, cancellationToken))!;
    }

    private async Task<string> TextAsync(string address, CancellationToken cancellationToken)
    {
        using var response = await SendAsync(HttpMethod.Get, address, null, null, cancellationToken);
        return await response.Content.ReadAsStringAsync(cancellationToken);
    }

    private async Task<TResult> PostAsync<TBody, TResult>(
        string address,
        TBody body,
        string? idempotencyKey,
        CancellationToken cancellationToken
    )
    {
        using var content = JsonContent.Create(body, options: ContractJson.Options);
        using var response = await SendAsync(HttpMethod.Post, address, content, idempotencyKey, cancellationToken);
        return (await response.Content.ReadFromJsonAsync<TResult>(ContractJson.Options, cancellationToken))!;
    }

    private async Task<TResult> PostOrFollowAsync<TBody, TResult>(
        string address,
        TBody body,
        string? idempotencyKey,
        Func<JobView, TResult?> answer,
        Action<JobView>? reportProgress,
        CancellationToken cancellationToken
    )
        where TResult : class
    {
        using var content = JsonContent.Create(body, options: ContractJson.Options);
        using var response = await SendAsync(
            HttpMethod.Post,
            address,
            content,
            idempotencyKey,
            cancellationToken,
            "respond-async, wait=1"
        );
        if (response.StatusCode != HttpStatusCode.Accepted)
            return (await response.Content.ReadFromJsonAsync<TResult>(ContractJson.Options, cancellationToken))!;
        var job = (await response.Content.ReadFromJsonAsync<JobView>(ContractJson.Options, cancellationToken))!;
        try
        {
            for (; job.State == "running"; job = await JobAsync(job.Id, cancellationToken))
            {
                reportProgress?.Invoke(job);
                await Task.Delay(Between, cancellationToken);
            }
        }
        catch (OperationCanceledException)
        {
            job = await StopJobAsync(job.Id, CancellationToken.None);
        }

        return answer(job)
            ?? throw (
                job.Problem is { } problem
                    ? new ProblemException(problem)
                    : new OperationCanceledException("The job was stopped.", cancellationToken)
            );
    }

    private async Task DeleteAsync(string address, CancellationToken cancellationToken)
    {
        using var response = await SendAsync(HttpMethod.Delete, address, null, null, cancellationToken);
    }

    private async Task<HttpResponseMessage> SendAsync(
        HttpMethod method,
        string address,
        HttpContent? content,
        string? idempotencyKey,
        CancellationToken cancellationToken,
        string? prefer = null
    )
    {
        using var request = new HttpRequestMessage(method, new Uri(address, UriKind.Relative)) { Content = content };
        if (token is not null)
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", token);
        if (idempotencyKey is not null)
            request.Headers.Add("Idempotency-Key", idempotencyKey);
        if (prefer is not null)
            request.Headers.Add("Prefer", prefer);
        var response = await http.SendAsync(request, cancellationToken);
        if (response.IsSuccessStatusCode)
            return response;
        using (response)
            throw new ProblemException(await ReadProblemAsync(response, cancellationToken));
    }

    private static async Task<Problem> ReadProblemAsync(
        HttpResponseMessage response,
        CancellationToken cancellationToken
    )
    {
        if (
            response.Content.Headers.ContentType?.MediaType == "application/problem+json"
            && await response.Content.ReadFromJsonAsync<Problem>(ContractJson.Options, cancellationToken) is { } problem
        )
        {
            return problem;
        }

        // Not a Kettlefog service, or a proxy in between.
        var status = (int)response.StatusCode;
        return new Problem(
            Problem.TypePrefix + "unexpected-answer",
            $"The address answered with status {status} {response.ReasonPhrase}, which is not a response of Kettlefog.",
            status,
            response.StatusCode == HttpStatusCode.NotFound ? "not-found" : "unexpected-answer",
            "Check the address of the service.",
            [],
            null
        );
    }
}
