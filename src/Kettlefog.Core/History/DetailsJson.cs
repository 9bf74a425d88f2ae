using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace Kettlefog.Core.History;

/// <summary>Writes and reads details as the history stores them.</summary>
public static class DetailsJson
{
    private static readonly JsonSerializerOptions Options = new()
    {
        PropertyNamingPolicy = JsonNamingPolicy.CamelCase,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>Writes details.</summary>
    /// <param name="details">The details.</param>
    public static string Write<T>(T details) => JsonSerializer.Serialize(details, Options);

    /// <summary>Reads details.</summary>
    /// <param name="json">What <see cref="Write"/> wrote.</param>
    public static T Read<T>(string json) =>
        typeof(T) == typeof(MergeDetails) && !json.Contains("\"format\":", StringComparison.Ordinal)
            ? EarlierDetails.Upgrade(json).Deserialize<T>(Options)!
            : JsonSerializer.Deserialize<T>(json, Options)!;
}
