using Kettlefog.Client;
using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>What several people need to review one queue: comments, views, orders, and whom to assign to.</summary>
public class ReviewApiTests
{
    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task People_comment_on_records_save_views_and_turn_the_order_round(Engine engine)
    {
        await using var service = await RunningService.StartAsync(60, engine: engine);
        var (operators, administrator) = (service.Client, service.ClientFor(service.AdministratorToken));
        await ScanAsync(operators);
        await CommentsStayWithRecordsAsync(service, operators, administrator);
        await ViewsAreOnesOwnOrSharedAsync(operators, administrator);
        await OrdersTurnRoundAsync(operators);
        var assignees = await operators.AssigneesAsync();
        assignees.Select(each => each.Name).ShouldContain("c.weeks");
        assignees.Select(each => each.Name).ShouldNotContain("h.trewin", "viewers decide nothing");
        var overview = await operators.OverviewAsync();
        overview.Backlog.Count.ShouldBe(30);
        overview.Backlog[^1].Day.ShouldBe(overview.Until);
        overview.Backlog[^1].Clusters.ShouldBe(overview.Types.Sum(type => type.Open + type.Postponed));
        overview.Backlog[0].Clusters.ShouldBe(0, "nothing had been found a month ago");
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task A_field_tells_what_may_be_chosen(Engine engine)
    {
        var map = TestMap.Of(
            "firm",
            """
            fields:
              name:
              home: { column: home_code, title: Home }
              state:
              grade:
            """
        );
        await using var service = await RunningService.StartOnAsync(
            """
            CREATE TABLE country (code VARCHAR(8) PRIMARY KEY, title TEXT NOT NULL);
            INSERT INTO country VALUES ('XB', 'Brack Isles'), ('XA', 'Ärmel');
            CREATE TABLE firm (id INTEGER PRIMARY KEY, name TEXT, home_code VARCHAR(8) REFERENCES country (code),
              state TEXT CHECK (state IN ('on', 'off')), grade TEXT);
            INSERT INTO firm VALUES (1, 'Berg', 'XA', 'on', 'b'), (2, 'Tal', NULL, 'off', ' '),
              (3, 'See', 'XA', 'on', 'a'), (4, 'See', 'XA', 'on', 'b'), (5, 'See', 'XA', 'on', NULL);
            """,
            map,
            engine
        );
        async Task<(bool IsClosed, string Values)> Of(string field)
        {
            var choices = await service.Client.FieldChoicesAsync("firm", field);
            return (
                choices.IsClosed,
                string.Join(
                    ' ',
                    choices.Values.Select(each => each.Value + (each.Label is null ? "" : $"={each.Label}"))
                )
            );
        }

        (await Of("home")).ShouldBe((true, "XA=Ärmel XB=Brack Isles"));
        (await Of("state")).ShouldBe((true, "on off"));
        (await Of("grade")).ShouldBe((false, "a b"));
        (await Of("name")).ShouldBe((false, "Berg See Tal"));
        await MergeApiTests.RefusedAsync(() => service.Client.FieldChoicesAsync("firm", "fax"), 422, "unknown-field");

        // Too many to choose from are typed, and a column of names is no list.
        service.Database.Execute(
            string.Join(
                ';',
                Enumerable
                    .Range(0, 201)
                    .Select(i => $"INSERT INTO country VALUES ('C{i}', 'C')")
                    .Concat(
                        Enumerable.Range(10, 31).Select(i => $"INSERT INTO firm (id, name) VALUES ({i}, 'Firm {i}')")
                    )
            )
        );
        (await Of("home")).ShouldBe((true, ""));
        (await Of("name")).ShouldBe((false, ""));
    }

    private static async Task CommentsStayWithRecordsAsync(
        RunningService service,
        KettlefogClient author,
        KettlefogClient administrator
    )
    {
        const string Arabic = "اسأل المكتب قبل الدمج";
        var cluster = (await author.ClustersAsync("vendor", record: "1003")).Items.Single();
        cluster.Comments.ShouldBe(0);
        (
            await author.CommentAsync(cluster.Id, "  Asked the yard; wait for Tern.\nSecond line ")
        ).ShouldHaveSingleItem();
        var both = await administrator.CommentAsync(cluster.Id, Arabic);
        both.Select(comment => (comment.Author, comment.Text))
            .ShouldBe([("c.weeks", "Asked the yard; wait for Tern.\nSecond line"), (both[1].Author, Arabic)]);
        both[0].At.ShouldBe(DateTimeOffset.UtcNow, TimeSpan.FromMinutes(1));
        (await author.ClusterAsync(cluster.Id)).Comments.ShouldBe(both);
        (await author.ClustersAsync("vendor", record: "1003")).Items.Single().Comments.ShouldBe(2);
        (await author.ClustersAsync("vendor", size: 100)).Items.Sum(each => each.Comments).ShouldBe(2);

        foreach (var text in new[] { " ", "", "a\0b", new string('x', 2001) })
            await MergeApiTests.RefusedAsync(() => author.CommentAsync(cluster.Id, text), 422, "invalid-choice");
        await MergeApiTests.RefusedAsync(
            () => author.MarkNonDuplicatesAsync(cluster.Id, new NonDuplicatesBody(null, "a\0b")),
            422,
            "invalid-choice"
        );
        await MergeApiTests.RefusedAsync(() => author.CommentAsync(99_999, "x"), 404, "unknown-cluster");
        var viewer = service.ClientFor(service.ViewerToken);
        await MergeApiTests.RefusedAsync(() => viewer.CommentAsync(cluster.Id, "x"), 403, "not-allowed");
        (await viewer.ClusterAsync(cluster.Id)).Comments!.Count.ShouldBe(2);
        await MergeApiTests.RefusedAsync(() => author.RemoveCommentAsync(both[1].Id), 404, "unknown-entry");

        // One of three is another firm; then the cluster is decided, and reopened. The comments stay with the records.
        await author.MarkNonDuplicatesAsync(cluster.Id, new NonDuplicatesBody(["1005"]));
        (await author.ClusterAsync(cluster.Id)).Comments!.Count.ShouldBe(2);
        await ScanAsync(author);
        var entry = await author.MarkNonDuplicatesAsync(cluster.Id, new NonDuplicatesBody(null));
        (await author.ClusterAsync(cluster.Id)).Comments!.Count.ShouldBe(2);
        await ScanAsync(author);
        await author.ReopenAsync(entry.Summary.Number, new ReopenBody());
        await ScanAsync(author);
        var again = (await author.ClustersAsync("vendor", record: "1003")).Items.Single();
        again.Comments.ShouldBe(2);
        await administrator.RemoveCommentAsync(both[0].Id);
        await MergeApiTests.RefusedAsync(() => administrator.RemoveCommentAsync(both[0].Id), 404, "unknown-entry");
        (await author.ClusterAsync(again.Id)).Comments!.Select(comment => comment.Text).ShouldBe([Arabic]);
    }

    private static async Task ViewsAreOnesOwnOrSharedAsync(KettlefogClient owner, KettlefogClient other)
    {
        await owner.SaveViewAsync(new SavedViewBody("My large ones", "order=amount"));
        var saved = await owner.SaveViewAsync(new SavedViewBody(" Vendors ", "type=vendor", true));
        saved
            .Select(view => (view.Name, view.Query, view.Owner, view.IsShared))
            .ShouldBe([
                ("My large ones", "order=amount", "c.weeks", false),
                ("Vendors", "type=vendor", "c.weeks", true),
            ]);
        (await other.ViewsAsync()).Select(view => view.Name).ShouldBe(["Vendors"]);

        // The same name is the same view of its owner, and another one of somebody else.
        (await owner.SaveViewAsync(new SavedViewBody("Vendors", "type=vendor&minScore=90", true))).Count.ShouldBe(2);
        (await other.SaveViewAsync(new SavedViewBody("Vendors", ""))).Count.ShouldBe(2);
        (await owner.ViewsAsync()).Count.ShouldBe(2);
        var theirs = (await other.ViewsAsync()).Single(view => !view.IsShared);
        await MergeApiTests.RefusedAsync(() => owner.RemoveViewAsync(theirs.Id), 404, "unknown-entry");
        await other.RemoveViewAsync(saved[1].Id);
        (await owner.ViewsAsync()).Select(view => view.Name).ShouldBe(["My large ones"]);
        foreach (var name in new[] { "", "  ", "a\0b", new string('n', 81) })
            await MergeApiTests.RefusedAsync(
                () => owner.SaveViewAsync(new SavedViewBody(name, "")),
                422,
                "invalid-choice"
            );
    }

    private static async Task OrdersTurnRoundAsync(KettlefogClient client)
    {
        foreach (var order in new[] { "confidence", "impact", "amount", "age" })
        {
            var (there, back) = (
                await client.ClustersAsync("vendor", order: order, size: 100),
                await client.ClustersAsync("vendor", order: order, reverse: true, size: 100)
            );
            Func<ClusterView, decimal> key = order switch
            {
                "impact" => cluster => cluster.RelatedRows,
                "amount" => cluster =>
                    decimal.Parse(cluster.Amount ?? "0", System.Globalization.CultureInfo.InvariantCulture),
                "age" => cluster => -cluster.FoundAt.UtcTicks,
                _ => cluster => (decimal)cluster.Confidence,
            };
            there.Items.Select(key).ShouldBeInOrder(SortDirection.Descending);
            back.Items.Select(key).ShouldBeInOrder(SortDirection.Ascending);
            back.Items.Select(each => each.Id).ShouldBe(there.Items.Select(each => each.Id), ignoreOrder: true);
            there.Items.Count.ShouldBeGreaterThan(5);
        }
    }

    private static async Task ScanAsync(KettlefogClient client)
    {
        var scan = await client.AddScanAsync(new ScanBody("vendor", "whole"));
        for (var tries = 0; scan.State is "waiting" or "running"; tries++)
        {
            tries.ShouldBeLessThan(1_200);
            await Task.Delay(50);
            scan = await client.ScanAsync(scan.Id);
        }

        scan.State.ShouldBe("finished", scan.Message);
    }
}
