using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Values;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Kettlefog.Core.Map.Reading;

/// <summary>Reads a record map from YAML 1.2.</summary>
public static class MapReader
{
    internal static readonly string[] RootKeys = ["kettlefog", "name", "record_types"];

    internal static readonly string[] RecordTypeKeys =
    [
        "title", "plural", "table", "key", "label", "created", "changed", "source", "owner", "master", "survivorship", "source_order", "blank",
        "fields", "references", "figures", "retire", "timeline", "require_reason", "blockers", "linked", "matching",
    ];

    internal static readonly string[] MatchingKeys = ["country", "partition", "nicknames", "rules"];

    internal static readonly string[] FieldKeys = ["title", "column", "kind", "survivorship", "group", "separator", "overflow", "overflow_rows", "currency"];

    internal static readonly string[] OverflowRowsKeys = ["reference", "column", "values"];

    internal static readonly string[] ReferenceKeys =
        ["title", "table", "columns", "to", "as", "key", "when", "policy", "may_exclude", "collision", "combine", "amount", "show"];

    internal static readonly string[] FigureKeys = ["title", "reference", "count", "sum", "last", "first", "control"];

    internal static readonly string[] RetireKeys = ["delete", "mark"];

    internal static readonly string[] TimelineKeys = ["table", "values"];

    internal static readonly string[] LinkedKeys = ["title", "type", "through", "columns", "same"];

    internal static readonly string[] AtMostOneKeys = ["name", "title", "reference", "when", "end"];

    internal static readonly string[] BlockerKeys = ["must_agree", "forbid", "at_most_one"];

    /// <summary>The JSON Schema (draft 2020-12) of the file, for editors.</summary>
    public static string JsonSchema { get; } = ReadSchema();

