using System.Diagnostics;
using System.Text.Json;
using Kettlefog.Testing;

namespace Kettlefog.Cli.Tests;

/// <summary>Text that is written to do harm where it is shown or opened.</summary>
public class HostileTextTests(CliFixture fixture)
{
    /// <summary>Sets the title, turns red, clears the screen by a single character, and reads backwards.</summary>
    private const string Hostile = "Gannet\e]0;yours\a \e[31mred \u009b2J \u202Eeno\u2066x";

    [Theory]
    [InlineData("search vendor vendor_id:1031")]
    [InlineData("show vendor 1031")]
    [InlineData("plan vendor 1031 1032")]
    [InlineData("show vendor 1031 -o json")]
    public async Task Nothing_in_a_record_controls_the_terminal(string words)
    {
        Write(1031, "name", Hostile);
        var ran = await fixture.RunAsync(words.Split(' '));
        ran.Output.ShouldContain("Gannet");
        HarmIn(ran.Output).ShouldBeEmpty();
        if (words.EndsWith("json", StringComparison.Ordinal))
            TextsOf(JsonSerializer.Deserialize<JsonElement>(ran.Output)).ShouldContain(Hostile, "it is all there");
    }

    [Fact]
    public async Task Nothing_in_an_error_controls_the_terminal()
    {
        var ran = await fixture.RunAsync("show", "vendor", Hostile);
        ran.ExitCode.ShouldBe(1);
        ran.Error.ShouldContain("Gannet");
        HarmIn(ran.Error).ShouldBeEmpty();
    }

    [Fact]
    public async Task CSV_is_harmless_on_a_terminal_and_exact_in_a_pipe()
    {
        Write(1031, "name", Hostile);
        string[] search = ["search", "vendor", "vendor_id:1031", "-o", "csv"];
        (await fixture.RunAsync(search)).ShouldSucceed().Output.ShouldContain(Hostile);
        var shown = await OnTerminalAsync(search);
        shown.ShouldContain("Gannet");
        HarmIn(shown).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("=HYPERLINK(\"//x\")", "\"'=HYPERLINK(\"\"//x\"\")\"")]
    [InlineData("@SUM(1)", "'@SUM(1)")]
    [InlineData("+44 1632 960118", "'+44 1632 960118")]
    [InlineData("-1+cmd|' /C calc'!A0", "'-1+cmd|' /C calc'!A0")]
    [InlineData("\t=1", "'\t=1")]
    [InlineData("＝1", "'＝1")]
    [InlineData("-12.50", "-12.50")]
    [InlineData("'quoted", "'quoted")]
    [InlineData("a=1", "a=1")]
    public async Task CSV_has_nothing_that_a_spreadsheet_computes(string remark, string field)
    {
        Write(1032, "remark", remark);
        var csv = (await fixture.RunAsync("search", "vendor", "vendor_id:1032", "-o", "csv")).ShouldSucceed().Output;
        csv.ShouldContain($",{field},", Case.Sensitive);
    }

    private void Write(int vendor, string column, string text) =>
        fixture.Service.Database.Execute(
            $"UPDATE vendor SET {column} = '{text.Replace("'", "''", StringComparison.Ordinal)}' "
                + $"WHERE vendor_id = {vendor}"
        );

    private static IEnumerable<string> TextsOf(JsonElement json) =>
        json.ValueKind switch
        {
            JsonValueKind.String => [json.GetString()!],
            JsonValueKind.Array => json.EnumerateArray().SelectMany(TextsOf),
            JsonValueKind.Object => json.EnumerateObject().SelectMany(property => TextsOf(property.Value)),
            _ => [],
        };

    private static IEnumerable<string> HarmIn(string output) =>
        output
            .Where(letter =>
                (char.IsControl(letter) && letter is not ('\n' or '\r' or '\t'))
                || letter is (>= '\u202A' and <= '\u202E') or (>= '\u2066' and <= '\u2069')
            )
            .Select(letter => $"U+{(int)letter:X4}");

    /// <summary>What a command writes to a terminal.</summary>
    private async Task<string> OnTerminalAsync(params string[] arguments)
    {
        var start = new ProcessStartInfo(
            "script",
            ["-qec", $"dotnet {Programs.Cli} {string.Join(' ', arguments)}", "/dev/null"]
        )
        {
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
        };
        // The runtime itself sets up a terminal that can do more.
        start.Environment["TERM"] = "dumb";
        start.Environment["KETTLEFOG_URL"] = fixture.Service.Address.ToString();
        start.Environment["KETTLEFOG_TOKEN"] = fixture.Service.OperatorToken;
        using var process = Process.Start(start)!;
        process.StandardInput.Close();
        var output = await process.StandardOutput.ReadToEndAsync();
        await process.WaitForExitAsync();
        process.ExitCode.ShouldBe(0, output);
        return output;
    }
}
