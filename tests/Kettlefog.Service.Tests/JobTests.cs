using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>
/// Merges and reversals of very many rows: they continue as jobs, report progress, and can be stopped.
/// </summary>
public class JobTests
{
    private const int Rows = 40_000;

    private static readonly string Schema = $"""
        CREATE TABLE vendor (id INTEGER PRIMARY KEY, name TEXT, status TEXT);
        INSERT INTO vendor VALUES (1, 'Gannet Chandlery', 'active'), (2, 'Gannett Chandlery', 'active');
        CREATE TABLE bill (id INTEGER PRIMARY KEY, vendor_id INTEGER NOT NULL REFERENCES vendor (id), amount
          NUMERIC(9, 2));
        CREATE INDEX bill_vendor ON bill (vendor_id);
        CREATE TABLE mark (vendor_id INTEGER NOT NULL, place INTEGER NOT NULL, word TEXT NOT NULL, PRIMARY KEY
          (vendor_id, place, word));
        CREATE TABLE survey (code TEXT PRIMARY KEY, vendor_id INTEGER);
        CREATE INDEX survey_vendor ON survey (vendor_id);
        INSERT INTO bill WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < {Rows}) SELECT i,
          2, i * 0.25 FROM n;
        INSERT INTO mark SELECT vendor_id, id, 'word' FROM bill;
        INSERT INTO survey SELECT 'code ' || id, vendor_id FROM bill;
        """;

    private static readonly string Map = TestMap.Of(
        "vendor",
        """
        fields: { name: }
        references:
          bills: { table: bill, columns: vendor_id, amount: amount }
          marks: { table: mark, columns: vendor_id }
          surveys: { table: survey, columns: vendor_id }
        figures:
          billed: { reference: bills, sum: amount, control: true }
        retire: { mark: { status: merged } }
        """
    );

