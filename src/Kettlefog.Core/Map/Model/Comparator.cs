namespace Kettlefog.Core.Map.Model;

/// <summary>How two values of a field are compared in a rule.</summary>
public enum Comparator
{
    /// <summary>The same text, character by character.</summary>
    Exact,

    /// <summary>The same letters and digits, ignoring case, accents, punctuation and spaces.</summary>
    IgnoringCase,

    /// <summary>The same digits, ignoring everything else.</summary>
    SameDigits,

    /// <summary>The same e-mail address, whatever its case, display name and +tag.</summary>
    SameMailbox,

    /// <summary>Phone numbers that are the same in E.164; <c>digits: n</c> compares the last n digits only.</summary>
    SamePhone,

    /// <summary>
    /// Names of persons: any order, initials, nicknames, particles, double names; suffixes compared separately.
    /// </summary>
    SimilarPersonName,

    /// <summary>Names of organisations: any order, abbreviations, acronyms; legal forms compared separately.</summary>
    SimilarOrganisationName,

    /// <summary>Address lines: abbreviations; unit and house number compared separately.</summary>
    SimilarAddress,

    /// <summary>The same date, also with day and month swapped; <c>within: n</c> allows for n days.</summary>
    SameDate,

    /// <summary>Numbers that differ by at most <c>within: x</c>.</summary>
    NearNumber,

    /// <summary>Words that sound alike (Soundex), in any order.</summary>
    SoundsAlike,

    /// <summary>Jaro's similarity with Winkler's bonus for a common beginning.</summary>
    JaroWinkler,

    /// <summary>One minus the share of edits and transpositions (Damerau–Levenshtein).</summary>
    DamerauLevenshtein,

    /// <summary>The mean of the best Jaro–Winkler similarities of the words.</summary>
    MongeElkan,

    /// <summary>The share of common bigrams.</summary>
    QGram,
}

/// <summary>One comparison of a rule: a field, and how its values of two records must relate.</summary>
/// <param name="Field">The name of the field.</param>
/// <param name="Comparator">How the values are compared.</param>
/// <param name="Differs">
/// True if the comparison holds when the values do not agree. A missing value never holds.
/// </param>
/// <param name="AtLeast">The minimum similarity that counts as agreement, in percent from 1 to 100.</param>
/// <param name="Within">The maximum difference of dates (in days) or numbers.</param>
/// <param name="Digits">How many of the last digits of a phone number are compared, or null for all.</param>
public sealed record Comparison(
    string Field,
    Comparator Comparator,
    bool Differs,
    int AtLeast,
    decimal Within,
    int? Digits
);
