using System.Text.Json;
using Kettlefog.Contracts;
using Kettlefog.Testing;
using Microsoft.Data.Sqlite;

namespace Kettlefog.Cli.Tests;

/// <summary>A separate service, with enough vendors to learn from.</summary>
public sealed class DuplicatesCliFixture : CliFixture
{
    protected override int Vendors => 300;
}

/// <summary>Finding duplicates from the command line: scan, review, decide, export, evaluate.</summary>
public class DuplicatesCliTests(DuplicatesCliFixture fixture) : IClassFixture<DuplicatesCliFixture>
{
    [Fact]
    public async Task A_scan_is_waited_for_and_its_queue_is_worked_on()
    {
        var scan = (await fixture.RunAsync("scan", "vendor")).ShouldSucceed();
        scan.Output.ShouldContain("finished");
        scan.Output.ShouldContain("pairs proposed");
        var clusters = Read<ClusterPage>(
            await fixture.RunAsync("clusters", "list", "vendor", "--record", "1001", "-o", "json")
        );
        var id = $"{clusters.Items.Single().Id}";
        var shown = (await fixture.RunAsync("clusters", "show", id)).ShouldSucceed().Output;
        shown.ShouldContain("same phone");
        shown.ShouldContain("kettlefog plan vendor 1001 1002");
        (await fixture.RunAsync("clusters", "claim", id))
            .ShouldSucceed()
            .Output.ShouldMatch("assigned to c.weeks until .* UTC");
        (await fixture.RunAsync(["clusters", "claim", id], fixture.Service.AdministratorToken)).Error.ShouldContain(
            "is assigned to c.weeks"
        );
        (await fixture.RunAsync("clusters", "assign", id)).ShouldSucceed().Output.ShouldContain("open");
        (await fixture.RunAsync("clusters", "comment", id, "Asked the yard."))
            .ShouldSucceed()
            .Output.ShouldContain("UTC: Asked the yard.");
        (await fixture.RunAsync("clusters", "show", id)).ShouldSucceed().Output.ShouldContain("Asked the yard.");
        (await fixture.RunAsync("clusters", "comment", id, " ")).Error.ShouldContain("The comment is blank.");
        (await fixture.RunAsync("clusters", "postpone", id, "2001-01-01")).Error.ShouldContain("not in the future");
        (await fixture.RunAsync("clusters", "postpone", id, "2099-01-01", "--reason", "asked them"))
            .ShouldSucceed()
            .Output.ShouldContain("postponed until 2099-01-01 by c.weeks (asked them)");
        (await fixture.RunAsync("clusters", "list", "vendor", "--state", "postponed", "-o", "csv"))
            .ShouldSucceed()
            .Output.ShouldContain("2099-01-01");

        (await fixture.RunAsync("clusters", "resume", id)).ShouldSucceed().Output.ShouldContain(", open;");
        (await fixture.RunAsync("clusters", "reopen", id)).Error.ShouldContain("is not marked as not duplicates");
        (await fixture.RunAsync("clusters", "non-duplicates", id, "--reason", "two firms")).ShouldSucceed();
        (await fixture.RunAsync("clusters", "reopen", id, "--reason", "one firm"))
            .ShouldSucceed()
            .Output.ShouldContain("Reopened (history entry");
        (await fixture.RunAsync("overview")).ShouldSucceed().Output.ShouldContain("vendor");
        (await fixture.RunAsync("overview", "-o", "csv"))
            .ShouldSucceed()
            .Output.ShouldStartWith("record_type,open,certain,");

        var explained = (await fixture.RunAsync("explain", "vendor", "1001", "1002")).ShouldSucceed().Output;
        explained.ShouldNotContain("100.0 %");
        explained.ShouldContain("confidence, proposed by the rule 'ready'");
        explained.ShouldContain("Compared as organisations.");
        (await fixture.RunAsync("similar", "vendor", "1001")).ShouldSucceed().Output.ShouldContain("1002");
        (
            await fixture.RunAsync(
                "similar",
                "vendor",
                "--value",
                "name=Ganet Chandlery",
                "--value",
                "phone=01632 960118",
                "--value",
                "legal_entity=SHT",
                "-o",
                "csv"
            )
        )
            .ShouldSucceed()
            .Output.ShouldContain("1001");

        (await fixture.RunAsync("non-duplicates", "mark", "vendor", "1001", "1002", "--reason", "two firms"))
            .ShouldSucceed()
            .Output.ShouldContain("Not duplicates");
        (await fixture.RunAsync("non-duplicates", "list", "vendor")).ShouldSucceed().Output.ShouldContain("two firms");
        (await fixture.RunAsync("history", "list", "--kind", "non-duplicates"))
            .ShouldSucceed()
            .Output.ShouldContain("marked 1001, 1002 as not duplicates");
        (await fixture.RunAsync("scan", "vendor", "--changed")).ShouldSucceed();
        (await fixture.RunAsync("explain", "vendor", "1001", "1002"))
            .ShouldSucceed()
            .Output.ShouldContain("They were marked as not duplicates");
        (
            await fixture.RunAsync("non-duplicates", "reopen", "vendor", "1002", "1001", "--reason", "one")
        ).ShouldSucceed();
        (await fixture.RunAsync("scan", "list")).ShouldSucceed().Output.ShouldContain("changed");
    }

