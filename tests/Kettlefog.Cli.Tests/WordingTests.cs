using System.Text.Json;
using System.Text.RegularExpressions;
using Kettlefog.Testing;

namespace Kettlefog.Cli.Tests;

/// <summary>
/// Texts that people read use the words of docs/glossary.md: a short list of turns is banned. Every endpoint
/// has a summary.
/// </summary>
public partial class WordingTests
{
    private static readonly Regex[] Banned =
    [
        .. new[]
        {
            @"may be double",
            @"in hand",
            @"puts? off|put-off",
            @"tak(e|es|en|ing) (it |that |them |the merge |the whole merge )?back",
            @"kept apart|keeps? (\w+ )?apart",
            @"gives? way",
            @"merged along",
            @"anew",
            @"mend",
            @"bears? (it )?out",
            @"lets? go of",
            @"our own tables",
            @"stands? (in|on|beside)",
            @"one party",
            @"meanwhile",
            @"what becomes of",
            @"comes? back|went back",
            @"drifted",
            @"nothing is like",
            @"hangs? on",
            @"speaks? of",
            @"whoever",
            @"lies? (in|at)",
            @"any more|no more",
            @"goes? on|went on",
            @"nothing tells",
        }.Select(turn => new Regex($@"\b(?:{turn})\b", RegexOptions.IgnoreCase)),
    ];

    public static TheoryData<string> Documents() =>
        [
            "README.md",
            .. Directory
                .GetFiles(Path.Combine(Repository.Root, "docs"), "*.md")
                .Select(file => Path.GetRelativePath(Repository.Root, file)),
        ];

    [Theory]
    [MemberData(nameof(Documents))]
    public void Documents_use_the_words_of_the_glossary(string document) =>
        Found(File.ReadAllLines(Path.Combine(Repository.Root, document))).ShouldBeEmpty();

    [Theory]
    [InlineData("Cli")]
    [InlineData("Terminal")]
    [InlineData("Service")]
    [InlineData("Core")]
    [InlineData("Database")]
    public void Messages_use_the_words_of_the_glossary(string project) =>
        Directory
            .GetFiles(Path.Combine(Repository.Root, "src", $"Kettlefog.{project}"), "*.cs", SearchOption.AllDirectories)
            .SelectMany(file =>
                Found(
                        File.ReadLines(file)
                            .Where(line => !line.TrimStart().StartsWith("//", StringComparison.Ordinal))
                            .SelectMany(line => Literal().Matches(line))
                            .Select(literal => literal.Value)
                            .Where(text => text.Contains(' ', StringComparison.Ordinal))
                    )
                    .Select(text => $"{Path.GetFileName(file)}: {text}")
            )
            .ShouldBeEmpty();

    [Fact]
    public void The_API_and_the_map_use_the_words_of_the_glossary()
    {
        Found(Texts("docs/openapi.json")).ShouldBeEmpty();
        Found(Texts("src/Kettlefog.Core/Map/Reading/record-map.schema.json")).ShouldBeEmpty();
    }

    [Fact]
    public void Every_endpoint_is_described()
    {
        using var document = JsonDocument.Parse(File.ReadAllText(Path.Combine(Repository.Root, "docs/openapi.json")));
        foreach (var path in document.RootElement.GetProperty("paths").EnumerateObject())
        {
            foreach (var operation in path.Value.EnumerateObject())
                operation
                    .Value.TryGetProperty("summary", out _)
                    .ShouldBeTrue($"{operation.Name} {path.Name} has no summary");
        }
    }

    private static IEnumerable<string> Found(IEnumerable<string> texts) =>
        texts.Where(text => Array.Exists(Banned, turn => turn.IsMatch(text)));

    private static List<string> Texts(string file)
    {
        using var document = JsonDocument.Parse(File.ReadAllText(Path.Combine(Repository.Root, file)));
        var texts = new List<string>();
        Add(document.RootElement);
        return texts;

        void Add(JsonElement element)
        {
            if (element.ValueKind == JsonValueKind.Array)
            {
                foreach (var item in element.EnumerateArray())
                    Add(item);
            }

            if (element.ValueKind != JsonValueKind.Object)
                return;
            foreach (var member in element.EnumerateObject())
            {
                if (member.Name is "summary" or "description" && member.Value.ValueKind == JsonValueKind.String)
                    texts.Add(member.Value.GetString()!);
                else
                    Add(member.Value);
            }
        }
    }

    [GeneratedRegex("""(?<=")(?:[^"\\]|\\.)*(?=")""")]
    private static partial Regex Literal();
}
