namespace Kettlefog.Core.Text;

/// <summary>Recognises placeholders for missing values.</summary>
internal static class Junk
{
    /// <summary>True if a value is a placeholder: one of the listed words, or one character repeated.</summary>
    public static bool IsJunk(string value)
    {
        var text = value.AsSpan().Trim();
        if (text.Length is 0 or > 24)
            return text.Length == 0;
        if (IsOneSign(text))
            return text.Length > 1 || !char.IsLetterOrDigit(text[0]);
        Span<char> lower = stackalloc char[text.Length];
        text.ToLowerInvariant(lower);
        return WordLists.JunkValues.GetAlternateLookup<ReadOnlySpan<char>>().Contains(lower);
    }

    /// <summary>True if digits are a placeholder: all the same, or ascending or descending.</summary>
    public static bool IsFiller(ReadOnlySpan<char> digits)
    {
        if (digits.IsEmpty || IsOneSign(digits))
            return true;
        var up = true;
        var down = true;
        for (var at = 1; at < digits.Length; at++)
        {
            up &= digits[at] == (digits[at - 1] == '9' ? '0' : digits[at - 1] + 1);
            down &= digits[at] == (digits[at - 1] == '0' ? '9' : digits[at - 1] - 1);
        }

        return digits.Length > 4 && (up || down);
    }

    private static bool IsOneSign(ReadOnlySpan<char> text) => text.IndexOfAnyExcept(text[0]) < 0;
}
