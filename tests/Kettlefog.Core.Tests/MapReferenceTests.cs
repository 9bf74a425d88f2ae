using System.Text;
using System.Text.Json;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Testing;

namespace Kettlefog.Core.Tests;

/// <summary>The reference of the record map is generated from its JSON Schema, so that they never differ.</summary>
public class MapReferenceTests
{
    private static readonly (string Definition, string Title)[] Parts =
    [
        ("", "The file"),
        ("recordType", "A record type"),
        ("field", "A field"),
        ("field.overflow_rows", "Rows that take what overflows"),
        ("reference", "A reference"),
        ("dependent", "A reference to related rows"),
        ("figure", "A figure"),
        ("retire", "Retiring"),
        ("recordType.timeline", "The timeline"),
        ("blockers", "Blockers"),
        ("atMostOne", "At most one"),
        ("recordType.linked", "Linked records"),
        ("matching", "Matching"),
        ("rule", "A match rule"),
        ("comparison", "A comparison"),
        ("condition", "A condition"),
    ];

    private static readonly JsonElement Schema = JsonDocument.Parse(MapReader.JsonSchema).RootElement;

    private static JsonElement Definitions => Schema.GetProperty("definitions");

    [Fact]
    public void The_reference_matches_the_schema()
    {
        var file = Repository.File("docs/record-map.md");
        if (Environment.GetEnvironmentVariable("KETTLEFOG_UPDATE") == "1")
            File.WriteAllText(file, Reference());
        File.ReadAllText(file).ShouldBe(Reference(), "regenerate it with KETTLEFOG_UPDATE=1");
    }

    [Fact]
    public void Every_part_of_the_schema_is_described_in_the_reference()
    {
        var objects = Definitions
            .EnumerateObject()
            .Where(definition => definition.Value.TryGetProperty("properties", out _))
            .Select(definition => definition.Name)
            .ToList();
        objects.Except(Parts.Select(part => part.Definition)).ShouldBeEmpty();
        foreach (var (name, property) in Parts.SelectMany(part => Properties(Of(part.Definition))))
            Description(property).ShouldNotBeEmpty(name);
    }

    [Fact]
    public void The_map_in_the_guide_is_one()
    {
        var guide = File.ReadAllText(Repository.File("docs/administrators.md"));
        var example = guide.Split("```yaml\n")[1].Split("```")[0];
        MapReader.Read(example, "example.map.yaml").Map.RecordTypes.Single().References.Count.ShouldBe(3);
    }

    private static JsonElement Of(string definition) =>
        definition.Split('.') switch
        {
            [""] => Schema,
            [var name] => Definitions.GetProperty(name),
            [var name, var inner] => Inside(Definitions.GetProperty(name).GetProperty("properties").GetProperty(inner)),
            _ => throw new ArgumentException(definition),
        };

    /// <summary>The schema of the named parts, where the names are free.</summary>
    private static JsonElement Inside(JsonElement part) =>
        part.TryGetProperty("properties", out _) ? part
        : part.TryGetProperty("patternProperties", out var named) ? named.EnumerateObject().First().Value
        : part.GetProperty("additionalProperties");

    private static IEnumerable<(string Name, JsonElement Property)> Properties(JsonElement of) =>
        of.GetProperty("properties").EnumerateObject().Select(property => (property.Name, property.Value));

    private static string Reference()
    {
        var text = new StringBuilder()
            .AppendLine("# Record map reference")
            .AppendLine()
            .AppendLine(
                "You want to know what a key of the map means. This page lists every key, part by part; how the parts"
            )
            .AppendLine(
                "belong together is described [for administrators](administrators.md#the-record-map). It is generated"
            )
            .AppendLine(
                "from the map's JSON Schema, which the service publishes at `/api/map/schema`: an editor that knows the"
            )
            .AppendLine("schema completes and checks a map while you write. Required keys are in **bold**.");
        foreach (var (definition, title) in Parts)
        {
            var part = Of(definition);
            var required = part.TryGetProperty("required", out var names)
                ? names.EnumerateArray().Select(name => name.GetString()).ToHashSet()
                : [];
            text.AppendLine().AppendLine($"## {title}").AppendLine();
            if (part.TryGetProperty("description", out var said))
                text.AppendLine(said.GetString()).AppendLine();
            text.AppendLine("| key | meaning | values |").AppendLine("| --- | --- | --- |");
            foreach (var (name, property) in Properties(part))
                text.AppendLine(
                    $"| {(required.Contains(name) ? $"**`{name}`**" : $"`{name}`")} | "
                        + $"{Cell(Description(property))} | {Cell(Values(property))} |"
                );
        }

        return text.ToString();
    }

    private static string Description(JsonElement property)
    {
        if (property.TryGetProperty("description", out var said))
            return said.GetString()!;
        return property.TryGetProperty("$ref", out var reference)
            ? Description(Definitions.GetProperty(NameOf(reference)))
            : "";
    }

    private static string Values(JsonElement property)
    {
        if (property.TryGetProperty("$ref", out var reference))
        {
            var name = NameOf(reference);
            return Parts.Any(part => part.Definition == name)
                ? $"[{Parts.First(part => part.Definition == name).Title.ToLowerInvariant()}](#{Parts
                    .First(part => part.Definition == name).Title.ToLowerInvariant().Replace(' ', '-')})"
                : Values(Definitions.GetProperty(name));
        }

        if (property.TryGetProperty("const", out var constant))
            return $"`{constant.GetRawText()}`";
        if (property.TryGetProperty("enum", out var words))
            return string.Join(", ", words.EnumerateArray().Select(word => $"`{word.GetString()}`"));
        foreach (var several in new[] { "oneOf", "anyOf" })
        {
            if (property.TryGetProperty(several, out var options))
                return string.Join(
                    "; or ",
                    options.EnumerateArray().Select(Values).Where(value => value.Length > 0).Distinct()
                );
        }

        if (property.TryGetProperty("patternProperties", out var named))
            return $"by name: {string.Join("; or ", named.EnumerateObject().Select(each => Values(each.Value)))}";
        if (property.TryGetProperty("additionalProperties", out var more) && more.ValueKind == JsonValueKind.Object)
            return $"by name: {Values(more)}";
        if (property.TryGetProperty("properties", out var inner))
            return string.Join("; ", inner.EnumerateObject().Select(each => $"`{each.Name}`: {Values(each.Value)}"));
        if (property.TryGetProperty("items", out var items))
            return $"a list of: {Values(items)}";
        return property.TryGetProperty("type", out var type)
            ? string.Join(
                " or ",
                (type.ValueKind == JsonValueKind.Array ? type.EnumerateArray() : new[] { type }.AsEnumerable()).Select(
                    each =>
                        each.GetString() switch
                        {
                            "string" => "text",
                            "boolean" => "`true` or `false`",
                            "number" or "integer" => "a number",
                            "null" => "blank",
                            var other => other,
                        }
                )
            )
            : "";
    }

    private static string NameOf(JsonElement reference) => reference.GetString()!.Split('/')[^1];

    private static string Cell(string text) => text.Replace("|", "\\|", StringComparison.Ordinal);
}
