using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Map.Reading;

/// <summary>Reads the references of a record type.</summary>
internal static class ReferenceReader
{
    internal static readonly string[] Keys =
    [
        "title",
        "table",
        "columns",
        "to",
        "as",
        "key",
        "when",
        "policy",
        "hierarchy",
        "may_exclude",
        "collision",
        "bookkeeping",
        "dependents",
        "combine",
        "amount",
        "show",
    ];

    /// <summary>Reads the part; reports every mistake.</summary>
    public static Reference Read(string name, MapNode node, MapProblems problems)
    {
        node.Only(Keys);
        var columns = node.Texts("columns");
        if (columns.Count == 0 && !node.Has("columns"))
            problems.Add(
                node.Line,
                $"'{node.Path}' lacks 'columns'.",
                "Name the columns that hold the record's key, as in 'columns: vendor_id'."
            );
        var template = node.Text("as");
        if (template?.Split(Reference.KeyPlaceholder).Length is not (null or 2))
            problems.Add(
                node.Line,
                $"'{node.Path}.as' is '{template}', which does not contain '{{key}}' exactly once.",
                "Write the text that the column holds with '{key}' once, as in 'as: \"contact:{key}\"'."
            );
        if (template is not null && columns.Count > 1)
            problems.Add(
                node.Line,
                $"'{node.Path}.as' is the text of one column, but there are {columns.Count}.",
                "Name the column that holds the text."
            );
        return new Reference(
            name,
            node.Text("title") ?? Title.Of(name),
            node.RequiredText("table", name),
            columns,
            node.Texts("key"),
            node.TextMap("when"),
            node.Word<ReferencePolicy>("policy") ?? ReferencePolicy.Reassign,
            node.Text("amount"),
            node.Texts("show"),
            node.Word<CollisionPolicy>("collision") ?? CollisionPolicy.Block,
            ReadCombine(node, problems)
        )
        {
            Bookkeeping = node.Texts("bookkeeping"),
            Dependents =
            [
                .. node.Children("dependents").Select(child => ReadDependent(child.Name, child.Node, problems)),
            ],
            To = node.Texts("to"),
            Template = template,
            Hierarchy = node.Has("hierarchy") ? node.Flag("hierarchy") : null,
            MayExclude = node.Flag("may_exclude"),
        };
    }

    private static DependentReference ReadDependent(string name, MapNode node, MapProblems problems)
    {
        node.Only("table", "columns", "to", "when");
        var columns = node.Texts("columns");
        if (columns.Count == 0)
            problems.Add(
                node.Line,
                $"'{node.Path}' lacks 'columns'.",
                "Name the columns that refer to the related row, as in 'columns: bill_id'."
            );
        return new DependentReference(
            name,
            node.RequiredText("table", name),
            columns,
            node.Texts("to"),
            node.TextMap("when")
        );
    }

    private static Dictionary<string, SurvivorshipRule> ReadCombine(MapNode reference, MapProblems problems)
    {
        var rules = new Dictionary<string, SurvivorshipRule>();
        if (reference.Child("combine") is not { } node)
            return rules;
        if (reference.Text("collision") != EnumName.Of(CollisionPolicy.Combine))
            problems.Add(
                node.Line,
                $"'{node.Path}' says how rows are combined, but the collision policy does not combine them.",
                "Write 'collision: combine' too."
            );
        foreach (var column in node.Keys)
        {
            if (node.Word<SurvivorshipRule>(column) is { } rule)
                rules[column] = rule;
        }

        return rules;
    }
}
