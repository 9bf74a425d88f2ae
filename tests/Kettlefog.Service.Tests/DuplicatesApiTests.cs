using System.Globalization;
using System.Net;
using Kettlefog.Client;
using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>A separate service for finding duplicates: decisions there would affect other tests.</summary>
public class DuplicatesFixture : IAsyncLifetime
{
    public RunningService Service { get; private set; } = null!;

    protected virtual Engine Engine => Engine.Sqlite;

    public async ValueTask InitializeAsync() => Service = await RunningService.StartAsync(200, engine: Engine);

    public ValueTask DisposeAsync()
    {
        GC.SuppressFinalize(this);
        return Service.DisposeAsync();
    }
}

/// <summary>The same on PostgreSQL.</summary>
public sealed class PostgresDuplicatesFixture : DuplicatesFixture
{
    protected override Engine Engine => Engine.Postgres;
}

/// <summary>Finding duplicates through the API, from the scan to the decision.</summary>
public abstract class DuplicatesApiTests(DuplicatesFixture fixture)
{
    private readonly KettlefogClient _client = fixture.Service.Client;
    private readonly KettlefogClient _other = fixture.Service.ClientFor(fixture.Service.AdministratorToken);

    [Fact]
    public async Task A_scan_fills_the_queue_and_decisions_stick()
    {
        var scan = await ScanAsync("vendor");
        scan.Report!.Clusters.ShouldBeGreaterThan(2);
        scan.Report.ComparedShare.ShouldBeInRange(0.0001, 0.5);
        var three = await ClusterOfAsync("1003");
        three.Records.Select(record => record.Key).ShouldBe(["1003", "1004", "1005"]);
        three.RelatedRows.ShouldBeGreaterThan(0);
        var detail = await _client.ClusterAsync(three.Id);
        detail.Pairs.Count.ShouldBe(3);
        detail.Pairs.ShouldAllBe(pair => pair.Score > 70 && pair.Evidence.Count > 0 && pair.ComparedByScan);

        // One operator at a time.
        (await _client.ClaimAsync(three.Id)).State.ShouldBe("assigned");
        (await RefusedAsync(() => _other.ClaimAsync(three.Id))).Code.ShouldBe("cluster-taken");
        (
            await RefusedAsync(() => _other.MarkNonDuplicatesAsync(three.Id, new NonDuplicatesBody(null)))
        ).Status.ShouldBe(409);
        (await _client.ClustersAsync("vendor", assigned: "c.weeks")).Items.Single().Id.ShouldBe(three.Id);

        // One of three is another firm.
        var entry = await _client.MarkNonDuplicatesAsync(three.Id, new NonDuplicatesBody(["1005"], "another firm"));
        entry.Summary.Kind.ShouldBe("non-duplicates");
        entry.Summary.Records.Select(record => record.Key).ShouldBe(["1005", "1003", "1004"], ignoreOrder: true);
        (await ClusterOfAsync("1003")).Id.ShouldBe(three.Id);
        (await _client.ClustersAsync("vendor", record: "1005")).Total.ShouldBe(0);
        (await ScanAsync("vendor")).Report!.Clusters.ShouldBe(scan.Report.Clusters);
        (await ClusterOfAsync("1003")).Records.Select(record => record.Key).ShouldBe(["1003", "1004"]);
        (await _client.FindSimilarAsync("vendor", "1005")).ShouldNotContain(pair =>
            pair.B == "1003" || pair.B == "1004"
        );
        (await _client.ExplainAsync(new PairBody("vendor", "1003", "1005"))).Notes.ShouldContain(note =>
            note.Contains("marked as not duplicates")
        );
        (await _client.ListNonDuplicatesAsync("vendor")).Count.ShouldBe(2);

        // And reopened.
        await _client.ReopenAsync(new PairBody("vendor", "1005", "1003", "looked again"));
        (await RefusedAsync(() => _client.ReopenAsync(new PairBody("vendor", "1005", "1003")))).Title.ShouldContain(
            "are not marked as not duplicates"
        );
        await ScanAsync("vendor", "changed");
        (await _client.PairsAsync("vendor")).ShouldContain("1003,1005,");
        (await _client.CheckHistoryAsync()).Faults.ShouldBeEmpty();
    }

