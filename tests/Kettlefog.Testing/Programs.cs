using System.Diagnostics;
using System.Text;
using Kettlefog.Client;
using Kettlefog.Contracts;

namespace Kettlefog.Testing;

/// <summary>The output and exit code of a program.</summary>
public sealed record Ran(int ExitCode, string Output, string Error);

/// <summary>Runs the built programs as their users do: as processes.</summary>
public static class Programs
{
    public static string Service { get; } = Find("Kettlefog.Service", "kettlefog-service");

    public static string Cli { get; } = Find("Kettlefog.Cli", "kettlefog");

    public static string Demo { get; } = Find("Kettlefog.Demo", "kettlefog-demo");

    /// <summary>Runs a program until it ends.</summary>
    public static async Task<Ran> RunAsync(
        string program,
        IEnumerable<string> arguments,
        IReadOnlyDictionary<string, string?>? environment = null,
        string? input = null
    )
    {
        using var process = Start(program, arguments, environment);
        if (input is not null)
            await process.StandardInput.WriteLineAsync(input);
        process.StandardInput.Close();
        var output = process.StandardOutput.ReadToEndAsync();
        var error = process.StandardError.ReadToEndAsync();
        await process.WaitForExitAsync();
        return new Ran(process.ExitCode, await output, await error);
    }

    /// <summary>Starts a program.</summary>
    public static Process Start(
        string program,
        IEnumerable<string> arguments,
        IReadOnlyDictionary<string, string?>? environment = null
    )
    {
        var start = new ProcessStartInfo("dotnet", arguments.Prepend(program))
        {
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            StandardOutputEncoding = Encoding.UTF8,
        };
        // What a service keeps outside its database is not left in the home of whoever runs the tests.
        start.Environment["XDG_STATE_HOME"] = Path.Combine(Path.GetTempPath(), "kettlefog-state");
        foreach (var (name, value) in environment ?? new Dictionary<string, string?>())
            start.Environment[name] = value;
        return Process.Start(start)!;
    }

    private static string Find(string project, string name) =>
        Path.GetFullPath(
            Path.Combine(
                AppContext.BaseDirectory,
                "..",
                "..",
                project,
                Path.GetFileName(AppContext.BaseDirectory.TrimEnd('/')),
                $"{name}.dll"
            )
        );
}

/// <summary>The demo world with a running service, and users of three roles.</summary>
public sealed class RunningService : IAsyncDisposable
{
    /// <summary>Everybody's.</summary>
    private const string Password = "tide over the bar";

    private readonly TempFolder _folder = new();
    private readonly StringBuilder _log = new();
    private Process? _process;

    private RunningService() { }

    public TestDatabase Database { get; private set; } = null!;

    /// <summary>The database file, for tests about files.</summary>
    public SqliteFile File => (SqliteFile)Database;

    public string MapFile { get; private set; } = null!;

    public Uri Address { get; private set; } = null!;

    public string OperatorToken { get; private set; } = "";

    public string ViewerToken { get; private set; } = "";

    public string AdministratorToken { get; private set; } = "";

    public string Folder => _folder.Path;

    /// <summary>The file of the key that signs checkpoints of the history.</summary>
    public string SigningKeyFile => Path.Combine(Folder, "history.key");

    /// <summary>The service's log, one JSON object per line.</summary>
    public string Log
    {
        get
        {
            lock (_log)
                return _log.ToString();
        }
    }

    public KettlefogClient Client => ClientFor(OperatorToken);

    /// <summary>Starts a service on the demo world.</summary>
    public static Task<RunningService> StartAsync(
        int vendors = 40,
        string? journalMode = null,
        Engine engine = Engine.Sqlite
    ) => StartAsync(engine, async service =>
        {
            string[] where = service.Database is PostgresDatabase postgres
                ? ["postgres", postgres.ConnectionString, service.Folder]
                : [service.Folder];
            (await Programs.RunAsync(Programs.Demo, [.. where, $"{vendors}"])).ShouldSucceed();
            if (journalMode is not null)
                service.Database.Query($"PRAGMA journal_mode = {journalMode}");
        });

