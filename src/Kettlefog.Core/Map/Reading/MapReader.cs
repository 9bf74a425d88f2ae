using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Values;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Kettlefog.Core.Map.Reading;

/// <summary>Reads a record map from YAML 1.2.</summary>
public static class MapReader
{
    internal static readonly string[] RootKeys = ["kettlefog", "name", "record_types"];

    /// <summary>The JSON Schema (draft 2020-12) of the file, for editors.</summary>
    public static string JsonSchema { get; } = ReadSchema();

    private const int MaxNesting = 50;

    /// <summary>Reads a map.</summary>
    /// <param name="yaml">The text of the file.</param>
    /// <param name="file">The file's name, for messages.</param>
    /// <exception cref="KettlefogException">
    /// The file is not YAML or not a map; every mistake is in the details with its line.
    /// </exception>
    public static MapDocument Read(string yaml, string file)
    {
        ArgumentNullException.ThrowIfNull(yaml);
        ArgumentNullException.ThrowIfNull(file);
        var problems = new MapProblems(file);
        var lines = new Dictionary<string, int>();
        var map = ReadRoot(Load(yaml, problems), Sha256Digest.OfText(yaml), problems, lines);
        problems.ThrowIfAny();
        return new MapDocument(map, file, lines);
    }

    internal static YamlMappingNode Load(string yaml, MapProblems problems)
    {
        var stream = new YamlStream();
        try
        {
            CheckNesting(yaml, problems);
            stream.Load(new StringReader(yaml));
        }
        catch (YamlException error)
        {
            var reason = error.InnerException?.Message ?? error.Message;
            problems.Add(
                (int)error.Start.Line,
                $"The file is not YAML: {reason.TrimEnd('.')}.",
                "Check indentation, quotes and colons here."
            );
            problems.ThrowIfAny();
        }
        catch (Exception error) when (error is InvalidOperationException or ArgumentException)
        {
            // What the parser throws at some texts that are no YAML.
            problems.Add(1, "The file is not YAML.", "Check indentation, quotes, brackets and colons.");
            problems.ThrowIfAny();
        }

        if (stream.Documents.Count == 1 && stream.Documents[0].RootNode is YamlMappingNode root)
            return root;
        problems.Add(1, "The file is not a YAML mapping.", "Start with 'kettlefog: 1'.");
        problems.ThrowIfAny();
        return [];
    }

    /// <summary>The parser would need as much of the stack as a file is nested.</summary>
    private static void CheckNesting(string yaml, MapProblems problems)
    {
        var parser = new Parser(new StringReader(yaml));
        var depth = 0;
        while (parser.MoveNext())
        {
            depth += parser.Current!.NestingIncrease;
            if (depth <= MaxNesting)
                continue;
            problems.Add(
                (int)parser.Current.Start.Line,
                $"The file is nested more than {MaxNesting} deep.",
                "A record map has at most ten levels."
            );
            problems.ThrowIfAny();
        }
    }

    private static RecordMap ReadRoot(
        YamlMappingNode yaml,
        string fingerprint,
        MapProblems problems,
        Dictionary<string, int> lines
    )
    {
        var root = new MapNode(yaml, "", problems, lines).Only(RootKeys);
        if (root.RequiredText("kettlefog", "1") is { Length: > 0 } version && version != "1")
            problems.Add(
                lines["kettlefog"],
                $"'{version}' is not a version of the map format.",
                "Write 'kettlefog: 1'."
            );
        var types = root.Children("record_types")
            .Select(child => RecordTypeReader.Read(child.Name, child.Node, problems, lines))
            .ToList();
        if (types.Count == 0)
            problems.Add(root.Line, "The map has no record type.", "Add at least one under 'record_types:'.");
        foreach (var type in types)
            LinkedRecordsReader.CheckTargets(type, types, root.Line, problems, lines);
        return new RecordMap(root.RequiredText("name", "our operational database"), fingerprint, types);
    }

    private static string ReadSchema()
    {
        using var stream = typeof(MapReader).Assembly.GetManifestResourceStream("record-map.schema.json")!;
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    }
}
