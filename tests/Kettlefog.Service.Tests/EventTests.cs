using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Text.Json;
using Kettlefog.Client;
using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>Subscribers are notified of changes, including those by another instance of the service.</summary>
public class EventTests(ServiceFixture fixture)
{
    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task Changes_are_sent_to_all_subscribers(Engine engine)
    {
        await using var service = await RunningService.StartAsync(60, engine: engine);
        using var http = HttpFor(service);
        using var enough = new CancellationTokenSource(TimeSpan.FromMinutes(3));
        await using var first = ReadAsync<EventView>(http, "api/events", enough.Token).GetAsyncEnumerator(enough.Token);
        await using var second = ReadAsync<EventView>(http, "api/events", enough.Token)
            .GetAsyncEnumerator(enough.Token);
        (await NextAsync(first)).Type.ShouldBe("alive");
        (await NextAsync(second)).Type.ShouldBe("alive");
        await Task.Delay(1_500, enough.Token);

        await service.Client.AddScanAsync(new ScanBody("vendor"), enough.Token);
        foreach (var listener in new[] { first, second })
        {
            var seen = new List<SseEvent<EventView>>();
            while (seen.LastOrDefault().Value?.Scan?.State != "finished")
                seen.Add(await NextAsync(listener));
            seen.ShouldContain(each => each.Type == "scan" && each.Value.Scan!.RecordType == "vendor");
        }

        // Changes in the database are events, whether by a second instance, as here, or by this one.
        using var process = Programs.Start(
            Programs.Service,
            ["serve", "--database", service.Database.Address, "--map", service.MapFile, "--port", "0"]
        );
        try
        {
            var said = (await process.StandardOutput.ReadLineAsync(enough.Token))!;
            var address = said["Kettlefog is listening on ".Length..];
            using var other = new HttpClient { BaseAddress = new Uri(address + "/") };
            await new KettlefogClient(other, service.OperatorToken).MarkPairNonDuplicatesAsync(
                new PairBody("vendor", "1010", "1011", "two firms"),
                enough.Token
            );
        }
        finally
        {
            process.Kill();
        }

        var entry = await WaitAsync(first, "history");
        entry.History.ShouldBe(1);
        await WaitAsync(second, "history");
        await service
            .ClientFor(service.AdministratorToken)
            .SaveRuleAsync(
                "vendor",
                "same_tax",
                new RuleBody("any_of: [[{field: tax_number, is: same-digits}]]"),
                enough.Token
            );
        await WaitAsync(first, "rules");
        var cluster = (await service.Client.ClustersAsync("vendor", cancellationToken: enough.Token)).Items[0];
        await service.Client.PostponeAsync(cluster.Id, new PostponeBody(new DateOnly(2030, 1, 1)), enough.Token);
        await WaitAsync(first, "queue");
    }

    [Fact]
    public async Task A_stream_ends_with_the_token_of_its_listener()
    {
        await using var service = await RunningService.StartAsync(20);
        var issued = await service
            .ClientFor(null)
            .IssueTokenAsync(new TokenBody("listener", "c.weeks", "tide over the bar"));
        using var http = new HttpClient { BaseAddress = service.Address };
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", issued.Token);
        using var enough = new CancellationTokenSource(TimeSpan.FromMinutes(3));
        await using var events = ReadAsync<EventView>(http, "api/events", enough.Token)
            .GetAsyncEnumerator(enough.Token);
        (await NextAsync(events)).Type.ShouldBe("alive");
        await Task.Delay(1_500, enough.Token);
        var token = (await service.Client.TokensAsync(enough.Token)).Single(each => each.Label == "listener");
        await service.Client.RevokeTokenAsync(token.Id, enough.Token);
        await service.Client.MarkPairNonDuplicatesAsync(
            new PairBody("vendor", "1010", "1011", "two firms"),
            enough.Token
        );
        (await events.MoveNextAsync()).ShouldBeFalse("what happens afterwards is not theirs to hear");
    }

    [Fact]
    public async Task To_listen_is_no_use_of_a_session_and_hides_none()
    {
        await using var service = await RunningService.StartAsync(20);
        using var http = new HttpClient(new HttpClientHandler()) { BaseAddress = service.Address };
        (
            await http.PostAsJsonAsync("api/session", new SignInBody("c.weeks", "tide over the bar"))
        ).EnsureSuccessStatusCode();
        using var enough = new CancellationTokenSource(TimeSpan.FromMinutes(3));
        await using var events = ReadAsync<EventView>(http, "api/events", enough.Token)
            .GetAsyncEnumerator(enough.Token);
        (await NextAsync(events)).Type.ShouldBe("alive");

        // Who calls is known for five seconds; then the stream is the first to ask, and the request follows at once.
        await Task.Delay(5_500, enough.Token);
        var earlier = DateTimeOffset.UtcNow.AddMinutes(-30);
        service.Database.Execute($"UPDATE kettlefog_session SET last_seen_at = '{earlier:yyyy-MM-ddTHH:mm:ssZ}'");
        await service.Client.MarkPairNonDuplicatesAsync(
            new PairBody("vendor", "1010", "1011", "two firms"),
            enough.Token
        );
        await NextAsync(events);
        (await service.Client.SessionsAsync(enough.Token)).Single().LastSeenAt.ShouldBeLessThan(earlier.AddMinutes(1));
        (await http.GetAsync("api/session", enough.Token)).EnsureSuccessStatusCode();
        (await service.Client.SessionsAsync(enough.Token))
            .Single()
            .LastSeenAt.ShouldBeGreaterThan(earlier.AddMinutes(20));
    }

    [Fact]
    public async Task Nobody_listens_without_having_signed_in()
    {
        using var http = new HttpClient { BaseAddress = fixture.Service.Address };
        (await http.GetAsync("api/events")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    /// <summary>The events of a stream, until it ends.</summary>
    internal static async IAsyncEnumerable<SseEvent<T>> ReadAsync<T>(
        HttpClient http,
        string address,
        [EnumeratorCancellation] CancellationToken cancellationToken = default
    )
    {
        using var response = await http.GetAsync(address, HttpCompletionOption.ResponseHeadersRead, cancellationToken);
        response.StatusCode.ShouldBe(HttpStatusCode.OK);
        response.Content.Headers.ContentType!.MediaType.ShouldBe("text/event-stream");
        await using var stream = await response.Content.ReadAsStreamAsync(cancellationToken);
        await foreach (
            var item in SseParser
                .Create(stream, (_, data) => JsonSerializer.Deserialize<T>(data, ContractJson.Options)!)
                .EnumerateAsync(cancellationToken)
        )
            yield return new SseEvent<T>(item.EventType, item.Data);
    }

    private static async Task<EventView> WaitAsync(IAsyncEnumerator<SseEvent<EventView>> events, string type)
    {
        SseEvent<EventView> said;
        do said = await NextAsync(events);
        while (said.Type != type);
        return said.Value;
    }

    private static async Task<SseEvent<EventView>> NextAsync(IAsyncEnumerator<SseEvent<EventView>> events)
    {
        (await events.MoveNextAsync()).ShouldBeTrue("the stream goes on");
        return events.Current;
    }

    private static HttpClient HttpFor(RunningService service)
    {
        var http = new HttpClient { BaseAddress = service.Address };
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", service.OperatorToken);
        return http;
    }
}

/// <summary>An event of a stream.</summary>
internal readonly record struct SseEvent<T>(string Type, T Value);
