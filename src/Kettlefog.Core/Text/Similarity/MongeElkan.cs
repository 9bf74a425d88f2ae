namespace Kettlefog.Core.Text.Similarity;

/// <summary>
/// The mean over the words of one text of the best <see cref="JaroWinkler"/> similarity with a word of the other,
/// made symmetric by taking the mean of both directions: Monge and Elkan (1996), "The Field Matching Problem".
/// </summary>
public static class MongeElkan
{
    private const int MaxWords = 32;

    /// <summary>The similarity of two lists of words.</summary>
    /// <param name="a">One list; only its first 32 words are compared.</param>
    /// <param name="b">The other, likewise.</param>
    /// <returns>From 0 for nothing in common to 1 for the same words in any order.</returns>
    public static double Of(IReadOnlyList<string> a, IReadOnlyList<string> b)
    {
        ArgumentNullException.ThrowIfNull(a);
        ArgumentNullException.ThrowIfNull(b);
        return a.Count == 0 || b.Count == 0 ? (a.Count == b.Count ? 1 : 0) : (OneWay(a, b) + OneWay(b, a)) / 2;
    }

    private static double OneWay(IReadOnlyList<string> a, IReadOnlyList<string> b)
    {
        double sum = 0;
        var count = Math.Min(a.Count, MaxWords);
        for (var i = 0; i < count; i++)
        {
            double best = 0;
            for (var j = 0; j < Math.Min(b.Count, MaxWords); j++)
                best = Math.Max(best, JaroWinkler.Of(a[i], b[j]));
            sum += best;
        }

        return sum / count;
    }
}
