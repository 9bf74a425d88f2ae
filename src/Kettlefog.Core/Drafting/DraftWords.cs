namespace Kettlefog.Core.Drafting;

/// <summary>The meaning of words in names, by the list beside this file.</summary>
internal static class DraftWords
{
    private static readonly ILookup<string, string> Concepts = Read()
        .SelectMany(line => line.Words.Select(word => (word, line.Concept)))
        .ToLookup(pair => pair.word, pair => pair.Concept);

    /// <summary>
    /// The concepts that a name mentions, longest words first; of words of equal length, the last in the name first:
    /// <c>contact_email</c> is an e-mail.
    /// </summary>
    /// <param name="words">The words of the name.</param>
    public static IReadOnlyList<string> Of(IReadOnlyList<string> words)
    {
        var found = new List<(int Length, int End, string Concept)>();
        for (var from = 0; from < words.Count; from++)
        {
            for (var length = 1; length <= 3 && from + length <= words.Count; length++)
            {
                var parts = words.Skip(from).Take(length).ToList();
                foreach (var phrase in new[] { string.Join(' ', parts), string.Concat(parts) }.Distinct())
                {
                    foreach (var concept in Concepts[phrase])
                        found.Add((length, from + length, concept));
                }
            }
        }

        return
        [
            .. found
                .OrderByDescending(each => each.Length)
                .ThenByDescending(each => each.End)
                .Select(each => each.Concept)
                .Distinct(),
        ];
    }

    private static IEnumerable<(string Concept, IReadOnlyList<string> Words)> Read()
    {
        using var stream = typeof(DraftWords).Assembly.GetManifestResourceStream("draft-words.txt")!;
        using var reader = new StreamReader(stream);
        while (reader.ReadLine() is { } line)
        {
            if (line.StartsWith('#') || line.IndexOf(':', StringComparison.Ordinal) is not (> 0 and var colon))
                continue;
            yield return (
                line[..colon],
                line[(colon + 1)..].Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            );
        }
    }
}
