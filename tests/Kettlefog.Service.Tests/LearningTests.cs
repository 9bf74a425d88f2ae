using Kettlefog.Client;
using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>Scans learn from decisions, say what they learned, and what had best be decided next.</summary>
public class LearningTests
{
    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task A_scan_says_what_it_learned_what_is_doubtful_and_what_to_decide_next(Engine engine)
    {
        await using var service = await RunningService.StartAsync(300, engine: engine);
        var client = service.Client;
        (await client.LearningAsync("contact")).Scan.ShouldBeNull();
        (await Should.ThrowAsync<ProblemException>(() => client.LearningAsync("crew"))).Problem.Status.ShouldBe(404);

        var scan = await client.ScanToEndAsync("contact");
        var first = await client.LearningAsync("contact");
        first.Scan.ShouldBe(scan.Id);
        (first.Merged, first.NotDuplicates).ShouldBe((0, 0));
        first.Doubtful.ShouldBeEmpty();
        first.ToDecide.Count.ShouldBeGreaterThan(3);
        first.ToDecide.ShouldAllBe(pair => pair.Score < 98.6 && pair.LabelA != "" && pair.LabelB != "");
        first.ToDecide.Select(pair => (pair.A, pair.B)).ShouldBeUnique();

        // The surest are merged, but the surest of all is marked as not duplicates by mistake.
        var clusters = (await client.ClustersAsync("contact", size: 40))
            .Items.Where(cluster => cluster.Confidence > 98)
            .OrderByDescending(cluster => cluster.Confidence)
            .ToList();
        clusters.Count.ShouldBeGreaterThan(12);
        var mistake = await client.MarkNonDuplicatesAsync(clusters[0].Id, new NonDuplicatesBody(null, "a slip"));
        var merged = 0;
        foreach (var cluster in clusters.Skip(1).Take(14))
        {
            var keys = cluster.Records.Select(record => record.Key).ToList();
            var request = new PlanRequest("contact", keys[0], [.. keys.Skip(1)]);
            var plan = await client.PlanAsync(request);
            if (plan.Blockers.Count > 0)
                continue;
            await client.MergeAsync(new MergeBody(request, plan.Fingerprint, "one person"), $"merge {cluster.Id}");
            merged += keys.Count - 1;
        }

        // What was decided is not asked about any more.
        var open = (await client.LearningAsync("contact")).ToDecide;
        var (a, b) = (open[0].A, open[0].B);
        await client.MarkPairNonDuplicatesAsync(new PairBody("contact", b, a, "father and son"));
        var left = (await client.LearningAsync("contact")).ToDecide;
        left.ShouldNotContain(pair => pair.A == a && pair.B == b);
        left.Count.ShouldBeLessThan(first.ToDecide.Count);

        await client.ScanToEndAsync("contact", "changed");
        var second = await client.LearningAsync("contact");
        second.Merged.ShouldBe(merged);
        second.NotDuplicates.ShouldBe(1 + (clusters[0].Records.Count * (clusters[0].Records.Count - 1) / 2));
        second.Doubtful.ShouldContain(each => each.Entry.Number == mistake.Summary.Number && each.Score > 90);
        second.Doubtful.ShouldAllBe(each => each.Doubt > 50);
        second.ToDecide.ShouldNotContain(pair => pair.A == a && pair.B == b);

        // A mistake that was put right is not doubted any more, before and after the next scan.
        foreach (var pair in await client.ListNonDuplicatesAsync("contact"))
        {
            if (pair.Entry == mistake.Summary.Number)
                await client.ReopenAsync(new PairBody("contact", pair.A, pair.B, "looked again"));
        }

        (await client.LearningAsync("contact")).Doubtful.ShouldNotContain(each =>
            each.Entry.Number == mistake.Summary.Number
        );
        await client.ScanToEndAsync("contact");
        var third = await client.LearningAsync("contact");
        third.NotDuplicates.ShouldBe(1);
        third.Doubtful.ShouldNotContain(each => each.Entry.Number == mistake.Summary.Number);
    }
}
