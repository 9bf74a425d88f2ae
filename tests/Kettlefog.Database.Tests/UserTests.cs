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

    public sealed class OnSqlite() : UserTests(Engine.Sqlite);

    public sealed class OnPostgres() : UserTests(Engine.Postgres);
}