    [Fact]
    public async Task One_decision_about_several_clusters_has_a_result_for_each()
    {
        await ScanAsync("contact");
        var clusters = (await _client.ClustersAsync("contact", size: 4)).Items.Select(cluster => cluster.Id).ToList();
        clusters.Count.ShouldBe(4);
        await _client.AssignAsync(clusters[1], new AssignBody("h.trewin"));
        var decided = await _client.DecideClustersAsync(
            new ClusterDecisionsBody("non-duplicates", [clusters[0], clusters[1], 999_999, clusters[2]], "two berths")
        );
        decided.Select(each => each.Cluster).ShouldBe([clusters[0], clusters[1], 999_999, clusters[2]]);
        decided.Select(each => each.Problem?.Code).ShouldBe([null, "cluster-taken", "unknown-cluster", null]);
        decided[1].Problem!.Title.ShouldContain("is assigned to h.trewin");
        (await _client.EntryAsync(decided[3].Entry!.Value)).Summary.Reason.ShouldBe("two berths");

        // What was done is taken back by one call.
        var done = decided.Where(each => each.Problem is null).Select(each => each.Cluster).ToList();
        var back = await _client.DecideClustersAsync(new ClusterDecisionsBody("reopen", done, "wrong row"));
        back.ShouldAllBe(each => each.Problem == null && each.Entry > 0);
        foreach (var id in done)
            (await _client.ClusterAsync(id)).Cluster.State.ShouldBe("open");

        var postponed = await _client.DecideClustersAsync(
            new ClusterDecisionsBody("postpone", [clusters[3]], "asked them", new DateOnly(2099, 1, 1))
        );
        postponed.Single().Problem.ShouldBeNull();
        (await _client.ClusterAsync(clusters[3])).Cluster.ShouldSatisfyAllConditions(
            cluster => cluster.State.ShouldBe("postponed"),
            cluster => cluster.PostponedReason.ShouldBe("asked them"),
            cluster => cluster.PostponedBy.ShouldNotBeNullOrEmpty()
        );
        await _client.DecideClustersAsync(new ClusterDecisionsBody("resume", [clusters[3]]));
        (await _client.ClusterAsync(clusters[3])).Cluster.PostponedReason.ShouldBeNull();
        foreach (
            var (body, says) in new[]
            {
                (new ClusterDecisionsBody("shrug", [1]), "no decision 'shrug'"),
                (new ClusterDecisionsBody("postpone", [1]), "until when"),
                (new ClusterDecisionsBody("resume", []), "No cluster is named"),
                (new ClusterDecisionsBody("resume", [.. Enumerable.Range(1, 501)]), "501 clusters are too many"),
                (new ClusterDecisionsBody("assign", [1], User: "nobody.here"), "no user 'nobody.here'"),
                (new ClusterDecisionsBody("resume", [1], new string('x', 2001)), "reason is too long"),
            }
        )
            (await RefusedAsync(() => _client.DecideClustersAsync(body))).Title.ShouldContain(says);
    }

