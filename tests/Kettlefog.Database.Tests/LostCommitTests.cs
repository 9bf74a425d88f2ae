using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Reversing;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>The network fails while a merge is committed: what is said about it is true.</summary>
public sealed class LostCommitTests
{
    [Fact]
    public async Task A_merge_whose_answer_is_lost_is_found_and_reported_as_done()
    {
        using var proxied = await ProxiedLedger.OpenAsync(1);
        var (ledger, proxy, database) = proxied;
        var plan = await database.Merges.PlanAsync(Ledger.Choices(1, 2), default);
        proxy.On("COMMIT\0", ProxyFault.LoseAnswer);
        var outcome = await database.Merges.ApplyAsync(ledger.Request(plan.Choices, plan.Fingerprint.Text), default);
        proxy.IsWaiting.ShouldBeFalse();
        outcome.Entry.Number.ShouldBe(1);
        outcome.Repeated.ShouldBeFalse();
        ledger.File.Count("SELECT COUNT(*) FROM bill WHERE vendor_id = 1").ShouldBe(6);

        var choices = new ReversalChoices(1, false);
        var reversal = await database.Reversals.PlanAsync(choices, default);
        proxy.On("COMMIT\0", ProxyFault.LoseAnswer);
        var reversed = await database.Reversals.ApplyAsync(
            new(choices, reversal.Fingerprint.Text, new("c.weeks", "two firms"), "a reversal"),
            default
        );
        reversed.Entry.Kind.ShouldBe(EntryKind.Reversal);
        ledger.File.Count("SELECT COUNT(*) FROM bill WHERE vendor_id = 1").ShouldBe(3);
    }

    [Fact]
    public async Task A_commit_that_never_reached_the_server_changed_nothing_and_can_be_repeated()
    {
        using var proxied = await ProxiedLedger.OpenAsync(1);
        var (ledger, proxy, database) = proxied;
        var plan = await database.Merges.PlanAsync(Ledger.Choices(1, 2), default);
        var request = ledger.Request(plan.Choices, plan.Fingerprint.Text);
        proxy.On("COMMIT\0", ProxyFault.Cut);
        var refusal = await ledger.RefusedAsync(() => database.Merges.ApplyAsync(request, default));
        refusal.Code.ShouldBe(ErrorCode.DatabaseUnavailable);
        refusal.Hint.ShouldBe("Nothing was changed. Try again in a moment.");
        (await database.Merges.ApplyAsync(request, default)).Entry.Number.ShouldBe(1);
    }

    [Theory]
    [InlineData("COMMIT\0", ErrorCode.OutcomeUnknown)]
    [InlineData("pg_advisory_xact_lock", ErrorCode.DatabaseUnavailable)]
    public async Task A_network_that_stands_still_in_a_merge_does_not_hold_who_asked_for_it(
        string statement,
        ErrorCode expected
    )
    {
        using var proxied = await ProxiedLedger.OpenAsync(1, "Command Timeout=3");
        var (ledger, proxy, database) = proxied;
        var plan = await database.Merges.PlanAsync(Ledger.Choices(1, 2), default);
        var request = ledger.Request(plan.Choices, plan.Fingerprint.Text);
        proxy.On(statement, ProxyFault.Freeze);
        var applying = database.Merges.ApplyAsync(request, default);
        while (proxy.IsWaiting)
            await Task.Delay(1);
        proxy.Freeze();
        var refusal = await Should.ThrowAsync<KettlefogException>(() => applying.WaitAsync(TimeSpan.FromSeconds(60)));
        refusal.Code.ShouldBe(expected);
        proxy.Thaw();
        proxy.CutAll();
        (await database.Merges.ApplyAsync(request, default)).Entry.Number.ShouldBe(1);
    }

    [Fact]
    public async Task A_look_for_the_outcome_that_is_not_answered_is_given_up()
    {
        using var proxied = await ProxiedLedger.OpenAsync(1);
        var (ledger, proxy, database) = proxied;
        var plan = await database.Merges.PlanAsync(Ledger.Choices(1, 2), default);
        var request = ledger.Request(plan.Choices, plan.Fingerprint.Text);
        proxy.On("COMMIT\0", ProxyFault.LoseAnswer);
        var applying = database.Merges.ApplyAsync(request, default);
        while (proxy.IsWaiting)
            await Task.Delay(1);
        proxy.On("pg_advisory_xact_lock", ProxyFault.Freeze);
        while (proxy.IsWaiting)
            await Task.Delay(1);
        proxy.Freeze();
        var refusal = await Should.ThrowAsync<KettlefogException>(() => applying.WaitAsync(TimeSpan.FromSeconds(30)));
        refusal.Code.ShouldBe(ErrorCode.OutcomeUnknown);
        proxy.Thaw();
        proxy.CutAll();
        (await database.Merges.ApplyAsync(request, default)).Repeated.ShouldBeTrue();
    }

    [Fact]
    public async Task Where_the_database_cannot_be_asked_it_is_said_that_the_outcome_is_not_known()
    {
        using var proxied = await ProxiedLedger.OpenAsync(1);
        var (ledger, proxy, database) = proxied;
        var plan = await database.Merges.PlanAsync(Ledger.Choices(1, 2), default);
        var request = ledger.Request(plan.Choices, plan.Fingerprint.Text);
        proxy.On("COMMIT\0", ProxyFault.LoseAnswer);
        var applying = database.Merges.ApplyAsync(request, default);
        while (proxy.IsWaiting)
            await Task.Delay(1);
        proxy.Freeze();
        var refusal = await Should.ThrowAsync<KettlefogException>(() => applying);
        refusal.Code.ShouldBe(ErrorCode.OutcomeUnknown);
        refusal.Message.ShouldStartWith("It is not known whether the merge was done");
        refusal.Hint!.ShouldContain("entry 1 of the history");
        proxy.Thaw();
        proxy.CutAll();

        // It was done, and repeating the request does not do it again.
        var again = await database.Merges.ApplyAsync(request, default);
        again.Repeated.ShouldBeTrue();
        again.Entry.Number.ShouldBe(1);
    }
}
