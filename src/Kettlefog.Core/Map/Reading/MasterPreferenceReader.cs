using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Map.Reading;

/// <summary>Reads the preferences for a master.</summary>
internal static class MasterPreferenceReader
{
    internal static readonly string[] Keys = ["source", "has"];

    private static readonly MasterCriterion[] Words =
    [
        MasterCriterion.MostRelated,
        MasterCriterion.MostComplete,
        MasterCriterion.Oldest,
        MasterCriterion.Newest,
        MasterCriterion.LastChanged,
    ];

    /// <summary>
    /// Reads <c>master</c> in a map or a rule: words, and mappings such as <c>{source: [ledger,
    /// import]}</c>.
    /// </summary>
    internal static IReadOnlyList<MasterPreference> Read(
        MapNode node,
        IReadOnlyList<string> references,
        bool hasSource,
        MapProblems problems
    )
    {
        var read = new List<MasterPreference>();
        foreach (var (word, child) in node.WordsOrItems("master"))
        {
            if (word is not null)
            {
                if (EnumName.TryRead<MasterCriterion>(word, out var criterion) && Words.Contains(criterion))
                    read.Add(new MasterPreference(criterion));
                else
                    problems.Add(
                        node.Line,
                        $"'{word}' is not a preference for the master.",
                        Spelling.Instead(word, Words.Select(each => EnumName.Of(each)))
                    );
                continue;
            }

            child!.Only(Keys);
            if (child.Has("source") == child.Has("has"))
            {
                problems.Add(
                    child.Line,
                    "A preference for the master must have exactly one key.",
                    "Write 'source: [ledger, import]' or 'has: agreements'."
                );
            }
            else if (child.Has("source"))
            {
                if (!hasSource)
                    problems.Add(
                        child.Line,
                        "The record type does not name its source column.",
                        "Add 'source: column' to the record type."
                    );
                read.Add(new MasterPreference(MasterCriterion.Source, child.Texts("source"), null));
            }
            else if (child.Text("has") is { } reference)
            {
                if (!references.Contains(reference))
                    problems.Add(
                        child.Line,
                        $"The record type has no reference '{reference}'.",
                        Spelling.Instead(reference, references)
                    );
                read.Add(new MasterPreference(MasterCriterion.Has, [], reference));
            }
        }

        return read;
    }
}
