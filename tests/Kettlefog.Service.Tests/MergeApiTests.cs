using System.Text;
using System.Text.Json;
using Kettlefog.Client;
using Kettlefog.Contracts;

namespace Kettlefog.Service.Tests;

/// <summary>The main job through the API: plan, merge, show, reverse.</summary>
public class MergeApiTests(ServiceFixture fixture)
{
    private readonly KettlefogClient _client = fixture.Service.Client;

    [Fact]
    public async Task Two_vendors_are_merged_and_the_merge_is_reversed()
    {
        var (master, duplicate) = fixture.Pair();
        var request = new PlanRequest(
            "vendor",
            master,
            [duplicate],
            new Dictionary<string, FieldChoiceView> { ["email"] = new(Typed: "new@gannet.example") }
        );
        var bills =
            (await _client.RelatedAsync("vendor", duplicate, "bills")).Total
            + (await _client.RelatedAsync("vendor", master, "bills")).Total;
        var before = await _client.RecordAsync("vendor", master);
        var plan = await _client.PlanAsync(request);
        plan.Blockers.ShouldBeEmpty();

        var entry = await _client.MergeAsync(new MergeBody(request, plan.Fingerprint, "same firm"), NewKey());
        entry.Summary.Actor.ShouldBe("c.weeks");
        entry.Summary.Reason.ShouldBe("same firm");
        var merged = await _client.RecordAsync("vendor", master);
        merged.Values["email"].ShouldBe("new@gannet.example");
        merged.Counts["bills"].ShouldBe(bills);
        (await _client.RecordAsync("vendor", duplicate)).Retired!.Master.ShouldBe(master);
        var history = await _client.RecordHistoryAsync("vendor", master);
        history.OldKeys.Single().OldKey.ShouldBe(duplicate);
        var old = (await _client.EntryAsync(entry.Summary.Number)).Merge!;
        old.Fields.Single(field => field.Name == "email").Values[0].ShouldBe(before.Values["email"]);
        fixture.Service.Log.ShouldContain($"\"Number\":{entry.Summary.Number},\"Duplicates\":[\"{duplicate}\"]");

        var back = await _client.PlanReversalAsync(entry.Summary.Number);
        var reversal = await _client.ReverseAsync(
            entry.Summary.Number,
            new ReversalBody(back.Fingerprint, "two firms"),
            NewKey()
        );
        reversal.Entries.Single().Reverses.ShouldBe(entry.Summary.Number);
        (await _client.RecordAsync("vendor", master)).Values.ShouldBe(before.Values);
        (await _client.RecordAsync("vendor", duplicate)).Retired.ShouldBeNull();
        (await _client.CheckHistoryAsync()).Faults.ShouldBeEmpty();
    }

    [Fact]
    public async Task The_history_is_exported_as_it_is_listed()
    {
        var (master, duplicate) = fixture.Pair();
        var request = new PlanRequest("vendor", master, [duplicate]);
        var plan = await _client.PlanAsync(request);
        var entry = await _client.MergeAsync(new MergeBody(request, plan.Fingerprint, "=one, \"really\""), NewKey());
        async Task<string[]> ExportAsync(string format, string? kind = null)
        {
            using var into = new MemoryStream();
            await _client.ExportHistoryAsync(format, into, record: master, kind: kind);
            return Encoding
                .UTF8.GetString(into.ToArray())
                .Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        }

        var csv = await ExportAsync("csv");
        csv[0].ShouldStartWith("number,kind,record_type,master,others,at,actor,reason,");
        csv.Length.ShouldBe(2);
        csv[1].ShouldStartWith($"{entry.Summary.Number},merge,vendor,{master},{duplicate},");
        csv[1].ShouldContain("\"'=one, \"\"really\"\"\"", Case.Sensitive, "no spreadsheet computes a reason");
        csv[1].ShouldEndWith(entry.Summary.Hash);
        using var json = JsonDocument.Parse((await ExportAsync("jsonl")).Single());
        json.RootElement.GetProperty("reason").GetString().ShouldBe("=one, \"really\"");
        json.RootElement.GetProperty("number").GetInt64().ShouldBe(entry.Summary.Number);
        (await ExportAsync("csv", "reversal")).Length.ShouldBe(1);
        await RefusedAsync(() => ExportAsync("xml"), 400, "invalid-query");
        await RefusedAsync(() => ExportAsync("csv", "splits"), 400, "invalid-query");
    }