    private static readonly PlanRequest Request = new("vendor", "1", ["2"]);

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task A_large_merge_continues_as_a_job_and_so_does_its_reversal(Engine engine)
    {
        await using var service = await RunningService.StartOnAsync(Schema, Map, engine);
        var before = State(service);
        using var http = HttpFor(service);
        var plan = await service.Client.PlanAsync(Request);
        plan.Blockers.ShouldBeEmpty();
        var (job, address) = await AcceptedAsync(
            http,
            "api/merges",
            new MergeBody(Request, plan.Fingerprint, "one"),
            "one"
        );
        (job.Kind, job.State).ShouldBe(("merge", "running"));
        (
            await AcceptedAsync(http, "api/merges", new MergeBody(Request, plan.Fingerprint, "one"), "one")
        ).Job.Id.ShouldBe(job.Id, "asked for again under the same key it is the same job");
        (await service.Client.OverviewAsync()).Jobs.ShouldHaveSingleItem().Actor.ShouldBe("c.weeks");
        var seen = new List<long>();
        for (; job.State == "running"; job = await LaterAsync(http, address))
            seen.Add(job.MovedRows);
        (job.State, job.MovedRows, job.TotalRows).ShouldBe(("done", 3 * Rows, 3 * Rows));
        seen.ShouldContain(moved => moved > 0 && moved < 3 * Rows, "one sees how far it has come");
        job.Merge!.Summary.Rows.ShouldBe(3 * Rows);
        (await service.Client.OverviewAsync()).Jobs.ShouldBeEmpty();
        service.Database.Count("SELECT COUNT(*) FROM mark WHERE vendor_id = 1").ShouldBe(Rows);
        service.Database.Count("SELECT COUNT(*) FROM survey WHERE vendor_id = 2").ShouldBe(0);

        var back = await service.Client.PlanReversalAsync(1);
        (job, address) = await AcceptedAsync(
            http,
            "api/merges/1/reversals",
            new ReversalBody(back.Fingerprint),
            "back"
        );
        job.Kind.ShouldBe("reversal");

        // Its events can be followed until it has ended.
        var told = await EventTests.ReadAsync<JobView>(http, address + "/events").ToListAsync();
        told.ShouldAllBe(each => each.Type == "job");
        told.Select(each => each.Value.MovedRows).ShouldBeInOrder();
        told.SkipLast(1).ShouldAllBe(each => each.Value.State == "running");
        job = told[^1].Value;
        (job.State, job.MovedRows, job.TotalRows).ShouldBe(("done", 3 * Rows, 3 * Rows));
        job.Reversal!.Entries.Single().Rows.ShouldBe(3 * Rows);
        State(service).ShouldBe(before with { Entries = 2 });
        (await service.Client.CheckHistoryAsync()).Faults.ShouldBeEmpty();
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task A_merge_that_is_stopped_changes_nothing_and_can_be_done_again(Engine engine)
    {
        await using var service = await RunningService.StartOnAsync(Schema, Map, engine);
        var before = State(service);
        using var http = HttpFor(service);
        var plan = await service.Client.PlanAsync(Request);
        for (var wait = 0; wait < 600; wait += 200)
        {
            var (job, address) = await AcceptedAsync(
                http,
                "api/merges",
                new MergeBody(Request, plan.Fingerprint),
                $"stop {wait}"
            );
            await Task.Delay(wait);
            var stopped = await (await http.DeleteAsync(address)).Content.ReadFromJsonAsync<JobView>(
                ContractJson.Options
            );
            stopped!.State.ShouldBe("stopped", $"{job.Id} after {wait} ms");
            State(service).ShouldBe(before);
        }

        using var impatient = new CancellationTokenSource(TimeSpan.FromMilliseconds(150));
        await Should.ThrowAsync<OperationCanceledException>(() =>
            service.Client.MergeAsync(
                new MergeBody(Request, plan.Fingerprint),
                "impatient",
                cancellationToken: impatient.Token
            )
        );
        State(service).ShouldBe(before);
        (await service.Client.MergeAsync(new MergeBody(Request, plan.Fingerprint), "at last")).Summary.Number.ShouldBe(
            1
        );
        (
            await MergeApiTests.RefusedAsync(() => service.Client.JobAsync("none"), 404, "unknown-job")
        ).Hint!.ShouldContain("same Idempotency-Key");
        (await http.GetAsync("api/jobs/none/events")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_request_that_is_sent_again_gets_its_answer_although_the_first_caller_has_gone()
    {
        await using var service = await RunningService.StartOnAsync(Schema, Map);
        using var http = HttpFor(service);
        var plan = await service.Client.PlanAsync(Request);
        using var leaving = new CancellationTokenSource();
        Task<HttpResponseMessage> SendAsync(CancellationToken cancellationToken)
        {
            var request = new HttpRequestMessage(HttpMethod.Post, "api/merges")
            {
                Content = JsonContent.Create(
                    new MergeBody(Request, plan.Fingerprint, "one"),
                    options: ContractJson.Options
                ),
            };
            request.Headers.Add("Idempotency-Key", "one");
            request.Headers.Add("Prefer", "respond-async, wait=30");
            return http.SendAsync(request, cancellationToken);
        }

        var first = SendAsync(leaving.Token);
        while ((await service.Client.OverviewAsync()).Jobs.Count == 0)
            await Task.Delay(5);
        var second = SendAsync(default);
        await Task.Delay(100);
        await leaving.CancelAsync();
        await Should.ThrowAsync<OperationCanceledException>(first);
        (await second).StatusCode.ShouldBe(HttpStatusCode.Created);
        service.Database.Count("SELECT COUNT(*) FROM bill WHERE vendor_id = 2").ShouldBe(0);
    }

    [Fact]
    public async Task A_refused_job_has_the_same_problem_as_a_refused_request()
    {
        await using var service = await RunningService.StartOnAsync(Schema, Map);
        var plan = await service.Client.PlanAsync(Request);
        service.Database.Execute("UPDATE vendor SET name = 'Gannet & Co' WHERE id = 2");
        using var http = HttpFor(service);
        var (job, address) = await AcceptedAsync(http, "api/merges", new MergeBody(Request, plan.Fingerprint), "one");
        while (job.State == "running")
            job = await LaterAsync(http, address);
        (job.State, job.Problem!.Code).ShouldBe(("failed", "plan-stale"));
        job.Problem.Plan!.Records[1].Label.ShouldBe("Gannet & Co");
        await MergeApiTests.RefusedAsync(
            () => service.Client.MergeAsync(new MergeBody(Request, plan.Fingerprint), "two"),
            409,
            "plan-stale"
        );
    }

    /// <summary>The references of all rows, in a few numbers: a dump of them all takes longer than the merge.</summary>
    private static (string Rows, string Status, long Entries) State(RunningService service) =>
        (
            string.Join(
                ' ',
                service
                    .Database.Query(
                        "SELECT 1, COUNT(*), SUM(id * vendor_id) FROM bill UNION ALL SELECT 2, COUNT(*), "
                            + "SUM(place * vendor_id) FROM mark UNION ALL SELECT 3, COUNT(*), SUM(length(code) * "
                            + "vendor_id) FROM survey ORDER BY 1"
                    )
                    .SelectMany(row => row)
            ),
            string.Join(' ', service.Database.Query("SELECT status FROM vendor ORDER BY id").Select(row => row[0])),
            service.Database.Count($"SELECT COUNT(*) FROM {service.Database.Own("history")}")
        );

    private static HttpClient HttpFor(RunningService service) =>
        new()
        {
            BaseAddress = service.Address,
            DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", service.OperatorToken) },
        };

    private static async Task<JobView> LaterAsync(HttpClient http, Uri address)
    {
        await Task.Delay(10);
        return (await http.GetFromJsonAsync<JobView>(address, ContractJson.Options))!;
    }

    private static async Task<(JobView Job, Uri Address)> AcceptedAsync<TBody>(
        HttpClient http,
        string address,
        TBody body,
        string key
    )
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, address)
        {
            Content = JsonContent.Create(body, options: ContractJson.Options),
        };
        request.Headers.Add("Idempotency-Key", key);
        request.Headers.Add("Prefer", "respond-async");
        using var response = await http.SendAsync(request);
        response.StatusCode.ShouldBe(HttpStatusCode.Accepted);
        response.Headers.GetValues("Preference-Applied").ShouldBe(["respond-async"]);
        return ((await response.Content.ReadFromJsonAsync<JobView>(ContractJson.Options))!, response.Headers.Location!);
    }
}
