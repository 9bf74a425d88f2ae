using Kettlefog.Terminal;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Kettlefog.Service.Settings;

/// <summary>The configuration file: a YAML mapping of names to values.</summary>
/// <param name="Path">Its path; null if there is none.</param>
/// <param name="Values">Its values, by name.</param>
internal sealed record SettingsFile(string? Path, IReadOnlyDictionary<string, string> Values)
{
    private const string Name = "service.yaml";

    /// <summary>The standard places of the file: the user's, then the machine's.</summary>
    public static IReadOnlyList<string> Places { get; } =
    [
        System.IO.Path.Combine(
            Environment.GetEnvironmentVariable("XDG_CONFIG_HOME") is { Length: > 0 } home
                ? home
                : System.IO.Path.Combine(Environment.GetFolderPath(Environment.SpecialFolder.UserProfile), ".config"),
            "kettlefog",
            Name
        ),
        $"/etc/kettlefog/{Name}",
    ];

    /// <summary>Reads the file that applies.</summary>
    /// <param name="named">The file, if one was given.</param>
    /// <exception cref="UsageException">It cannot be read, or contains something that is not a setting.</exception>
    public static SettingsFile Find(string? named)
    {
        named ??= Environment.GetEnvironmentVariable("KETTLEFOG_CONFIG") is { Length: > 0 } variable ? variable : null;
        var path = named ?? Places.FirstOrDefault(File.Exists);
        if (path is null)
            return new SettingsFile(null, new Dictionary<string, string>());
        try
        {
            return new SettingsFile(path, Read(File.ReadAllText(path), path));
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new UsageException(
                $"The configuration file {path} cannot be read: {error.Message}",
                "Check the path and the rights of the file."
            );
        }
    }

    /// <summary>A path relative to the folder of the file.</summary>
    public string Resolve(string value) =>
        Path is null
        || value.Contains("://", StringComparison.Ordinal)
        || value.Contains("Host=", StringComparison.OrdinalIgnoreCase)
            ? value
            : System.IO.Path.Combine(System.IO.Path.GetDirectoryName(System.IO.Path.GetFullPath(Path))!, value);

    private static Dictionary<string, string> Read(string yaml, string path)
    {
        var stream = new YamlStream();
        try
        {
            stream.Load(new StringReader(yaml));
        }
        catch (YamlException error)
        {
            throw Wrong(
                path,
                error.Start.Line,
                error.InnerException?.Message ?? error.Message,
                "Write one 'name: value' per line."
            );
        }

        if (stream.Documents.Count == 0)
            return [];
        if (stream.Documents[0].RootNode is not YamlMappingNode root)
            throw Wrong(
                path,
                1,
                "it does not contain names and values",
                "Write one 'name: value' per line, as in 'database: books.db'."
            );
        var values = new Dictionary<string, string>();
        foreach (var (key, node) in root.Children)
        {
            var name = (key as YamlScalarNode)?.Value ?? "";
            if (!ServiceSettings.Names.Contains(name))
                throw Wrong(
                    path,
                    key.Start.Line,
                    $"'{name}' is not a setting",
                    $"The settings are: {string.Join(", ", ServiceSettings.Names)}."
                );
            values[name] = (node as YamlScalarNode)?.Value is { Length: > 0 } value
                ? value
                : throw Wrong(
                    path,
                    key.Start.Line,
                    $"'{name}' has no value",
                    "Write one after the colon, or remove the line."
                );
        }

        return values;
    }

    private static UsageException Wrong(string path, long line, string what, string hint) =>
        new($"The configuration file {path}:{line} is wrong: {what.TrimEnd('.')}.", hint);
}
