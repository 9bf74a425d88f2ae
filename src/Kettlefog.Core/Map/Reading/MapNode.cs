using Kettlefog.Core.Naming;
using YamlDotNet.RepresentationModel;

namespace Kettlefog.Core.Map.Reading;

/// <summary>
/// A mapping in the YAML file, read key by key. Every mistake is added to the problems with its line; reading
/// continues with a harmless value, so that one run reports every mistake.
/// </summary>
internal sealed class MapNode
{
    private readonly YamlMappingNode _node;
    private readonly MapProblems _problems;
    private readonly Dictionary<string, int> _lines;

    public MapNode(YamlMappingNode node, string path, MapProblems problems, Dictionary<string, int> lines)
    {
        _node = node;
        Path = path;
        _problems = problems;
        _lines = lines;
        _lines.TryAdd(path, Line);
        foreach (var (key, value) in node.Children)
            _lines[Join(Scalar(key) ?? "")] = (int)key.Start.Line;
    }

    public string Path { get; }

    public int Line => (int)_node.Start.Line;

    public IEnumerable<string> Keys => _node.Children.Keys.Select(key => Scalar(key) ?? "");

    /// <summary>Reports every key that is not among the known ones.</summary>
    public MapNode Only(params string[] known)
    {
        foreach (var key in _node.Children.Keys)
        {
            var name = Scalar(key) ?? "";
            if (!known.Contains(name))
                _problems.Add((int)key.Start.Line, $"{Place} has no key '{name}'.", Spelling.Instead(name, known));
        }

        return this;
    }

    public bool Has(string key) => Find(key) is not null;

    public string? Text(string key)
    {
        var node = Find(key);
        if (node is null)
            return null;
        if (Scalar(node) is { } text && text.Length > 0)
            return text;
        _problems.Add((int)node.Start.Line, $"'{Join(key)}' is not a text.", $"Write '{key}: some text'.");
        return null;
    }

    public string RequiredText(string key, string example)
    {
        if (Text(key) is { } text)
            return text;
        if (!Has(key))
            _problems.Add(Line, $"{Place} lacks '{key}'.", $"Write '{key}: {example}'.");
        return "";
    }

    public T? Word<T>(string key)
        where T : struct, Enum
    {
        if (Text(key) is not { } text)
            return null;
        if (EnumName.TryRead<T>(text, out var value))
            return value;
        _problems.Add(
            (int)Find(key)!.Start.Line,
            $"'{text}' is not a known value of '{Join(key)}'.",
            Spelling.Instead(text, EnumName.All<T>())
        );
        return null;
    }

    public bool Flag(string key)
    {
        switch (Text(key))
        {
            case null or "false":
                return false;
            case "true":
                return true;
            case var other:
                _problems.Add(
                    (int)Find(key)!.Start.Line,
                    $"'{Join(key)}' is '{other}', but it is a yes or no.",
                    "Write 'true' or 'false'."
                );
                return false;
        }
    }

    /// <summary>A list of texts; a single text counts as a list of one.</summary>
    public IReadOnlyList<string> Texts(string key)
    {
        switch (Find(key))
        {
            case null:
                return [];
            case YamlScalarNode when Text(key) is { } text:
                return [text];
            case YamlSequenceNode list when list.Children.All(item => Scalar(item) is { Length: > 0 }):
                return [.. list.Children.Select(item => Scalar(item)!)];
            case var node:
                _problems.Add(
                    (int)node.Start.Line,
                    $"'{Join(key)}' is not a list of texts.",
                    $"Write '{key}: [one, two]'."
                );
                return [];
        }
    }

    /// <summary>A list of texts and of mappings, in its order.</summary>
    public IReadOnlyList<(string? Word, MapNode? Item)> WordsOrItems(string key) =>
        Find(key) switch
        {
            null => [],
            YamlSequenceNode list =>
            [
                .. list.Children.SelectMany(
                    (item, index) =>
                        Scalar(item) is { Length: > 0 } word
                            ? [(word, null)]
                            : Items($"{key}[{index}]", item).Select(node => ((string?)null, (MapNode?)node))
                ),
            ],
            _ => [.. Texts(key).Select(word => ((string?)word, (MapNode?)null))],
        };

    /// <summary>A list of lists of texts.</summary>
    public IReadOnlyList<IReadOnlyList<string>> TextLists(string key)
    {
        switch (Find(key))
        {
            case null:
                return [];
            case YamlSequenceNode list
                when list.Children.All(item =>
                    item is YamlSequenceNode inner && inner.Children.All(each => Scalar(each) is { Length: > 0 })
                ):
                return
                [
                    .. list.Children.Select(item =>
                        (IReadOnlyList<string>)[.. ((YamlSequenceNode)item).Children.Select(each => Scalar(each)!)]
                    ),
                ];
            case var node:
                _problems.Add(
                    (int)node.Start.Line,
                    $"'{Join(key)}' is not a list of lists of texts.",
                    $"Write '{key}: [[one, two], [three, four]]'."
                );
                return [];
        }
    }

