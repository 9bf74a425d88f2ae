namespace Kettlefog.Core.Map.Model;

/// <summary>A criterion for suggesting the master.</summary>
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

    /// <summary>It comes from the most trusted source.</summary>
    Source,

    /// <summary>It has related rows of a certain kind, such as a running agreement.</summary>
    Has,
}

/// <summary>One preference for suggesting the master.</summary>
/// <param name="Criterion">The criterion.</param>
/// <param name="Sources">
/// For <see cref="MasterCriterion.Source"/> the sources, most trusted first; otherwise empty.
/// </param>
/// <param name="Reference">For <see cref="MasterCriterion.Has"/> the name of the reference; otherwise null.</param>
public sealed record MasterPreference(MasterCriterion Criterion, IReadOnlyList<string> Sources, string? Reference)
{
    /// <summary>A criterion without settings.</summary>
    /// <param name="criterion">The criterion.</param>
    public MasterPreference(MasterCriterion criterion)
        : this(criterion, [], null) { }

    /// <summary>The preferences that apply where neither the map nor a rule names any.</summary>
    public static IReadOnlyList<MasterPreference> Default { get; } =
    [new(MasterCriterion.MostRelated), new(MasterCriterion.MostComplete), new(MasterCriterion.Oldest)];
}
