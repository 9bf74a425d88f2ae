using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Map.Reading;

/// <summary>Reads how duplicates of a record type are found.</summary>
internal static class MatchSettingsReader
{
    internal static readonly string[] Keys = ["country", "partition", "nicknames", "rules"];

    /// <summary>Reads the part; reports every mistake.</summary>
    public static MatchSettings Read(MapNode type, List<Field> fields, List<Reference> references, MapProblems problems)
    {
        if (type.Child("matching")?.Only(Keys) is not { } node)
            return MatchSettings.None;
        var country = node.Text("country");
        if (country is not null && (country.Length != 2 || !country.All(char.IsAsciiLetterUpper)))
            problems.Add(
                node.Line,
                $"'{country}' is not a country.",
                "Write two letters of ISO 3166-1, as in 'country: GB'."
            );
        var partition = node.Texts("partition");
        foreach (var name in partition.Where(name => fields.All(field => field.Name != name)))
            problems.Add(
                node.Line,
                $"'{node.Join("partition")}' names the field '{name}', which the record type does not have.",
                Spelling.Instead(name, fields.Select(field => field.Name))
            );
        return new MatchSettings(
            country,
            partition,
            node.TextLists("nicknames"),
            [
                .. node.Children("rules", mayBeEmpty: true)
                    .Select(child =>
                        MatchRuleReader.Read(
                            child.Name,
                            child.Node,
                            fields,
                            [.. references.Select(reference => reference.Name)],
                            type.Has("source"),
                            problems
                        )
                    ),
            ]
        );
    }
}
