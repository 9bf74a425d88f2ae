using Kettlefog.Contracts;

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
}
