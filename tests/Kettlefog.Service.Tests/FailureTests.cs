using System.Net.Http.Headers;
using System.Net.Sockets;
using System.Text;
using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>The service when its environment fails.</summary>
public class FailureTests(ServiceFixture fixture)
{
    [Fact]
    public async Task A_caller_who_is_gone_before_the_refusal_is_no_error()
    {
        await using var service = await RunningService.StartAsync(5);
        var body = """{"recordType": "vendor", "master": "1001", "duplicates": ["4711"]}""";
        var request = Encoding.ASCII.GetBytes(
            "POST /api/plans HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\n"
                + $"Authorization: Bearer {service.OperatorToken}\r\nContent-Length: {body.Length}\r\n\r\n{body}"
        );
        for (var attempt = 0; attempt < 300; attempt++)
        {
            using var caller = new TcpClient { LingerState = new LingerOption(true, 0) };
            await caller.ConnectAsync(service.Address.Host, service.Address.Port);
            await caller.GetStream().WriteAsync(request);
            await Task.Delay(TimeSpan.FromMilliseconds(attempt % 10));
        }

        (await service.Client.SessionAsync()).Name.ShouldBe("c.weeks");
        service
            .Log.Split('\n')
            .Where(line => line.Contains("\"@l\":\"Error\"", StringComparison.Ordinal))
            .ShouldBeEmpty();
    }

    [Fact]
    public async Task A_database_held_by_another_program_is_busy_and_a_missing_one_unavailable()
    {
        await using var service = await RunningService.StartAsync(5);
        await service.KillAsync();
        await service.ServeAsync("--busy-timeout", "1");
        var request = new PlanRequest("vendor", "1001", ["1002"]);
        var plan = await service.Client.PlanAsync(request);
        using (var other = service.File.Open())
        {
            using var held = other.BeginTransaction(deferred: false);
            await MergeApiTests.RefusedAsync(
                () => service.Client.MergeAsync(new MergeBody(request, plan.Fingerprint), "k"),
                503,
                "database-busy"
            );
        }

        (await service.Client.MergeAsync(new MergeBody(request, plan.Fingerprint), "k")).Summary.Number.ShouldBe(1);
        using (
            var http = new HttpClient
            {
                BaseAddress = service.Address,
                DefaultRequestHeaders =
                {
                    Authorization = new AuthenticationHeaderValue("Bearer", service.OperatorToken),
                },
            }
        )
        {
            await using var events = EventTests.ReadAsync<EventView>(http, "api/events").GetAsyncEnumerator();
            await events.MoveNextAsync();
            File.Move(service.Database.Address, service.Database.Address + ".away");
            await LoggedAsync(service, "cannot be read");
            await Task.Delay(2_500);
            service.Log.Split("cannot be read").Length.ShouldBe(2, "it is told once, however often it is tried");
            File.Move(service.Database.Address + ".away", service.Database.Address);
            await LoggedAsync(service, "can be read again");
        }

        File.Move(service.Database.Address, service.Database.Address + ".away");
        foreach (var rest in Directory.GetFiles(service.Folder, "*.db-*"))
            File.Delete(rest);
        await service.KillAsync();
        var ran = await Programs.RunAsync(
            Programs.Service,
            ["serve", "--database", service.Database.Address, "--map", service.MapFile, "--port", "0"]
        );
        ran.ExitCode.ShouldBe(1);
        ran.Error.ShouldContain("there is no such file");
    }

    [Fact]
    public async Task A_wrong_map_is_reported_with_file_and_line_and_the_service_does_not_start()
    {
        using var folder = new TempFolder();
        var (file, database) = (folder.File("wrong.map.yaml"), fixture.Service.Database.Address);
        var map = await File.ReadAllTextAsync(fixture.Service.MapFile);
        await File.WriteAllTextAsync(
            file,
            map.Replace("columns: subject_id", "columns: subjct_id", StringComparison.Ordinal)
                .Replace("survivorship: newest", "survivorship: newst", StringComparison.Ordinal)
        );
        var ran = await Programs.RunAsync(
            Programs.Service,
            ["serve", "--database", database, "--map", file, "--port", "0"]
        );
        ran.ExitCode.ShouldBe(1);
        ran.Output.ShouldBeEmpty();
        ran.Error.ShouldContain("wrong.map.yaml:25: 'newst' is not a known value");
        ran.Error.ShouldContain("Write 'newest'.");
        await File.WriteAllTextAsync(
            file,
            map.Replace("columns: subject_id", "columns: subjct_id", StringComparison.Ordinal)
        );
        var check = await Programs.RunAsync(Programs.Service, ["check-map", "--database", database, "--map", file]);
        check.ExitCode.ShouldBe(1);
        check.Output.ShouldContain("The table 'note' has no column 'subjct_id'.\n    Write 'subject_id'.");
    }

    [Fact]
    public async Task A_port_in_use_is_reported()
    {
        var service = fixture.Service;
        var ran = await Programs.RunAsync(
            Programs.Service,
            [
                "serve",
                "--database",
                service.Database.Address,
                "--map",
                service.MapFile,
                "--port",
                $"{service.Address.Port}",
            ]
        );
        ran.ExitCode.ShouldBe(1);
        ran.Error.ShouldContain("the port is taken");
    }

    private static async Task LoggedAsync(RunningService service, string words)
    {
        for (var tries = 0; tries < 300 && !service.Log.Contains(words, StringComparison.Ordinal); tries++)
            await Task.Delay(100);
        service.Log.ShouldContain(words);
    }
}
