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
/// <param name="Sources">
/// For <see cref="MasterCriterion.Source"/> the sources, the one that goes first at the front; else empty.
/// </param>
/// <param name="Reference">For <see cref="MasterCriterion.Has"/> the name of the reference; else null.</param>
public sealed record MasterPreference(MasterCriterion Criterion, IReadOnlyList<string> Sources, string? Reference)
{
    /// <summary>A criterion that needs no more words.</summary>
    /// <param name="criterion">The criterion.</param>
    public MasterPreference(MasterCriterion criterion)
        : this(criterion, [], null) { }

    /// <summary>What speaks for a record where neither the map nor a rule says it.</summary>
    public static IReadOnlyList<MasterPreference> Usual { get; } =
    [new(MasterCriterion.MostRelated), new(MasterCriterion.MostComplete), new(MasterCriterion.Oldest)];
}
