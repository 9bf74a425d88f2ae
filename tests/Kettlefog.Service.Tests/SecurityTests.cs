using System.Diagnostics;
using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>Authentication and roles.</summary>
public class SecurityTests(ServiceFixture fixture)
{
    [Fact]
    public async Task Every_endpoint_except_health_and_sign_in_requires_a_user()
    {
        using var http = new HttpClient { BaseAddress = fixture.Service.Address };
        (await http.GetAsync("healthz")).StatusCode.ShouldBe(HttpStatusCode.OK);
        using var document = JsonDocument.Parse(await fixture.Service.Client.OpenApiAsync());
        var calls = document
            .RootElement.GetProperty("paths")
            .EnumerateObject()
            .SelectMany(path => path.Value.EnumerateObject().Select(method => (Path: path.Name, Method: method.Name)))
            .Append(("/api/openapi.json", "get"))
            .Where(call => call is not ("/api/session" or "/api/tokens", "post"))
            .ToList();
        calls.Count.ShouldBeGreaterThan(15);
        foreach (var (path, method) in calls)
        {
            var address = path.Replace("{type}", "vendor")
                .Replace("{key}", "1001")
                .Replace("{number}", "1")
                .Replace("{reference}", "bills")
                .Replace("{id}", "1")
                .Replace("{name}", "ready")
                .Replace("{comment}", "1")
                .Replace("{field}", "phone")
                .TrimStart('/');
            foreach (var token in new[] { null, "kft_wrong" })
            {
                using var request = new HttpRequestMessage(HttpMethod.Parse(method), address);
                if (token is not null)
                    request.Headers.Authorization = new("Bearer", token);
                if (method is "post" or "put" or "patch")
                    request.Content = JsonContent.Create(new { });
                using var response = await http.SendAsync(request);
                response.StatusCode.ShouldBe(HttpStatusCode.Unauthorized, $"{method} {path}");
                response.Content.Headers.ContentType!.MediaType.ShouldBe("application/problem+json");
            }
        }
    }

    [Fact]
    public async Task A_viewer_looks_but_does_not_merge_and_an_operator_keeps_no_users()
    {
        var viewer = fixture.Service.ClientFor(fixture.Service.ViewerToken);
        var request = new PlanRequest("vendor", "1003", ["1004"]);
        var plan = await viewer.PlanAsync(request);
        await MergeApiTests.RefusedAsync(
            () => viewer.MergeAsync(new MergeBody(request, plan.Fingerprint), "k"),
            403,
            "not-allowed"
        );
        await MergeApiTests.RefusedAsync(() => viewer.ReverseAsync(1, new ReversalBody("x"), "k"), 403, "not-allowed");
        await MergeApiTests.RefusedAsync(() => fixture.Service.Client.UsersAsync(), 403, "not-allowed");
        var administrator = fixture.Service.ClientFor(fixture.Service.AdministratorToken);
        (await administrator.UsersAsync()).Select(user => user.Name).ShouldContain("h.trewin");
    }

