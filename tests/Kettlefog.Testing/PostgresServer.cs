using System.Data.Common;
using System.Diagnostics;
using System.Text.RegularExpressions;
using Npgsql;
using NpgsqlTypes;

namespace Kettlefog.Testing;

/// <summary>
/// A private PostgreSQL server for one run of the tests, from Debian's packages, on a socket in its own folder.
/// </summary>
public static class PostgresServer
{
    private static readonly Lazy<string> Folder = new(Start);
    private static int _databases;

    /// <summary>
    /// True to wait for the disk at each commit, as production servers do; set before the first database is created.
    /// </summary>
    public static bool Durable { get; set; }

    /// <summary>Creates a database: empty, or a copy of a template without connections.</summary>
    public static PostgresDatabase CreateDatabase(string name, PostgresDatabase? template = null)
    {
        var unique = $"{name}_{Environment.ProcessId}_{Interlocked.Increment(ref _databases)}";
        new PostgresDatabase(Folder.Value, "postgres").Execute(
            $"CREATE DATABASE \"{unique}\"{(template is null ? "" : $" TEMPLATE \"{template.Name}\"")}"
        );
        return new PostgresDatabase(Folder.Value, unique);
    }

    /// <summary>Creates a database whose files are in a folder; see <see cref="DropFrom"/>.</summary>
    public static PostgresDatabase CreateDatabaseIn(string folder, string name)
    {
        var server = new PostgresDatabase(Folder.Value, "postgres");
        var unique = $"{name}_{Environment.ProcessId}_{Interlocked.Increment(ref _databases)}";
        var space = Directory.CreateDirectory(Path.Combine(folder, "space")).FullName;
        if (Environment.UserName == "root")
            Run("chown", ["postgres", space]);
        server.Execute($"CREATE TABLESPACE \"{unique}\" LOCATION '{space}'");
        server.Execute($"CREATE DATABASE \"{unique}\" TABLESPACE \"{unique}\"");
        return new PostgresDatabase(Folder.Value, unique);
    }

    /// <summary>Removes a database, and its files from their folder.</summary>
    public static void DropFrom(PostgresDatabase database)
    {
        ArgumentNullException.ThrowIfNull(database);
        var server = new PostgresDatabase(Folder.Value, "postgres");
        server.Execute($"DROP DATABASE \"{database.Name}\" WITH (FORCE)");
        server.Execute($"DROP TABLESPACE \"{database.Name}\"");
    }

    /// <summary>Adds a user who needs a password, where all others need none.</summary>
    /// <returns>The user's name.</returns>
    public static string CreateLocked(string password)
    {
        var user = $"locked_{Guid.NewGuid():N}";
        new PostgresDatabase(Folder.Value, "postgres").Execute(
            $"CREATE ROLE {user} LOGIN PASSWORD '{password}' IN ROLE locked"
        );
        return user;
    }

    private static string Start()
    {
        var bin = Directory.Exists("/usr/lib/postgresql")
            ? Directory
                .GetDirectories("/usr/lib/postgresql")
                .OrderBy(version => version.Length)
                .ThenBy(version => version)
                .Select(version => Path.Combine(version, "bin"))
                .LastOrDefault()
            : null;
        if (bin is null)
            throw new InvalidOperationException("PostgreSQL is not installed; './kettlefog test' installs it.");
        var folder = Directory.CreateTempSubdirectory("kettlefog-postgres-").FullName;
        var asRoot = Environment.UserName == "root";
        if (asRoot)
            Run("chown", ["postgres", folder]);

        // Not waited for: removing hundreds of databases takes longer than a program may take to end.
        AppDomain.CurrentDomain.ProcessExit += (_, _) =>
            Process.Start(
                new ProcessStartInfo(
                    "sh",
                    [
                        "-c",
                        $"exec >/dev/null 2>&1 </dev/null; {(asRoot ? "runuser -u postgres -- " : "")}\"$0\" "
                            + "-D \"$1/data\" -m immediate stop; rm -rf \"$1\"",
                        Path.Combine(bin, "pg_ctl"),
                        folder,
                    ]
                )
                {
                    WorkingDirectory = "/",
                }
            );
        As(
            asRoot,
            Path.Combine(bin, "initdb"),
            ["-D", $"{folder}/data", "-U", "kettlefog", "-A", "trust", "-E", "UTF8", "--locale=C.UTF-8", "--no-sync"]
        );
        File.WriteAllText($"{folder}/data/pg_hba.conf", "local all +locked scram-sha-256\nlocal all all trust\n");
        As(
            asRoot,
            Path.Combine(bin, "pg_ctl"),
            [
                "-D",
                $"{folder}/data",
                "-w",
                "-l",
                $"{folder}/log",
                "-o",
                $"-c listen_addresses='' -k {folder} -c fsync={(Durable ? "on" : "off")} -c "
                    + "max_connections=200 -c shared_buffers=64MB -c max_wal_size=128MB -c min_wal_size=32MB",
                "start",
            ]
        );
        new PostgresDatabase(folder, "postgres").Execute("CREATE ROLE locked");
        return folder;
    }

    private static void As(bool asRoot, string program, string[] arguments)
    {
        if (asRoot)
            Run("runuser", ["-u", "postgres", "--", program, .. arguments]);
        else
            Run(program, arguments);
    }

    private static void Run(string program, string[] arguments)
    {
        // The server inherits open handles: its output must not keep this program's pipes open.
        using var process = Process.Start(
            new ProcessStartInfo("sh", ["-c", "exec \"$@\" >/dev/null 2>&1 </dev/null", "sh", program, .. arguments])
            {
                WorkingDirectory = "/",
            }
        )!;
        process.WaitForExit();
        if (process.ExitCode != 0)
            throw new InvalidOperationException(
                $"{program} {string.Join(' ', arguments)} ended with {process.ExitCode}."
            );
    }
}

