using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;
using Kettlefog.Cli.Tests;
using Kettlefog.Contracts;
using Kettlefog.Testing;

[assembly: AssemblyFixture(typeof(CliFixture))]

namespace Kettlefog.Cli.Tests;

/// <summary>A running service, and a separate home folder for the CLI.</summary>
public class CliFixture : IAsyncLifetime
{
    private readonly TempFolder _home = new();

    /// <summary>How many vendors the demo world has, before copies.</summary>
    protected virtual int Vendors => 40;

    public RunningService Service { get; private set; } = null!;

    public string SignInFile => Path.Combine(_home.Path, "kettlefog", "sign-in.json");

    public async ValueTask InitializeAsync() => Service = await RunningService.StartAsync(Vendors);

    public async ValueTask DisposeAsync()
    {
        await Service.DisposeAsync();
        _home.Dispose();
        GC.SuppressFinalize(this);
    }

    /// <summary>The number of a merge in effect that no other test reverses.</summary>
    public async Task<string> MergedAsync()
    {
        var entries = (await Service.Client.HistoryAsync(record: "1004", kind: "merge")).Items;
        if (entries.Count == 0)
            await RunAsync("merge", "vendor", "1003", "1004", "--yes");
        return $"{(await Service.Client.HistoryAsync(record: "1004", kind: "merge")).Items[0].Number}";
    }

    /// <summary>Runs the CLI with address and token in its environment.</summary>
    public Task<Ran> RunAsync(params string[] arguments) => RunAsync(arguments, Service.OperatorToken);

    public Task<Ran> RunAsync(string[] arguments, string? token, string? url = null, string? input = null) =>
        Programs.RunAsync(
            Programs.Cli,
            arguments,
            new Dictionary<string, string?>
            {
                ["XDG_CONFIG_HOME"] = _home.Path,
                ["KETTLEFOG_URL"] = url ?? Service.Address.ToString(),
                ["KETTLEFOG_TOKEN"] = token,
            },
            input
        );
}

public class CliTests(CliFixture fixture)
{
    [Fact]
    public async Task The_job_is_done_from_search_to_reversal()
    {
        (await fixture.RunAsync("search", "vendor", "name:gann*"))
            .ShouldSucceed()
            .Output.ShouldContain("Gannet Chandlery Ltd");
        (await fixture.RunAsync("show", "vendor", "1002"))
            .ShouldSucceed()
            .Output.ShouldContain("Gannett Chandlery Limited");
        (await fixture.RunAsync("related", "vendor", "1001", "bills"))
            .ShouldSucceed()
            .Output.ShouldContain("bill_number");
        var plan = Read<PlanView>(
            await fixture.RunAsync(
                "plan",
                "vendor",
                "1001",
                "1002",
                "--take",
                "email=1002",
                "--set",
                "payment_terms_days=21",
                "-o",
                "json"
            )
        );
        plan.Fields.Single(field => field.Name == "email").From.ShouldBe(1);
        plan.Fields.Single(field => field.Name == "payment_terms_days").Value.ShouldBe("21");

        string[] merge =
        [
            "merge",
            "vendor",
            "1001",
            "1002",
            "--take",
            "email=1002",
            "--set",
            "payment_terms_days=21",
            "--reason",
            "same firm",
        ];
        var rehearsed = (await fixture.RunAsync([.. merge, "--dry-run"])).ShouldSucceed();
        rehearsed.Output.ShouldContain("Dry run, rolled back");
        (await fixture.RunAsync("show", "vendor", "1002")).Output.ShouldNotContain("Merged into");

        var done = Read<EntryView>(await fixture.RunAsync([.. merge, "--fingerprint", plan.Fingerprint, "-o", "json"]));
        var number = $"{done.Summary.Number}";
        (await fixture.RunAsync("show", "vendor", "1002")).Output.ShouldContain($"Merged into 1001 (merge {number}).");
        (await fixture.RunAsync("history", "list", "--record", "1002")).Output.ShouldContain("same firm");
        var shown = (await fixture.RunAsync("history", "show", number)).ShouldSucceed().Output;
        shown.ShouldContain("office@gannet-chandler.example");
        shown.ShouldContain("typed in");

        (await fixture.RunAsync("reverse", number, "--dry-run"))
            .ShouldSucceed()
            .Output.ShouldContain("Nothing has changed since");
        (await fixture.RunAsync("reverse", number, "--reason", "two firms", "--yes"))
            .ShouldSucceed()
            .Output.ShouldContain($"Merge {number} reversed");
        (await fixture.RunAsync("show", "vendor", "1002")).Output.ShouldNotContain("Merged into");
        var verified = (await fixture.RunAsync("history", "verify")).ShouldSucceed().Output;
        verified.ShouldContain("History verified");
        var last = Regex.Match(verified, "Last entry: ([0-9]+), hash ([0-9a-f]{64})").Groups;
        (await fixture.RunAsync("history", "verify", "--after", last[1].Value, "--hash", last[2].Value))
            .ShouldSucceed()
            .Output.ShouldContain($"0 entries after entry {last[1].Value}");
        (await fixture.RunAsync("history", "verify", "--after", "1")).ShouldFail(
            1,
            "needs both its number and its hash"
        );
    }

