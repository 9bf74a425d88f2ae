using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using Kettlefog.Core;
using Kettlefog.Terminal;

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
            "csv" => Results.Stream(stream => CsvText.WriteAsync(stream, columns, rows), Csv),
            "jsonl" => Results.Stream(
                stream =>
                    WriteAsync(stream, rows, row =>
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

    private static async Task WriteAsync(Stream stream, IAsyncEnumerable<object[]> rows, Func<object[], string> line)
    {
        await using var writer = new StreamWriter(stream, new UTF8Encoding(false), 64 * 1024, leaveOpen: true)
        {
            NewLine = "\n",
        };
        await foreach (var row in rows)
            await writer.WriteLineAsync(line(row));
    }
}