    [Fact]
    public async Task Exports_and_evaluation_are_for_programs()
    {
        (await fixture.RunAsync("scan", "household")).ShouldSucceed();
        var pairs = (await fixture.RunAsync("pairs", "household", "--min-score", "0"))
            .ShouldSucceed()
            .Output.Split('\n');
        pairs[0].ShouldBe("id_a,id_b,score,proposed,rule");
        foreach (
            var line in (await fixture.RunAsync("clusters", "export", "household", "--format", "jsonl"))
                .ShouldSucceed()
                .Output.Split('\n', StringSplitOptions.RemoveEmptyEntries)
        )
            JsonDocument.Parse(line).RootElement.GetProperty("cluster").GetInt64().ShouldBeGreaterThan(0);
        using var folder = new TempFolder();
        var labelled = Path.Combine(folder.Path, "labelled.csv");
        await File.WriteAllTextAsync(labelled, "id_a,id_b,match\n1003,1004,1\n1003,1010,0\n");
        (await fixture.RunAsync("rules", "evaluate", "vendor", labelled))
            .ShouldSucceed()
            .Output.ShouldContain("2 pairs, 1 of them matches");
        var rule = Path.Combine(folder.Path, "rule.yaml");
        await File.WriteAllTextAsync(rule, "any_of: [[{field: tax_number, is: same-digits}]]");
        (await fixture.RunAsync("rules", "evaluate", "vendor", labelled, "--rule", rule, "-o", "csv"))
            .ShouldSucceed()
            .Output.ShouldStartWith("threshold,precision,recall,f1");
        (await fixture.RunAsync("rules", "try", "vendor", rule))
            .ShouldSucceed()
            .Output.ShouldContain("Beside the rules in force: 0 pairs gained, 0 lost.");
        (await fixture.RunAsync("rules", "try", "vendor", rule, "--replaces", "ready"))
            .ShouldSucceed()
            .Output.ShouldContain("In place of 'ready'");
        (
            await fixture.RunAsync(
                ["rules", "save", "vessel", "same_hull", "-", "--note", "n"],
                fixture.Service.AdministratorToken,
                input: "any_of: [[{field: hull_number, is: ignoring-case}]]"
            )
        )
            .ShouldSucceed()
            .Output.ShouldContain("version 1");
        (await fixture.RunAsync("rules", "list", "vessel"))
            .ShouldSucceed()
            .Output.ShouldContain("the values of hull_number are the same");
        (await fixture.RunAsync("rules", "show", "vessel", "same_hull"))
            .ShouldSucceed()
            .Output.Trim()
            .ShouldBe("any_of: [[{field: hull_number, is: ignoring-case}]]");
        (await fixture.RunAsync("rules", "show", "vessel", "other")).Error.ShouldContain("no rule 'other'");
        (await fixture.RunAsync("rules", "versions", "vessel", "same_hull")).ShouldSucceed().Output.ShouldContain("n");
        (
            await fixture.RunAsync(["rules", "remove", "vessel", "same_hull"], fixture.Service.AdministratorToken)
        ).ShouldSucceed();
        await File.WriteAllTextAsync(labelled, "a,b\n1,2\n");
        (await fixture.RunAsync("rules", "evaluate", "vendor", labelled)).Error.ShouldContain("no column 'id_a'");
    }

