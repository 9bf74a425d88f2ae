using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Map.Model;

/// <summary>What may speak for a record as the master.</summary>
public enum MasterCriterion
{
    /// <summary>It has the most related rows.</summary>
    MostRelated,

    /// <summary>It has the most fields filled in.</summary>
    MostComplete,

    /// <summary>It was created first.</summary>
    Oldest,

    /// <summary>It was created last.</summary>
    Newest,

    /// <summary>It was changed last.</summary>
    LastChanged,

    /// <summary>It comes from the source that goes first.</summary>
    Source,

    /// <summary>It has related rows of a certain kind, such as a running agreement.</summary>
    Has,
}

/// <summary>One thing that speaks for a record as the master.</summary>
/// <param name="Criterion">What it is.</param>
/// <param name="Sources">For <see cref="MasterCriterion.Source"/> the sources, the one that goes first at the front; else empty.</param>
/// <param name="Reference">For <see cref="MasterCriterion.Has"/> the name of the reference; else null.</param>
public sealed record MasterPreference(MasterCriterion Criterion, IReadOnlyList<string> Sources, string? Reference)
{
    /// <summary>A criterion that needs no more words.</summary>
    /// <param name="criterion">The criterion.</param>
    public MasterPreference(MasterCriterion criterion)
        : this(criterion, [], null)
    {
    }

    /// <summary>What speaks for a record where neither the map nor a rule says it.</summary>
    public static IReadOnlyList<MasterPreference> Usual { get; } =
        [new(MasterCriterion.MostRelated), new(MasterCriterion.MostComplete), new(MasterCriterion.Oldest)];

    internal static readonly string[] Keys = ["source", "has"];

    private static readonly MasterCriterion[] Words =
        [MasterCriterion.MostRelated, MasterCriterion.MostComplete, MasterCriterion.Oldest, MasterCriterion.Newest, MasterCriterion.LastChanged];

    /// <summary>Reads what stands under <c>master</c> in a map or a rule: words, and mappings such as <c>{source: [ledger, import]}</c>.</summary>
    internal static IReadOnlyList<MasterPreference> Read(MapNode node, IReadOnlyList<string> references, bool hasSource, MapProblems problems)
    {
        var read = new List<MasterPreference>();
        foreach (var (word, child) in node.WordsOrItems("master"))
        {
            if (word is not null)
            {
                if (EnumName.TryRead<MasterCriterion>(word, out var criterion) && Words.Contains(criterion))
                    read.Add(new MasterPreference(criterion));
                else
                    problems.Add(node.Line, $"'{word}' does not speak for a master.", Spelling.Instead(word, Words.Select(each => EnumName.Of(each))));
                continue;
            }

            child!.Only(Keys);
            if (child.Has("source") == child.Has("has"))
            {
                problems.Add(child.Line, "What speaks for a master must be one thing.", "Write 'source: [ledger, import]' or 'has: agreements'.");
            }
            else if (child.Has("source"))
            {
                if (!hasSource)
                    problems.Add(child.Line, "The record type does not say which column holds the source.", "Add 'source: column' to the record type.");
                read.Add(new MasterPreference(MasterCriterion.Source, child.Texts("source"), null));
            }
            else if (child.Text("has") is { } reference)
            {
                if (!references.Contains(reference))
                    problems.Add(child.Line, $"The record type has no reference '{reference}'.", Spelling.Instead(reference, references));
                read.Add(new MasterPreference(MasterCriterion.Has, [], reference));
            }
        }

        return read;
    }
}
