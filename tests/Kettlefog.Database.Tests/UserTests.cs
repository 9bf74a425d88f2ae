using Kettlefog.Database.Users;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Users, passwords, tokens and links.</summary>
public abstract class UserTests(Engine engine)
{
    [Fact]
    public async Task Secrets_are_kept_as_hashes_only()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var users = ledger.Database.Users;
        await users.AddAsync("c.weeks", "Corin Weeks", Role.Operator, "fog over the quay", default);
        var token = await ledger.Database.Tokens.IssueAsync(
            new NewSecret("c.weeks", TokenPurpose.Api, "test", null),
            default
        );
        var stored = string.Join(
            '\n',
            ledger
                .File.Query(
                    $"SELECT password_hash FROM {ledger.File.Own("user")} UNION SELECT hash FROM "
                        + $"{ledger.File.Own("token")}"
                )
                .Select(row => row[0])
        );
        stored.ShouldNotContain("fog over");
        stored.ShouldNotContain(token);
        (await users.CheckPasswordAsync("c.weeks", "fog over the quay", default))!.Role.ShouldBe(Role.Operator);
        (await users.CheckPasswordAsync("c.weeks", "fog over the key", default)).ShouldBeNull();
        (await users.CheckPasswordAsync("nobody", "fog over the quay", default)).ShouldBeNull();
        (await ledger.Database.Tokens.CheckAsync(token, true, default))!.Name.ShouldBe("c.weeks");
        (await ledger.Database.Tokens.CheckAsync(token + "0", true, default)).ShouldBeNull();
    }

    [Fact]
    public async Task A_link_is_good_once_and_for_nothing_else()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var users = ledger.Database.Users;
        await users.AddAsync("c.weeks", "Corin Weeks", Role.Operator, null, default);
        var link = await ledger.Database.Tokens.IssueAsync(
            new NewSecret("c.weeks", TokenPurpose.SignInLink, "link", TimeSpan.FromHours(1)),
            default
        );
        (await ledger.Database.Tokens.CheckAsync(link, true, default)).ShouldBeNull();
        (await ledger.Database.Tokens.RedeemLinkAsync(link, default))!.Name.ShouldBe("c.weeks");
        (await ledger.Database.Tokens.RedeemLinkAsync(link, default)).ShouldBeNull();
        var late = await ledger.Database.Tokens.IssueAsync(
            new NewSecret("c.weeks", TokenPurpose.SignInLink, "link", TimeSpan.FromHours(-1)),
            default
        );
        (await ledger.Database.Tokens.RedeemLinkAsync(late, default)).ShouldBeNull();
        (await users.CheckPasswordAsync("c.weeks", "", default)).ShouldBeNull(
            "a user without a password has none to guess"
        );
    }

    [Fact]
    public async Task A_revoked_token_is_of_no_use_and_strangers_cannot_revoke()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var users = ledger.Database.Users;
        await users.AddAsync("c.weeks", "Corin Weeks", Role.Operator, null, default);
        var token = await ledger.Database.Tokens.IssueAsync(
            new NewSecret("c.weeks", TokenPurpose.Api, "test", null),
            default
        );
        var id = (await ledger.Database.Tokens.ListAsync("c.weeks", default)).Single().Id;
        (await ledger.Database.Tokens.RevokeAsync(id, "h.trewin", default)).ShouldBeFalse();
        (await ledger.Database.Tokens.RevokeAsync(id, "c.weeks", default)).ShouldBeTrue();
        (await ledger.Database.Tokens.CheckAsync(token, true, default)).ShouldBeNull();
    }

    [Fact]
    public async Task A_token_acts_in_no_higher_role_than_it_was_made_for()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var (users, tokens) = (ledger.Database.Users, ledger.Database.Tokens);
        await users.AddAsync("c.weeks", "Corin Weeks", Role.Approver, null, default);
        await users.AddAsync("m.ashe", "Maud Ashe", Role.Administrator, null, default);
        Task<string> MadeFor(Role? role, string label = "x") =>
            tokens.IssueAsync(new NewSecret("c.weeks", TokenPurpose.Api, label, null, role), default);
        async Task<Role> RoleOf(string token) => (await tokens.CheckAsync(token, true, default))!.Role;
        var (own, reads, merges) = (await MadeFor(null), await MadeFor(Role.Viewer), await MadeFor(Role.Operator));
        (await RoleOf(own), await RoleOf(reads), await RoleOf(merges)).ShouldBe(
            (Role.Approver, Role.Viewer, Role.Operator)
        );
        (await tokens.ListAsync("c.weeks", default))
            .Select(token => token.Role)
            .ShouldBe([null, Role.Viewer, Role.Operator]);
        (await ledger.RefusedAsync(() => MadeFor(Role.Administrator))).Message.ShouldBe(
            "Corin Weeks is not administrator."
        );
        (await ledger.RefusedAsync(() => MadeFor(null, new string('x', 201)))).Message.ShouldBe(
            "The purpose is too long: 201 characters."
        );

        // Who is less than the token allows acts as what they are.
        await users.ChangeAsync("c.weeks", new UserChange(Role: Role.Viewer), default);
        (await RoleOf(own), await RoleOf(reads), await RoleOf(merges)).ShouldBe(
            (Role.Viewer, Role.Viewer, Role.Viewer)
        );
        ledger.File.Execute($"UPDATE {ledger.File.Own("token")} SET role = 'harbour master'");
        await users.ChangeAsync("c.weeks", new UserChange(Role: Role.Administrator), default);
        (await RoleOf(own)).ShouldBe(Role.Viewer, "a role that is not known is the least");
    }

    [Fact]
    public async Task It_is_known_when_a_token_was_used_last()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var tokens = ledger.Database.Tokens;
        await ledger.Database.Users.AddAsync("c.weeks", "Corin Weeks", Role.Operator, null, default);
        var token = await tokens.IssueAsync(new NewSecret("c.weeks", TokenPurpose.Api, "x", null), default);
        await tokens.CheckAsync(token, false, default);
        (await tokens.ListAsync(null, default)).Single().LastUsedAt.ShouldBeNull("it was only asked about");
        await tokens.CheckAsync(token, true, default);
        var used = (await tokens.ListAsync(null, default)).Single().LastUsedAt!.Value;
        (DateTimeOffset.UtcNow - used).TotalMinutes.ShouldBeLessThan(2);
        ledger.File.Execute($"UPDATE {ledger.File.Own("token")} SET last_used_at = '2026-01-01T00:00:00Z'");
        await tokens.CheckAsync(token, true, default);
        (await tokens.ListAsync(null, default)).Single().LastUsedAt!.Value.ShouldBeGreaterThanOrEqualTo(used);
    }

    [Theory]
    [InlineData("C Weeks", "long enough, truly", "not a user name")]
    [InlineData("", "long enough, truly", "not a user name")]
    [InlineData("c.weeks", "short", "too short")]
    [InlineData("c.weeks", "eleven char", "too short")]
    [InlineData("c.weeks", "C.Weeks and the tide", "contains the user name")]
    [InlineData("c.weeks", "Password1234!", "guessed first")]
    [InlineData("c.weeks", "Welcome2026!", "guessed first")]
    [InlineData("c.weeks", "1234567890123", "guessed first")]
    [InlineData("c.weeks", "qwertyuiop[]12", "guessed first")]
    [InlineData("c.weeks", "abcabcabcabc", "guessed first")]
    [InlineData("c.weeks", "            ", "guessed first")]
    [InlineData("taken", "long enough, truly", "There is a user 'taken' already.")]
    public async Task A_bad_name_or_password_is_refused(string name, string password, string message)
    {
        using var ledger = await Ledger.OpenAsync(engine);
        await ledger.Database.Users.AddAsync("taken", "Taken", Role.Viewer, null, default);
        (
            await ledger.RefusedAsync(() =>
                ledger.Database.Users.AddAsync(name, name, Role.Operator, password, default)
            )
        ).Message.ShouldContain(message);
    }

    [Theory]
    [InlineData("twelve chars")]
    [InlineData("Ø ß 漢字 ✓ łódź né")]
    [InlineData("correct password of mine")]
    public async Task A_password_may_be_of_any_characters(string password)
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var users = ledger.Database.Users;
        await users.AddAsync("c.weeks", "Corin Weeks", Role.Operator, password, default);
        (await users.CheckPasswordAsync("c.weeks", password, default)).ShouldNotBeNull();
        (
            await ledger.RefusedAsync(() =>
                users.ChangePasswordAsync("c.weeks", password, new string('x', 128) + "y", null, default)
            )
        ).Message.ShouldContain("too long");
    }

    public sealed class OnSqlite() : UserTests(Engine.Sqlite);

    public sealed class OnPostgres() : UserTests(Engine.Postgres);
}
