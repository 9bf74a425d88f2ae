using Kettlefog.Core;
using Kettlefog.Core.Reversing;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Rows that link two records, both of which are merged.</summary>
public abstract class LinkRowTests(Engine engine)
{
    private const string Schema = """
        CREATE TABLE account (id INTEGER PRIMARY KEY, name TEXT, state TEXT);
        CREATE TABLE contact (id INTEGER PRIMARY KEY, name TEXT, state TEXT);
        CREATE TABLE role (account_id INTEGER NOT NULL REFERENCES account (id),
                           contact_id INTEGER NOT NULL REFERENCES contact (id), title TEXT,
                           PRIMARY KEY (account_id, contact_id));
        INSERT INTO account VALUES (1, 'Ardle Mills', 'active'), (2, 'Bexhold Ltd', 'active'), (4, 'Bexhold', 'active');
        INSERT INTO contact VALUES (1, 'Ida Wells', 'active'), (2, 'I. Wells', 'active'), (3, 'Ida Wels', 'active');
        """;

    private const string Types = """
          account:
            table: account
            label: "{name}"
            fields: { name: {} }
            references: { roles: { table: role, columns: account_id, collision: keep } }
            retire: { mark: { state: merged } }
          contact:
            table: contact
            label: "{name}"
            fields: { name: {} }
            references: { roles: { table: role, columns: contact_id, collision: keep } }
            retire: { mark: { state: merged } }
        """;

    [Fact]
    public async Task The_first_of_two_merges_that_moved_the_same_row_is_reversed_after_the_second()
    {
        using var world = await OpenAsync("INSERT INTO role VALUES (2, 2, 'buyer')");
        var before = world.File.Dump();
        await world.MergeAsync("contact", "1", "2");
        await world.MergeAsync("account", "4", "2");
        world.File.Query("SELECT account_id, contact_id FROM role").Single().ShouldBe([4L, 1L]);
        var refusal = await Should.ThrowAsync<KettlefogException>(() => world.Database.TakeBackAsync(1));
        refusal.Code.ShouldBe(ErrorCode.NotReversible);
        refusal.Message.ShouldContain("2 must be reversed first");
        await world.Database.TakeBackAsync(new ReversalChoices(1, WithLater: true));
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_row_that_a_merge_moved_and_a_later_one_removed_comes_back_in_the_right_order()
    {
        using var world = await OpenAsync(
            "INSERT INTO role VALUES (2, 2, 'buyer'), (4, 1, 'manager'), (1, 3, 'clerk')"
        );
        var before = world.File.Dump();
        await world.MergeAsync("contact", "1", "2");
        await world.MergeAsync("account", "4", "2");
        world.File.Count("SELECT COUNT(*) FROM role").ShouldBe(2);
        (await Should.ThrowAsync<KettlefogException>(() => world.Database.TakeBackAsync(1))).Code.ShouldBe(
            ErrorCode.NotReversible
        );
        await world.Database.TakeBackAsync(2);
        await world.Database.TakeBackAsync(1);
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task A_merge_that_moved_other_rows_of_the_same_table_does_not_stand_in_the_way()
    {
        using var world = await OpenAsync("INSERT INTO role VALUES (2, 3, 'buyer'), (1, 2, 'manager')");
        var before = world.File.Dump();
        await world.MergeAsync("contact", "1", "2");
        await world.MergeAsync("account", "4", "2");
        await world.Database.TakeBackAsync(1);
        await world.Database.TakeBackAsync(2);
        world.File.Dump().ShouldBe(before);
    }

    private Task<SmallWorld> OpenAsync(string rows) => SmallWorld.OpenAsync(engine, $"{Schema}{rows}", Types);

    public sealed class OnSqlite() : LinkRowTests(Engine.Sqlite);

    public sealed class OnPostgres() : LinkRowTests(Engine.Postgres);
}
