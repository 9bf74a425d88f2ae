using Kettlefog.Core.Text;

namespace Kettlefog.Core.Matching.Records;

/// <summary>Whose given name a word is.</summary>
internal enum Sex : byte
{
    /// <summary>Nobody's alone: it is no known name, or women and men have it.</summary>
    Unknown,

    /// <summary>A woman's.</summary>
    Woman,

    /// <summary>A man's.</summary>
    Man,
}

/// <summary>Tells given names of women from those of men, also where they differ by a few letters only.</summary>
internal static class Sexes
{
    /// <summary>What makes a man's name a woman's.</summary>
    private static readonly string[] Endings = ["a", "e", "ia", "ie", "ina", "ine", "ette", "elle", "ita"];

    /// <summary>
    /// True if one name is a woman's and the other a man's: both are known, or one is the other with a feminine ending,
    /// as in Martin and Martina, Mario and Maria, Julius and Julia.
    /// </summary>
    public static bool Differ(string a, string b)
    {
        if (a == b)
            return false;
        if ((IsWoman(a) && IsWoman(b)) || (IsMan(a) && IsMan(b)))
            return false;
        if ((IsWoman(a) && IsMan(b)) || (IsMan(a) && IsWoman(b)))
            return true;
        return a.Length >= b.Length ? IsFeminine(a, b) : IsFeminine(b, a);
    }

    /// <summary>Whose given name a word is.</summary>
    public static Sex Of(string name) =>
        IsWoman(name) ? Sex.Woman
        : IsMan(name) ? Sex.Man
        : Sex.Unknown;

    private static bool IsWoman(string name) => WordLists.Women.Contains(name) && !WordLists.Men.Contains(name);

    private static bool IsMan(string name) => WordLists.Men.Contains(name) && !WordLists.Women.Contains(name);

    // One of them must be known: a letter too many at the end of any other name is a typing error.
    private static bool IsFeminine(string woman, string man)
    {
        if (!IsWoman(woman) && !IsMan(man))
            return false;
        var stem = man.EndsWith("us", StringComparison.Ordinal) ? man[..^2] : man.TrimEnd('o', 'e');
        return stem.Length >= 3
            && woman.StartsWith(stem, StringComparison.Ordinal)
            && Endings.Contains(woman[stem.Length..]);
    }
}
