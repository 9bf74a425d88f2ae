using System.Diagnostics;
using System.Text.RegularExpressions;
using Kettlefog.Testing;

namespace Kettlefog.Cli.Tests;

/// <summary>A world for the documents: scanned, with merge 1 in effect, and restored before each command.</summary>
public sealed class DocumentationFixture : IAsyncLifetime
{
    private readonly TempFolder _folder = new();
    private string _world = "";

    public RunningService Service { get; private set; } = null!;

    public async ValueTask InitializeAsync()
    {
        Service = await RunningService.StartAsync(60);
        (await Programs.RunAsync(Programs.Cli, ["scan", "vendor"], Environment)).ShouldSucceed();
        File.Copy(Service.File.Address, _folder.File("scanned.db"));
        (
            await Programs.RunAsync(Programs.Cli, ["merge", "vendor", "1003", "1004", "1005", "--yes"], Environment)
        ).ShouldSucceed();
        File.Copy(Service.File.Address, _folder.File("merged.db"));
        var functions = $$"""
            kettlefog() {
              if [ "$1" = service ]; then
                shift
                case "$1" in
                  # These go on until they are stopped: here that is once they listen.
                  serve | start) timeout 60 bash -c '
                    dotnet {{Programs.Service}} "$@" --port 0 > served & pid=$!
                    for n in $(seq 400); do grep -q "is listening on" served && break; sleep 0.1; done
                    kill $pid
                    wait $pid
                    grep "is listening on" served' serve "$@" ;;
                  setup) printf 'books.db\n\nyes\nn.fenwick\na long password\n' \
                    | dotnet {{Programs.Service}} "$@" --config "$PWD/service.yaml" --map fresh.map.yaml ;;
                  *) dotnet {{Programs.Service}} "$@" ;;
                esac
                return
              fi
              # Where a person would be asked, the answer is yes.
              case " $* " in
                *" --dry-run "* | *" --yes "* | *" plan "*) dotnet {{Programs.Cli}} "$@" ;;
                " merge "* | " reverse "*) dotnet {{Programs.Cli}} "$@" --yes ;;
                *) dotnet {{Programs.Cli}} "$@" ;;
              esac
            }
            """;
        await File.WriteAllTextAsync(_folder.File("functions.sh"), functions);
    }

    private Dictionary<string, string?> Environment =>
        new()
        {
            ["KETTLEFOG_URL"] = Service.Address.ToString(),
            ["KETTLEFOG_TOKEN"] = Service.AdministratorToken,
            ["XDG_CONFIG_HOME"] = _folder.File("config"),
            ["XDG_STATE_HOME"] = _folder.File("state"),
        };

    /// <summary>A folder as a reader of a document has it, with the world restored.</summary>
    public string Folder(string name)
    {
        // The guide to finding duplicates starts before any merge.
        _world = _folder.File(name.Contains("duplicates", StringComparison.Ordinal) ? "scanned.db" : "merged.db");
        PutBack();
        var folder = Directory.CreateDirectory(_folder.File(name)).FullName;
        File.Copy(_world, Path.Combine(folder, "books.db"), overwrite: true);
        File.Copy(Service.MapFile, Path.Combine(folder, "books.map.yaml"), overwrite: true);
        File.WriteAllText(Path.Combine(folder, "labelled.csv"), "id_a,id_b,match\n1001,1002,1\n1001,1010,0\n");
        return folder;
    }

    /// <summary>Runs a command in bash.</summary>
    public async Task<Ran> RunAsync(string folder, string command)
    {
        var start = new ProcessStartInfo(
            "bash",
            ["-c", $"set -eo pipefail; source '{_folder.File("functions.sh")}'; {command}"]
        )
        {
            WorkingDirectory = folder,
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        foreach (var (name, value) in Environment)
            start.Environment[name] = value;
        using var process = Process.Start(start)!;
        process.StandardInput.Close();
        var (output, error) = (process.StandardOutput.ReadToEndAsync(), process.StandardError.ReadToEndAsync());
        await process.WaitForExitAsync();
        return new Ran(process.ExitCode, await output, await error);
    }

    /// <summary>The file is then a different one, as after a restore: the service continues with it.</summary>
    public void PutBack()
    {
        File.Copy(_world, Service.File.Address + ".back", overwrite: true);
        File.Move(Service.File.Address + ".back", Service.File.Address, overwrite: true);
    }

    public async ValueTask DisposeAsync()
    {
        await Service.DisposeAsync();
        _folder.Dispose();
    }
}

/// <summary>Every command line in the documents is run as written.</summary>
public partial class DocumentationTests(DocumentationFixture world) : IClassFixture<DocumentationFixture>
{
    /// <summary>Commands that only the test script runs.</summary>
    private static readonly string[] Scripts =
    [
        "./kettlefog demo",
        "./kettlefog test",
        "./kettlefog bench",
        "./kettlefog screenshots",
        "./kettlefog publish",
    ];