    [Fact]
    public async Task A_reference_is_left_out_of_a_plan_only_where_the_map_allows_it()
    {
        var plan = Read<PlanView>(
            await fixture.RunAsync("plan", "vendor", "1010", "1012", "1013", "--exclude", "activities", "-o", "json")
        );
        plan.Moves.Single(move => move.Reference == "activities").Policy.ShouldBe("leave");
        (await fixture.RunAsync("plan", "vendor", "1010", "1012", "--exclude", "bills")).Error.ShouldContain(
            "The reference 'bills' may not be excluded from a merge."
        );
    }

    [Fact]
    public async Task Related_duplicates_are_listed_with_the_option_to_include_them()
    {
        var offered = (await fixture.RunAsync("plan", "account", "1", "2")).ShouldSucceed().Output;
        var link = Regex.Match(offered, "--link '(vessel [0-9 ]+)'").Groups[1].Value;
        (await fixture.RunAsync("plan", "account", "1", "2", "--link", link))
            .ShouldSucceed()
            .Output.ShouldContain("Linked merges, in the same transaction\nvessel");
        (await fixture.RunAsync("plan", "account", "1", "2", "--link", "vessel 3")).Error.ShouldContain(
            "'vessel 3' after --link does not name a record type, a master and a duplicate."
        );
        var rehearsed = (await fixture.RunAsync("merge", "account", "1", "2", "--with-linked", "--dry-run"))
            .ShouldSucceed()
            .Output;
        rehearsed.ShouldContain("Linked merges in the same step: ");
        rehearsed.ShouldContain("household");
        var done = Read<EntryView>(
            await fixture.RunAsync("merge", "account", "1", "2", "--with-linked", "--yes", "-o", "json")
        ).Summary;
        done.Linked!.Count.ShouldBe(3);
        (await fixture.RunAsync("history", "show", $"{done.Linked[0]}"))
            .ShouldSucceed()
            .Output.ShouldContain($"Linked to merge {done.Number}.");
        (await fixture.RunAsync("reverse", $"{done.Number}", "--keep-linked", "--yes"))
            .ShouldSucceed()
            .Output.ShouldContain($"Merge {done.Number} reversed");
        foreach (var linked in done.Linked.Reverse())
            (await fixture.RunAsync("reverse", $"{linked}", "--yes")).ShouldSucceed();
    }

