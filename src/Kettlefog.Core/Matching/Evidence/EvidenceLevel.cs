namespace Kettlefog.Core.Matching.Evidence;

/// <summary>
/// One way in which the values of two records can agree or differ, with how often it is met: between records of one
/// party, between records of different parties met at random, and between records of different but related parties.
/// </summary>
/// <param name="Words">What a person is told, as in <c>same phone</c>.</param>
/// <param name="Match">Its share among pairs of one party, from 0 to 1 (the m-probability).</param>
/// <param name="Random">
/// Its share among pairs of parties that have nothing to do with one another (the u-probability); for a level by
/// frequency, the factor by which the frequency of the value that agrees is to be multiplied.
/// </param>
/// <param name="Related">
/// Its share among pairs of related parties, one number for each <see cref="Relation"/> of the model.
/// </param>
/// <param name="ByFrequency">True if agreement on a rare value says more than agreement on a common one.</param>
internal sealed record EvidenceLevel(
    string Words,
    double Match,
    double Random,
    double[] Related,
    bool ByFrequency = false
);

/// <summary>What can be said about two records from one point of view, such as their phones.</summary>
/// <param name="Name">Its name in outputs.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Levels">The levels, from the strongest agreement to the plainest difference.</param>
internal sealed record EvidenceKind(string Name, string Title, EvidenceLevel[] Levels);

/// <summary>What the comparison of two records says from one point of view.</summary>
/// <param name="Level">The level met; -1 if a value is missing, so that nothing is said.</param>
/// <param name="Rarity">For a level by frequency: minus the binary logarithm of the value's frequency.</param>
internal readonly record struct Finding(int Level, float Rarity = 0)
{
    /// <summary>Nothing can be said.</summary>
    public static Finding None => new(-1);
}

/// <summary>
/// A way in which two different parties can be related, so that they share what one party shares with itself.
/// </summary>
/// <param name="Name">What a person is told, as in <c>another member of the household</c>.</param>
/// <param name="Odds">How many pairs of one party there are for each pair so related.</param>
internal sealed record Relation(string Name, double Odds);
