using System.Buffers;

namespace Kettlefog.Core.Text.Similarity;

/// <summary>
/// The share of q-grams that two texts have in common (Dice's coefficient over multisets, with the
/// ends padded): Ukkonen (1992), "Approximate String-Matching with q-Grams and Maximal Matches".
/// </summary>
public static class QGrams
{
    private const int Longest = 512;

    /// <summary>The similarity of two texts.</summary>
    /// <param name="a">One text; only its first 512 characters are compared.</param>
    /// <param name="b">The other, likewise.</param>
    /// <param name="q">The length of the q-grams, from 1 to 4.</param>
    /// <returns>From 0 for nothing in common to 1 for the same q-grams.</returns>
    public static double Of(ReadOnlySpan<char> a, ReadOnlySpan<char> b, int q = 2)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(q, 1);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(q, 4);
        if (a.SequenceEqual(b))
            return 1;
        var left = ArrayPool<ulong>.Shared.Rent(Longest + q);
        var right = ArrayPool<ulong>.Shared.Rent(Longest + q);
        try
        {
            var x = Pieces(a, q, left);
            var y = Pieces(b, q, right);
            int common = 0,
                i = 0,
                j = 0;
            while (i < x.Length && j < y.Length)
            {
                if (x[i] == y[j])
                    (common, i, j) = (common + 1, i + 1, j + 1);
                else if (x[i] < y[j])
                    i++;
                else
                    j++;
            }

            return x.Length + y.Length == 0 ? 1 : 2.0 * common / (x.Length + y.Length);
        }
        finally
        {
            ArrayPool<ulong>.Shared.Return(left);
            ArrayPool<ulong>.Shared.Return(right);
        }
    }

    private static Span<ulong> Pieces(ReadOnlySpan<char> text, int q, ulong[] into)
    {
        text = text[..Math.Min(text.Length, Longest)];
        if (text.Length == 0)
            return [];
        ulong mask = q == 4 ? ulong.MaxValue : (1UL << (16 * q)) - 1,
            piece = 0;
        var count = 0;
        for (var i = 0; i < text.Length + q - 1; i++)
        {
            piece = ((piece << 16) | (i < text.Length ? text[i] : 0u)) & mask;
            into[count++] = piece;
        }

        var pieces = into.AsSpan(0, count);
        pieces.Sort();
        return pieces;
    }
}
