namespace Kettlefog.Core.Naming;

/// <summary>Guesses what a misspelled word was meant to be.</summary>
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
            .Select(candidate => (candidate, distance: Distance(word.ToLowerInvariant(), candidate.ToLowerInvariant())))
            .Where(pair => pair.distance <= limit)
            .OrderBy(pair => pair.distance)
            .ThenBy(pair => pair.candidate, StringComparer.Ordinal)
            .Select(pair => pair.candidate)
            .FirstOrDefault();
    }

    /// <summary>What to write instead of a word that is not known: the closest, or the list.</summary>
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

    private static int Distance(string a, string b)
    {
        var d = new int[a.Length + 1, b.Length + 1];
        for (var i = 0; i <= a.Length; i++)
            d[i, 0] = i;
        for (var j = 0; j <= b.Length; j++)
            d[0, j] = j;
        for (var i = 1; i <= a.Length; i++)
        {
            for (var j = 1; j <= b.Length; j++)
            {
                var cost = a[i - 1] == b[j - 1] ? 0 : 1;
                d[i, j] = Math.Min(Math.Min(d[i - 1, j] + 1, d[i, j - 1] + 1), d[i - 1, j - 1] + cost);
                if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                    d[i, j] = Math.Min(d[i, j], d[i - 2, j - 2] + 1);
            }
        }

        return d[a.Length, b.Length];
    }
}
