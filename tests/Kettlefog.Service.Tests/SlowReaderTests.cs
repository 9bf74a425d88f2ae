using System.Diagnostics;
using System.Net.Http.Headers;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>A caller that reads slowly keeps nobody from working.</summary>
public class SlowReaderTests
{
    [Fact]
    public async Task Other_programs_write_while_an_export_is_downloaded_slowly()
    {
        await using var service = await RunningService.StartAsync(20);

        // Without a write-ahead log a reader of SQLite keeps every writer waiting.
        service.Database.Query("PRAGMA journal_mode = DELETE");
        var longText = new string('x', 4_000);
        service.Database.Together(statements =>
        {
            for (var number = 1L; number <= 4_000; number++)
                statements(
                    "INSERT INTO kettlefog_history (number, kind, record_type, master, at, actor, reason, rule, "
                        + "details, "
                        + "journal_digest, previous_hash, hash, journal) VALUES (?1, 'reopened', 'vendor', '1', "
                        + "'2026-01-01T00:00:00Z', 'c.weeks', ?2, '', "
                        + "'{\"records\":[{\"key\":\"1\",\"label\":\"A\"}]}', '', '', '', ?1)",
                    [number, longText]
                );
        });
        using var http = new HttpClient { BaseAddress = service.Address };
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", service.ViewerToken);
        using var response = await http.GetAsync(
            "/api/exports/history?format=jsonl",
            HttpCompletionOption.ResponseHeadersRead
        );
        response.EnsureSuccessStatusCode();
        await using var body = await response.Content.ReadAsStreamAsync();
        await body.ReadExactlyAsync(new byte[100]);
        var clock = Stopwatch.StartNew();
        service.Database.Execute("UPDATE vendor SET phone = phone").ShouldBeGreaterThan(1);
        clock.Elapsed.ShouldBeLessThan(TimeSpan.FromSeconds(2), "nobody holds the file");

        // Nothing is lost of what is read late.
        var rest = await new StreamReader(body).ReadToEndAsync();
        rest.Split('\n', StringSplitOptions.RemoveEmptyEntries).Length.ShouldBe(4_000);
        Directory.GetFiles(Path.GetTempPath(), "kettlefog-export-*").ShouldBeEmpty();
    }
}