    [Fact]
    public async Task Linked_merges_are_done_in_the_same_step_and_reversed_with_it_or_not()
    {
        var request = new PlanRequest("account", "1", ["2"]);
        var offers = (await _client.PlanAsync(request)).Offers!;
        offers.Select(offer => offer.RecordType).ShouldBe(["contact", "vessel"]);
        offers[1].Reason.ShouldBe("same hull number SM 40217-K");
        request = request with
        {
            Linked =
            [
                .. offers.Select(offer => new LinkedMerge(
                    offer.RecordType,
                    offer.Records[0].Key,
                    [offer.Records[1].Key]
                )),
            ],
        };
        var plan = await _client.PlanAsync(request);
        plan.Offers!.Where(offer => !offer.Chosen).Single().RecordType.ShouldBe("household");
        plan.Linked!.Select(linked => linked.RecordType).ShouldBe(["vessel", "contact"]);
        var entry = await _client.MergeAsync(new MergeBody(request, plan.Fingerprint, "one club"), NewKey());
        entry.Summary.Linked!.Count.ShouldBe(2);
        (await _client.EntryAsync(entry.Summary.Linked[0])).Summary.LinkedTo.ShouldBe(entry.Summary.Number);
        (await _client.RecordAsync("contact", "2")).Retired!.Master.ShouldBe("1");

        (
            await _client.PlanReversalAsync(entry.Summary.Number, new ReversalPlanBody(KeepLinked: true))
        ).Reversals.Count.ShouldBe(1);
        var back = await _client.PlanReversalAsync(entry.Summary.Number);
        back.Reversals.Count.ShouldBe(3);
        var reversed = await _client.ReverseAsync(entry.Summary.Number, new ReversalBody(back.Fingerprint), NewKey());
        reversed.Entries.Select(each => each.Reverses).ShouldBe(back.Reversals.Select(each => (long?)each.Number));
        (await _client.RecordAsync("contact", "2")).Retired.ShouldBeNull();
        await RefusedAsync(
            () => _client.PlanAsync(request with { Linked = [new LinkedMerge("vessel", "1", ["2"])] }),
            422,
            "invalid-choice"
        );
    }

    [Fact]
    public async Task A_stale_plan_is_refused_with_what_changed_and_the_fresh_plan()
    {
        var (master, duplicate) = fixture.Pair();
        var request = new PlanRequest("vendor", master, [duplicate]);
        var plan = await _client.PlanAsync(request);
        fixture.Service.Database.Execute(
            "UPDATE vendor SET remark = 'changed meanwhile' WHERE vendor_id = ?1",
            long.Parse(duplicate)
        );
        var problem = await RefusedAsync(
            () => _client.MergeAsync(new MergeBody(request, plan.Fingerprint), NewKey()),
            409,
            "plan-stale"
        );
        problem.Details.Single().ShouldStartWith($"Vendor {duplicate} (");
        var fresh = problem.Plan.ShouldNotBeNull();
        fresh.Fields.Single(field => field.Name == "remark").Values[1].ShouldBe("changed meanwhile");
        (await _client.MergeAsync(new MergeBody(request, fresh.Fingerprint), NewKey())).Summary.Kind.ShouldBe("merge");
    }

