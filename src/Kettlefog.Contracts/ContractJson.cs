using System.Text.Json;
using System.Text.Json.Serialization;

namespace Kettlefog.Contracts;

/// <summary>How the types of this library are written in JSON (RFC 8259).</summary>
public static class ContractJson
{
    /// <summary>Names in camel case; numbers as JSON numbers, never as strings.</summary>
    public static JsonSerializerOptions Options { get; } =
        new(JsonSerializerDefaults.Web) { NumberHandling = JsonNumberHandling.Strict };
}
