using System.Text;

namespace Kettlefog.Core.Search;

/// <summary>One condition that a record must meet to be found.</summary>
/// <param name="Field">The field or column to look in, or null for any field and the key.</param>
/// <param name="Pattern">
/// The text to look for. With a wildcard it has to match the whole value: <c>*</c> stands for any characters,
/// <c>?</c> for one. Without one, it may occur anywhere in the value.
/// </param>
public sealed record SearchTerm(string? Field, string Pattern)
{
    /// <summary>True if the pattern has a wildcard.</summary>
    public bool HasWildcard => Pattern.AsSpan().IndexOfAny('*', '?') >= 0;

    /// <summary>The pattern for SQL's LIKE, with <c>\</c> as the escape character.</summary>
    public string ToLikePattern()
    {
        var like = new StringBuilder(Pattern.Length + 8);
        foreach (var letter in Pattern)
        {
            _ = letter switch
            {
                '*' => like.Append('%'),
                '?' => like.Append('_'),
                '%' or '_' or '\\' => like.Append('\\').Append(letter),
                _ => like.Append(letter),
            };
        }

        return HasWildcard ? like.ToString() : $"%{like}%";
    }
}

/// <summary>
/// A search as typed: words that must all be found, each in any field. Quotes keep words together, and
/// <c>field:word</c> looks in one field only.
/// </summary>
/// <param name="Terms">The conditions; empty finds all.</param>
public sealed record SearchQuery(IReadOnlyList<SearchTerm> Terms)
{
    /// <summary>
    /// How many words may be searched at once: every one is looked for in every field of every record.
    /// </summary>
    public const int MaximumWords = 32;

    /// <summary>How long a search may be, in characters.</summary>
    public const int MaximumLength = 1_000;

    /// <summary>Reads a search.</summary>
    /// <param name="text">The text as typed; null or blank finds all.</param>
    /// <param name="fields">The names that may be used before a colon.</param>
    /// <exception cref="KettlefogException">A quote is not closed, or there is more than can be searched.</exception>
    public static SearchQuery Read(string? text, IReadOnlyCollection<string> fields)
    {
        ArgumentNullException.ThrowIfNull(fields);
        if (text?.Length > MaximumLength)
            throw TooMuch($"The search has {text.Length} characters, and can have {MaximumLength}.");
        var terms = new List<SearchTerm>();
        foreach (var word in Words(text ?? ""))
        {
            var colon = word.IndexOf(':', StringComparison.Ordinal);
            var named =
                colon > 0
                    ? fields.FirstOrDefault(field =>
                        word.AsSpan(0, colon).Equals(field, StringComparison.OrdinalIgnoreCase)
                    )
                    : null;
            var pattern = named is null ? word : word[(colon + 1)..];
            if (pattern.Length > 0)
                terms.Add(new SearchTerm(named, pattern));
        }

        return terms.Count <= MaximumWords
            ? new SearchQuery(terms)
            : throw TooMuch($"The search has {terms.Count} words, and can have {MaximumWords}.");
    }

    private static KettlefogException TooMuch(string what) =>
        new(ErrorCode.InvalidQuery, what, "Search for a few words that tell the record from others.");

    private static IEnumerable<string> Words(string text)
    {
        var word = new StringBuilder();
        var quoted = false;
        foreach (var letter in text)
        {
            if (letter == '"')
            {
                quoted = !quoted;
            }
            else if (char.IsWhiteSpace(letter) && !quoted)
            {
                if (word.Length > 0)
                    yield return word.ToString();
                word.Clear();
            }
            else
            {
                word.Append(letter);
            }
        }

        if (quoted)
            throw new KettlefogException(
                ErrorCode.InvalidQuery,
                "A quote in the search is not closed.",
                "Add the closing '\"', or remove the other one."
            );
        if (word.Length > 0)
            yield return word.ToString();
    }
}