    [Fact]
    public async Task The_overview_counts_what_waits_and_what_was_done()
    {
        await ScanAsync("account");
        async Task<TypeOverview> AccountsAsync() =>
            (await _client.OverviewAsync()).Types.Single(type => type.RecordType == "account");
        var before = await AccountsAsync();
        var clusters = await _client.ClustersAsync("account", size: 1000);
        before.Open.ShouldBe(clusters.Total);
        before.Bands.Sum(band => band.Clusters).ShouldBe(before.Open);
        before.RelatedRows.ShouldBe(clusters.Items.Sum(cluster => cluster.RelatedRows));
        decimal.Parse(before.Amount!, CultureInfo.InvariantCulture)
            .ShouldBe(clusters.Items.Sum(cluster => decimal.Parse(cluster.Amount!, CultureInfo.InvariantCulture)));

        // Each number is what the queue lists behind it.
        async Task<long> ListedAsync(double? from, double? to) =>
            (await _client.ClustersAsync("account", minScore: from, maxScore: to)).Total;
        before.Certain.ShouldBe(await ListedAsync(before.Automatic, null));
        (before.Open - before.Certain).ShouldBe(await ListedAsync(null, before.Automatic));
        foreach (var band in before.Bands)
            band.Clusters.ShouldBe(await ListedAsync(band.From, band.To), $"{band.From} to {band.To}");
        before.ScannedAt.ShouldNotBeNull();
        before.OldestAt.ShouldBe(clusters.Items.Min(cluster => cluster.FoundAt));

        // The amount is that of one figure, which the map names: receipts, not charges, ledger lines and receipts.
        foreach (var cluster in clusters.Items.Take(5))
        {
            var received = 0m;
            foreach (var record in cluster.Records)
                received += Math.Abs(
                    decimal.Parse(
                        (await _client.RecordAsync("account", record.Key)).Figures["received"] ?? "0",
                        CultureInfo.InvariantCulture
                    )
                );
            decimal.Parse(cluster.Amount!, CultureInfo.InvariantCulture).ShouldBe(received);
        }
        var first = clusters.Items[0];
        first.Summary.ShouldNotBeEmpty();
        var strongest = (await _client.ClusterAsync(first.Id))
            .Pairs.Single(pair => pair.A == first.Records[0].Key && pair.B == first.Records[1].Key)
            .Evidence[0];
        first.Summary.ShouldContain(strongest.Text);

        await _client.PostponeAsync(first.Id, new PostponeBody(new DateOnly(2099, 1, 1)));
        (await AccountsAsync()).ShouldSatisfyAllConditions(
            now => now.Open.ShouldBe(before.Open - 1),
            now => now.Postponed.ShouldBe(before.Postponed + 1)
        );
        (await _client.ResumeAsync(first.Id)).ShouldSatisfyAllConditions(
            back => back.State.ShouldBe("open"),
            back => back.PostponedUntil.ShouldBeNull()
        );
        await _client.ClaimAsync(first.Id);
        (await AccountsAsync()).ShouldSatisfyAllConditions(
            now => now.Open.ShouldBe(before.Open),
            now => now.Assigned.ShouldBe(before.Assigned + 1)
        );
        var today = (await _client.OverviewAsync())
            .Days.SingleOrDefault(day => day.Day == DateOnly.FromDateTime(DateTime.UtcNow))
            ?.NonDuplicates
            ?? 0;
        await _client.MarkNonDuplicatesAsync(first.Id, new NonDuplicatesBody(null, "two berths"));
        (await _client.OverviewAsync())
            .Days.Single(day => day.Day == DateOnly.FromDateTime(DateTime.UtcNow))
            .NonDuplicates.ShouldBeGreaterThan(today);
        (await AccountsAsync()).NonDuplicates.ShouldBe(before.NonDuplicates + 1);

        // What was done is counted once by day and once by user.
        var overview = await _client.OverviewAsync();
        overview.People.Single(person => person.Actor == "c.weeks").NonDuplicates.ShouldBeGreaterThan(0);
        overview.People.Select(person => person.Actor).ShouldBeUnique();
        overview.People.Sum(person => person.Merged).ShouldBe(overview.Days.Sum(day => day.Merged));
        overview.People.Sum(person => person.Reversed).ShouldBe(overview.Days.Sum(day => day.Reversed));
        overview.People.Sum(person => person.Reopened).ShouldBe(overview.Days.Sum(day => day.Reopened));
        overview.People.Sum(person => person.NonDuplicates).ShouldBe(overview.Days.Sum(day => day.NonDuplicates));
        (await RefusedAsync(() => _client.ResumeAsync(first.Id))).Code.ShouldBe("cluster-taken");
    }

    [Fact]
    public async Task A_merge_takes_its_records_from_the_queue_and_a_reversal_brings_them_back()
    {
        await ScanAsync("vendor");
        var cluster = await ClusterOfAsync("1006");
        fixture.Service.Database.Execute(
            "DELETE FROM vendor_bill WHERE bill_number = 'SK-2026-014' AND vendor_id = 1007"
        );
        var request = new PlanRequest("vendor", "1006", ["1007"]);
        var plan = await _client.PlanAsync(request);
        var merge = await _client.MergeAsync(
            new MergeBody(request, plan.Fingerprint, "same"),
            Guid.NewGuid().ToString()
        );
        (await _client.ClusterAsync(cluster.Id)).Cluster.State.ShouldBe("merged");
        (await RefusedAsync(() => _client.ClaimAsync(cluster.Id))).Title.ShouldContain("decided: merged");
        (await ScanAsync("vendor", "changed")).State.ShouldBe("finished");
        (await _client.ClustersAsync("vendor", record: "1007")).Total.ShouldBe(0);

        var back = await _client.PlanReversalAsync(merge.Summary.Number);
        await _client.ReverseAsync(
            merge.Summary.Number,
            new ReversalBody(back.Fingerprint, "not"),
            Guid.NewGuid().ToString()
        );
        (await _client.ClusterAsync(cluster.Id)).Cluster.State.ShouldBe("open");
    }

