using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Map.Reading;

/// <summary>Reads one record type.</summary>
internal static class RecordTypeReader
{
    internal static readonly string[] Keys =
    [
        "title",
        "plural",
        "table",
        "key",
        "label",
        "created",
        "changed",
        "source",
        "owner",
        "master",
        "survivorship",
        "source_order",
        "blank",
        "fields",
        "references",
        "figures",
        "amount",
        "retire",
        "timeline",
        "require_reason",
        "blockers",
        "linked",
        "matching",
    ];

    internal static readonly string[] RetireKeys = ["delete", "mark"];

    internal static readonly string[] TimelineKeys = ["table", "values"];

    /// <summary>Reads the part; reports every mistake.</summary>
    public static RecordType Read(string name, MapNode node, MapProblems problems, Dictionary<string, int> lines)
    {
        node.Only(Keys);
        var fields = node.Children("fields", mayBeEmpty: true)
            .Select(child => FieldReader.Read(child.Name, child.Node))
            .ToList();
        if (fields.Count == 0)
            problems.Add(
                node.Line,
                $"'{node.Path}' has no fields.",
                "Add 'fields:' with the fields that an operator may choose."
            );
        var references = node.Children("references")
            .Select(child => ReferenceReader.Read(child.Name, child.Node, problems))
            .ToList();
        var figures = node.Children("figures")
            .Select(child => FigureReader.Read(child.Name, child.Node, references, problems))
            .ToList();
        var title = node.Text("title") ?? Title.Of(name);
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
            MasterPreferenceReader.Read(
                node,
                [.. references.Select(reference => reference.Name)],
                node.Has("source"),
                problems
            ),
            node.Word<SurvivorshipRule>("survivorship") ?? SurvivorshipRule.MasterUnlessBlank,
            node.Texts("source_order"),
            node.Texts("blank"),
            fields,
            references,
            figures,
            ReadRetirement(node, problems),
            BlockerReader.Read(node, references),
            MatchSettingsReader.Read(node, fields, references, problems)
        )
        {
            AmountName = ReadAmount(node, figures, problems, lines),
            Timeline = ReadTimeline(node, problems),
            RequireReason = node.Flag("require_reason"),
            Linked =
            [
                .. node.Children("linked")
                    .Select(child => LinkedRecordsReader.Read(child.Name, child.Node, references, problems)),
            ],
        };
        NameCheck.Run(type, node, problems, lines);
        foreach (
            var excluded in references.Where(reference =>
                reference.MayExclude && (type.Retirement.Delete || reference.Policy != ReferencePolicy.Reassign)
            )
        )
        {
            var line = lines.GetValueOrDefault(node.Join($"references.{excluded.Name}.may_exclude"), node.Line);
            problems.Add(
                line,
                type.Retirement.Delete
                    ? $"'{excluded.Name}' may be excluded from a merge, but the duplicates are deleted: its rows "
                        + "would refer to a missing record."
                    : $"'{excluded.Name}' may be excluded from a merge, but its rows are not reassigned in any case.",
                type.Retirement.Delete ? "Retire by 'mark', or leave 'may_exclude' out." : "Leave 'may_exclude' out."
            );
        }

        foreach (
            var left in references.Where(reference =>
                type.Retirement.Delete && reference.Policy == ReferencePolicy.Leave
            )
        )
        {
            var path = node.Join($"references.{left.Name}");
            problems.Add(
                lines.GetValueOrDefault(path, node.Line),
                $"'{path}' leaves its rows with the duplicate, which is deleted.",
                "Write 'policy: reassign' or 'policy: block', or retire by 'mark'."
            );
        }

        return type;
    }

    private static string? ReadAmount(
        MapNode type,
        List<Figure> figures,
        MapProblems problems,
        Dictionary<string, int> lines
    )
    {
        var sums = figures.Where(figure => figure.Operation == FigureOperation.Sum).ToList();
        if (type.Text("amount") is not { } name)
            return sums.Count == 1 ? sums[0].Name : null;
        if (sums.All(figure => figure.Name != name))
            problems.Add(
                lines.GetValueOrDefault(type.Join("amount"), type.Line),
                $"'{type.Join("amount")}' names '{name}', which is no figure that is a sum.",
                sums.Count == 0
                    ? "Add a figure with 'sum', or leave 'amount' out."
                    : $"Name one of: {string.Join(", ", sums.Select(figure => figure.Name))}."
            );
        return name;
    }

    private static Retirement ReadRetirement(MapNode type, MapProblems problems)
    {
        var node = type.Child("retire");
        if (node is null)
        {
            if (!type.Has("retire"))
                problems.Add(
                    type.Line,
                    $"'{type.Path}' does not say how duplicates are retired.",
                    "Write 'retire: {mark: {status: merged}}' or 'retire: {delete: true}'."
                );
            return new Retirement(true, new Dictionary<string, string>());
        }

        node.Only(RetireKeys);
        var delete = node.Flag("delete");
        var mark = node.TextMap("mark");
        if (delete == mark.Count > 0)
            problems.Add(
                node.Line,
                $"'{node.Path}' must either delete or mark.",
                "Write 'mark: {status: merged}' or 'delete: true', not both."
            );
        return new Retirement(delete, mark);
    }

    private static Timeline? ReadTimeline(MapNode type, MapProblems problems)
    {
        if (type.Child("timeline") is not { } node)
            return null;
        node.Only(TimelineKeys);
        var values = node.TextMap("values");
        if (values.Count == 0)
            problems.Add(
                node.Line,
                $"'{node.Path}' has no values for the row.",
                "Write 'values: {subject_id: \"{key}\", summary: \"Merged with {duplicates}\"}'."
            );
        foreach (var word in values.Values.SelectMany(Timeline.WordsIn).Where(word => !Timeline.Words.Contains(word)))
            problems.Add(
                node.Line,
                $"'{node.Path}' names '{{{word}}}', which is not a known placeholder.",
                Spelling.Instead(word, Timeline.Words)
            );
        return new Timeline(node.RequiredText("table", "activity"), values);
    }
}