/// <summary>A foreign program's view of a PostgreSQL database.</summary>
public sealed partial class PostgresDatabase(string folder, string name) : TestDatabase
{
    /// <summary>
    /// A schema that this program searches and Kettlefog does not, so that tables are there for both, in their ways.
    /// </summary>
    public const string OtherSchema = "Old Port";

    private readonly string _connection =
        $"Host={folder};Username=kettlefog;Database={name};Maximum Pool Size=40;Connection Idle "
        + $"Lifetime=10;Options=-c TimeZone=UTC;Search Path='public,\"{OtherSchema}\"'";

    /// <summary>Its name on the server.</summary>
    public string Name { get; } = name;

    public override string Address { get; } = $"postgres://kettlefog@/{name}?host={Uri.EscapeDataString(folder)}";

    public override Engine Engine => Engine.Postgres;

    /// <summary>The socket that its server listens on.</summary>
    public string SocketPath { get; } = Path.Combine(folder, ".s.PGSQL.5432");

    /// <summary>Closes the idle connections, so that new ones have the current settings of the database.</summary>
    public void Forget()
    {
        using var connection = new NpgsqlConnection(_connection);
        NpgsqlConnection.ClearPool(connection);
    }

    /// <summary>The same for Npgsql.</summary>
    public string ConnectionString { get; } = $"Host={folder};Username=kettlefog;Database={name}";

    public override void Dispose()
    {
        // Thousands of worlds would fill the disk, which for tests is memory.
        using (var connection = new NpgsqlConnection(_connection))
            NpgsqlConnection.ClearPool(connection);
        try
        {
            new PostgresDatabase(folder, "postgres").Execute($"DROP DATABASE IF EXISTS \"{Name}\" WITH (FORCE)");
        }
        catch (PostgresException failed) when (failed.SqlState == PostgresErrorCodes.InternalError)
        {
            // A database is dropped after a checkpoint, and none succeeds while a test keeps a disk of the server full:
            // this one goes with the server.
        }

        base.Dispose();
    }

    public override List<Dictionary<string, object?>> Rows(string table)
    {
        var schema = (string)
            Query(
                "SELECT schemaname::text FROM pg_tables WHERE tablename = ?1 AND schemaname = "
                    + "ANY (current_schemas(false))",
                table
            )[0][0]!;
        var columns = Columns(schema, table);
        return
        [
            .. Query($"SELECT {string.Join(", ", columns.Select(column => $"\"{column}\"::text"))} FROM \"{table}\"")
                .Select(row =>
                    columns
                        .Select((column, at) => (column, row[at]))
                        .ToDictionary(pair => pair.column, pair => pair.Item2)
                ),
        ];
    }

    public override List<string> Dump() => DumpTables("schemaname = ANY (current_schemas(false))");

    public override List<string> DumpAll() =>
        DumpTables("schemaname = ANY (current_schemas(false) || '{kettlefog}'::name[])");

    protected override DbConnection Connect()
    {
        var connection = new NpgsqlConnection(_connection);
        connection.Open();
        return connection;
    }

    protected override DbCommand Command(DbConnection connection, string sql, object?[] values)
    {
        var command = new NpgsqlCommand(PlacePattern().Replace(sql, "$$$1"), (NpgsqlConnection)connection);
        foreach (var value in values)
            command.Parameters.Add(
                new NpgsqlParameter
                {
                    Value = value ?? DBNull.Value,
                    NpgsqlDbType =
                        value is string or null ? NpgsqlDbType.Unknown
                        : value is long or int ? NpgsqlDbType.Bigint
                        : value is double ? NpgsqlDbType.Double
                        : NpgsqlDbType.Bytea,
                }
            );
        return command;
    }

    private List<string> DumpTables(string which)
    {
        var lines = new List<string>();
        foreach (
            var table in Query(
                $"SELECT schemaname::text, tablename::text FROM pg_tables WHERE {which} AND tablename <> "
                    + "'schema_version' ORDER BY 1, 2"
            )
        )
        {
            var columns = Columns((string)table[0]!, (string)table[1]!);
            var parts = columns.Select(column => $"COALESCE(\"{column}\"::text, chr(1))");
            lines.AddRange(
                Query($"SELECT {string.Join(" || '|' || ", parts)} FROM \"{table[0]}\".\"{table[1]}\"")
                    .Select(row => $"{table[1]}: {row[0]}")
                    .Order(StringComparer.Ordinal)
            );
        }

        return lines;
    }

    private List<string> Columns(string schema, string table) =>
        [
            .. Query(
                    "SELECT column_name::text FROM information_schema.columns WHERE table_schema = ?1 AND "
                        + "table_name = ?2 ORDER BY ordinal_position",
                    schema,
                    table
                )
                .Select(row => (string)row[0]!),
        ];

    [GeneratedRegex(@"\?(\d+)")]
    private static partial Regex PlacePattern();
}