    [Fact]
    public async Task One_record_comes_out_of_a_merge_of_several()
    {
        var done = Read<EntryView>(
            await fixture.RunAsync(
                "merge",
                "vendor",
                "1020",
                "1019",
                "1021",
                "--reason",
                "one firm",
                "--yes",
                "-o",
                "json"
            )
        );
        var number = $"{done.Summary.Number}";
        (await fixture.RunAsync("reverse", number, "--only", "1021", "--dry-run"))
            .ShouldSucceed()
            .Output.ShouldContain("for 1021 only");
        (await fixture.RunAsync("reverse", number, "--only", "1020", "--dry-run")).Error.ShouldContain(
            $"1020 is the master of merge {number} and cannot be taken out of it."
        );
        (await fixture.RunAsync("reverse", number, "--undo-drift", "nothing", "--dry-run")).Error.ShouldContain(
            "No change 'nothing' can be undone"
        );
        (await fixture.RunAsync("reverse", number, "--only", "1021", "--yes"))
            .ShouldSucceed()
            .Output.ShouldContain($"Merge {number} partly reversed: 1021");
        (await fixture.RunAsync("show", "vendor", "1021")).Output.ShouldNotContain("Merged into");
        (await fixture.RunAsync("show", "vendor", "1019")).Output.ShouldContain("Merged into 1020");
        (await fixture.RunAsync("history", "list", "--record", "1021")).Output.ShouldContain(
            $"took 1021 out of merge {number}"
        );
        (await fixture.RunAsync("reverse", number, "--yes")).ShouldSucceed();
        (await fixture.RunAsync("show", "vendor", "1019")).Output.ShouldNotContain("Merged into");
        (await fixture.RunAsync("history", "verify")).ShouldSucceed();
    }

    [Theory]
    [InlineData("types")]
    [InlineData("search vendor gannet")]
    [InlineData("show vendor 1014")]
    [InlineData("related vendor 1014 payments")]
    [InlineData("plan vendor 1014 1015 1016")]
    [InlineData("history list")]
    [InlineData("history verify")]
    [InlineData("reverse NUMBER --dry-run")]
    [InlineData("history show NUMBER")]
    [InlineData("whoami")]
    [InlineData("tokens list")]
    public async Task Everything_read_comes_as_table_JSON_and_CSV(string words)
    {
        if (words.Contains("NUMBER", StringComparison.Ordinal))
            words = words.Replace("NUMBER", await fixture.MergedAsync(), StringComparison.Ordinal);
        var arguments = words.Split(' ');
        (await fixture.RunAsync([.. arguments, "-o", "table"])).ShouldSucceed().Output.Trim().ShouldNotBeEmpty();
        using var json = JsonDocument.Parse(
            (await fixture.RunAsync([.. arguments, "-o", "json"])).ShouldSucceed().Output
        );
        var csv = (await fixture.RunAsync([.. arguments, "-o", "csv"])).ShouldSucceed().Output;
        csv.Split('\n')[0].ShouldMatch("^[a-z0-9_]+(,[a-z0-9_]+)*$", "a header line of plain names");
    }

    [Fact]
    public async Task CSV_quotes_what_RFC_4180_wants_quoted()
    {
        fixture.Service.Database.Execute(
            "UPDATE vendor SET remark = 'first, \"second\"' || char(10) || 'third' WHERE vendor_id = 1010"
        );
        var csv = (await fixture.RunAsync("search", "vendor", "vendor_id:1010", "-o", "csv")).ShouldSucceed().Output;
        csv.ShouldContain("\"first, \"\"second\"\"\nthird\"");
    }

    [Theory]
    [InlineData(2, "Unrecognized", "fly")]
    [InlineData(2, "See 'kettlefog --help'", "fly")]
    [InlineData(2, "See 'kettlefog clusters comment --help'", "clusters", "comment", "1", "so", "--loud")]
    [InlineData(2, "not an output format", "types", "-o", "xml")]
    [InlineData(2, "not of the form field=value", "plan", "vendor", "1001", "1002", "--take", "email")]
    [InlineData(1, "no survivorship rule 'best'", "plan", "vendor", "1001", "1002", "--by", "remark=best")]
    [InlineData(
        2,
        "chosen twice",
        "plan",
        "vendor",
        "1001",
        "1002",
        "--take",
        "email=1002",
        "--set",
        "email=a@b.example"
    )]
    [InlineData(2, "Confirmation is required", "merge", "vendor", "1010", "1011")]
    [InlineData(2, "Confirmation is required", "reverse", "1")]
    [InlineData(1, "no record type 'vender'", "search", "vender")]
    [InlineData(1, "no vendor with the key 4711", "show", "vendor", "4711")]
    [InlineData(1, "also among the duplicates", "merge", "vendor", "1010", "1010", "--yes")]
    [InlineData(1, "must agree", "merge", "vendor", "1008", "1009", "--yes")]
    [InlineData(1, "not made for these records", "merge", "vendor", "1010", "1011", "--fingerprint", "kf1.x.y")]
    [InlineData(1, "not an e-mail address", "plan", "vendor", "1010", "1011", "--set", "email=nobody")]
    [InlineData(1, "no entry 4711", "history", "show", "4711")]
    [InlineData(1, "does not allow this", "users", "list")]
    public async Task Errors_are_one_sentence_on_standard_error_and_an_exit_code(
        int exitCode,
        string message,
        params string[] arguments
    )
    {
        var ran = await fixture.RunAsync(arguments);
        ran.ExitCode.ShouldBe(exitCode, ran.Error);
        ran.Output.ShouldBeEmpty();
        ran.Error.ShouldStartWith("error: ");
        ran.Error.ShouldContain(message);
        ran.Error.ShouldContain("hint: ");
    }

