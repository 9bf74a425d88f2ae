using System.Net;
using System.Net.Http.Json;
using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>Users and tokens through the API.</summary>
public class UserApiTests(ServiceFixture fixture)
{
    [Fact]
    public async Task A_user_is_added_signs_in_for_a_token_and_loses_it_again()
    {
        var administrator = fixture.Service.ClientFor(fixture.Service.AdministratorToken);
        (
            await administrator.AddUserAsync(new NewUser("n.quill", "Nessa Quill", "operator", "neap and spring tides"))
        ).Role.ShouldBe("operator");
        var issued = await fixture
            .Service.ClientFor(null)
            .IssueTokenAsync(new TokenBody("laptop", "n.quill", "neap and spring tides"));
        var client = fixture.Service.ClientFor(issued.Token);
        (await client.SessionAsync()).FullName.ShouldBe("Nessa Quill");
        var token = (await client.TokensAsync()).ShouldHaveSingleItem();
        token.Label.ShouldBe("laptop");
        (token.ExpiresAt!.Value - token.CreatedAt).TotalDays.ShouldBe(365);
        (await administrator.TokensAsync()).Count.ShouldBeGreaterThan(3, "an administrator sees everybody's");
        await MergeApiTests.RefusedAsync(() => fixture.Service.Client.RevokeTokenAsync(token.Id), 404, "unknown-entry");
        await client.RevokeTokenAsync(token.Id);
        await MergeApiTests.RefusedAsync(() => client.SessionAsync(), 401, "not-signed-in");
    }

    [Theory]
    [InlineData("n.new", "captain", "a long enough password", "There is no role 'captain'.")]
    [InlineData("c.weeks", "operator", "a long enough password", "There is a user 'c.weeks' already.")]
    [InlineData("N New", "operator", "a long enough password", "'N New' is not a user name.")]
    [InlineData("n.new", "operator", "short", "The password is too short.")]
    public async Task A_user_who_cannot_be_is_refused(string name, string role, string password, string message)
    {
        var administrator = fixture.Service.ClientFor(fixture.Service.AdministratorToken);
        (
            await MergeApiTests.RefusedAsync(
                () => administrator.AddUserAsync(new NewUser(name, name, role, password)),
                422,
                "invalid-choice"
            )
        ).Title.ShouldBe(message);
    }

    [Fact]
    public async Task A_wrong_password_gives_no_token()
    {
        var stranger = fixture.Service.ClientFor(null);
        await MergeApiTests.RefusedAsync(
            () => stranger.IssueTokenAsync(new TokenBody("x", "c.weeks", "wrong")),
            401,
            "sign-in-refused"
        );
        await MergeApiTests.RefusedAsync(() => stranger.IssueTokenAsync(new TokenBody("x")), 401, "sign-in-refused");
    }

    [Fact]
    public async Task A_session_that_is_over_is_over_for_every_copy_of_its_cookie()
    {
        await using var service = await RunningService.StartAsync(12);
        var administrator = service.ClientFor(service.AdministratorToken);
        using var first = await SignInAsync(service);
        using var second = await SignInAsync(service);
        var sessions = (await first.Http.GetFromJsonAsync<List<OpenSessionView>>("api/sessions"))!;
        sessions
            .Select(session => (session.User, session.Address, session.IsCurrent))
            .ShouldBe([("c.weeks", "127.0.0.1", false), ("c.weeks", "127.0.0.1", true)]);
        (await administrator.UsersAsync())
            .Single(user => user.Name == "c.weeks")
            .LastSignInAt!.Value.ShouldBe(DateTimeOffset.UtcNow, TimeSpan.FromMinutes(1));

        // Signing out ends the session itself, not just the cookie of one browser.
        using var copy = first.Copy();
        (await copy.Http.GetAsync("api/session")).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await first.Http.DeleteAsync("api/session")).StatusCode.ShouldBe(HttpStatusCode.NoContent);
        (await copy.Http.GetAsync("api/session")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await second.Http.GetAsync("api/session")).StatusCode.ShouldBe(HttpStatusCode.OK);

