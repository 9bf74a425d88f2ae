using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using Kettlefog.Core;

namespace Kettlefog.Service.Endpoints;

/// <summary>Streams any number of rows in CSV (RFC 4180) or JSON Lines.</summary>
internal static class Exports
{
    public const string Csv = "text/csv";

    public const string JsonLines = "application/jsonl";

    private static readonly JsonSerializerOptions Json = new()
    {
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <exception cref="KettlefogException">The format is unknown.</exception>
    public static IResult Of(string format, IReadOnlyList<string> columns, IAsyncEnumerable<object[]> rows) =>
        format switch
        {
            "csv" => Results.Stream(
                stream =>
                    WriteAsync(stream, rows, string.Join(',', columns), row => string.Join(',', row.Select(Field))),
                Csv
            ),
            "jsonl" => Results.Stream(
                stream =>
                    WriteAsync(stream, rows, null, row =>
                        JsonSerializer.Serialize(
                            columns.Zip(row).ToDictionary(pair => pair.First, pair => pair.Second),
                            Json
                        )
                    ),
                JsonLines
            ),
            _ => throw new KettlefogException(
                ErrorCode.InvalidQuery,
                $"There is no export as '{format}'.",
                "Write 'csv' or 'jsonl'."
            ),
        };

    /// <summary>One field of a CSV row.</summary>
    public static string Field(object value)
    {
        var text = Convert.ToString(value, CultureInfo.InvariantCulture) ?? "";
        return text.AsSpan().IndexOfAny(",\"\r\n") < 0
            ? text
            : $"\"{text.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";
    }

    private static async Task WriteAsync(
        Stream stream,
        IAsyncEnumerable<object[]> rows,
        string? head,
        Func<object[], string> line
    )
    {
        await using var writer = new StreamWriter(stream, new UTF8Encoding(false), 64 * 1024, leaveOpen: true)
        {
            NewLine = head is null ? "\n" : "\r\n",
        };
        if (head is not null)
            await writer.WriteLineAsync(head);
        await foreach (var row in rows)
            await writer.WriteLineAsync(line(row));
    }
}
