using Kettlefog.Core.Schema;

namespace Kettlefog.Core.Tests;

/// <summary>Check constraints and triggers are read from their text.</summary>
public class SchemaReadingTests
{
    [Theory]
    [InlineData("status IN ('open', 'closed')", "status", "open|closed")]
    [InlineData("(\"Status\" in ('it''s'))", "Status", "it's")]
    [InlineData("[kind] IN ('a')", "kind", "a")]
    [InlineData(
        "((status)::text = ANY ((ARRAY['open'::character varying, 'closed'::character varying])::text[]))",
        "status",
        "open|closed"
    )]
    [InlineData("(status = ANY (ARRAY['open'::text, 'closed'::text]))", "status", "open|closed")]
    [InlineData("(status = 'open'::text)", "status", "open")]
    public void A_list_of_values_is_read_as_written_and_as_the_server_gives_it_back(
        string condition,
        string column,
        string values
    )
    {
        var allowed = AllowedValues.Of(condition)!.Value;
        (allowed.Column, string.Join('|', allowed.Values)).ShouldBe((column, values));
    }

    [Theory]
    [InlineData("amount > 0")]
    [InlineData("status IN ('open', 'closed') OR amount > 0")]
    [InlineData("status NOT IN ('open')")]
    [InlineData("status <> 'open'")]
    [InlineData("lower(status) IN ('open')")]
    [InlineData("status IN (SELECT name FROM state)")]
    public void Anything_else_is_not_taken_for_a_list(string condition) => AllowedValues.Of(condition).ShouldBeNull();

    [Fact]
    public void Checks_are_found_in_a_definition_whatever_parentheses_they_contain() =>
        AllowedValues
            .Conditions(
                "CREATE TABLE t (a TEXT CHECK (a IN ('x)', 'y')), b INTEGER check(b > (1 + 2)), CONSTRAINT c "
                    + "CHECK (a <> ')'))"
            )
            .ShouldBe(["a IN ('x)', 'y')", "b > (1 + 2)", "a <> ')'"]);

    [Theory]
    [InlineData("INSERT INTO audit VALUES (NEW.id); UPDATE \"Order\" SET x = 1;", "audit|Order")]
    [InlineData("insert or replace into log select 1; DELETE FROM log WHERE id < 5;", "log")]
    [InlineData("-- INSERT INTO nothing\nSELECT 'UPDATE nothing SET x'; /* DELETE FROM nothing */", "")]
    [InlineData("SELECT 1 FROM t FOR UPDATE OF t;", "")]
    [InlineData("INSERT INTO a VALUES (1) ON CONFLICT DO UPDATE SET x = 1;", "a")]
    [InlineData("BEGIN UPDATE ONLY public.vendor SET x = 1; RETURN NEW; END", "public.vendor")]
    public void The_tables_that_a_trigger_writes_to_are_found(string body, string tables) =>
        string.Join('|', new Trigger("t", RowChanges.Update, body).Writes!).ShouldBe(tables);

    [Theory]
    [InlineData("BEGIN NEW.changed_at := now(); RETURN NEW; END", true)]
    [InlineData("BEGIN IF true THEN new.changed_at = now(); END IF; RETURN NEW; END", true)]
    [InlineData("BEGIN IF NEW.a = 1 THEN RAISE EXCEPTION 'no'; END IF; RETURN NEW; END", false)]
    public void A_trigger_that_changes_its_own_row_is_known(string body, bool changes) =>
        new Trigger("t", RowChanges.Update, body).ChangesItsRow.ShouldBe(changes);

    [Fact]
    public void A_trigger_whose_statements_cannot_be_read_may_write_anywhere() =>
        new Trigger("t", RowChanges.Insert, null).Writes.ShouldBeNull();
}
