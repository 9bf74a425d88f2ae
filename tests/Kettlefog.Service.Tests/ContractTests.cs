using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>How the API describes itself, and how it responds to what it does not understand.</summary>
public class ContractTests(ServiceFixture fixture)
{
    /// <summary>The console's types are generated from the file; set KETTLEFOG_UPDATE=1 to update it.</summary>
    [Fact]
    public async Task The_OpenAPI_document_in_docs_is_what_the_service_publishes()
    {
        var published = (await fixture.Service.Client.OpenApiAsync()).Trim();
        var file = Repository.File("docs/openapi.json");
        if (Environment.GetEnvironmentVariable("KETTLEFOG_UPDATE") == "1")
            await File.WriteAllTextAsync(file, published + "\n");
        (await File.ReadAllTextAsync(file))
            .Trim()
            .ShouldBe(published, "run the tests with KETTLEFOG_UPDATE=1 and commit docs/openapi.json");
        using var document = JsonDocument.Parse(published);
        document.RootElement.GetProperty("openapi").GetString()!.ShouldStartWith("3.1");
        foreach (
            var call in document
                .RootElement.GetProperty("paths")
                .EnumerateObject()
                .SelectMany(path => path.Value.EnumerateObject())
        )
        {
            call.Value.TryGetProperty("summary", out _).ShouldBeTrue($"{call.Name} says what it does");
            call.Value.TryGetProperty("operationId", out _).ShouldBeTrue();
        }
    }

    [Fact]
    public async Task The_console_comes_as_small_as_the_browser_takes_it()
    {
        using var http = Http();
        var page = await http.GetStringAsync("");
        var script = System
            .Text.RegularExpressions.Regex.Match(page, "src=\"/(assets/index-[^\"]+\\.js)\"")
            .Groups[1]
            .Value;
        using var plain = await http.GetAsync(script);
        plain.Content.Headers.ContentEncoding.ShouldBeEmpty();
        using var request = new HttpRequestMessage(HttpMethod.Get, script)
        {
            Headers = { { "Accept-Encoding", "gzip, br;q=0.9" } },
        };
        using var small = await http.SendAsync(request);
        small.Content.Headers.ContentEncoding.ShouldBe(["br"]);
        small.Content.Headers.ContentType!.MediaType.ShouldBe("text/javascript");
        small.Headers.Vary.ShouldContain("Accept-Encoding");
        await using var unpacked = new System.IO.Compression.BrotliStream(
            await small.Content.ReadAsStreamAsync(),
            System.IO.Compression.CompressionMode.Decompress
        );
        using var reader = new StreamReader(unpacked);
        (await reader.ReadToEndAsync()).ShouldBe(await plain.Content.ReadAsStringAsync());
        using var without = new HttpRequestMessage(HttpMethod.Get, script)
        {
            Headers = { { "Accept-Encoding", "gzip, br;q=0" } },
        };
        (await http.SendAsync(without)).Content.Headers.ContentEncoding.ShouldNotContain("br");
    }

    [Fact]
    public async Task The_map_is_described_in_full()
    {
        var reading = await fixture.Service.Client.MapDetailsAsync();
        reading.Database.ShouldContain("saltmarrow");
        var vendor = reading.RecordTypes.Single(type => type.Name == "vendor");
        (vendor.Table, vendor.Key.Single(), vendor.Columns["created"]).ShouldBe(("vendor", "vendor_id", "created_at"));
        vendor.Checks.ShouldContain("Currency must agree.");
        vendor.References.Single(reference => reference.Name == "bills").Policy.ShouldBe("reassign");

        // The service checks it against rights and data once it has started.
        while (reading.Findings is null)
        {
            await Task.Delay(50);
            reading = await fixture.Service.Client.MapDetailsAsync();
        }

        reading.Findings.ShouldAllBe(finding => finding.Severity == "warning");
        reading
            .Findings.Count(finding => finding.Statement is not null)
            .ShouldBe(
                reading
                    .RecordTypes.SelectMany(type => type.References)
                    .Where(reference => !reference.Indexed)
                    .Select(reference => (reference.Table, string.Join(',', reference.Columns)))
                    .Distinct()
                    .Count()
            );
    }

