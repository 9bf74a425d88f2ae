using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using Kettlefog.Core;
using Kettlefog.Terminal;

namespace Kettlefog.Service.Endpoints;

/// <summary>
/// Exports any number of rows in CSV (RFC 4180) or JSON Lines. They are written to a temporary file first: a caller
/// that reads slowly must not hold a transaction of the database, which may keep other programs from writing.
/// </summary>
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
            "csv" => Spooled(stream => CsvText.WriteAsync(stream, columns, rows), Csv),
            "jsonl" => Spooled(
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

    private static IResult Spooled(Func<Stream, Task> write, string contentType) =>
        Results.Stream(
            async response =>
            {
                await using var file = TemporaryFile();
                try
                {
                    await write(file);
                }
                catch (IOException error)
                {
                    throw new KettlefogException(
                        ErrorCode.DatabaseUnavailable,
                        "The export cannot be written to a temporary file: " + error.Message.TrimEnd('.') + ".",
                        "Free disk space on the service's machine and try again.",
                        inner: error
                    );
                }

                file.Position = 0;
                await file.CopyToAsync(response);
            },
            contentType
        );

    /// <summary>A file that only its owner can read, and that is gone when it is closed.</summary>
    private static FileStream TemporaryFile()
    {
        var options = new FileStreamOptions
        {
            Mode = FileMode.CreateNew,
            Access = FileAccess.ReadWrite,
            Share = FileShare.None,
            Options = FileOptions.Asynchronous | FileOptions.DeleteOnClose,
        };
        if (OperatingSystem.IsLinux())
            options.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        return new FileStream(Path.Combine(Path.GetTempPath(), $"kettlefog-export-{Guid.NewGuid():N}"), options);
    }

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
