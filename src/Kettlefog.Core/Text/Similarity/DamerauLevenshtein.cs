namespace Kettlefog.Core.Text.Similarity;

/// <summary>
/// The minimum number of insertions, deletions, substitutions and transpositions that turn one text into another,
/// with no part edited twice (optimal string alignment): Damerau (1964), "A Technique for Computer Detection and
/// Correction of Spelling Errors".
/// </summary>
public static class DamerauLevenshtein
{
    private const int Longest = 256;

    /// <summary>The distance of two texts.</summary>
    /// <param name="a">One text; only its first 256 characters are compared.</param>
    /// <param name="b">The other, likewise.</param>
    /// <param name="maxDistance">
    /// The largest distance of interest; beyond it <paramref name="maxDistance"/> + 1 is returned, early.
    /// </param>
    /// <returns>The number of edits, at most <paramref name="maxDistance"/> + 1.</returns>
    public static int Distance(ReadOnlySpan<char> a, ReadOnlySpan<char> b, int maxDistance = Longest)
    {
        ArgumentOutOfRangeException.ThrowIfNegative(maxDistance);
        a = a[..Math.Min(a.Length, Longest)];
        b = b[..Math.Min(b.Length, Longest)];
        var prefix = a.CommonPrefixLength(b);
        a = a[prefix..];
        b = b[prefix..];
        while (a.Length > 0 && b.Length > 0 && a[^1] == b[^1])
        {
            a = a[..^1];
            b = b[..^1];
        }

        if (Math.Abs(a.Length - b.Length) > maxDistance)
            return maxDistance + 1;
        if (a.Length == 0 || b.Length == 0)
            return Math.Max(a.Length, b.Length);
        var width = b.Length + 1;
        Span<int> rows = stackalloc int[3 * width];
        var before = rows[..width];
        var last = rows.Slice(width, width);
        var current = rows.Slice(2 * width, width);
        for (var j = 0; j < width; j++)
            last[j] = j;
        for (var i = 1; i <= a.Length; i++)
        {
            current[0] = i;
            var rowMinimum = i;
            for (var j = 1; j < width; j++)
            {
                var cost = a[i - 1] == b[j - 1] ? 0 : 1;
                var edits = Math.Min(Math.Min(current[j - 1] + 1, last[j] + 1), last[j - 1] + cost);
                if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                    edits = Math.Min(edits, before[j - 2] + 1);
                current[j] = edits;
                rowMinimum = Math.Min(rowMinimum, edits);
            }

            if (rowMinimum > maxDistance)
                return maxDistance + 1;
            var oldest = before;
            before = last;
            last = current;
            current = oldest;
        }

        return Math.Min(last[width - 1], maxDistance + 1);
    }

    /// <summary>The similarity: one minus the distance as a share of the longer text.</summary>
    /// <param name="a">One text.</param>
    /// <param name="b">The other.</param>
    /// <returns>From 0 for nothing in common to 1 for equal.</returns>
    public static double Similarity(ReadOnlySpan<char> a, ReadOnlySpan<char> b)
    {
        var length = Math.Min(Longest, Math.Max(a.Length, b.Length));
        return length == 0 ? 1 : 1 - ((double)Distance(a, b) / length);
    }
}
