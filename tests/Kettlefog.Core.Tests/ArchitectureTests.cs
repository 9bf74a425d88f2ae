using System.Xml.Linq;
using Kettlefog.Testing;

namespace Kettlefog.Core.Tests;

/// <summary>
/// Imports run one way: Service to Database to Core to Contracts; Cli to Client to Contracts; Terminal, by which both
/// programs print, to Contracts. Within a project namespaces are held to an order, see
/// <see cref="Kettlefog.Testing.NamespaceOrder"/>.
/// </summary>
public class ArchitectureTests
{
    [Theory]
    [InlineData("Contracts", "")]
    [InlineData("Core", "Contracts")]
    [InlineData("Database", "Core")]
    [InlineData("Terminal", "Contracts")]
    [InlineData("Service", "Contracts Database Terminal")]
    [InlineData("Client", "Contracts")]
    [InlineData("Cli", "Client Terminal")]
    public void A_project_refers_only_to_lower_ones(string project, string allowed) =>
        References(project, "ProjectReference")
            .Select(path => Path.GetFileNameWithoutExtension(path)["Kettlefog.".Length..])
            .ShouldBe(allowed.Split(' ', StringSplitOptions.RemoveEmptyEntries), ignoreOrder: true);

    [Fact]
    public void Every_project_is_covered_by_the_rule() =>
        Directory.GetDirectories(Repository.File("src")).Length.ShouldBe(7);

    [Fact]
    public void The_core_reaches_nothing_outside_itself()
    {
        References("Core", "PackageReference")
            .ShouldBe([
                "AnyAscii",
                "BouncyCastle.Cryptography",
                "libphonenumber-csharp",
                "System.IO.Hashing",
                "YamlDotNet",
            ]);
        string[] outside =
        [
            "System.IO.File",
            "File.Read",
            "HttpClient",
            "Microsoft.AspNetCore",
            "Microsoft.Data",
            "DateTime.Now",
            "DateTime.UtcNow",
            "DateTimeOffset.UtcNow",
            "Console.",
        ];
        Sources("Core")
            .Where(source => outside.Any(source.Text.Contains))
            .Select(source => source.Name)
            .ShouldBeEmpty();
    }

    [Fact]
    public void SQL_stands_in_the_database_project_only()
    {
        string[] sql = ["SELECT ", "INSERT INTO ", "UPDATE ", "DELETE FROM "];
        string[] others = ["Core", "Contracts", "Terminal", "Service", "Client", "Cli"];
        others
            .SelectMany(Sources)
            .Where(source => sql.Any(word => source.Text.Contains($"\"{word}", StringComparison.Ordinal)))
            .Select(source => source.Name)
            .ShouldBeEmpty();
    }

    private static IEnumerable<string> References(string project, string kind) =>
        XDocument
            .Load(Repository.File($"src/Kettlefog.{project}/Kettlefog.{project}.csproj"))
            .Descendants(kind)
            .Select(element => element.Attribute("Include")!.Value);

    private static IEnumerable<(string Name, string Text)> Sources(string project) =>
        Directory
            .EnumerateFiles(Repository.File($"src/Kettlefog.{project}"), "*.cs", SearchOption.AllDirectories)
            .Select(file => (Path.GetFileName(file), File.ReadAllText(file)));
}