    /// <summary>Starts a service on a custom database.</summary>
    public static Task<RunningService> StartOnAsync(string schema, string map, Engine engine = Engine.Sqlite) =>
        StartAsync(engine, service =>
        {
            service.Database.Execute(schema);
            return System.IO.File.WriteAllTextAsync(service.MapFile, map);
        });

    private static async Task<RunningService> StartAsync(Engine engine, Func<RunningService, Task> make)
    {
        var service = new RunningService();
        service.Database = TestDatabase.Create(engine, service._folder, "saltmarrow");
        service.MapFile = service._folder.File("saltmarrow.map.yaml");
        await make(service);
        await service.OnMachineAsync("init");

        // A hash of a password takes long by intention: who signs in by token only needs none.
        await service.OnMachineAsync("add-user", "m.tilling", "--role", "administrator");
        service.AdministratorToken = await service.OnMachineAsync("token", "--user", "m.tilling");
        await service.ServeAsync();
        service.OperatorToken = await service.AddUserAsync("c.weeks", "operator");
        service.ViewerToken = await service.AddUserAsync("h.trewin", "viewer");
        return service;
    }

    /// <summary>A client with a token, or without.</summary>
    public KettlefogClient ClientFor(string? token) => new(new HttpClient { BaseAddress = Address }, token);

    /// <summary>A command of the service on the machine itself.</summary>
    public async Task<string> OnMachineAsync(string verb, params string[] arguments) =>
        (
            await Programs.RunAsync(
                Programs.Service,
                [verb, .. arguments, "--database", Database.Address],
                input: Password
            )
        )
            .ShouldSucceed()
            .Output.Trim();

    /// <summary>Starts the service on a free port.</summary>
    public async Task ServeAsync(params string[] arguments)
    {
        _process = Programs.Start(
            Programs.Service,
            ["serve", "--database", Database.Address, "--map", MapFile, "--port", "0", .. arguments],
            new Dictionary<string, string?> { ["KETTLEFOG_SIGNING_KEY"] = SigningKeyFile }
        );
        _process.ErrorDataReceived += (_, line) =>
        {
            lock (_log)
                _log.AppendLine(line.Data);
        };
        _process.BeginErrorReadLine();
        var said = await _process.StandardOutput.ReadLineAsync()
            ?? throw new InvalidOperationException($"The service did not start: {Log}");
        Address = new Uri(said["Kettlefog is listening on ".Length..] + "/");
    }

    /// <summary>Kills the service at once, as a power cut would.</summary>
    public async Task KillAsync()
    {
        _process!.Kill();
        await _process.WaitForExitAsync();
        _process.Dispose();
        _process = null;
    }

    public async ValueTask DisposeAsync()
    {
        if (_process is not null)
            await KillAsync();
        Database.Dispose();
        _folder.Dispose();
    }

    private async Task<string> AddUserAsync(string name, string role)
    {
        await ClientFor(AdministratorToken).AddUserAsync(new NewUser(name, name, role, Password));
        return await OnMachineAsync("token", "--user", name);
    }
}

/// <summary>Shows the output of a program if it failed.</summary>
public static class RanExtensions
{
    public static Ran ShouldFail(this Ran ran, int exitCode, string message) =>
        ran.ExitCode == exitCode && ran.Error.Contains(message, StringComparison.Ordinal)
            ? ran
            : throw new InvalidOperationException(
                $"The program ended with {ran.ExitCode} instead of {exitCode}, and did not say "
                    + $"'{message}':\n{ran.Output}{ran.Error}"
            );

    public static Ran ShouldSucceed(this Ran ran) =>
        ran.ExitCode == 0
            ? ran
            : throw new InvalidOperationException($"The program ended with {ran.ExitCode}: {ran.Error}{ran.Output}");
}