    [Fact]
    public async Task A_changed_record_is_found_by_the_next_scan_and_by_the_live_index()
    {
        await ScanAsync("vendor");
        (await ScanAsync("vendor", "changed")).Report!.Changed.ShouldBe(0);
        (await _client.FindSimilarAsync("vendor", "1010")).ShouldNotContain(pair =>
            pair.Score > 90 && pair.B == "1011"
        );
        fixture.Service.Database.Execute(
            """
            UPDATE vendor SET (name, tax_number, email, phone, street, postcode, city, legal_entity, changed_at) =
              (SELECT name, tax_number, email, phone, street, postcode, city, legal_entity, '2026-09-01T00:00:00Z'
                FROM vendor WHERE vendor_id = 1010)
            WHERE vendor_id = 1011
            """
        );
        (await _client.FindSimilarAsync("vendor", "1010")).ShouldContain(pair => pair.Score > 90 && pair.B == "1011");
        var scan = await ScanAsync("vendor", "changed");
        scan.Report!.Changed.ShouldBe(1);
        (await ClusterOfAsync("1010")).Records.Select(record => record.Key).ShouldContain("1011");
        var typed = await _client.FindSimilarAsync(
            "vendor",
            new SimilarBody(
                new Dictionary<string, string?>
                {
                    ["name"] = "Ganet Chandlery",
                    ["phone"] = "+44 1632 960118",
                    ["city"] = "Saltmarrow",
                    ["legal_entity"] = "SHT",
                }
            )
        );
        typed.Select(pair => pair.B).ShouldContain("1001");
    }

