using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Text;
using Kettlefog.Core.Text.Similarity;

namespace Kettlefog.Core.Matching.Features;

/// <summary>How two words are related, from nearest to farthest.</summary>
internal enum WordRelation
{
    Same,
    Variant,
    Misspelt,
    Initial,
    Faint,
    Different,
}

/// <summary>Compares words.</summary>
internal static class WordRelations
{
    /// <summary>How two words are related; with <paramref name="initials"/> a single letter matches a word.</summary>
    public static WordRelation Of(Token a, Token b, bool initials)
    {
        if (ReferenceEquals(a, b))
            return WordRelation.Same;
        if (AreOfTwoScripts(a, b))
            return Readings.Relation(a.Reading, b.Reading) ?? WordRelation.Different;
        if (a.Text.Length == 1 || b.Text.Length == 1)
            return initials && a.Text[0] == b.Text[0] ? WordRelation.Initial : WordRelation.Different;
        if (IsMisspelling(a, b))
            return WordRelation.Misspelt;
        return
            Math.Min(a.Text.Length, b.Text.Length) >= 4
            && MostJaroWinkler(a, b) >= FaintSimilarity
            && JaroWinkler.Of(a.Text, b.Text) >= FaintSimilarity
            ? WordRelation.Faint
            : WordRelation.Different;
    }

    private const double FaintSimilarity = 0.8;

    /// <summary>
    /// No less than the Jaro–Winkler similarity: letters that the other word does not have match nothing, and none of
    /// the others may be out of place.
    /// </summary>
    private static double MostJaroWinkler(Token a, Token b)
    {
        var (x, y) = (a.Text.Length, b.Text.Length);
        var matching = Math.Min(x - LetterMask.Missing(a.Mask, b.Mask), y - LetterMask.Missing(b.Mask, a.Mask));
        if (matching <= 0)
            return 0;
        var jaro = (((double)matching / x) + ((double)matching / y) + 1) / 3;
        var prefix = a.Text.AsSpan(0, Math.Min(4, Math.Min(x, y))).CommonPrefixLength(b.Text);
        return jaro + (prefix * 0.1 * (1 - jaro));
    }

    /// <summary>
    /// True if two words are written in different scripts, so that only their readings can be compared.
    /// </summary>
    public static bool AreOfTwoScripts(Token a, Token b) =>
        (a.IsOfOtherScript || b.IsOfOtherScript) && a.Reading.Script != b.Reading.Script;

    /// <summary>True if one word is the beginning of the other, of three letters at least.</summary>
    public static bool IsShortened(string a, string b) =>
        Math.Min(a.Length, b.Length) >= 3
        && (a.StartsWith(b, StringComparison.Ordinal) || b.StartsWith(a, StringComparison.Ordinal));

    /// <summary>
    /// False if the letters of two words show that they are neither the same nor similar, so that the words themselves
    /// need not be compared.
    /// </summary>
    public static bool MayBeSimilar(int maskA, int maskB) =>
        LetterMask.Difference(maskA, maskB) <= 6
        || LetterMask.MayContain(maskA, maskB)
        || LetterMask.HasOthers(maskA)
        || LetterMask.HasOthers(maskB);

    /// <summary>
    /// True if one word is likely the other with a typing error: one edit, two in long words, the same sound and
    /// similar, or very similar from the beginning.
    /// </summary>
    public static bool IsMisspelling(Token a, Token b)
    {
        var (x, y) = (a.Text, b.Text);
        var shorter = Math.Min(x.Length, y.Length);
        if (shorter < 3 || char.IsAsciiDigit(x[0]) || char.IsAsciiDigit(y[0]))
            return false;
        if (Math.Max(x.Length, y.Length) - shorter > 4)
            return false;
        if (a.IsOfOtherScript && shorter < MinOf(a.Reading.Script))
            return false;
        var maxEdits = shorter >= 7 ? 2 : 1;
        if (
            LetterMask.Difference(a.Mask, b.Mask) <= 2 * maxEdits
            && DamerauLevenshtein.Distance(x, y, maxEdits) <= maxEdits
            && (shorter > 3 || a.Sound == b.Sound)
        )
            return true;
        if (x[0] != y[0] && a.Sound != b.Sound)
            return false;
        var similarity = JaroWinkler.Of(x, y);
        return similarity >= 0.92 || (similarity >= 0.82 && a.Sound == b.Sound);
    }

    /// <summary>
    /// How long words are that may be misspelt: without vowels each letter says more, and a character of Chinese is as
    /// much as a word.
    /// </summary>
    private static int MinOf(Script script) =>
        script switch
        {
            Script.Han => int.MaxValue,
            Script.Abjad => 6,
            _ => 3,
        };
}