    /// <summary>Reads a map.</summary>
    /// <param name="yaml">The text of the file.</param>
    /// <param name="file">The file's name, for messages.</param>
    /// <exception cref="KettlefogException">The file is not YAML or not a map; every mistake is in the details with its line.</exception>
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
            stream.Load(new StringReader(yaml));
        }
        catch (YamlException error)
        {
            var reason = error.InnerException?.Message ?? error.Message;
            problems.Add((int)error.Start.Line, $"The file is not YAML: {reason.TrimEnd('.')}.", "Check indentation, quotes and colons here.");
            problems.ThrowIfAny();
        }

        if (stream.Documents.Count == 1 && stream.Documents[0].RootNode is YamlMappingNode root)
            return root;
        problems.Add(1, "The file does not hold one mapping.", "Begin with 'kettlefog: 1'.");
        problems.ThrowIfAny();
        return [];
    }

    private static RecordMap ReadRoot(
        YamlMappingNode yaml,
        string fingerprint,
        MapProblems problems,
        Dictionary<string, int> lines)
    {
        var root = new MapNode(yaml, "", problems, lines).Only(RootKeys);
        if (root.RequiredText("kettlefog", "1") is { Length: > 0 } version && version != "1")
            problems.Add(lines["kettlefog"], $"'{version}' is not a version of the map format.", "Write 'kettlefog: 1'.");
        var types = root.Children("record_types").Select(child => ReadRecordType(child.Name, child.Node, problems, lines)).ToList();
        if (types.Count == 0)
            problems.Add(root.Line, "The map names no record type.", "Add 'record_types:' with one at least.");
        foreach (var type in types)
            CheckLinked(type, types, root.Line, problems, lines);
        return new RecordMap(root.RequiredText("name", "our operational database"), fingerprint, types);
    }

    private static RecordType ReadRecordType(
        string name,
        MapNode node,
        MapProblems problems,
        Dictionary<string, int> lines)
    {
        node.Only(RecordTypeKeys);
        var fields = node.Children("fields", mayBeEmpty: true).Select(child => ReadField(child.Name, child.Node)).ToList();
        if (fields.Count == 0)
            problems.Add(node.Line, $"'{node.Path}' names no field.", "Add 'fields:' with those that an operator may choose.");
        var references = node.Children("references").Select(child => ReadReference(child.Name, child.Node, problems)).ToList();
        var title = node.Text("title") ?? Sentence(name);
        var type = new RecordType(
            name,
            title,
            node.Text("plural") ?? title + "s",
            node.RequiredText("table", name),
            node.Texts("key"),
            node.RequiredText("label", "'{name}'"),
            node.Text("created"),
            node.Text("changed"),
            node.Text("source"),
            node.Text("owner"),
            MasterPreference.Read(node, [.. references.Select(reference => reference.Name)], node.Has("source"), problems),
            node.Word<SurvivorshipRule>("survivorship") ?? SurvivorshipRule.MasterUnlessBlank,
            node.Texts("source_order"),
            node.Texts("blank"),
            fields,
            references,
            node.Children("figures").Select(child => ReadFigure(child.Name, child.Node, references, problems)).ToList(),
            ReadRetirement(node, problems),
            ReadBlockers(node, references),
            ReadMatching(node, fields, references, problems))
        {
            Timeline = ReadTimeline(node, problems),
            RequireReason = node.Flag("require_reason"),
            Linked = [.. node.Children("linked").Select(child => ReadLinked(child.Name, child.Node, references, problems))],
        };
        CheckNames(type, node, problems, lines);
        foreach (var excluded in references.Where(reference => reference.MayExclude && (type.Retirement.Delete || reference.Policy != ReferencePolicy.Reassign)))
        {
            var line = lines.GetValueOrDefault(node.Join($"references.{excluded.Name}.may_exclude"), node.Line);
            problems.Add(
                line,
                type.Retirement.Delete
                    ? $"'{excluded.Name}' may be excluded from a merge, but the duplicates are deleted: its rows would point at nothing."
                    : $"'{excluded.Name}' may be excluded from a merge, but its rows are not reassigned anyway.",
                type.Retirement.Delete ? "Retire by 'mark', or leave 'may_exclude' out." : "Leave 'may_exclude' out.");
        }

        foreach (var left in references.Where(reference => type.Retirement.Delete && reference.Policy == ReferencePolicy.Leave))
        {
            var path = node.Join($"references.{left.Name}");
            problems.Add(lines.GetValueOrDefault(path, node.Line), $"'{path}' leaves its rows with the duplicate, which is deleted.", "Write 'policy: reassign' or 'policy: block', or retire by 'mark'.");
        }

        return type;
    }

    private static Field ReadField(string name, MapNode node)
    {
        node.Only(FieldKeys);
        return new Field(
            name,
            node.Text("title") ?? Sentence(name),
            node.Text("column") ?? name,
            node.Word<FieldKind>("kind") ?? FieldKind.Text,
            node.Word<SurvivorshipRule>("survivorship"),
            node.Text("group"),
            node.Text("separator"),
            node.Texts("overflow"))
        { OverflowRows = ReadOverflowRows(node), Currency = node.Text("currency") };
    }

    private static OverflowRows? ReadOverflowRows(MapNode field) => field.Child("overflow_rows")?.Only(OverflowRowsKeys) is { } node
        ? new OverflowRows(node.RequiredText("reference", "emails"), node.RequiredText("column", "address"), node.TextMap("values"))
        : null;

    private static Reference ReadReference(string name, MapNode node, MapProblems problems)
    {
        node.Only(ReferenceKeys);
        var columns = node.Texts("columns");
        if (columns.Count == 0 && !node.Has("columns"))
            problems.Add(node.Line, $"'{node.Path}' lacks 'columns'.", "Name the columns that hold the record's key, as in 'columns: vendor_id'.");
        var template = node.Text("as");
        if (template?.Split(Reference.KeyPlaceholder).Length is not (null or 2))
            problems.Add(node.Line, $"'{node.Path}.as' is '{template}', which does not say where the key stands.", "Write the text that the column holds with '{key}' once, as in 'as: \"contact:{key}\"'.");
        if (template is not null && columns.Count > 1)
            problems.Add(node.Line, $"'{node.Path}.as' is the text of one column, but there are {columns.Count}.", "Name the column that holds the text.");
        return new Reference(
            name,
            node.Text("title") ?? Sentence(name),
            node.RequiredText("table", name),
            columns,
            node.Texts("key"),
            node.TextMap("when"),
            node.Word<ReferencePolicy>("policy") ?? ReferencePolicy.Reassign,
            node.Text("amount"),
            node.Texts("show"),
            node.Word<CollisionPolicy>("collision") ?? CollisionPolicy.Block,
            ReadCombine(node, problems))
        { To = node.Texts("to"), Template = template, MayExclude = node.Flag("may_exclude") };
    }

    private static Dictionary<string, SurvivorshipRule> ReadCombine(MapNode reference, MapProblems problems)
    {
        var rules = new Dictionary<string, SurvivorshipRule>();
        if (reference.Child("combine") is not { } node)
            return rules;
        if (reference.Text("collision") != EnumName.Of(CollisionPolicy.Combine))
            problems.Add(node.Line, $"'{node.Path}' says how rows are combined, but they are not.", "Write 'collision: combine' too.");
        foreach (var column in node.Keys)
        {
            if (node.Word<SurvivorshipRule>(column) is { } rule)
                rules[column] = rule;
        }

        return rules;
    }

    private static Figure ReadFigure(string name, MapNode node, List<Reference> references, MapProblems problems)
    {
        node.Only(FigureKeys);
        var operations = FigureKeys[2..6].Where(node.Has).ToList();
        if (operations.Count != 1)
            problems.Add(node.Line, $"'{node.Path}' says {(operations.Count == 0 ? "not" : "more than once")} how it is computed.", "Write one of 'count: true', 'sum: column', 'last: column' and 'first: column'.");
        var word = operations.FirstOrDefault() ?? "count";
        EnumName.TryRead<FigureOperation>(word, out var operation);
        if (operation == FigureOperation.Count && node.Has("count") && !node.Flag("count"))
            problems.Add(node.Line, $"'{node.Path}.count' is not 'true'.", "Write 'count: true'.");
        var reference = node.RequiredText("reference", references.FirstOrDefault()?.Name ?? "bills");
        if (reference.Length > 0 && references.All(known => known.Name != reference))
            problems.Add(node.Line, $"'{node.Path}' speaks of the reference '{reference}', which the record type does not have.", Spelling.Instead(reference, references.Select(known => known.Name)));
        var control = node.Flag("control");
        if (control && operation is not (FigureOperation.Count or FigureOperation.Sum))
            problems.Add(node.Line, $"'{node.Path}' cannot be a control total, because it does not add up.", "Make it a 'count' or a 'sum', or leave 'control' out.");
        return new Figure(
            name,
            node.Text("title") ?? Sentence(name),
            reference,
            operation,
            operation == FigureOperation.Count ? null : node.Text(word),
            control);
    }

    private static Retirement ReadRetirement(MapNode type, MapProblems problems)
    {
        var node = type.Child("retire");
        if (node is null)
        {
            if (!type.Has("retire"))
                problems.Add(type.Line, $"'{type.Path}' does not say what becomes of a duplicate.", "Write 'retire: {mark: {status: merged}}' or 'retire: {delete: true}'.");
            return new Retirement(true, new Dictionary<string, string>());
        }

        node.Only(RetireKeys);
        var delete = node.Flag("delete");
        var mark = node.TextMap("mark");
        if (delete == mark.Count > 0)
            problems.Add(node.Line, $"'{node.Path}' must either delete or mark.", "Write 'mark: {status: merged}' or 'delete: true', not both.");
        return new Retirement(delete, mark);
    }

    private static Timeline? ReadTimeline(MapNode type, MapProblems problems)
    {
        if (type.Child("timeline") is not { } node)
            return null;
        node.Only(TimelineKeys);
        var values = node.TextMap("values");
        if (values.Count == 0)
            problems.Add(node.Line, $"'{node.Path}' does not say what the row holds.", "Write 'values: {subject_id: \"{key}\", summary: \"Merged with {duplicates}\"}'.");
        foreach (var word in values.Values.SelectMany(Timeline.WordsIn).Where(word => !Timeline.Words.Contains(word)))
            problems.Add(node.Line, $"'{node.Path}' speaks of '{{{word}}}', which stands for nothing.", Spelling.Instead(word, Timeline.Words));
        return new Timeline(node.RequiredText("table", "activity"), values);
    }

    private static LinkedRecords ReadLinked(string name, MapNode node, List<Reference> references, MapProblems problems)
    {
        node.Only(LinkedKeys);
        var through = node.Text("through");
        if (through is not null && references.All(reference => reference.Name != through))
            problems.Add(node.Line, $"'{node.Path}' goes through the reference '{through}', which the record type does not have.", Spelling.Instead(through, references.Select(reference => reference.Name)));
        var columns = node.Texts("columns");
        if (through is null && columns.Count == 0)
            problems.Add(node.Line, $"'{node.Path}' does not say how the records are found.", "Write 'through: reference' for children, or 'columns: parent_id' for parents.");
        var same = node.AnyOfTexts("same");
        if (through is not null && same.Count == 0)
            problems.Add(node.Line, $"'{node.Path}' does not say when two of them are the same.", "Write 'same: hull_number', or several groups as in 'same: [[name, birth_date], [email]]'.");
        return new LinkedRecords(name, node.Text("title") ?? Sentence(name), node.Text("type") ?? name.TrimEnd('s'), through, columns, same);
    }

    private static void CheckLinked(RecordType type, List<RecordType> types, int rootLine, MapProblems problems, Dictionary<string, int> lines)
    {
        foreach (var linked in type.Linked)
        {
            var path = $"record_types.{type.Name}.linked.{linked.Name}";
            var line = lines.GetValueOrDefault(path, rootLine);
            if (types.Find(each => each.Name == linked.Type) is not { } other)
            {
                problems.Add(line, $"'{path}' speaks of the record type '{linked.Type}', which the map does not have.", Spelling.Instead(linked.Type, types.Select(each => each.Name)));
                continue;
            }

            foreach (var field in linked.Same.SelectMany(group => group).Where(name => other.Fields.All(field => field.Name != name)))
                problems.Add(line, $"'{path}' compares the field '{field}', which the record type '{other.Name}' does not have.", Spelling.Instead(field, other.Fields.Select(each => each.Name)));
        }
    }

    private static BlockerRules ReadBlockers(MapNode type, List<Reference> references)
    {
        var node = type.Child("blockers")?.Only(BlockerKeys);
        var forbid = node?.Child("forbid");
        return new BlockerRules(
            node?.Texts("must_agree") ?? [],
            forbid?.Keys.ToDictionary(field => field, forbid.Texts) ?? new Dictionary<string, IReadOnlyList<string>>(),
            [.. (node?.WordsOrItems("at_most_one") ?? []).Select(each => each.Item is { } item ? ReadAtMostOne(item, references) : AtMostOne(each.Word!, null, each.Word!, references))]);
    }

    private static AtMostOneRule ReadAtMostOne(MapNode node, List<Reference> references)
    {
        node.Only(AtMostOneKeys);
        var reference = node.RequiredText("reference", references.FirstOrDefault()?.Name ?? "agreements");
        var rule = AtMostOne(node.Text("name") ?? reference, node.Text("title"), reference, references);
        return rule with { When = node.BlankableTextMap("when"), End = node.BlankableTextMap("end") };
    }

    private static AtMostOneRule AtMostOne(string name, string? title, string reference, List<Reference> references) => new(
        name,
        title ?? references.Find(each => each.Name == reference)?.Title ?? Sentence(name),
        reference,
        new Dictionary<string, string?>(),
        new Dictionary<string, string?>());

    private static MatchSettings ReadMatching(MapNode type, List<Field> fields, List<Reference> references, MapProblems problems)
    {
        if (type.Child("matching")?.Only(MatchingKeys) is not { } node)
            return MatchSettings.None;
        var country = node.Text("country");
        if (country is not null && (country.Length != 2 || !country.All(char.IsAsciiLetterUpper)))
            problems.Add(node.Line, $"'{country}' is not a country.", "Write two letters of ISO 3166-1, as in 'country: GB'.");
        var partition = node.Texts("partition");
        foreach (var name in partition.Where(name => fields.All(field => field.Name != name)))
            problems.Add(node.Line, $"'{node.Join("partition")}' speaks of the field '{name}', which the record type does not have.", Spelling.Instead(name, fields.Select(field => field.Name)));
        return new MatchSettings(
            country,
            partition,
            node.TextLists("nicknames"),
            [.. node.Children("rules", mayBeEmpty: true).Select(child => MatchRuleReader.Read(child.Name, child.Node, fields, [.. references.Select(reference => reference.Name)], type.Has("source"), problems))]);
    }

    private static void CheckNames(RecordType type, MapNode node, MapProblems problems, Dictionary<string, int> lines)
    {
        var known = type.Fields.Select(field => field.Name).ToList();
        var used = type.Blockers.MustAgree.Select(name => (name, path: node.Join("blockers.must_agree")))
            .Concat(type.Blockers.Forbid.Keys.Select(name => (name, path: node.Join($"blockers.forbid.{name}"))))
            .Concat(type.Fields.SelectMany(field => (field.Overflow ?? []).Select(name => (name, path: node.Join($"fields.{field.Name}.overflow")))))
            .Concat(type.Fields.Where(field => field.Currency is not null).Select(field => (name: field.Currency!, path: node.Join($"fields.{field.Name}.currency"))))
            .Concat(Braces(type.Label).Select(name => (name, path: node.Join("label"))));
        foreach (var (name, path) in used.Where(pair => !known.Contains(pair.name)))
            problems.Add(lines.GetValueOrDefault(path, node.Line), $"'{path}' speaks of the field '{name}', which the record type does not have.", Spelling.Instead(name, known));
        foreach (var field in type.Fields.Where(field => (field.Overflow ?? []).Contains(field.Name)))
            problems.Add(lines.GetValueOrDefault(node.Join($"fields.{field.Name}.overflow"), node.Line), $"The field '{field.Name}' overflows into itself.", "Name the further fields, such as phone_2.");
        foreach (var field in type.Fields.Where(field => field.Currency is not null && field.Kind != FieldKind.Money))
            problems.Add(lines.GetValueOrDefault(node.Join($"fields.{field.Name}.currency"), node.Line), $"The field '{field.Name}' has a currency, but is no amount of money.", "Write 'kind: money' too, or leave 'currency' out.");
        CheckRules(type, node, problems, lines);
        foreach (var (field, reference) in type.Fields.Where(field => field.OverflowRows is not null).Select(field => (field.Name, field.OverflowRows!.Reference)).Where(pair => pair.Reference.Length > 0 && type.References.All(reference => reference.Name != pair.Reference || reference.Policy != ReferencePolicy.Reassign)))
            problems.Add(lines.GetValueOrDefault(node.Join($"fields.{field}.overflow_rows"), node.Line), $"'{node.Join($"fields.{field}.overflow_rows")}' speaks of the reference '{reference}', which the record type does not have, or does not reassign.", Spelling.Instead(reference, type.References.Select(each => each.Name)));
        foreach (var name in type.Blockers.AtMostOne.Select(rule => rule.Reference).Where(name => type.References.All(reference => reference.Name != name)))
            problems.Add(lines.GetValueOrDefault(node.Join("blockers.at_most_one"), node.Line), $"'{node.Join("blockers.at_most_one")}' speaks of the reference '{name}', which the record type does not have.", Spelling.Instead(name, type.References.Select(reference => reference.Name)));
        foreach (var twice in type.Fields.GroupBy(field => field.Column, StringComparer.OrdinalIgnoreCase).Where(group => group.Count() > 1))
        {
            var path = node.Join($"fields.{twice.Last().Name}");
            problems.Add(lines.GetValueOrDefault(path, node.Line), $"'{path}' has the same column as '{twice.First().Name}'.", "Let one field speak for the column.");
        }
    }

    /// <summary>A rule that asks for what the map does not tell would choose by accident.</summary>
    private static void CheckRules(RecordType type, MapNode node, MapProblems problems, Dictionary<string, int> lines)
    {
        var used = type.Fields.Where(field => field.Survivorship is not null).Select(field => (Rule: field.Survivorship!.Value, Path: node.Join($"fields.{field.Name}.survivorship")))
            .Append((type.Survivorship, node.Join("survivorship")));
        foreach (var (rule, path) in used)
        {
            var missing = rule switch
            {
                SurvivorshipRule.Newest when type.Changed is null => "changed",
                SurvivorshipRule.Oldest when type.Created is null => "created",
                SurvivorshipRule.SourceOrder when type.Source is null => "source",
                SurvivorshipRule.SourceOrder when type.SourceOrder.Count == 0 => "source_order",
                _ => null,
            };
            if (missing is not null)
                problems.Add(lines.GetValueOrDefault(path, node.Line), $"The rule '{EnumName.Of(rule)}' needs '{missing}', which '{node.Path}' does not give.", missing == "source_order" ? "Write 'source_order: [ledger, import]'." : $"Write '{missing}: column'.");
        }
    }

    private static IEnumerable<string> Braces(string label)
    {
        for (var open = label.IndexOf('{'); open >= 0; open = label.IndexOf('{', open + 1))
        {
            var close = label.IndexOf('}', open);
            if (close < 0)
                yield break;
            yield return label[(open + 1)..close];
        }
    }

    private static string Sentence(string name)
    {
        var words = name.Replace('_', ' ');
        return char.ToUpperInvariant(words[0]) + words[1..];
    }

    private static string ReadSchema()
    {
        using var stream = typeof(MapReader).Assembly.GetManifestResourceStream("record-map.schema.json")!;
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    }
}
