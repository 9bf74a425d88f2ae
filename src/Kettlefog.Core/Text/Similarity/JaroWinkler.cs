namespace Kettlefog.Core.Text.Similarity;

/// <summary>
/// Jaro's similarity with Winkler's bonus for a common beginning: Winkler (1990), "String Comparator Metrics and
/// Enhanced Decision Rules in the Fellegi–Sunter Model of Record Linkage".
/// </summary>
public static class JaroWinkler
{
    private const int Longest = 64;
    private const double PrefixWeight = 0.1;
    private const int PrefixLength = 4;

    /// <summary>The similarity of two words.</summary>
    /// <param name="a">One word; only its first 64 characters are compared.</param>
    /// <param name="b">The other, likewise.</param>
    /// <returns>From 0 for nothing in common to 1 for equal.</returns>
    public static double Of(ReadOnlySpan<char> a, ReadOnlySpan<char> b)
    {
        if (a.SequenceEqual(b))
            return 1;
        var jaro = Jaro(a, b);
        var prefix = 0;
        while (prefix < Math.Min(PrefixLength, Math.Min(a.Length, b.Length)) && a[prefix] == b[prefix])
            prefix++;
        return jaro + (prefix * PrefixWeight * (1 - jaro));
    }

    /// <summary>Jaro's similarity without the bonus: Jaro (1989), "Advances in Record-Linkage Methodology".</summary>
    /// <param name="a">One word; only its first 64 characters are compared.</param>
    /// <param name="b">The other, likewise.</param>
    /// <returns>From 0 for nothing in common to 1 for equal.</returns>
    public static double Jaro(ReadOnlySpan<char> a, ReadOnlySpan<char> b)
    {
        a = a[..Math.Min(a.Length, Longest)];
        b = b[..Math.Min(b.Length, Longest)];
        if (a.Length == 0 || b.Length == 0)
            return a.Length == b.Length ? 1 : 0;

        // The matching letters can depend on which text comes first; a fixed order keeps the measure
        // symmetric.
        if (a.Length > b.Length || (a.Length == b.Length && a.SequenceCompareTo(b) > 0))
        {
            var other = a;
            a = b;
            b = other;
        }

        var window = Math.Max(0, (Math.Max(a.Length, b.Length) / 2) - 1);
        ulong takenA = 0,
            takenB = 0;
        var common = 0;
        for (var i = 0; i < a.Length; i++)
        {
            var last = Math.Min(b.Length - 1, i + window);
            for (var j = Math.Max(0, i - window); j <= last; j++)
            {
                if (a[i] != b[j] || (takenB & (1UL << j)) != 0)
                    continue;
                takenA |= 1UL << i;
                takenB |= 1UL << j;
                common++;
                break;
            }
        }

        if (common == 0)
            return 0;
        var halves = 0;
        var at = 0;
        for (var i = 0; i < a.Length; i++)
        {
            if ((takenA & (1UL << i)) == 0)
                continue;
            while ((takenB & (1UL << at)) == 0)
                at++;
            if (a[i] != b[at++])
                halves++;
        }

        var transpositions = halves / 2;
        return (
                ((double)common / a.Length) + ((double)common / b.Length) + ((double)(common - transpositions) / common)
            ) / 3;
    }
}
