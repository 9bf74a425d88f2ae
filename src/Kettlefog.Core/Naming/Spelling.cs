using Kettlefog.Core.Text.Similarity;

namespace Kettlefog.Core.Naming;

/// <summary>Suggests the word that a misspelt one was meant to be.</summary>
internal static class Spelling
{
    /// <summary>
    /// The closest of the known words by optimal string alignment distance (Damerau 1964, in the restricted form),
    /// or null if none is close: at most a third of the word's letters may be wrong, and at most three.
    /// </summary>
    public static string? Closest(string word, IEnumerable<string> known)
    {
        var limit = Math.Clamp(word.Length / 3, 1, 3);
        return known
            .Select(candidate =>
                (
                    candidate,
                    distance: DamerauLevenshtein.Distance(word.ToLowerInvariant(), candidate.ToLowerInvariant())
                )
            )
            .Where(pair => pair.distance <= limit)
            .OrderBy(pair => pair.distance)
            .ThenBy(pair => pair.candidate, StringComparer.Ordinal)
            .Select(pair => pair.candidate)
            .FirstOrDefault();
    }

    /// <summary>A hint for an unknown word: the closest known one, or the list.</summary>
    public static string Instead(string word, IEnumerable<string> known)
    {
        var list = known.ToList();
        if (Closest(word, list) is { } close)
            return $"Write '{close}'.";
        if (list.Count == 0)
            return "There is none to choose from.";
        var shown = string.Join(", ", list.Take(20));
        return list.Count > 20 ? $"Known are: {shown}, …" : $"Known are: {shown}.";
    }
}
