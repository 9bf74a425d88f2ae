using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Map.Reading;

/// <summary>Reads the figures of a record type.</summary>
internal static class FigureReader
{
    internal static readonly string[] Keys = ["title", "reference", "count", "sum", "last", "first", "control"];

    /// <summary>Reads the part; reports every mistake.</summary>
    public static Figure Read(string name, MapNode node, List<Reference> references, MapProblems problems)
    {
        node.Only(Keys);
        var operations = Keys[2..6].Where(node.Has).ToList();
        if (operations.Count != 1)
            problems.Add(
                node.Line,
                $"'{node.Path}' {(operations.Count == 0 ? "does not say" : "says more than once")} how it is computed.",
                "Write one of 'count: true', 'sum: column', 'last: column' and 'first: column'."
            );
        var word = operations.FirstOrDefault() ?? "count";
        EnumName.TryRead<FigureOperation>(word, out var operation);
        if (operation == FigureOperation.Count && node.Has("count") && !node.Flag("count"))
            problems.Add(node.Line, $"'{node.Path}.count' is not 'true'.", "Write 'count: true'.");
        var reference = node.RequiredText("reference", references.FirstOrDefault()?.Name ?? "bills");
        if (reference.Length > 0 && references.All(known => known.Name != reference))
            problems.Add(
                node.Line,
                $"'{node.Path}' names the reference '{reference}', which the record type does not have.",
                Spelling.Instead(reference, references.Select(known => known.Name))
            );
        var control = node.Flag("control");
        if (control && operation is not (FigureOperation.Count or FigureOperation.Sum))
            problems.Add(
                node.Line,
                $"'{node.Path}' cannot be a control total, because it does not add up.",
                "Make it a 'count' or a 'sum', or leave 'control' out."
            );
        return new Figure(
            name,
            node.Text("title") ?? Title.Of(name),
            reference,
            operation,
            operation == FigureOperation.Count ? null : node.Text(word),
            control
        );
    }
}