        await administrator.EndSessionAsync(sessions[0].Id);
        (await second.Http.GetAsync("api/session")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        await MergeApiTests.RefusedAsync(() => administrator.EndSessionAsync(9999), 404, "unknown-session");
        using var third = await SignInAsync(service);
        await MergeApiTests.RefusedAsync(() => service.Client.EndSessionsAsync("c.weeks"), 403, "not-allowed");
        await MergeApiTests.RefusedAsync(() => administrator.EndSessionsAsync("nobody"), 404, "unknown-user");
        (await administrator.EndSessionsAsync("c.weeks")).Count.ShouldBe(1);
        (await third.Http.GetAsync("api/session")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_user_is_changed_at_once_and_the_last_administrator_is_not()
    {
        await using var service = await RunningService.StartAsync(12);
        var administrator = service.ClientFor(service.AdministratorToken);
        using var browser = await SignInAsync(service);
        (await browser.Http.GetAsync("api/users")).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        (await administrator.ChangeUserAsync("c.weeks", new UserChangeBody(Role: "administrator"))).Role.ShouldBe(
            "administrator"
        );
        (await browser.Http.GetAsync("api/session")).StatusCode.ShouldBe(
            HttpStatusCode.Unauthorized,
            "a session ends with its role"
        );
        using var again = await SignInAsync(service);
        (await again.Http.GetAsync("api/users")).StatusCode.ShouldBe(HttpStatusCode.OK);
        await administrator.ChangeUserAsync("c.weeks", new UserChangeBody(FullName: "C. Weeks"));
        (await again.Http.GetFromJsonAsync<SessionView>("api/session"))!.FullName.ShouldBe("C. Weeks");

        (
            await administrator.ChangeUserAsync("c.weeks", new UserChangeBody(IsDisabled: true))
        ).DisabledAt.ShouldNotBeNull();
        (await again.Http.GetAsync("api/session")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        await MergeApiTests.RefusedAsync(() => service.Client.SessionAsync(), 401, "not-signed-in");
        await administrator.ChangeUserAsync("c.weeks", new UserChangeBody(Role: "operator", IsDisabled: false));
        (await service.Client.SessionAsync()).Role.ShouldBe("operator");

        var admin = (await administrator.SessionAsync()).Name;
        var refused = await MergeApiTests.RefusedAsync(
            () => administrator.ChangeUserAsync(admin, new UserChangeBody(IsDisabled: true)),
            409,
            "last-administrator"
        );
        refused.Hint.ShouldBe("Make somebody else an administrator first.");
        await MergeApiTests.RefusedAsync(
            () => administrator.ChangeUserAsync("nobody", new UserChangeBody(Role: "viewer")),
            404,
            "unknown-user"
        );
        await MergeApiTests.RefusedAsync(
            () => service.Client.ChangeUserAsync("c.weeks", new UserChangeBody(Role: "administrator")),
            403,
            "not-allowed"
        );
    }

    [Fact]
    public async Task One_changes_the_own_password_with_the_one_until_now()
    {
        await using var service = await RunningService.StartAsync(12);
        using var browser = await SignInAsync(service);
        using var refused = await browser.Http.PutAsJsonAsync(
            "api/session/password",
            new PasswordBody("a guess, no more", "spring and neap")
        );
        refused.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (
            await browser.Http.PutAsJsonAsync(
                "api/session/password",
                new PasswordBody("tide over the bar", "spring and neap")
            )
        ).StatusCode.ShouldBe(HttpStatusCode.NoContent);
        (await browser.Http.GetAsync("api/session")).StatusCode.ShouldBe(HttpStatusCode.OK, "one stays signed in here");
        await MergeApiTests.RefusedAsync(
            () => service.ClientFor(null).IssueTokenAsync(new TokenBody("x", "c.weeks", "tide over the bar")),
            401,
            "sign-in-refused"
        );
    }

    [Fact]
    public async Task A_cookie_holds_the_secret_of_its_session_and_no_script_can_read_it()
    {
        await using var service = await RunningService.StartAsync(20);
        using var http = new HttpClient(new HttpClientHandler { UseCookies = false }) { BaseAddress = service.Address };
        using var signedIn = await http.PostAsJsonAsync("api/session", new SignInBody("c.weeks", "tide over the bar"));
        var cookie = signedIn.Headers.GetValues("Set-Cookie").ShouldHaveSingleItem();
        cookie.ShouldStartWith("kettlefog=");
        foreach (var attribute in new[] { "httponly", "samesite=strict", "path=/" })
            cookie.ShouldContain(attribute, Case.Insensitive);
        cookie.ShouldNotContain("domain", Case.Insensitive);
        (await StatusWithAsync(cookie.Split(';')[0])).ShouldBe(HttpStatusCode.OK);
        (await StatusWithAsync("kettlefog=")).ShouldBe(HttpStatusCode.Unauthorized);
        (await StatusWithAsync("kettlefog=" + new string('A', 4_000))).ShouldBe(HttpStatusCode.Unauthorized);
        (await StatusWithAsync($"{cookie.Split(';')[0]}A")).ShouldBe(HttpStatusCode.Unauthorized);

        async Task<HttpStatusCode> StatusWithAsync(string value)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, "api/session");
            request.Headers.Add("Cookie", value);
            return (await http.SendAsync(request)).StatusCode;
        }
    }

    [Fact]
    public async Task An_anti_forgery_token_is_that_of_its_session()
    {
        await using var service = await RunningService.StartAsync(20);
        using var mine = await SignInAsync(service);
        using var other = await SignInAsync(service);
        var given = other.Http.DefaultRequestHeaders.GetValues("X-Kettlefog-Antiforgery").Single();
        foreach (var wrong in new[] { given, "", "x", new string('x', 5_000) })
        {
            mine.Http.DefaultRequestHeaders.Remove("X-Kettlefog-Antiforgery");
            mine.Http.DefaultRequestHeaders.Add("X-Kettlefog-Antiforgery", wrong);
            using var refused = await mine.Http.DeleteAsync("api/session");
            refused.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        }

        using var ended = await other.Http.DeleteAsync("api/session");
        ended.StatusCode.ShouldBe(HttpStatusCode.NoContent);
    }

    [Fact]
    public async Task A_token_makes_no_tokens_and_one_for_reading_changes_nothing()
    {
        await using var service = await RunningService.StartAsync(20);
        (
            await MergeApiTests.RefusedAsync(
                () => service.Client.IssueTokenAsync(new TokenBody("child")),
                403,
                "not-allowed"
            )
        ).Title.ShouldBe("A token cannot create tokens.");
        var issued = await service
            .ClientFor(null)
            .IssueTokenAsync(new TokenBody("reads", "c.weeks", "tide over the bar", 90, "viewer"));
        var reads = service.ClientFor(issued.Token);
        (await reads.SessionAsync()).Role.ShouldBe("viewer");
        await MergeApiTests.RefusedAsync(
            () => reads.MarkPairNonDuplicatesAsync(new PairBody("vendor", "1010", "1011", "two firms")),
            403,
            "not-allowed"
        );
        var listed = (await service.Client.TokensAsync()).Single(token => token.Label == "reads");
        listed.Role.ShouldBe("viewer");
        listed.LastUsedAt.ShouldNotBeNull();
        await MergeApiTests.RefusedAsync(
            () =>
                service
                    .ClientFor(null)
                    .IssueTokenAsync(new TokenBody("x", "c.weeks", "tide over the bar", Role: "administrator")),
            422,
            "invalid-choice"
        );
    }

    [Theory]
    [InlineData(0)]
    [InlineData(3651)]
    public async Task A_token_is_valid_for_a_number_of_days_that_makes_sense(int days) =>
        (
            await MergeApiTests.RefusedAsync(
                () => fixture.Service.Client.IssueTokenAsync(new TokenBody("x", Days: days)),
                422,
                "invalid-choice"
            )
        ).Hint.ShouldBe("Use 1 to 3650 days.");

    private static async Task<Browser> SignInAsync(RunningService service)
    {
        var browser = new Browser(service.Address, new CookieContainer());
        using var signedIn = await browser.Http.PostAsJsonAsync(
            "api/session",
            new SignInBody("c.weeks", "tide over the bar")
        );
        signedIn.StatusCode.ShouldBe(HttpStatusCode.OK);
        var session = (await signedIn.Content.ReadFromJsonAsync<SessionView>())!;
        browser.Http.DefaultRequestHeaders.Add("X-Kettlefog-Antiforgery", session.AntiForgery);
        return browser;
    }

    /// <summary>An HTTP client with the cookies of a signed-in browser.</summary>
    private sealed class Browser : IDisposable
    {
        private readonly Uri _address;
        private readonly CookieContainer _cookies;

        public Browser(Uri address, CookieContainer cookies)
        {
            (_address, _cookies) = (address, cookies);
            Http = new HttpClient(new HttpClientHandler { CookieContainer = cookies }) { BaseAddress = address };
        }

        public HttpClient Http { get; }

        /// <summary>Another browser with the same cookies, which it keeps whatever the first is told.</summary>
        public Browser Copy()
        {
            var cookies = new CookieContainer();
            cookies.Add(_cookies.GetAllCookies());
            return new Browser(_address, cookies);
        }

        public void Dispose() => Http.Dispose();
    }
}