    [Theory]
    [InlineData(2, "No record type was given", "scan")]
    [InlineData(1, "no record type 'vendr'", "scan", "vendr")]
    [InlineData(1, "no cluster 99999", "clusters", "show", "99999")]
    [InlineData(1, "no scan 99999", "scan", "show", "99999")]
    [InlineData(2, "Nothing to search for", "similar", "vendor")]
    [InlineData(2, "is not a value of a field", "similar", "vendor", "--value", "gannet")]
    [InlineData(1, "no field 'fax'", "similar", "vendor", "--value", "fax=1")]
    [InlineData(2, "cannot be read", "rules", "try", "vendor", "nowhere.yaml")]
    public async Task Errors_are_reported(int exitCode, string message, params string[] arguments)
    {
        var ran = await fixture.RunAsync(arguments);
        ran.ExitCode.ShouldBe(exitCode, ran.Error);
        ran.Error.ShouldStartWith("error: ");
        ran.Error.ShouldContain(message);
        ran.Error.ShouldContain("hint: ");
    }

    [Fact]
    public async Task One_command_finds_duplicates_in_any_database_with_a_map()
    {
        using var folder = new TempFolder();
        (await Programs.RunAsync(Programs.Demo, ["people", folder.Path, "600", "2"])).ShouldSucceed();

        // Somebody typed one person in sixty times more, into a table that has others.
        await using (var database = new SqliteConnection($"Data Source={Path.Combine(folder.Path, "people.db")}"))
        {
            await database.OpenAsync();
            await using var copy = database.CreateCommand();
            copy.CommandText = """
                WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 60)
                INSERT INTO person (id, given_name, middle_name, family_name, suffix, birth_date, email, phone, street,
                    postcode, city) SELECT 9000000 + i, given_name, middle_name, family_name, suffix, birth_date, email,
                    phone, street, postcode, city FROM person, n WHERE id = (SELECT MIN(id) FROM person)
                """;
            (await copy.ExecuteNonQueryAsync()).ShouldBe(60);
        }

        var (pairs, clusters) = (Path.Combine(folder.Path, "p.csv"), Path.Combine(folder.Path, "c.csv"));
        var ran = (
            await Programs.RunAsync(
                Programs.Service,
                [
                    "find",
                    "person",
                    "--database",
                    Path.Combine(folder.Path, "people.db"),
                    "--map",
                    Path.Combine(folder.Path, "people.map.yaml"),
                    "--pairs",
                    pairs,
                    "--clusters",
                    clusters,
                ]
            )
        ).ShouldSucceed();
        ran.Output.ShouldContain("pairs proposed");
        ran.Output.ShouldContain("Compared as people, by: given name, family name");
        ran.Output.ShouldMatch("Check: 6[0-9]+ records drawn at random and compared with all others: [0-9]+ pairs");
        ran.Output.ShouldContain("records have a value that too many share");
        (await File.ReadAllLinesAsync(pairs))[0].ShouldBe("id_a,id_b,score,proposed,rule");
        var members = (await File.ReadAllLinesAsync(clusters)).Skip(1).Select(line => line.Split(',')).ToList();
        members.Count.ShouldBeGreaterThan(110);
        members
            .Where(member => member[0].StartsWith("9000", StringComparison.Ordinal))
            .GroupBy(member => member[1])
            .Single()
            .Count()
            .ShouldBe(60, "they are one cluster");
        var wrong = await Programs.RunAsync(
            Programs.Service,
            [
                "find",
                "people",
                "--database",
                Path.Combine(folder.Path, "people.db"),
                "--map",
                Path.Combine(folder.Path, "people.map.yaml"),
            ]
        );
        wrong.ExitCode.ShouldBe(1);
        wrong.Error.ShouldContain("There is no record type 'people'.");
    }

    private static T Read<T>(Ran ran) =>
        JsonSerializer.Deserialize<T>(ran.ShouldSucceed().Output, ContractJson.Options)!;
}
