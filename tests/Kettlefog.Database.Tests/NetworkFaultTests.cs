using System.Diagnostics;
using Kettlefog.Core;
using Kettlefog.Database.Records;
using Kettlefog.Database.Statements;
using Kettlefog.Database.Users;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Connections to the server that are cut, lead nowhere or are slow: everything goes on by itself.</summary>
public sealed class NetworkFaultTests
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    [Fact]
    public async Task A_network_that_leads_nowhere_is_reported_and_everything_goes_on_when_it_is_back()
    {
        using var proxied = await ProxiedLedger.OpenAsync();
        var (ledger, proxy, database) = proxied;
        (await database.AnswersAsync(default)).ShouldBeTrue();
        proxy.Freeze();
        var clock = Stopwatch.StartNew();
        (await database.AnswersAsync(default)).ShouldBeFalse();
        clock.Elapsed.ShouldBeLessThan(TimeSpan.FromSeconds(5), "health answers at once");
        var refusal = await Should.ThrowAsync<KettlefogException>(() => SearchAsync(database));
        refusal.Code.ShouldBe(ErrorCode.DatabaseUnavailable);
        clock.Elapsed.ShouldBeLessThan(Patience);
        proxy.Thaw();
        await UntilAsync(async () =>
        {
            await SearchAsync(database);
            return await MergeAsync(ledger, database, 1, 2) == 1;
        });
    }

    [Fact]
    public async Task Idle_connections_that_lead_nowhere_are_replaced_without_an_error()
    {
        using var proxied = await ProxiedLedger.OpenAsync();
        var (_, proxy, database) = proxied;
        await SearchAsync(database);
        var opened = proxy.Accepted;

        // The next statement finds that its connection is dead, and so will all others of that time.
        proxy.On("", ProxyFault.Freeze);
        await SearchAsync(database);
        proxy.IsWaiting.ShouldBeFalse();
        proxy.Accepted.ShouldBeGreaterThan(opened);
        proxy.CutAll();
        await SearchAsync(database);
    }

    [Fact]
    public async Task An_instance_that_hangs_in_a_merge_stops_no_merge_of_other_records()
    {
        using var proxied = await ProxiedLedger.OpenAsync();
        var (ledger, proxy, hanging) = proxied;
        var plan = await hanging.Merges.PlanAsync(Ledger.Choices(1, 2), default);
        proxy.On("UPDATE \"bill\"", ProxyFault.Freeze);
        var hung = hanging.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default);
        while (proxy.IsWaiting)
            await Task.Delay(5);
        using var other = await ledger.OpenAgainAsync(busySeconds: 1);
        (await MergeAsync(ledger, other, 3, 4)).ShouldBe(1);
        await other.Users.AddAsync("m.ashe", "M. Ashe", Role.Viewer, null, default);
        (await Should.ThrowAsync<KettlefogException>(() => MergeAsync(ledger, other, 1, 2))).Message.ShouldStartWith(
            "Another program is using the same rows"
        );
        await UntilAsync(async () => await MergeAsync(ledger, other, 1, 2) == 2);
        proxy.CutAll();
        (await Should.ThrowAsync<KettlefogException>(hung)).Code.ShouldBe(ErrorCode.DatabaseUnavailable);
        (await other.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }

    [Fact]
    public async Task An_instance_that_hangs_just_before_its_commit_stops_the_others_only_for_a_while()
    {
        using var proxied = await ProxiedLedger.OpenAsync();
        var (ledger, proxy, hanging) = proxied;
        var plan = await hanging.Merges.PlanAsync(Ledger.Choices(1, 2), default);
        proxy.On("INSERT INTO \"kettlefog\".\"history\"", ProxyFault.Freeze);
        var hung = hanging.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default);
        while (proxy.IsWaiting)
            await Task.Delay(5);
        using var other = await ledger.OpenAgainAsync(busySeconds: 1);
        (await Should.ThrowAsync<KettlefogException>(() => MergeAsync(ledger, other, 3, 4))).Message.ShouldStartWith(
            "A large merge, or another long operation, is writing"
        );
        await UntilAsync(async () => await MergeAsync(ledger, other, 3, 4) == 1);
        proxy.CutAll();
        (await Should.ThrowAsync<KettlefogException>(hung)).Code.ShouldBe(ErrorCode.DatabaseUnavailable);
        ledger.File.Count("SELECT COUNT(*) FROM bill WHERE vendor_id = 2").ShouldBe(3, "nothing of it was done");
    }

    [Fact]
    public async Task A_locked_table_refuses_readers_after_a_moment()
    {
        using var ledger = await Ledger.OpenAsync(Engine.Postgres);
        using var impatient = await ledger.OpenAgainAsync(busySeconds: 1);
        var locked = new TaskCompletionSource();
        var release = new TaskCompletionSource();
        var holder = Task.Run(() =>
            ledger.File.Together(statements =>
            {
                statements("LOCK TABLE vendor IN ACCESS EXCLUSIVE MODE", []);
                locked.SetResult();
                release.Task.Wait(Patience);
            })
        );
        await locked.Task;
        var clock = Stopwatch.StartNew();
        (await Should.ThrowAsync<KettlefogException>(() => SearchAsync(impatient))).Code.ShouldBe(
            ErrorCode.DatabaseBusy
        );
        (
            await Should.ThrowAsync<KettlefogException>(() => impatient.Merges.PlanAsync(Ledger.Choices(1, 2), default))
        ).Code.ShouldBe(ErrorCode.DatabaseBusy);
        clock.Elapsed.ShouldBeLessThan(TimeSpan.FromSeconds(20));
        release.SetResult();
        await holder;
        await SearchAsync(impatient);
    }

    [Fact]
    public async Task A_slow_network_only_takes_longer()
    {
        using var proxied = await ProxiedLedger.OpenAsync();
        var (ledger, proxy, database) = proxied;
        proxy.Delay = TimeSpan.FromMilliseconds(20);
        (await MergeAsync(ledger, database, 1, 2)).ShouldBe(1);
    }

    [Fact]
    public async Task Connections_that_are_cut_during_a_merge_roll_it_back()
    {
        using var proxied = await ProxiedLedger.OpenAsync();
        var (ledger, proxy, database) = proxied;
        var plan = await database.Merges.PlanAsync(Ledger.Choices(1, 2), default);
        proxy.On("UPDATE \"bill\"", ProxyFault.Cut);
        var request = ledger.Request(plan.Choices, plan.Fingerprint.Text);
        var refusal = await ledger.RefusedAsync(() => database.Merges.ApplyAsync(request, default));
        refusal.Code.ShouldBe(ErrorCode.DatabaseUnavailable);
        (await database.Merges.ApplyAsync(request, default)).Entry.Number.ShouldBe(1);
    }

    private static Task<Page<FoundRecord>> SearchAsync(OperationalDatabase database) =>
        database.Records.SearchAsync(
            database.Map.Map.Require("vendor"),
            new RecordSearch(null, null, 1, 10, false),
            default
        );

    private static async Task<long> MergeAsync(Ledger ledger, OperationalDatabase database, long master, long duplicate)
    {
        var plan = await database.Merges.PlanAsync(Ledger.Choices(master, duplicate), default);
        return (await database.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default))
            .Entry
            .Number;
    }

    private static async Task UntilAsync(Func<Task<bool>> works)
    {
        for (var clock = Stopwatch.StartNew(); ; )
        {
            try
            {
                (await works()).ShouldBeTrue();
                return;
            }
            catch (KettlefogException) when (clock.Elapsed < Patience)
            {
                await Task.Delay(200);
            }
        }
    }
}
