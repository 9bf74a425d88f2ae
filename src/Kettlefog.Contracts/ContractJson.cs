using System.Text.Json;
using System.Text.Json.Serialization;

namespace Kettlefog.Contracts;

/// <summary>How what stands in this library is written in JSON (RFC 8259).</summary>
public static class ContractJson
{
    /// <summary>Names in camel case; numbers are numbers, and no texts.</summary>
    public static JsonSerializerOptions Options { get; } =
        new(JsonSerializerDefaults.Web) { NumberHandling = JsonNumberHandling.Strict };
}