    [Fact]
    public async Task Rules_are_tried_saved_and_kept_by_version()
    {
        const string Rule = "any_of: [[{field: tax_number, is: same-digits}]]";
        (await _client.RulesAsync("account")).Single().Name.ShouldBe("ready");
        (await RefusedAsync(() => _other.RemoveRuleAsync("account", "ready"))).Title.ShouldContain("is the only one");
        var before = (await ScanAsync("account")).Report!;
        (await _client.TryRuleAsync("account", new RuleTrialBody(Rule))).Lost.ShouldBe(0, "the others stay in force");
        var trial = await _client.TryRuleAsync("account", new RuleTrialBody(Rule, "ready"));
        trial.Pairs.ShouldBeGreaterThan(0);
        trial.Lost.ShouldBeGreaterThan(0);
        (before.Pairs + trial.Gained - trial.Lost).ShouldBe(trial.Pairs);
        trial.Bands.Sum(band => band.Pairs).ShouldBeGreaterThanOrEqualTo(trial.Pairs);
        trial.Bands.Where(band => band.From < 35).ShouldAllBe(band => band.Samples.Count == 0);
        trial
            .Bands.Where(band => band.From >= 35 && band.Pairs > 0)
            .ShouldAllBe(band =>
                band.Samples.Count > 0 && band.Samples.All(pair => pair.Score >= band.From && pair.Score <= band.To)
            );

        // A higher line finds less, and what it finds is likelier right.
        foreach (var (lower, higher) in trial.Levels.Zip(trial.Levels.Skip(1)))
        {
            higher.Expected.Recall.ShouldBeLessThanOrEqualTo(lower.Expected.Recall);
            if (higher.Pairs > 0)
                higher.Expected.Precision.ShouldBeGreaterThanOrEqualTo(lower.Expected.Precision);
            lower.Expected.Precision.ShouldBeInRange(
                lower.Pairs > 0 ? lower.Percent : 100,
                lower.Pairs > 0 ? 99.9999 : 100,
                "pairs are never said to be right for sure"
            );
            lower.Expected.Recall.ShouldBeInRange(0, 100);
        }

        trial.Expected.Recall.ShouldBe(trial.Levels[0].Expected.Recall, "this rule has no line of its own");
        trial.ExpectedOfCertain.ShouldBe(trial.Levels.Single(level => level.Percent == 99).Expected);
        (await RefusedAsync(() => _client.SaveRuleAsync("account", "same_tax", new RuleBody(Rule)))).Status.ShouldBe(
            403
        );
        (await _other.SaveRuleAsync("account", "same_tax", new RuleBody(Rule, "agreed"))).Version.ShouldBe(1);
        (
            await _other.SaveRuleAsync("account", "same_tax", new RuleBody(Rule + "\nreview: 10", "again"))
        ).Version.ShouldBe(2);

        // It stands beside the built-in rule, which is switched off only on purpose.
        (await _client.RulesAsync("account")).Select(rule => rule.Name).ShouldBe(["ready", "same_tax"]);
        (await ScanAsync("account")).Report!.Pairs.ShouldBe(before.Pairs + trial.Gained);
        await _other.RemoveRuleAsync("account", "ready", "only tax numbers");
        (await _client.RulesAsync("account")).Single().Name.ShouldBe("same_tax");
        (await _client.RuleVersionsAsync("account", "same_tax"))
            .Select(version => version.Note)
            .ShouldBe(["again", "agreed"]);
        (
            await RefusedAsync(() =>
                _other.SaveRuleAsync("account", "same_tax", new RuleBody("any_of: [{field: fax, is: exact}]"))
            )
        )
            .Details.Single()
            .ShouldContain("no field 'fax'");
        (await ScanAsync("account")).Report!.Pairs.ShouldBe(trial.Pairs);
        await _other.SaveRuleAsync("account", "ready", new RuleBody("review: 70\nautomatic: 99", "both again"));
        (await _client.RulesAsync("account")).Select(rule => rule.Name).ShouldBe(["ready", "same_tax"]);
        await _other.RemoveRuleAsync("account", "ready");
        await _other.RemoveRuleAsync("account", "same_tax", "no longer needed");
        (await _client.RulesAsync("account")).Single().Name.ShouldBe("ready", "without any, the built-in rule applies");
        (await RefusedAsync(() => _other.RemoveRuleAsync("account", "other"))).Code.ShouldBe("unknown-rule");

        // The prediction for another threshold is what that threshold finds.
        var ready = (await _client.RulesAsync("vendor")).Single();
        var levels = (await _client.TryRuleAsync("vendor", new RuleTrialBody(ready.Body))).Levels;
        foreach (var (review, automatic) in new[] { (55, 80), (70, 99), (92, 97), (98, 100) })
        {
            var other = await _client.TryRuleAsync(
                "vendor",
                new RuleTrialBody($"review: {review}\nautomatic: {automatic}")
            );
            var level = levels.Single(each => each.Percent == review);
            (level.Pairs, level.Clusters, level.Certain[automatic - review]).ShouldBe(
                (other.Pairs, other.Clusters, other.Certain)
            );
        }

        var fields = await _client.ComparableFieldsAsync("vendor");
        fields
            .Single(field => field.Field == "phone")
            .Comparators.Single(each => each.Name == "same-phone")
            .Setting.ShouldBe("digits");
        fields
            .Single(field => field.Field == "tax_number")
            .Comparators.ShouldNotContain(each => each.Name == "same-date");

        var evaluation = await _client.EvaluateRuleAsync(
            "vendor",
            new EvaluationBody(
                null,
                [
                    new("1003", "1004", true),
                    new("1008", "1009", true),
                    new("1001", "1003", false),
                    new("1001", "nobody", false),
                ]
            )
        );
        evaluation.Unknown.ShouldBe(1);
        evaluation.Lines.Single(line => line.Threshold == 50).ShouldBe(new EvaluationLineView(50, 1, 1, 1));
    }

    [Fact]
    public async Task Every_record_type_of_the_demo_has_a_queue()
    {
        foreach (var type in new[] { "contact", "household", "vessel" })
        {
            (await ScanAsync(type)).Report!.Clusters.ShouldBeGreaterThan(0, type);
            var page = await _client.ClustersAsync(type, order: "amount", size: 5);
            page.Items.ShouldAllBe(cluster =>
                cluster.Confidence >= 50 && cluster.Records.All(record => record.Label.Length > 0)
            );
            using var stream = new MemoryStream();
            await _client.ExportClustersAsync(type, "jsonl", stream);
            System.Text.Encoding.UTF8.GetString(stream.ToArray()).ShouldStartWith("{\"id\":");
        }
    }