    [Fact]
    public async Task A_cookie_session_needs_its_anti_forgery_token_for_every_change()
    {
        using var http = new HttpClient { BaseAddress = fixture.Service.Address };
        using var signedIn = await http.PostAsJsonAsync("api/session", new SignInBody("c.weeks", "tide over the bar"));
        signedIn.StatusCode.ShouldBe(HttpStatusCode.OK);
        var cookies = string.Join('\n', signedIn.Headers.GetValues("Set-Cookie"));
        cookies.ShouldContain("httponly");
        cookies.ShouldContain("samesite=strict");
        var session = (await signedIn.Content.ReadFromJsonAsync<SessionView>())!;
        var plan = new PlanRequest("vendor", "1003", ["1004"]);
        using var bare = await http.PostAsJsonAsync("api/plans", plan);
        bare.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await bare.Content.ReadAsStringAsync()).ShouldContain("anti-forgery");
        http.DefaultRequestHeaders.Add("X-Kettlefog-Antiforgery", session.AntiForgery);
        (await http.PostAsJsonAsync("api/plans", plan)).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await http.DeleteAsync("api/session")).StatusCode.ShouldBe(HttpStatusCode.NoContent);
        (await http.GetAsync("api/map")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_link_signs_in_once()
    {
        var link = await fixture.Service.OnMachineAsync("sign-in-link", "--user", "c.weeks");
        using var http = new HttpClient { BaseAddress = fixture.Service.Address };
        (await http.PostAsJsonAsync("api/session", new SignInBody(Link: link))).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await http.GetFromJsonAsync<SessionView>("api/session"))!.Name.ShouldBe("c.weeks");
        using var again = await http.PostAsJsonAsync("api/session", new SignInBody(Link: link));
        again.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await again.Content.ReadAsStringAsync()).ShouldContain("has been used");
    }

    [Fact]
    public async Task A_wrong_password_is_refused_and_logged_without_it()
    {
        using var http = new HttpClient { BaseAddress = fixture.Service.Address };
        using var refused = await http.PostAsJsonAsync("api/session", new SignInBody("c.weeks", "wrong-and-secret"));
        refused.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        fixture.Service.Log.ShouldContain("Sign-in refused");
        fixture.Service.Log.ShouldNotContain("wrong-and-secret");
    }

    [Fact]
    public async Task Guessing_is_slow_for_an_account_and_for_no_other()
    {
        await using var service = await RunningService.StartAsync(12);
        using var http = new HttpClient { BaseAddress = service.Address };
        Task<HttpResponseMessage> TryAsync(string user, string password) =>
            http.PostAsJsonAsync("api/session", new SignInBody(user, password));

        using (var first = await TryAsync("h.trewin", "tide over the bar"))
            first.StatusCode.ShouldBe(HttpStatusCode.OK);
        var since = Stopwatch.StartNew();
        var guesses = Enumerable.Range(0, 25).Select(guess => TryAsync("c.weeks", $"guess number {guess}")).ToList();
        await foreach (var guess in Task.WhenEach(guesses))
            if ((await guess).StatusCode == HttpStatusCode.TooManyRequests)
                break;
        using (var refused = await TryAsync("c.weeks", "tide over the bar"))
        {
            refused.StatusCode.ShouldBe(HttpStatusCode.TooManyRequests, "a right guess is not told from a wrong one");
            refused.Headers.RetryAfter!.Delta!.Value.TotalSeconds.ShouldBeInRange(1, 30);
            (await refused.Content.ReadAsStringAsync()).ShouldContain("Too many passwords were tried.");
        }

        var wrong = 0;
        foreach (var guess in guesses)
        {
            using var answer = await guess;
            if (answer.StatusCode != HttpStatusCode.TooManyRequests)
            {
                answer.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
                wrong++;
            }
        }

        wrong.ShouldBeInRange(10, 11 + (int)(since.Elapsed.TotalSeconds / 30));
        await MergeApiTests.RefusedAsync(
            () => service.ClientFor(null).IssueTokenAsync(new TokenBody("x", "c.weeks", "tide over the bar")),
            429,
            "too-many-attempts"
        );
        using (var other = await TryAsync("h.trewin", "tide over the bar"))
            other.StatusCode.ShouldBe(HttpStatusCode.OK);
        (await service.Client.SessionAsync()).Name.ShouldBe("c.weeks", "who has a token goes on");

        // A reset clears it.
        await service
            .ClientFor(service.AdministratorToken)
            .ChangeUserAsync("c.weeks", new UserChangeBody(Password: "a quay in the fog"));
        using (var reset = await TryAsync("c.weeks", "a quay in the fog"))
            reset.StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_wrong_token_is_logged_without_it()
    {
        var stranger = fixture.Service.ClientFor("kft_guessed-and-secret");
        await MergeApiTests.RefusedAsync(() => stranger.SessionAsync(), 401, "not-signed-in");
        fixture.Service.Log.ShouldContain("A token is not valid");
        fixture.Service.Log.ShouldNotContain("guessed-and-secret");
    }

    [Fact]
    public async Task Pages_may_not_be_framed_and_answers_not_kept()
    {
        using var http = new HttpClient { BaseAddress = fixture.Service.Address };
        using var page = await http.GetAsync("records/vendor");
        page.Headers.GetValues("Content-Security-Policy").Single().ShouldContain("frame-ancestors 'none'");
        using var answer = await http.GetAsync("api/session");
        answer.Headers.CacheControl!.NoStore.ShouldBeTrue();
    }

    [Theory]
    [InlineData("PUT", "api/plans", "application/json", "{}", 405, "Use POST.")]
    [InlineData("GET", "api/plans", null, null, 405, "Use POST.")]
    [InlineData("DELETE", "api/records/vendor", null, null, 405, "Use GET.")]
    [InlineData("POST", "api/plans", "text/plain", "{}", 415, "The request body is not JSON.")]
    [InlineData("POST", "api/plans", "application/json; charset=utf-99", "{}", 415, "'utf-99' is not known")]
    [InlineData("GET", "api/nothing", null, null, 404, "No such endpoint.")]
    [InlineData("POST", "api/nothing", "application/json", "{}", 404, "No such endpoint.")]
    [InlineData(
        "POST",
        "api/plans",
        "application/json",
        "{\"recordType\":\"vendor\",\"master\":\"1001\",\"duplicates\":[\"1002\",null]}",
        400,
        "'duplicates' contains null (at $.duplicates[1]"
    )]
    [InlineData(
        "POST",
        "api/plans",
        "application/json",
        "{\"recordType\":\"vendor\",\"master\":\"1001\",\"duplicates\":[\"1002\"],\"fields\":{\"name\":null}}",
        400,
        "'fields' contains null (at $.fields.name"
    )]
    [InlineData("GET", "api/records/vendor?q=%00", null, null, 400, "NUL")]
    [InlineData("GET", "api/exports/history?format=csv&record=1%00", null, null, 400, "NUL")]
    [InlineData("GET", "api/exports/vendor/pairs?minScore=NaN", null, null, 400, "not NaN")]
    [InlineData("GET", "api/exports/vendor/pairs?minScore=-1", null, null, 400, "not -1")]
    [InlineData("GET", "api/clusters?type=vendor&minScore=NaN", null, null, 400, "not NaN")]
    [InlineData("GET", "api/clusters?type=vendor&maxScore=Infinity", null, null, 400, "between 0 and 100")]
    public async Task What_no_endpoint_can_read_is_refused_as_a_problem(
        string method,
        string path,
        string? type,
        string? body,
        int status,
        string said
    )
    {
        using var http = new HttpClient { BaseAddress = fixture.Service.Address };
        using var request = new HttpRequestMessage(HttpMethod.Parse(method), new Uri(path, UriKind.Relative));
        request.Headers.Authorization = new("Bearer", fixture.Service.OperatorToken);
        if (body is not null)
        {
            request.Content = new ByteArrayContent(Encoding.UTF8.GetBytes(body));
            request.Content.Headers.TryAddWithoutValidation("Content-Type", type);
        }

        using var refused = await http.SendAsync(request);
        var text = await refused.Content.ReadAsStringAsync();
        ((int)refused.StatusCode).ShouldBe(status, text);
        refused.Content.Headers.ContentType!.MediaType.ShouldBe("application/problem+json");
        var problem = JsonSerializer.Deserialize<Problem>(text, ContractJson.Options)!;
        $"{problem.Title} {problem.Hint}".ShouldContain(said);
    }

    [Fact]
    public async Task A_search_for_thousands_of_words_is_refused()
    {
        using var http = new HttpClient { BaseAddress = fixture.Service.Address };
        http.DefaultRequestHeaders.Authorization = new("Bearer", fixture.Service.ViewerToken);
        var words = string.Join('+', Enumerable.Repeat("a", 1_900));
        foreach (var path in new[] { "api/records/vendor", "api/records/vendor/1001/related/bills" })
        {
            using var refused = await http.GetAsync(new Uri($"{path}?q={words}", UriKind.Relative));
            refused.StatusCode.ShouldBe(HttpStatusCode.BadRequest, path);
            (await refused.Content.ReadAsStringAsync()).ShouldContain("3799 characters");
        }
    }

    [Fact]
    public void The_service_listens_on_loopback() => fixture.Service.Address.Host.ShouldBe("127.0.0.1");
}
