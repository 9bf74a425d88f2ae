using System.Text.Encodings.Web;
using System.Text.Json;

namespace Kettlefog.Core.Map.Reading;

/// <summary>Writes texts into YAML.</summary>
internal static class YamlScalar
{
    private static readonly JsonSerializerOptions Readable = new()
    {
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    private static readonly string[] Words = ["null", "true", "false", "yes", "no", "on", "off", "y", "n"];

    /// <summary>A text: plain where YAML reads it unambiguously, otherwise quoted as in JSON.</summary>
    /// <param name="text">The text.</param>
    public static string Of(string text) =>
        text.Length > 0
        && char.IsAsciiLetter(text[0])
        && text.All(letter => char.IsAsciiLetterOrDigit(letter) || letter is '_' or '-' or ' ')
        && text[^1] != ' '
        && !Words.Contains(text.ToLowerInvariant())
            ? text
            : JsonSerializer.Serialize(text, Readable);
}