    [Fact]
    public async Task What_cannot_be_done_is_refused_with_a_reason()
    {
        (await RefusedAsync(() => _client.AddScanAsync(new ScanBody("vendr")))).Status.ShouldBe(404);
        (await RefusedAsync(() => _client.AddScanAsync(new ScanBody("vessel", "half")))).Title.ShouldContain("'half'");
        (await RefusedAsync(() => _client.ScanAsync(99_999))).Code.ShouldBe("unknown-scan");
        (await RefusedAsync(() => _client.ClusterAsync(99_999))).Code.ShouldBe("unknown-cluster");
        (await RefusedAsync(() => _client.ClustersAsync(state: "odd"))).Status.ShouldBe(400);
        (await RefusedAsync(() => _client.ClustersAsync(order: "odd"))).Status.ShouldBe(400);
        (
            await RefusedAsync(() =>
                _client.FindSimilarAsync("vendor", new SimilarBody(new Dictionary<string, string?> { ["fax"] = "1" }))
            )
        ).Code.ShouldBe("unknown-field");
        (
            await RefusedAsync(() =>
                _client.FindSimilarAsync("vendor", new SimilarBody(new Dictionary<string, string?>()))
            )
        ).Code.ShouldBe("invalid-value");
        (
            await RefusedAsync(() => _client.MarkPairNonDuplicatesAsync(new PairBody("vendor", "1001", "1001")))
        ).Title.ShouldContain("of itself");
        (await RefusedAsync(() => _client.ExplainAsync(new PairBody("vendor", "1001", "77777777")))).Status.ShouldBe(
            404
        );
        (await RefusedAsync(() => _client.EvaluateRuleAsync("vendor", new EvaluationBody(null, [])))).Code.ShouldBe(
            "invalid-choice"
        );

        // A stopped scan blocks the next one; it can be resumed.
        var store = fixture.Service.Database;
        store.Execute(
            $"INSERT INTO {store.Own("scan")} (id, record_type, scope, state, phase, done, total, actor, at) "
                + "VALUES (5000, 'household', 'whole', 'stopped', 'comparing', 0, 0, 'c.weeks', "
                + "'2026-01-01T00:00:00.000000Z')"
        );
        var refused = await RefusedAsync(() => _client.AddScanAsync(new ScanBody("household")));
        refused.Code.ShouldBe("scan-running");
        refused.Hint!.ShouldContain("Resume scan 5000");
        await _client.MoveScanAsync(5000, "resume");
        (await _client.WaitForScanAsync(5000)).State.ShouldBe("finished");
        (await RefusedAsync(() => _client.MoveScanAsync(5000, "stop"))).Title.ShouldContain("is finished");
        using var http = new HttpClient { BaseAddress = fixture.Service.Address };
        (await http.GetAsync(new Uri("api/clusters", UriKind.Relative))).StatusCode.ShouldBe(
            HttpStatusCode.Unauthorized
        );
    }

    private Task<ScanView> ScanAsync(string type, string scope = "whole") => _client.ScanToEndAsync(type, scope);

    private async Task<ClusterView> ClusterOfAsync(string key) =>
        (await _client.ClustersAsync("vendor", record: key)).Items.Single();

    private static async Task<Problem> RefusedAsync(Func<Task> call) =>
        (await Should.ThrowAsync<ProblemException>(call)).Problem;

    public sealed class OnSqlite(DuplicatesFixture fixture)
        : DuplicatesApiTests(fixture),
            IClassFixture<DuplicatesFixture>;

    public sealed class OnPostgres(PostgresDuplicatesFixture fixture)
        : DuplicatesApiTests(fixture),
            IClassFixture<PostgresDuplicatesFixture>;
}

internal static class Exported
{
    /// <summary>Scans, and waits for the end.</summary>
    public static async Task<ScanView> ScanToEndAsync(this KettlefogClient client, string type, string scope = "whole")
    {
        // Tests of one class run one after the other, but a scan of another type may still be running.
        var scan = await client.WaitForScanAsync((await client.AddScanAsync(new ScanBody(type, scope))).Id);
        scan.State.ShouldBe("finished", scan.Message);
        return scan;
    }

    /// <summary>Waits until a scan is neither waiting nor running.</summary>
    public static async Task<ScanView> WaitForScanAsync(this KettlefogClient client, long id)
    {
        for (var tries = 0; tries < 1_200; tries++)
        {
            var scan = await client.ScanAsync(id);
            if (scan.State is not ("waiting" or "running"))
                return scan;
            await Task.Delay(100);
        }

        throw new TimeoutException($"Scan {id} does not end.");
    }

    /// <summary>All scored pairs, as CSV.</summary>
    public static async Task<string> PairsAsync(this KettlefogClient client, string type)
    {
        using var stream = new MemoryStream();
        await client.ExportPairsAsync(type, 0, "csv", stream);
        return System.Text.Encoding.UTF8.GetString(stream.ToArray());
    }
}