    [Fact]
    public async Task A_repeated_request_merges_once_and_a_rehearsal_not_at_all()
    {
        var (master, duplicate) = fixture.Pair();
        var request = new PlanRequest("vendor", master, [duplicate]);
        var plan = await _client.PlanAsync(request);
        var body = new MergeBody(request, plan.Fingerprint, "same firm");
        await _client.MergeAsync(body with { DryRun = true }, null);
        (await _client.PlanAsync(request)).Fingerprint.ShouldBe(plan.Fingerprint);
        var key = NewKey();
        var first = await _client.MergeAsync(body, key);
        var second = await _client.MergeAsync(body, key);
        second.Summary.Number.ShouldBe(first.Summary.Number);
        await RefusedAsync(
            () => _client.MergeAsync(body with { Reason = "another" }, key),
            422,
            "idempotency-key-reused"
        );
        await RefusedAsync(() => _client.MergeAsync(body, null), 400, "invalid-query");
    }

    [Fact]
    public async Task Later_merges_are_named_and_reversed_on_request()
    {
        var (first, second) = fixture.Pair();
        var (third, _) = fixture.Pair();
        var one = await MergeAsync(first, second);
        var two = await MergeAsync(third, first);
        var problem = await RefusedAsync(() => _client.PlanReversalAsync(one), 409, "not-reversible");
        problem.Details.Single().ShouldContain($"Merge {two} of");
        var plan = await _client.PlanReversalAsync(one, new ReversalPlanBody(true));
        plan.DependentMerges.ShouldBe([two]);
        var result = await _client.ReverseAsync(one, new ReversalBody(plan.Fingerprint, WithLater: true), NewKey());
        result.Entries.Select(entry => entry.Reverses!.Value).ShouldBe([two, one]);
    }

    [Theory]
    [InlineData("vender", "1001", "1002", 404, "unknown-record-type")]
    [InlineData("vendor", "1001", "9999", 404, "unknown-record")]
    [InlineData("vendor", "1001", "abc", 400, "invalid-key")]
    [InlineData("vendor", "1001", "1001", 422, "invalid-choice")]
    public async Task What_cannot_be_planned_is_a_problem_with_a_hint(
        string type,
        string master,
        string duplicate,
        int status,
        string code
    )
    {
        var problem = await RefusedAsync(
            () => _client.PlanAsync(new PlanRequest(type, master, [duplicate])),
            status,
            code
        );
        problem.Type.ShouldBe(Problem.TypePrefix + code);
        problem.Hint.ShouldNotBeNullOrEmpty();
        problem.TraceId.ShouldNotBeNullOrEmpty();
    }

    [Fact]
    public async Task The_collision_of_the_demo_world_blocks_until_it_is_cleared()
    {
        var request = new PlanRequest("vendor", "1006", ["1007"]);
        var plan = await _client.PlanAsync(request);
        plan.Blockers.Single().Message.ShouldContain("bill_number = SK-2026-014");
        await RefusedAsync(
            () => _client.MergeAsync(new MergeBody(request, plan.Fingerprint), NewKey()),
            409,
            "plan-blocked"
        );
        fixture.Service.Database.Execute(
            "UPDATE vendor_bill SET bill_number = 'SK-2026-014-void' WHERE vendor_id = 1007 AND bill_number = "
                + "'SK-2026-014'"
        );
        (await _client.PlanAsync(request)).Blockers.ShouldBeEmpty();
    }

    private async Task<long> MergeAsync(string master, string duplicate)
    {
        fixture.Service.Database.Execute(
            "UPDATE vendor_bill SET bill_number = bill_number || '-' || bill_id WHERE vendor_id IN (?1, ?2)",
            long.Parse(master),
            long.Parse(duplicate)
        );
        var request = new PlanRequest("vendor", master, [duplicate]);
        return (
            await _client.MergeAsync(new MergeBody(request, (await _client.PlanAsync(request)).Fingerprint), NewKey())
        )
            .Summary
            .Number;
    }

    private static string NewKey() => Guid.NewGuid().ToString();

    internal static async Task<Problem> RefusedAsync(Func<Task> call, int status, string code)
    {
        var problem = (await Should.ThrowAsync<ProblemException>(call)).Problem;
        problem.Status.ShouldBe(status, problem.Title);
        problem.Code.ShouldBe(code);
        return problem;
    }
}
