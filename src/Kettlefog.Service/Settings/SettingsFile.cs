using Kettlefog.Terminal;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Kettlefog.Service.Settings;

/// <summary>The configuration file: a YAML mapping of names to values.</summary>
/// <param name="Path">Where it is; null if there is none.</param>
/// <param name="Values">What it says.</param>
internal sealed record SettingsFile(string? Path, IReadOnlyDictionary<string, string> Values)
{
    private const string Name = "service.yaml";

    /// <summary>Where a file is looked for if none is named: the user's own, then the machine's.</summary>
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

    /// <summary>Reads the file that holds.</summary>
    /// <param name="named">The file, if somebody names one.</param>
    /// <exception cref="UsageException">It cannot be read, or says something that is no setting.</exception>
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

    /// <summary>A path as the file means it: from where the file is.</summary>
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
                "Write one 'name: value' a line."
            );
        }

        if (stream.Documents.Count == 0)
            return [];
        if (stream.Documents[0].RootNode is not YamlMappingNode root)
            throw Wrong(
                path,
                1,
                "it does not hold names and values",
                "Write one 'name: value' a line, as in 'database: books.db'."
            );
        var values = new Dictionary<string, string>();
        foreach (var (key, node) in root.Children)
        {
            var name = (key as YamlScalarNode)?.Value ?? "";
            if (!ServiceSettings.Names.Contains(name))
                throw Wrong(
                    path,
                    key.Start.Line,
                    $"'{name}' is no setting",
                    $"The settings are: {string.Join(", ", ServiceSettings.Names)}."
                );
            values[name] = (node as YamlScalarNode)?.Value is { Length: > 0 } value
                ? value
                : throw Wrong(
                    path,
                    key.Start.Line,
                    $"'{name}' has no value",
                    "Write one behind the colon, or leave the line out."
                );
        }

        return values;
    }

    private static UsageException Wrong(string path, long line, string what, string hint) =>
        new($"The configuration file {path}:{line} is wrong: {what.TrimEnd('.')}.", hint);
}
