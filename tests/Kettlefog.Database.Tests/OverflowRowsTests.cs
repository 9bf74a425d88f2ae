using Kettlefog.Core;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>
/// A value that does not survive in a field, such as an e-mail address, goes to a row of a table of further ones.
/// </summary>
public abstract class OverflowRowsTests(Engine engine)
{
    private static readonly string Schema = """
        CREATE TABLE contact (id INTEGER PRIMARY KEY, name TEXT, email TEXT, email_2 TEXT, status TEXT);
        INSERT INTO contact VALUES (1, 'A', 'a@one.example', NULL, 'ok'), (2, 'A', 'a@two.example', 'A@one.example',
          'ok'), (3, 'A', 'a@three.example', 'a@four.example', 'ok');
        CREATE TABLE contact_email (ID contact_id INTEGER NOT NULL REFERENCES contact (id), address VARCHAR(20) NOT
          NULL, kind TEXT NOT NULL);
        INSERT INTO contact_email (contact_id, address, kind) VALUES (2, 'A@THREE.example', 'work'), (1,
          'a@five.example', 'home');
        """;

    private const string Map = """
          contact:
            table: contact
            label: "{name}"
            fields:
              name:
              email: { kind: email, overflow: [email_2],
                       overflow_rows: { reference: emails, column: address, values: { kind: other } } }
              email_2: { kind: email }
            references:
              emails: { table: contact_email, columns: contact_id }
            figures: { email_count: { reference: emails, count: true, control: true } }
            retire: { mark: { status: merged } }
        """;

    private string Sql =>
        Schema.Replace(
            "ID ",
            engine == Engine.Sqlite
                ? "id INTEGER PRIMARY KEY, "
                : "id BIGINT GENERATED ALWAYS AS IDENTITY PRIMARY KEY, ",
            StringComparison.Ordinal
        );

    [Fact]
    public async Task What_finds_no_further_field_is_added_once_and_goes_again_with_the_reversal()
    {
        using var world = await SmallWorld.OpenAsync(engine, Sql, Map);
        var before = world.File.Dump();
        var plan = await world.PlanAsync("contact", "1", "2", "3");

        // a@one is the master's own in another spelling, a@three is already among the rows.
        plan.Fields.Single(field => field.Field.Name == "email_2").Value.ToText().ShouldBe("a@two.example");
        plan.Additions.Select(addition => $"{addition.Field.Name} {addition.Record} {addition.Value}")
            .ShouldBe(["email 2 a@four.example"]);
        plan.Warnings.ShouldNotContain(warning => warning.Contains("journal", StringComparison.Ordinal));
        var entry = await world.Database.ApplyAsync(plan);
        world
            .Column("SELECT contact_id || ' ' || address || ' ' || kind FROM contact_email ORDER BY id")
            .ShouldBe(["1 A@THREE.example work", "1 a@five.example home", "1 a@four.example other"]);
        (await world.Database.TakeBackAsync(entry)).ShouldBeEmpty();
        world.File.Dump().ShouldBe(before);
    }

    [Fact]
    public async Task What_the_rows_cannot_hold_will_only_live_in_the_journal()
    {
        using var world = await SmallWorld.OpenAsync(
            engine,
            Sql + "UPDATE contact SET email_2 = 'a.very.long.address@four.example' WHERE id = 3;",
            Map
        );
        var plan = await world.PlanAsync("contact", "1", "2", "3");
        plan.Additions.ShouldBeEmpty();
        plan.Warnings.ShouldContain(
            "Email 'a.very.long.address@four.example' of 3 does not fit in any further field; "
                + "it is kept only in the merge history."
        );
    }

    [Theory]
    [InlineData(
        "reference: emails,",
        "reference: mails,",
        "names the reference 'mails', which the record type does not have, or does not reassign. Write 'emails'."
    )]
    [InlineData(
        "column: address",
        "column: adress",
        "The table 'contact_email' has no column 'adress'. Write 'address'."
    )]
    [InlineData(
        "columns: contact_id }",
        "columns: contact_id, when: { kind: work } }",
        "A row would not be one of 'emails', which has kind = work. Write 'kind: work' under 'values'."
    )]
    public async Task What_does_not_fit_is_reported_with_its_line(string right, string wrong, string message)
    {
        Map.ShouldContain(right);
        var refusal = await Should.ThrowAsync<KettlefogException>(() =>
            SmallWorld.OpenAsync(engine, Sql, Map.Replace(right, wrong, StringComparison.Ordinal))
        );
        refusal.Details.ShouldContain(detail => detail.StartsWith("small.yaml:10: ") && detail.Contains(message));
    }

    public sealed class OnSqlite() : OverflowRowsTests(Engine.Sqlite);

    public sealed class OnPostgres() : OverflowRowsTests(Engine.Postgres);
}
