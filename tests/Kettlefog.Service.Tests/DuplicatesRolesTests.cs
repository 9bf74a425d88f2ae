using System.Net;
using System.Net.Http.Headers;
using System.Text;
using Kettlefog.Client;
using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>Roles in finding duplicates, exports, and what survives a restart.</summary>
public sealed class DuplicatesRolesTests(ServiceFixture fixture)
{
    [Theory]
    [InlineData("POST", "api/scans", """{"record_type":"vendor"}""")]
    [InlineData("POST", "api/clusters/1/claim", "{}")]
    [InlineData("POST", "api/clusters/1/assignment", """{"user":"c.weeks"}""")]
    [InlineData("POST", "api/clusters/1/postponement", """{"until":"2099-01-01"}""")]
    [InlineData("POST", "api/clusters/1/non-duplicates", "{}")]
    public async Task A_viewer_looks_and_decides_nothing(string method, string path, string body)
    {
        using var http = new HttpClient { BaseAddress = fixture.Service.Address };
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", fixture.Service.ViewerToken);
        using var request = new HttpRequestMessage(new HttpMethod(method), new Uri(path, UriKind.Relative))
        {
            Content = new StringContent(body, Encoding.UTF8, "application/json"),
        };
        using var response = await http.SendAsync(request);
        response.StatusCode.ShouldBe(HttpStatusCode.Forbidden, await response.Content.ReadAsStringAsync());
        response.Content.Headers.ContentType!.MediaType.ShouldBe("application/problem+json");
        (await http.GetAsync(new Uri("api/clusters", UriKind.Relative))).StatusCode.ShouldBe(HttpStatusCode.OK);
        fixture.Service.Database.Count("SELECT COUNT(*) FROM kettlefog_scan WHERE actor = 'h.trewin'").ShouldBe(0);
    }

    [Fact]
    public async Task Exports_quote_what_csv_requires_and_contain_what_was_found()
    {
        const string Schema = """
            CREATE TABLE firm (id TEXT PRIMARY KEY, name TEXT, phone TEXT);
            INSERT INTO firm VALUES ('a,"1"', 'Gannet Chandlery', '01632 960118'), ('b
            2', 'Gannet Chandlery', '01632 960118'), ('c', 'Skua Rigging', '01632 960119');
            """;
        var map = TestMap.Of(
            "firm",
            """
            fields: { name: { kind: organisation-name }, phone: { kind: phone } }
            matching: { country: GB }
            """
        );
        await using var service = await RunningService.StartOnAsync(Schema, map);
        await ScanAsync(service.Client, "firm");
        (await ExportAsync(stream => service.Client.ExportClustersAsync("firm", "csv", stream))).ShouldBe(
            "id,cluster\n\"a,\"\"1\"\"\",1\n\"b\n2\",1\n"
        );
        (await ExportAsync(stream => service.Client.ExportClustersAsync("firm", "jsonl", stream))).ShouldBe(
            "{\"id\":\"a,\\\"1\\\"\",\"cluster\":1}\n{\"id\":\"b\\n2\",\"cluster\":1}\n"
        );
        (await ExportAsync(stream => service.Client.ExportPairsAsync("firm", 0, "csv", stream))).ShouldStartWith(
            "id_a,id_b,score,proposed,rule\n\"a,\"\"1\"\"\",\"b\n2\","
        );
        (await service.Client.ClustersAsync("firm", record: "b\n2")).Total.ShouldBe(1);
    }