    [Theory]
    [InlineData("{", "line 1")]
    [InlineData("{}", "recordType")]
    [InlineData("""{"recordType":"vendor","master":1,"duplicates":[]}""", "$.master")]
    [InlineData(
        """{"recordType":"vendor","master":"1","duplicates":["2"],"fields":{"phone":{}}}""",
        "either 'from' or 'typed' or 'rule'"
    )]
    [InlineData(
        """{"recordType":"vendor","master":"1","duplicates":["2"],"fields":{"phone":{"rule":"best"}}}""",
        "no survivorship rule 'best'"
    )]
    [InlineData("""{"recordType":"vendor","master":"1","duplicates":["2"],"fieldz":{}}""", "fieldz")]
    [InlineData("""{"recordType":"vendor","master":null,"duplicates":["2"]}""", "master")]
    public async Task An_invalid_body_is_refused_with_the_place(string body, string where)
    {
        using var http = Http();
        using var response = await http.PostAsync(
            "api/plans",
            new StringContent(body, Encoding.UTF8, "application/json")
        );
        ((int)response.StatusCode).ShouldBeInRange(400, 422);
        response.Content.Headers.ContentType!.MediaType.ShouldBe("application/problem+json");
        (await response.Content.ReadAsStringAsync()).ShouldContain(where);
    }

    [Theory]
    [InlineData("api/nowhere", 404, "not-found")]
    [InlineData("api/records/vendor?page=0", 400, "invalid-query")]
    [InlineData("api/records/vendor?size=5000", 400, "invalid-query")]
    [InlineData("api/records/vendor?page=x", 400, "bad-request")]
    [InlineData("api/records/vendor?sort=shoe", 400, "invalid-query")]
    [InlineData("api/records/vendor?q=%22open", 400, "invalid-query")]
    [InlineData("api/records/vendor/1001/related/shoes", 404, "unknown-reference")]
    [InlineData("api/history/4711", 404, "unknown-entry")]
    [InlineData("api/history?kind=party", 400, "invalid-query")]
    public async Task An_invalid_address_is_refused_with_the_reason(string address, int status, string code)
    {
        using var http = Http();
        using var response = await http.GetAsync(address);
        ((int)response.StatusCode).ShouldBe(status);
        var problem = JsonSerializer.Deserialize<Problem>(
            await response.Content.ReadAsStringAsync(),
            JsonSerializerOptions.Web
        )!;
        problem.Code.ShouldBe(code);
        problem.Title.ShouldNotBeNullOrEmpty();
        problem.Hint.ShouldNotBeNullOrEmpty();
    }

    [Fact]
    public async Task Health_answers_and_search_speaks_of_the_map()
    {
        var client = fixture.Service.Client;
        (await client.HealthAsync()).Status.ShouldBe("ok");
        var map = await client.MapAsync();
        map.Name.ShouldBe("Saltmarrow Harbour Trust");
        map.RecordTypes[0].Fields.Single(field => field.Name == "name").MaxLength.ShouldBe(80);
        (await client.MapSchemaAsync()).ShouldContain("json-schema.org");
        var page = await client.SearchAsync("vendor", "name:brackwater*", "-name", size: 2);
        page.Items.Count.ShouldBe(2);
        page.Total.ShouldBeGreaterThan(2);
    }

    [Fact]
    public async Task Reading_writes_nothing()
    {
        var before = fixture.Service.Database.Count("PRAGMA data_version");
        var client = fixture.Service.Client;
        await client.SearchAsync("vendor");
        await client.RecordAsync("vendor", "1003");
        await client.PlanAsync(new PlanRequest("vendor", "1003", ["1004"]));
        await client.HistoryAsync();
        fixture.Service.Database.Count("PRAGMA data_version").ShouldBe(before);
    }

    private HttpClient Http()
    {
        var http = new HttpClient { BaseAddress = fixture.Service.Address };
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue(
            "Bearer",
            fixture.Service.OperatorToken
        );
        return http;
    }
}