    [Fact]
    public async Task A_stale_fingerprint_is_refused_with_what_changed()
    {
        var plan = Read<PlanView>(await fixture.RunAsync("plan", "vendor", "1012", "1013", "-o", "json"));
        fixture.Service.Database.Execute("UPDATE vendor SET remark = 'meanwhile' WHERE vendor_id = 1013");
        var ran = await fixture.RunAsync("merge", "vendor", "1012", "1013", "--fingerprint", plan.Fingerprint);
        ran.ExitCode.ShouldBe(1);
        ran.Error.ShouldContain("Something changed since the plan was made.");
        ran.Error.ShouldContain("Vendor 1013 (");
    }

    [Fact]
    public async Task A_sign_in_is_kept_for_its_owner_only_and_used_for_its_own_service_only()
    {
        (await fixture.RunAsync(["whoami"], null)).Error.ShouldContain("You are not signed in.");
        var signedIn = await fixture.RunAsync(["sign-in", "--user", "h.trewin"], null, input: "tide over the bar");
        signedIn.ShouldSucceed().Output.ShouldContain("as h.trewin (viewer)");
        File.GetUnixFileMode(fixture.SignInFile).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);
        (await fixture.RunAsync(["whoami"], null)).ShouldSucceed().Output.ShouldContain("h.trewin");
        (await fixture.RunAsync(["whoami"], null, url: "http://127.0.0.1:9")).Error.ShouldContain(
            "You are not signed in."
        );
        (await fixture.RunAsync(["sign-out"], null)).ShouldSucceed();
        File.Exists(fixture.SignInFile).ShouldBeFalse();
        var wrong = await fixture.RunAsync(["sign-in", "--user", "h.trewin"], null, input: "wrong password");
        wrong.ExitCode.ShouldBe(1);
        wrong.Error.ShouldContain("The name or the password is wrong.");
        File.Exists(fixture.SignInFile).ShouldBeFalse();
    }

    [Fact]
    public async Task An_unreachable_service_is_reported()
    {
        var ran = await fixture.RunAsync(["types"], "token", url: "http://127.0.0.1:9");
        ran.ExitCode.ShouldBe(1);
        ran.Error.ShouldContain("Cannot reach the service");
        (await fixture.RunAsync(["types"], "token", url: "harbour")).ExitCode.ShouldBe(2);
        (await fixture.RunAsync(["types"], "kft_wrong")).Error.ShouldContain("your token is not valid");
    }

    [Theory]
    [InlineData("search")]
    [InlineData("show")]
    [InlineData("related")]
    [InlineData("plan")]
    [InlineData("merge")]
    [InlineData("reverse")]
    [InlineData("types")]
    [InlineData("sign-in")]
    [InlineData("sign-out")]
    [InlineData("whoami")]
    [InlineData("history", "list")]
    [InlineData("history", "show")]
    [InlineData("history", "verify")]
    [InlineData("users", "add")]
    [InlineData("users", "list")]
    [InlineData("tokens", "revoke")]
    public async Task Help_shows_an_example(params string[] command)
    {
        var help = (await fixture.RunAsync([.. command, "--help"], null)).ShouldSucceed().Output;
        help.ShouldContain("Example");
        help.ShouldContain($"kettlefog {string.Join(' ', command)}");
    }

    [Fact]
    public async Task An_administrator_adds_users_who_can_sign_in()
    {
        var added = await fixture.RunAsync(
            ["users", "add", "n.quill", "--role", "viewer", "--password-stdin"],
            fixture.Service.AdministratorToken,
            input: "a password of some length"
        );
        added.ShouldSucceed().Output.ShouldContain("Added n.quill (viewer).");
        (await fixture.RunAsync(["users", "list"], fixture.Service.AdministratorToken))
            .ShouldSucceed()
            .Output.ShouldContain("n.quill");
        (
            await fixture
                .Service.ClientFor(null)
                .IssueTokenAsync(new TokenBody("test", "n.quill", "a password of some length"))
        ).User.ShouldBe("n.quill");
    }

    [Fact]
    public async Task An_administrator_changes_users_and_ends_their_sessions()
    {
        var administrator = fixture.Service.AdministratorToken;
        var client = fixture.Service.ClientFor(administrator);
        await client.AddUserAsync(new NewUser("b.fenn", "Bram Fenn", "viewer", "a password of some length"));
        (await fixture.RunAsync(["users", "change", "b.fenn", "--role", "operator", "--disable"], administrator))
            .ShouldSucceed()
            .Output.ShouldBe("b.fenn: Bram Fenn, operator, disabled.\n");
        (await fixture.RunAsync(["users", "list", "--output", "csv"], administrator))
            .ShouldSucceed()
            .Output.ShouldMatch("b\\.fenn,Bram Fenn,operator,disabled,.*");
        (
            await fixture.RunAsync(
                ["users", "change", "b.fenn", "--enable", "--password-stdin"],
                administrator,
                input: "another of some length"
            )
        )
            .ShouldSucceed()
            .Output.ShouldBe("b.fenn: Bram Fenn, operator, enabled.\n");
        using var http = new HttpClient { BaseAddress = fixture.Service.Address };
        (
            await http.PostAsJsonAsync("api/session", new SignInBody("b.fenn", "another of some length"))
        ).EnsureSuccessStatusCode();
        (await fixture.RunAsync(["sessions", "list"], administrator)).ShouldSucceed().Output.ShouldContain("b.fenn");
        (await fixture.RunAsync(["sessions", "end", "--user", "b.fenn"], administrator))
            .ShouldSucceed()
            .Output.ShouldBe("1 session of b.fenn ended.\n");
        (await fixture.RunAsync(["sessions", "end", "9999"], administrator)).Error.ShouldContain(
            "You have no session 9999."
        );
        (await fixture.RunAsync(["sessions", "end"], administrator)).Error.ShouldContain("which session");
        (await fixture.RunAsync(["users", "change", "b.fenn"], administrator)).Error.ShouldContain("nothing to change");
        (
            await fixture.RunAsync(["users", "change", "b.fenn", "--enable", "--disable"], administrator)
        ).Error.ShouldContain("both disabled and enabled");
        var name = (await client.SessionAsync()).Name;
        var refused = await fixture.RunAsync(["users", "change", name, "--role", "viewer"], administrator);
        refused.ExitCode.ShouldBe(1);
        refused.Error.ShouldContain("is the last administrator.");
    }

    [Fact]
    public async Task Who_is_locked_out_gets_in_again_on_the_machine_itself()
    {
        var client = fixture.Service.ClientFor(fixture.Service.AdministratorToken);
        await client.AddUserAsync(new NewUser("p.rook", "Pell Rook", "viewer", "a password of some length"));
        await client.ChangeUserAsync("p.rook", new UserChangeBody(IsDisabled: true));
        (await fixture.Service.OnMachineAsync("change-user", "p.rook", "--enable", "--role", "administrator")).ShouldBe(
            "p.rook: Pell Rook, administrator, enabled."
        );
        var token = await fixture.Service.OnMachineAsync("token", "--user", "p.rook", "--days", "3");
        (await fixture.RunAsync(["whoami"], token)).ShouldSucceed().Output.ShouldContain("administrator");
        var listed = (await client.TokensAsync()).Single(each => each.User == "p.rook");
        (listed.ExpiresAt!.Value - listed.CreatedAt).TotalDays.ShouldBe(3);
        await client.ChangeUserAsync("p.rook", new UserChangeBody(Role: "viewer"));
    }

    private static T Read<T>(Ran ran) =>
        JsonSerializer.Deserialize<T>(ran.ShouldSucceed().Output, JsonSerializerOptions.Web)!;
}
