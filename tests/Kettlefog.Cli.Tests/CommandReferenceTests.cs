using System.Text;
using System.Text.RegularExpressions;
using Kettlefog.Testing;

namespace Kettlefog.Cli.Tests;

/// <summary>
/// docs/commands.md is generated from the help of both programs, so that every command, argument and option is in it.
/// </summary>
public partial class CommandReferenceTests
{
    private const StringComparison Ordinal = StringComparison.Ordinal;

    /// <summary>The options that every command line client shares; they are described once.</summary>
    private static readonly string[] Shared = ["--help", "--version", "--url", "--token <token>", "--output"];

    private static readonly Task<IReadOnlyList<HelpPage>> Client = PagesAsync(Programs.Cli, "kettlefog", []);

    private static readonly Task<IReadOnlyList<HelpPage>> Service = PagesAsync(
        Programs.Service,
        "kettlefog service",
        []
    );

    [Fact]
    public async Task The_reference_lists_every_command_with_its_options()
    {
        var reference = Reference(await Client, await Service);
        var file = Repository.File("docs/commands.md");
        if (Environment.GetEnvironmentVariable("KETTLEFOG_UPDATE") == "1")
            await File.WriteAllTextAsync(file, reference);
        (await File.ReadAllTextAsync(file)).ShouldBe(reference, "regenerate it with KETTLEFOG_UPDATE=1");
    }

    [Fact]
    public async Task Every_command_argument_and_option_is_described()
    {
        HelpPage[] pages = [.. await Client, .. await Service];
        foreach (var page in pages)
        {
            page.Description.ShouldNotBeEmpty(page.Name);
            foreach (var (term, meaning) in page.Arguments.Concat(page.Options))
                meaning.ShouldNotBeEmpty($"{page.Name} {term}");
        }
    }

    /// <summary>The help of a command and of all commands below it.</summary>
    private static async Task<IReadOnlyList<HelpPage>> PagesAsync(string program, string name, string[] words)
    {
        var ran = await Programs.RunAsync(program, [.. words, "--help"]);
        ran.ExitCode.ShouldBe(0, name);
        var page = HelpPage.Read(string.Join(' ', words.Prepend(name)), ran.Output);
        var pages = new List<HelpPage> { page };
        var below = page.Commands.Select(command => PagesAsync(program, name, [.. words, command]));
        pages.AddRange((await Task.WhenAll(below)).SelectMany(each => each));
        return pages;
    }

    private static string Reference(IReadOnlyList<HelpPage> client, IReadOnlyList<HelpPage> service)
    {
        var text = new StringBuilder()
            .AppendLine("# Command reference")
            .AppendLine()
            .AppendLine(
                "You want to know what a command does and which options it has. This page lists every command of"
            )
            .AppendLine(
                "`kettlefog`, and of `kettlefog service`, which runs on the machine of the service. It is generated"
            )
            .AppendLine("from their help: `--help` after a command shows the same. How to work with them is described")
            .AppendLine(
                "[for operators](operators.md) and [for administrators](administrators.md). A command ends with 0 if"
            )
            .AppendLine("it succeeds, 1 if it fails, and 2 for a usage error.");
        Table(
            text.AppendLine().AppendLine("Every client command has these options:"),
            "option",
            SharedOptions(client[0])
        );
        foreach (var page in client.Skip(1).Concat(service))
        {
            text.AppendLine().AppendLine($"## {page.Name}").AppendLine().AppendLine(page.Description);
            if (page.Examples.Count > 0)
                text.AppendLine();
            foreach (var example in page.Examples)
                text.AppendLine($"- `{example}`");
            var own = page
                .Options.Where(option => !IsShared(option.Term) || page.Name.Contains("service ", Ordinal))
                .Where(option => !option.Term.Contains("--help", Ordinal))
                .ToList();
            if (page.Arguments.Count + own.Count > 0)
                Table(text, "argument or option", [.. page.Arguments, .. own]);
        }

        return text.ToString();
    }

    private static IReadOnlyList<(string Term, string Meaning)> SharedOptions(HelpPage root) =>
        [.. root.Options.Where(option => IsShared(option.Term) && !option.Term.Contains("--version", Ordinal))];

    private static bool IsShared(string term) => Array.Exists(Shared, shared => term.Contains(shared, Ordinal));

    private static void Table(StringBuilder text, string head, IReadOnlyList<(string Term, string Meaning)> rows)
    {
        text.AppendLine().AppendLine($"| {head} | meaning |").AppendLine("| --- | --- |");
        foreach (var (term, meaning) in rows)
            text.AppendLine($"| `{term.Replace("|", "\\|", Ordinal)}` | {meaning.Replace("|", "\\|", Ordinal)} |");
    }

    /// <summary>The help of one command, taken apart.</summary>
    private sealed record HelpPage(
        string Name,
        string Description,
        IReadOnlyList<string> Examples,
        IReadOnlyList<(string Term, string Meaning)> Arguments,
        IReadOnlyList<(string Term, string Meaning)> Options,
        IReadOnlyList<string> Commands
    )
    {
        public static HelpPage Read(string name, string help)
        {
            var sections = SectionPattern()
                .Matches(help)
                .ToDictionary(
                    match => match.Groups["name"].Value,
                    match => match.Groups["text"].Value.Split('\n', StringSplitOptions.RemoveEmptyEntries)
                );
            string[] Lines(string section) => sections.GetValueOrDefault(section, []);
            var said = Lines("Description").Select(line => line.Trim()).Where(line => line.Length > 0).ToList();
            return new HelpPage(
                name,
                string.Join(' ', said.TakeWhile(line => !line.StartsWith("Example", Ordinal))),
                [.. said.SkipWhile(line => !line.StartsWith("Example", Ordinal)).Skip(1)],
                Terms(Lines("Arguments")),
                Terms(Lines("Options")),
                [.. Terms(Lines("Commands")).Select(term => term.Term.Split(' ')[0])]
            );
        }

        private static List<(string Term, string Meaning)> Terms(IEnumerable<string> lines) =>
            [
                .. lines
                    .Select(line => TermPattern().Match(line))
                    .Where(match => match.Success)
                    .Select(match => (match.Groups["term"].Value, match.Groups["meaning"].Value.Trim())),
            ];
    }

    [GeneratedRegex(@"^(?<name>\w+):\n(?<text>(?:[ ].*\n|\n(?=[ ]))*)", RegexOptions.Multiline)]
    private static partial Regex SectionPattern();

    [GeneratedRegex(@"^  (?<term>\S.*?)(?:   *(?<meaning>\S.*))?$")]
    private static partial Regex TermPattern();
}
