namespace Kettlefog.Core.Matching.Evidence;

/// <summary>
/// One way in which the values of two records can agree or differ, with its frequency: between records of one
/// entity, between records of different entities drawn at random, and between records of related entities.
/// </summary>
/// <param name="Words">The wording for people, as in <c>same phone</c>.</param>
/// <param name="Match">Its share among matching pairs, from 0 to 1 (the m-probability).</param>
/// <param name="Random">
/// Its share among pairs of unrelated entities (the u-probability); for a level by
/// frequency, the factor by which the frequency of the value that agrees is to be multiplied.
/// </param>
/// <param name="Related">
/// Its share among pairs of related entities, one number for each <see cref="Relation"/> of the model.
/// </param>
/// <param name="ByFrequency">True if agreement on a rare value says more than agreement on a common one.</param>
internal sealed record EvidenceLevel(
    string Words,
    double Match,
    double Random,
    double[] Related,
    bool ByFrequency = false
)
{
    /// <summary>True if it is rarer within one entity than by chance.</summary>
    public bool IsDifference => !ByFrequency && Match < Random;
}

/// <summary>What is compared between two records, such as their phones.</summary>
/// <param name="Name">Its name in outputs.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Levels">The levels, from the strongest agreement to the clearest difference.</param>
internal sealed record EvidenceKind(string Name, string Title, EvidenceLevel[] Levels);

/// <summary>The outcome of one comparison of two records.</summary>
/// <param name="Level">The level; -1 if a value is missing.</param>
/// <param name="Rarity">For a level by frequency: minus the binary logarithm of the value's frequency.</param>
internal readonly record struct Finding(int Level, float Rarity = 0)
{
    /// <summary>No finding: a value is missing.</summary>
    public static Finding None => new(-1);
}

/// <summary>
/// A way in which two different entities can be related, so that they share values as one entity would.
/// </summary>
/// <param name="Name">The wording for people, as in <c>another member of the household</c>.</param>
/// <param name="Odds">The number of matching pairs for each pair related in this way.</param>
/// <param name="ByFrequency">
/// The names of the evidence of which agreement on a rare value speaks against the relation too; empty if none does.
/// </param>
internal sealed record Relation(string Name, double Odds, params string[] ByFrequency);