    /// <summary>Commands that are refused in this world, with their messages.</summary>
    private static readonly Dictionary<string, string> Refused = new()
    {
        ["kettlefog scan stop 3"] = "There is no scan 3",
        ["kettlefog reverse 1 --undo-drift 1.3.33"] = "No change '1.3.33' can be undone",
        ["kettlefog non-duplicates reopen vendor 1001 1002 --reason 'one firm after all'"] =
            "are not marked as not duplicates",
        ["kettlefog clusters reopen 1 --reason 'one firm after all'"] = "is not marked as not duplicates",
        ["kettlefog service check-map --database books.db --map books.map.yaml"] = "",
        ["kettlefog service check-map --database books.db --map books.map.yaml --output json"] = "",
    };

    public static TheoryData<string> Documents() =>
        [
            .. Directory
                .GetFiles(Path.Combine(Repository.Root, "docs"), "*.md")
                .Append(Path.Combine(Repository.Root, "README.md"))
                .Select(file => Path.GetRelativePath(Repository.Root, file))
                .Where(file => Blocks(file).Any())
                .Order(),
        ];

    [Theory]
    [MemberData(nameof(Documents))]
    public async Task Its_command_lines_do_what_they_say(string document)
    {
        var failures = new List<string>();
        var folder = world.Folder(document.Replace('/', '-'));
        foreach (var command in Blocks(document).SelectMany(block => block))
        {
            if (Scripts.Any(script => command.StartsWith(script, StringComparison.Ordinal)))
                continue;
            world.PutBack();
            var ran = await world.RunAsync(
                folder,
                command.Replace("./kettlefog", "kettlefog", StringComparison.Ordinal)
            );
            var bare = CommentPattern().Replace(command, "").Trim();
            if (
                Refused.TryGetValue(bare, out var said)
                    ? ran.ExitCode == 0 || !ran.Error.Contains(said, StringComparison.Ordinal)
                    : ran.ExitCode != 0
            )
                failures.Add(
                    $"{bare}\n  ended with {ran.ExitCode}: "
                        + $"{ran.Error.Trim()}{(ran.Error.Length == 0 ? ran.Output.Trim() : "")}"
                );
        }

        failures.ShouldBeEmpty();
    }

    [Fact]
    public async Task Commands_named_in_their_text_are_there()
    {
        var named = Documents()
            .SelectMany(document =>
                InlinePattern()
                    .Matches(FencePattern().Replace(File.ReadAllText(Path.Combine(Repository.Root, document.Data)), ""))
            )
            .Select(match =>
                match.Groups["command"].Value.Split(' ').TakeWhile(word => WordPattern().IsMatch(word)).ToList()
            )
            .Where(words => words.Count > 0)
            .Select(words => string.Join(' ', words))
            .Distinct()
            .ToList();
        named.Count.ShouldBeGreaterThan(10);
        var unknown = new List<string>();
        foreach (var command in named)
        {
            var words = command.Split(' ');
            var ran =
                words[0] == "service"
                    ? await Programs.RunAsync(Programs.Service, [.. words.Skip(1), "--help"])
                    : await Programs.RunAsync(Programs.Cli, [.. words, "--help"]);
            if (ran.ExitCode != 0 || !ran.Output.Contains("Usage:", StringComparison.Ordinal))
                unknown.Add(command);
        }

        unknown.ShouldBeEmpty();
    }

    /// <summary>The commands of each block: each line of those without a language, the whole of those in sh.</summary>
    private static IEnumerable<IReadOnlyList<string>> Blocks(string document) =>
        FencePattern()
            .Matches(File.ReadAllText(Path.Combine(Repository.Root, document)))
            .Select(fence => (Language: fence.Groups["language"].Value, Text: fence.Groups["text"].Value))
            .Where(fence =>
                fence.Language == "sh"
                || (fence.Language.Length == 0 && fence.Text.Contains("kettlefog ", StringComparison.Ordinal))
            )
            .Select(fence =>
                (IReadOnlyList<string>)(
                    fence.Language == "sh"
                        ? [fence.Text]
                        :
                        [
                            .. fence
                                .Text.Split('\n')
                                .Where(line =>
                                    line.StartsWith("kettlefog ", StringComparison.Ordinal)
                                    || line.StartsWith("./kettlefog ", StringComparison.Ordinal)
                                ),
                        ]
                )
            )
            .Where(commands => commands.Count > 0);

    [GeneratedRegex("^```(?<language>\\w*)\n(?<text>.*?)^```", RegexOptions.Multiline | RegexOptions.Singleline)]
    private static partial Regex FencePattern();

    [GeneratedRegex("`kettlefog (?<command>[^`]+)`")]
    private static partial Regex InlinePattern();

    [GeneratedRegex("^[a-z][a-z-]+$")]
    private static partial Regex WordPattern();

    [GeneratedRegex(@"\s+#\s.*$")]
    private static partial Regex CommentPattern();
}
