using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using Kettlefog.Contracts;

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
    public async Task Pages_may_not_be_framed_and_answers_not_kept()
    {
        using var http = new HttpClient { BaseAddress = fixture.Service.Address };
        using var page = await http.GetAsync("records/vendor");
        page.Headers.GetValues("Content-Security-Policy").Single().ShouldContain("frame-ancestors 'none'");
        using var answer = await http.GetAsync("api/session");
        answer.Headers.CacheControl!.NoStore.ShouldBeTrue();
    }

    [Fact]
    public void The_service_listens_on_loopback() => fixture.Service.Address.Host.ShouldBe("127.0.0.1");
}
