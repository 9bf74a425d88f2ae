namespace Kettlefog.Core.Text;

/// <summary>Numbers without what people write between their groups.</summary>
internal static class Compact
{
    /// <summary>A number in capitals, without spaces, dots, hyphens and slashes.</summary>
    public static string Of(string text) =>
        string.Concat(text.Where(letter => !char.IsWhiteSpace(letter) && letter is not ('.' or '-' or '/')))
            .ToUpperInvariant();
}
