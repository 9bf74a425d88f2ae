using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Map.Reading;

/// <summary>Reads which records are offered as linked merges.</summary>
internal static class LinkedRecordsReader
{
    internal static readonly string[] Keys = ["title", "type", "through", "columns", "same"];

    /// <summary>Reads the part; reports every mistake.</summary>
    public static LinkedRecords Read(string name, MapNode node, List<Reference> references, MapProblems problems)
    {
        node.Only(Keys);
        var through = node.Text("through");
        if (through is not null && references.All(reference => reference.Name != through))
            problems.Add(
                node.Line,
                $"'{node.Path}' names the reference '{through}', which the record type does not have.",
                Spelling.Instead(through, references.Select(reference => reference.Name))
            );
        var columns = node.Texts("columns");
        if (through is null && columns.Count == 0)
            problems.Add(
                node.Line,
                $"'{node.Path}' does not say how the records are found.",
                "Write 'through: reference' for children, or 'columns: parent_id' for parents."
            );
        var same = node.AnyOfTexts("same");
        if (through is not null && same.Count == 0)
            problems.Add(
                node.Line,
                $"'{node.Path}' does not say when two of them are the same.",
                "Write 'same: hull_number', or several groups as in 'same: [[name, birth_date], [email]]'."
            );
        return new LinkedRecords(
            name,
            node.Text("title") ?? Title.Of(name),
            node.Text("type") ?? name.TrimEnd('s'),
            through,
            columns,
            same
        );
    }

    /// <summary>Reports every unknown name.</summary>
    public static void CheckTargets(
        RecordType type,
        List<RecordType> types,
        int rootLine,
        MapProblems problems,
        Dictionary<string, int> lines
    )
    {
        foreach (var linked in type.Linked)
        {
            var path = $"record_types.{type.Name}.linked.{linked.Name}";
            var line = lines.GetValueOrDefault(path, rootLine);
            if (types.Find(each => each.Name == linked.Type) is not { } other)
            {
                problems.Add(
                    line,
                    $"'{path}' names the record type '{linked.Type}', which the map does not have.",
                    Spelling.Instead(linked.Type, types.Select(each => each.Name))
                );
                continue;
            }

            foreach (
                var field in linked
                    .Same.SelectMany(group => group)
                    .Where(name => other.Fields.All(field => field.Name != name))
            )
                problems.Add(
                    line,
                    $"'{path}' compares the field '{field}', which the record type '{other.Name}' does not have.",
                    Spelling.Instead(field, other.Fields.Select(each => each.Name))
                );
        }
    }
}