    [Fact]
    public async Task A_scan_that_was_killed_with_its_service_continues_by_itself()
    {
        await using var service = await RunningService.StartAsync(4_000, "WAL");
        var id = (await service.Client.AddScanAsync(new ScanBody("vendor"))).Id;
        while (await service.Client.ScanAsync(id) is { State: "waiting" } or { State: "running", Phase: "" })
            await Task.Delay(5);
        await service.KillAsync();
        service.Database.Query("SELECT state FROM kettlefog_scan WHERE id = ?1", id)[0][0].ShouldBe("running");
        await service.ServeAsync();
        (await WaitAsync(service.Client, id)).State.ShouldBe("finished");
        var killed = await ExportAsync(stream => service.Client.ExportPairsAsync("vendor", 0, "csv", stream));
        await ScanAsync(service.Client, "vendor");
        (await ExportAsync(stream => service.Client.ExportPairsAsync("vendor", 0, "csv", stream))).ShouldBe(killed);

        // The live index is rebuilt, and finds the same records.
        var similar = await service.Client.FindSimilarAsync("vendor", "1001");
        similar.Select(pair => pair.B).ShouldContain("1002");
        await service.KillAsync();
        await service.ServeAsync();
        (await service.Client.FindSimilarAsync("vendor", "1001"))
            .Select(pair => (pair.B, pair.Score))
            .ShouldBe(similar.Select(pair => (pair.B, pair.Score)));
    }

    [Fact]
    public async Task A_merge_by_a_rule_follows_it_and_the_history_names_it()
    {
        await using var service = await RunningService.StartAsync();
        var administrator = service.ClientFor(service.AdministratorToken);
        await administrator.SaveRuleAsync(
            "vendor",
            "same_phone",
            new RuleBody(
                """
                any_of: [[{field: phone, is: same-phone}]]
                master: [newest]
                survivorship: { name: longest }
                """
            )
        );
        await administrator.RemoveRuleAsync("vendor", "ready", "by phone alone");
        await ScanAsync(service.Client, "vendor");
        var cluster = (await service.Client.ClustersAsync("vendor", rule: "same_phone", record: "1001")).Items.Single();
        var suggestion = (await service.Client.ClusterAsync(cluster.Id)).Suggestion!;
        suggestion.Reasons.ShouldContain(reason =>
            reason.StartsWith("It was created last: ", StringComparison.Ordinal)
        );
        var others = cluster.Records.Select(record => record.Key).Where(key => key != suggestion.Key).ToList();
        var request = new PlanRequest("vendor", suggestion.Key, others, Rule: "same_phone");
        var plan = await service.Client.PlanAsync(request);
        plan.Fields.Single(field => field.Name == "name").Rule.ShouldBe("longest");
        plan.Suggestion!.Key.ShouldBe(suggestion.Key);
        (
            await Should.ThrowAsync<ProblemException>(() =>
                service.Client.MergeAsync(new MergeBody(request with { Rule = null }, plan.Fingerprint), "0")
            )
        ).Problem.Code.ShouldBe("foreign-fingerprint");
        (
            await Should.ThrowAsync<ProblemException>(() =>
                service.Client.PlanAsync(request with { Rule = "same_fax" })
            )
        ).Problem.Title.ShouldContain("no rule 'same_fax'");

        // A rule changed since is not the rule that was shown.
        await administrator.SaveRuleAsync(
            "vendor",
            "same_phone",
            new RuleBody("any_of: [[{field: phone, is: same-phone}]]")
        );
        (
            await Should.ThrowAsync<ProblemException>(() =>
                service.Client.MergeAsync(new MergeBody(request, plan.Fingerprint), "1")
            )
        ).Problem.Details!.ShouldContain("The match rule was changed.");
        var entry = await service.Client.MergeAsync(
            new MergeBody(request, (await service.Client.PlanAsync(request)).Fingerprint),
            "2"
        );
        entry.Summary.Rule.ShouldBe("same_phone");
        (await service.Client.CheckHistoryAsync()).Faults.ShouldBeEmpty();
    }

    private static async Task<string> ExportAsync(Func<Stream, Task> export)
    {
        using var stream = new MemoryStream();
        await export(stream);
        return Encoding.UTF8.GetString(stream.ToArray());
    }

    private static async Task ScanAsync(KettlefogClient client, string type) =>
        (await WaitAsync(client, (await client.AddScanAsync(new ScanBody(type))).Id)).State.ShouldBe("finished");

    private static async Task<ScanView> WaitAsync(KettlefogClient client, long id)
    {
        for (var tries = 0; tries < 2_400; tries++)
        {
            if (await client.ScanAsync(id) is { State: not ("waiting" or "running") } scan)
                return scan;
            await Task.Delay(50);
        }

        throw new TimeoutException($"Scan {id} does not end.");
    }
}
