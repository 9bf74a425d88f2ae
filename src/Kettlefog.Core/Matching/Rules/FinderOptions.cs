namespace Kettlefog.Core.Matching.Rules;

/// <summary>The options of a finder.</summary>
/// <param name="Seed">The random seed: the same seed and data give the same scores.</param>
/// <param name="Country">The default country of records, as two letters of ISO 3166-1; null if unknown.</param>
/// <param name="Partition">The fields whose values must agree, such as the legal entity.</param>
/// <param name="Nicknames">Groups of given names that are forms of one name, beyond those that are built in.</param>
/// <param name="Learn">False to keep the default weights.</param>
public sealed record FinderOptions(
    int Seed,
    string? Country,
    IReadOnlyList<string> Partition,
    IReadOnlyList<IReadOnlyList<string>> Nicknames,
    bool Learn = true
);
