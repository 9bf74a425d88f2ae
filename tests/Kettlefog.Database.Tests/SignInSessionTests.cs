using Kettlefog.Core;
using Kettlefog.Database.Users;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Sessions of the console, and what a change of a user does to sessions, tokens and links.</summary>
public abstract class SignInSessionTests(Engine engine)
{
    private const string Password = "fog over the quay";

    [Fact]
    public async Task A_session_is_good_until_it_ends_and_its_secret_is_not_stored()
    {
        using var ledger = await WithUsersAsync();
        var sessions = ledger.Database.Sessions;
        var first = (await sessions.StartAsync("c.weeks", "198.51.100.7", default))!;
        var second = (await sessions.StartAsync("c.weeks", null, default))!;
        ledger.File.DumpAll().ShouldNotContain(first);
        (await sessions.CheckAsync(first, true, default))!.LastSignInAt.ShouldNotBeNull();
        (await sessions.CheckAsync(first + "0", true, default)).ShouldBeNull();
        var listed = await sessions.ListAsync("c.weeks", second, default);
        listed.Select(each => (each.Address, each.IsCurrent)).ShouldBe([(null, true), ("198.51.100.7", false)]);
        (await sessions.ListAsync("m.ashe", null, default)).ShouldBeEmpty();

        (await sessions.EndAsync(listed[1].Id, "m.ashe", default)).ShouldBeFalse("it is not theirs");
        (await sessions.EndAsync(listed[1].Id, "c.weeks", default)).ShouldBeTrue();
        (await sessions.CheckAsync(first, true, default)).ShouldBeNull();
        (await sessions.CheckAsync(second, true, default)).ShouldNotBeNull();
        ledger.File.Execute($"UPDATE {ledger.File.Own("session")} SET expires_at = '2026-01-01T00:00:00Z'");
        (await sessions.CheckAsync(second, true, default)).ShouldBeNull("its time is over");
        (await sessions.ListAsync(null, null, default)).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_session_that_nobody_uses_ends_and_a_look_at_it_is_no_use()
    {
        using var ledger = await WithUsersAsync();
        var sessions = ledger.Database.Sessions;
        var secret = (await sessions.StartAsync("c.weeks", null, default))!;
        await SeenAsync(TimeSpan.FromMinutes(20));
        (await sessions.CheckAsync(secret, false, default)).ShouldNotBeNull();
        (DateTimeOffset.UtcNow - await SeenAtAsync()).TotalMinutes.ShouldBeGreaterThan(19);
        (await sessions.CheckAsync(secret, true, default)).ShouldNotBeNull();
        (DateTimeOffset.UtcNow - await SeenAtAsync()).TotalMinutes.ShouldBeLessThan(2);
        await SeenAsync(SessionStore.IdleLimit - TimeSpan.FromMinutes(5));
        (await sessions.CheckAsync(secret, false, default)).ShouldNotBeNull();
        await SeenAsync(SessionStore.IdleLimit + TimeSpan.FromMinutes(1));
        (await sessions.CheckAsync(secret, true, default)).ShouldBeNull();
        (await sessions.ListAsync(null, null, default)).ShouldBeEmpty();
        await sessions.StartAsync("c.weeks", null, default);
        ledger.File.Count($"SELECT COUNT(*) FROM {ledger.File.Own("session")}").ShouldBe(1, "it is forgotten");

        Task SeenAsync(TimeSpan ago) =>
            Task.Run(() =>
                ledger.File.Execute(
                    $"UPDATE {ledger.File.Own("session")} SET last_seen_at = "
                        + $"'{DateTime.UtcNow - ago:yyyy-MM-ddTHH:mm:ssZ}'"
                )
            );

        async Task<DateTimeOffset> SeenAtAsync() =>
            (await sessions.ListAsync("c.weeks", null, default)).ShouldHaveSingleItem().LastSeenAt;
    }

    [Fact]
    public async Task A_session_ends_with_the_role_that_it_was_opened_in()
    {
        using var ledger = await WithUsersAsync();
        var (users, sessions) = (ledger.Database.Users, ledger.Database.Sessions);
        var secret = (await sessions.StartAsync("c.weeks", null, default))!;
        await users.ChangeAsync("c.weeks", new UserChange("Corin A. Weeks", Role.Operator), default);
        (await sessions.CheckAsync(secret, true, default))!.FullName.ShouldBe("Corin A. Weeks");
        await users.ChangeAsync("c.weeks", new UserChange(Role: Role.Viewer), default);
        (await sessions.CheckAsync(secret, true, default)).ShouldBeNull();
    }

    [Fact]
    public async Task Who_is_disabled_has_no_way_in_until_enabled_again()
    {
        using var ledger = await WithUsersAsync();
        var (users, tokens, sessions) = (ledger.Database.Users, ledger.Database.Tokens, ledger.Database.Sessions);
        var hour = TimeSpan.FromHours(1);
        var token = await tokens.IssueAsync(new NewSecret("c.weeks", TokenPurpose.Api, "x", hour), default);
        var link = await tokens.IssueAsync(new NewSecret("c.weeks", TokenPurpose.SignInLink, "x", hour), default);
        var session = (await sessions.StartAsync("c.weeks", null, default))!;

        (await users.ChangeAsync("c.weeks", new UserChange(IsDisabled: true), default)).IsDisabled.ShouldBeTrue();
        (await users.CheckPasswordAsync("c.weeks", Password, default)).ShouldBeNull();
        (await tokens.CheckAsync(token, true, default)).ShouldBeNull();
        (await tokens.RedeemLinkAsync(link, default)).ShouldBeNull();
        (await sessions.CheckAsync(session, true, default)).ShouldBeNull();
        (await sessions.StartAsync("c.weeks", null, default)).ShouldBeNull("the password was right a moment ago");
        (
            await ledger.RefusedAsync(() =>
                tokens.IssueAsync(new NewSecret("c.weeks", TokenPurpose.SignInLink, "x", hour), default)
            )
        ).Message.ShouldBe("The user 'c.weeks' is disabled.");

        await users.ChangeAsync("c.weeks", new UserChange(IsDisabled: false), default);
        (await users.CheckPasswordAsync("c.weeks", Password, default)).ShouldNotBeNull();
        (await tokens.CheckAsync(token, true, default)).ShouldNotBeNull();
        (await tokens.RedeemLinkAsync(link, default)).ShouldBeNull("a link that lay about is not good again");
        (await sessions.CheckAsync(session, true, default)).ShouldBeNull("nor is a session");
    }

    [Fact]
    public async Task A_new_password_ends_sessions_and_ones_own_keeps_the_present_one()
    {
        using var ledger = await WithUsersAsync();
        var (users, sessions) = (ledger.Database.Users, ledger.Database.Sessions);
        var here = (await sessions.StartAsync("c.weeks", null, default))!;
        var elsewhere = (await sessions.StartAsync("c.weeks", null, default))!;
        (
            await ledger.RefusedAsync(() =>
                users.ChangePasswordAsync("c.weeks", "a guess, no more", "spring and neap", here, default)
            )
        ).Message.ShouldBe("The current password is wrong.");
        (
            await ledger.RefusedAsync(() => users.ChangePasswordAsync("c.weeks", Password, "short", here, default))
        ).Message.ShouldBe("The password is too short.");
        await users.ChangePasswordAsync("c.weeks", Password, "spring and neap", here, default);
        (await sessions.CheckAsync(here, true, default)).ShouldNotBeNull();
        (await sessions.CheckAsync(elsewhere, true, default)).ShouldBeNull();
        (await users.CheckPasswordAsync("c.weeks", Password, default)).ShouldBeNull();

        await users.ChangeAsync("c.weeks", new UserChange(Password: "slack water at six"), default);
        (await sessions.CheckAsync(here, true, default)).ShouldBeNull();
        (await users.CheckPasswordAsync("c.weeks", "slack water at six", default)).ShouldNotBeNull();
    }

    [Fact]
    public async Task The_last_administrator_stays()
    {
        using var ledger = await WithUsersAsync();
        var users = ledger.Database.Users;
        foreach (var change in new UserChange[] { new(IsDisabled: true), new(Role: Role.Operator) })
        {
            var refusal = await ledger.RefusedAsync(() => users.ChangeAsync("m.ashe", change, default));
            refusal.Code.ShouldBe(ErrorCode.LastAdministrator);
            refusal.Message.ShouldBe("Maud Ashe is the last administrator.");
        }

        // Two administrators who remove each other at once: one of them stays, whoever was first.
        for (var round = 0; round < 5; round++)
        {
            ledger.File.Execute($"UPDATE {ledger.File.Own("user")} SET role = 'administrator'");
            var refused = 0;
            await Task.WhenAll(
                new[] { "m.ashe", "c.weeks" }.Select(name =>
                    Task.Run(async () =>
                    {
                        try
                        {
                            await users.ChangeAsync(name, new UserChange(Role: Role.Viewer), default);
                        }
                        catch (KettlefogException refusal) when (refusal.Code == ErrorCode.LastAdministrator)
                        {
                            Interlocked.Increment(ref refused);
                        }
                    })
                )
            );
            refused.ShouldBe(1);
            (await users.ListAsync(default)).Count(user => user.Role == Role.Administrator).ShouldBe(1);
        }
    }

    [Theory]
    [InlineData("nobody", "Nobody", null, "There is no user 'nobody'.")]
    [InlineData("c.weeks", " ", null, "A user needs a full name.")]
    [InlineData("c.weeks", null, "short", "The password is too short.")]
    public async Task A_change_that_cannot_be_is_refused(
        string name,
        string? fullName,
        string? password,
        string message
    )
    {
        using var ledger = await WithUsersAsync();
        var change = new UserChange(fullName, Password: password);
        (await ledger.RefusedAsync(() => ledger.Database.Users.ChangeAsync(name, change, default))).Message.ShouldBe(
            message
        );
    }

    private async Task<Ledger> WithUsersAsync()
    {
        var ledger = await Ledger.OpenAsync(engine);
        await ledger.Database.Users.AddAsync("c.weeks", "Corin Weeks", Role.Operator, Password, default);
        await ledger.Database.Users.AddAsync("m.ashe", "Maud Ashe", Role.Administrator, null, default);
        return ledger;
    }

    public sealed class OnSqlite() : SignInSessionTests(Engine.Sqlite);

    public sealed class OnPostgres() : SignInSessionTests(Engine.Postgres);
}
