namespace Kettlefog.Core.Text.Similarity;

/// <summary>
/// The phonetic code of a name: a letter and three digits. The rules are those of the National Archives of the United
/// States (General Information Leaflet 55), which treat letters of one code separated by h or w as one.
/// </summary>
public static class Soundex
{
    private const string Codes = "01230120022455012623010202";

    /// <summary>The code of a word.</summary>
    /// <param name="word">A word; letters other than a to z are ignored.</param>
    /// <returns>As in <c>R163</c>; empty if the word has no letter from a to z.</returns>
    public static string Of(ReadOnlySpan<char> word)
    {
        Span<char> code = stackalloc char[4];
        var length = 0;
        var last = '0';
        foreach (var raw in word)
        {
            var letter = (char)(raw | 0x20);
            if (letter is < 'a' or > 'z')
                continue;
            var digit = Codes[letter - 'a'];
            if (length == 0)
                code[length++] = char.ToUpperInvariant(letter);
            else if (digit != '0' && digit != last)
                code[length++] = digit;
            if (length == 4)
                break;
            if (letter is not ('h' or 'w'))
                last = digit;
        }

        if (length == 0)
            return "";
        code[length..].Fill('0');
        return code.ToString();
    }
}
