using System.IO.Compression;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Serialization;
using Kettlefog.Core;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Own;

/// <summary>The header of a backup.</summary>
/// <param name="Kettlefog">Always <c>own tables</c>.</param>
/// <param name="Version">The version of the own tables.</param>
/// <param name="Engine">The engine whose values it holds: <c>sqlite</c> or <c>postgres</c>.</param>
/// <param name="Database">The name of the database.</param>
/// <param name="At">When it was written.</param>
public sealed record BackupHead(string Kettlefog, int Version, string Engine, string Database, DateTimeOffset At);

/// <summary>
/// A backup of Kettlefog's tables: JSON lines (jsonlines.org), compressed (RFC 1952). The header, then for each table a
/// line with its name and columns and an array for each row, then a line with the number of rows. The journal holds
/// values as its engine writes them, so that it is restored to the same engine only.
/// </summary>
internal sealed class OwnBackup(Session session)
{
    private const string Kind = "own tables";

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    };

    private sealed record TableLine(string Table, IReadOnlyList<string> Columns);

    private sealed record LastLine(long Rows);

    /// <summary>Writes all own tables, as seen by the session.</summary>
    /// <returns>The number of rows.</returns>
    public async Task<long> WriteAsync(Stream stream, BackupHead head, CancellationToken cancellationToken)
    {
        await using var packed = new GZipStream(stream, CompressionLevel.Fastest, leaveOpen: true);
        await using var writer = new StreamWriter(packed);
        await writer.WriteLineAsync(JsonSerializer.Serialize(head with { Kettlefog = Kind }, Json));
        var rows = 0L;
        foreach (var (table, columns) in await session.Engine.OwnSchema.ReadColumnsAsync(session, cancellationToken))
        {
            await writer.WriteLineAsync(JsonSerializer.Serialize(new TableLine(table, columns), Json));
            await foreach (
                var row in session.StreamAsync(
                    Sql.Of($"SELECT {Sql.Join(", ", columns)} FROM {session.Dialect.Own(table)}"),
                    row => row.Values(columns.Count),
                    cancellationToken
                )
            )
            {
                await writer.WriteLineAsync(JsonSerializer.Serialize(row.Select(Written), Json));
                rows++;
            }
        }

        await writer.WriteLineAsync(JsonSerializer.Serialize(new LastLine(rows), Json));
        return rows;
    }

    /// <summary>Reads the header of a backup.</summary>
    /// <exception cref="KettlefogException">The file is not a backup.</exception>
    public static async Task<BackupHead> ReadHeadAsync(Stream stream, string name)
    {
        using var reader = new StreamReader(new GZipStream(stream, CompressionMode.Decompress, leaveOpen: true));
        try
        {
            if (
                JsonSerializer.Deserialize<BackupHead>(await reader.ReadLineAsync() ?? "", Json) is
                { Kettlefog: Kind } head
            )
                return head;
        }
        catch (Exception error) when (error is JsonException or InvalidDataException)
        {
            // Reported below.
        }

        throw NoBackup(name);
    }

    /// <summary>Inserts the rows of a backup into the own tables, which exist and are empty.</summary>
    /// <exception cref="KettlefogException">The backup is cut off or damaged.</exception>
    public async Task<long> RestoreAsync(Stream stream, string name, CancellationToken cancellationToken)
    {
        using var reader = new StreamReader(new GZipStream(stream, CompressionMode.Decompress, leaveOpen: true));
        TableLine? table = null;
        var rows = 0L;
        try
        {
            await reader.ReadLineAsync(cancellationToken);
            while (await reader.ReadLineAsync(cancellationToken) is { } line)
            {
                using var document = JsonDocument.Parse(line);
                if (document.RootElement.ValueKind == JsonValueKind.Array)
                {
                    var values = document.RootElement.EnumerateArray().Select(Read).ToList();
                    session.Enqueue(
                        Sql.Of(
                            $"INSERT INTO {session.Dialect.Own(table!.Table)} "
                                + $"({Sql.Join(", ", table.Columns)}) VALUES ({Sql.Join(", ", values)})"
                        )
                    );
                    if (++rows % 500 == 0)
                        await session.FlushAsync(cancellationToken);
                }
                else if (document.RootElement.TryGetProperty("rows", out var last))
                {
                    await session.FlushAsync(cancellationToken);
                    return last.GetInt64() == rows ? rows : throw NoBackup(name);
                }
                else
                {
                    table = document.Deserialize<TableLine>(Json);
                }
            }
        }
        catch (Exception error) when (error is JsonException or InvalidDataException)
        {
            throw NoBackup(name);
        }

        throw NoBackup(name);
    }

    private static object? Written(ColumnValue value) =>
        value.Raw switch
        {
            double real => new Dictionary<string, string> { ["real"] = value.ToText()! },
            byte[] bytes => new Dictionary<string, string> { ["bytes"] = Convert.ToBase64String(bytes) },
            var other => other,
        };

    private static Sql Read(JsonElement element) =>
        element.ValueKind switch
        {
            JsonValueKind.Null => Sql.Of($"NULL"),
            JsonValueKind.Number => Sql.Of($"{element.GetInt64()}"),
            JsonValueKind.String => Sql.Of($"{element.GetString()}"),
            _ when element.TryGetProperty("real", out var real) => Sql.Of(
                $"{double.Parse(real.GetString()!, System.Globalization.CultureInfo.InvariantCulture)}"
            ),
            _ => Sql.Of($"{ColumnValue.FromDriver(element.GetProperty("bytes").GetBytesFromBase64())}"),
        };

    private static KettlefogException NoBackup(string name) =>
        new(
            ErrorCode.InvalidQuery,
            $"The file {name} is no whole backup of Kettlefog's tables.",
            "Choose another backup; nothing was changed."
        );
}