    /// <summary>A list of lists of texts, where a text or a plain list of texts counts as a list of one list.</summary>
    public IReadOnlyList<IReadOnlyList<string>> AnyOfTexts(string key) =>
        Find(key) switch
        {
            null => [],
            YamlSequenceNode list when list.Children.Any(item => item is YamlSequenceNode) => TextLists(key),
            _ => Texts(key) is { Count: > 0 } texts ? [texts] : [],
        };

    /// <summary>A list of mappings; a single mapping counts as a list of one.</summary>
    public IReadOnlyList<MapNode> Items(string key) => Find(key) is { } node ? Items(key, node) : [];

    /// <summary>A list of lists of mappings; a mapping in place of an inner list counts as a list of one.</summary>
    public IReadOnlyList<IReadOnlyList<MapNode>> Groups(string key)
    {
        switch (Find(key))
        {
            case null:
                return [];
            case YamlSequenceNode list:
                return [.. list.Children.Select((item, index) => Items($"{key}[{index}]", item))];
            case var node:
                _problems.Add(
                    (int)node.Start.Line,
                    $"'{Join(key)}' is not a list.",
                    $"Write '{key}: [[{{field: ..., is: ...}}]]'."
                );
                return [];
        }
    }

    /// <summary>A number, or null.</summary>
    public decimal? Number(string key)
    {
        if (Text(key) is not { } text)
            return null;
        if (
            decimal.TryParse(
                text,
                System.Globalization.NumberStyles.Float,
                System.Globalization.CultureInfo.InvariantCulture,
                out var number
            )
        )
            return number;
        _problems.Add(
            (int)Find(key)!.Start.Line,
            $"'{Join(key)}' is '{text}', but it is a number.",
            $"Write '{key}: 90'."
        );
        return null;
    }

    private List<MapNode> Items(string key, YamlNode node)
    {
        switch (node)
        {
            case YamlMappingNode mapping:
                return [new MapNode(mapping, Join(key), _problems, _lines)];
            case YamlSequenceNode list when list.Children.All(item => item is YamlMappingNode):
                return
                [
                    .. list.Children.Select(
                        (item, index) => new MapNode((YamlMappingNode)item, $"{Join(key)}[{index}]", _problems, _lines)
                    ),
                ];
            default:
                _problems.Add(
                    (int)node.Start.Line,
                    $"'{Join(key)}' is not a list of mappings.",
                    "Write '{field: name, is: exact}' in it."
                );
                return [];
        }
    }

    /// <summary>A mapping of texts to texts.</summary>
    public IReadOnlyDictionary<string, string> TextMap(string key) =>
        Child(key) is { } child
            ? child.Keys.ToDictionary(name => name, name => child.Text(name) ?? "")
            : new Dictionary<string, string>();

    /// <summary>A mapping of names to texts, where a plain <c>null</c> is blank.</summary>
    public IReadOnlyDictionary<string, string?> BlankableTextMap(string key) =>
        Child(key) is { } child
            ? child.Keys.ToDictionary(
                name => name,
                name =>
                    child.Find(name)
                        is YamlScalarNode
                        {
                            Style: YamlDotNet.Core.ScalarStyle.Plain,
                            Value: null or "" or "~" or "null"
                        }
                        ? null
                        : child.Text(name)
            )
            : new Dictionary<string, string?>();

    /// <summary>A mapping below this one, or null; reports anything else.</summary>
    public MapNode? Child(string key)
    {
        switch (Find(key))
        {
            case null:
                return null;
            case YamlMappingNode mapping:
                return new MapNode(mapping, Join(key), _problems, _lines);
            case var node:
                _problems.Add(
                    (int)node.Start.Line,
                    $"'{Join(key)}' is not a mapping.",
                    "Indent 'name: value' lines under it."
                );
                return null;
        }
    }

    /// <summary>The mappings below a key, each with its name.</summary>
    public IEnumerable<(string Name, MapNode Node)> Children(string key, bool mayBeEmpty = false)
    {
        if (Child(key) is not { } parent)
            yield break;
        foreach (var name in parent.Keys)
        {
            if (!NameIsPlain(name))
                _problems.Add(
                    parent._lines[parent.Join(name)],
                    $"'{name}' is not a valid name.",
                    "Use lower-case letters, digits and '_', starting with a letter."
                );
            if (mayBeEmpty && parent.Find(name) is YamlScalarNode { Value: null or "" } empty)
                yield return (
                    name,
                    new MapNode(new YamlMappingNode(), parent.Join(name), _problems, _lines).At((int)empty.Start.Line)
                );
            else if (parent.Child(name) is { } node)
                yield return (name, node);
        }
    }

    public string Join(string key) => Path.Length == 0 ? key : $"{Path}.{key}";

    private string Place => Path.Length == 0 ? "The map" : $"'{Path}'";

    private MapNode At(int line)
    {
        _lines[Path] = line;
        return this;
    }

    private YamlNode? Find(string key) =>
        _node.Children.TryGetValue(new YamlScalarNode(key), out var node) ? node : null;

    private static string? Scalar(YamlNode node) => (node as YamlScalarNode)?.Value;

    private static bool NameIsPlain(string name) =>
        name.Length > 0
        && char.IsAsciiLetterLower(name[0])
        && name.All(letter => char.IsAsciiLetterLower(letter) || char.IsAsciiDigit(letter) || letter == '_');
}
