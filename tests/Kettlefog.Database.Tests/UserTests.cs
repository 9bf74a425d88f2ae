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
        var token = await ledger.Database.Tokens.IssueAsync("c.weeks", TokenPurpose.Api, "test", null, false, default);
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
        (await ledger.Database.Tokens.CheckAsync(token, default))!.Name.ShouldBe("c.weeks");
        (await ledger.Database.Tokens.CheckAsync(token + "0", default)).ShouldBeNull();
    }

    [Fact]
    public async Task A_link_is_good_once_and_for_nothing_else()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var users = ledger.Database.Users;
        await users.AddAsync("c.weeks", "Corin Weeks", Role.Operator, null, default);
        var link = await ledger.Database.Tokens.IssueAsync(
            "c.weeks",
            TokenPurpose.SignInLink,
            "link",
            TimeSpan.FromHours(1),
            false,
            default
        );
        (await ledger.Database.Tokens.CheckAsync(link, default)).ShouldBeNull();
        (await ledger.Database.Tokens.RedeemLinkAsync(link, default))!.Name.ShouldBe("c.weeks");
        (await ledger.Database.Tokens.RedeemLinkAsync(link, default)).ShouldBeNull();
        var late = await ledger.Database.Tokens.IssueAsync(
            "c.weeks",
            TokenPurpose.SignInLink,
            "link",
            TimeSpan.FromHours(-1),
            false,
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
        var token = await ledger.Database.Tokens.IssueAsync("c.weeks", TokenPurpose.Api, "test", null, false, default);
        var id = (await ledger.Database.Tokens.ListAsync("c.weeks", default)).Single().Id;
        (await ledger.Database.Tokens.RevokeAsync(id, "h.trewin", default)).ShouldBeFalse();
        (await ledger.Database.Tokens.RevokeAsync(id, "c.weeks", default)).ShouldBeTrue();
        (await ledger.Database.Tokens.CheckAsync(token, default)).ShouldBeNull();
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
