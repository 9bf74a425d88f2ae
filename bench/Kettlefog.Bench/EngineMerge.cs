using System.Data.Common;
using System.Globalization;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Database;
using Kettlefog.Database.History;
using Kettlefog.Database.Merging;
using Kettlefog.Testing;
using Microsoft.Data.Sqlite;
using Npgsql;

namespace Kettlefog.Bench;

/// <summary>
/// Merges by the engine against statements written by hand, in one run: lock, a minimal undo journal by
/// INSERT … SELECT, updates, retirement, commit, with indexes on the foreign keys. The plan was made and reviewed
/// before, as an operator does; applying it plans again, verifies the result and appends to the history.
/// </summary>
internal static class EngineMerge
{
    private static readonly string[] Tables = ["bill", "payment", "purchase_order", "ledger_entry", "activity"];

    private static readonly string Map = $$"""
        kettlefog: 1
        name: Bench
        record_types:
          vendor:
            table: vendor
            label: "{name}"
            fields: { name: , phone: { kind: phone }, email: { kind: email } }
            retire: { mark: { status: merged } }
            references:
        {{string.Join(
            "\n",
            Tables.Select(table => $"      {table}: {{ table: {table}, columns: vendor_id, amount: amount }}")
        )}}
            figures:
              billed: { reference: bill, sum: amount, control: true }
              paid: { reference: payment, sum: amount, control: true }
              bills: { reference: bill, count: true }
        """;

    /// <summary>Runs all sizes on both engines.</summary>
    /// <param name="small">The number of small merges done each way.</param>
    public static async Task<bool> RunAsync(int small)
    {
        PostgresServer.Durable = true;
        var met = true;
        foreach (var engine in new[] { Engine.Sqlite, Engine.Postgres })
        {
            met &= await RunAsync(engine, 10, small, 200, 2);
            met &= await RunAsync(engine, 1_000, 30, 5, 2);
            met &= await RunAsync(engine, 100_000, 3, 1, 1.5);
            met &= await PlanGreatAsync(engine, 1_000_000, 2);
        }

        return met;
    }

    private static async Task<bool> RunAsync(Engine engine, int rows, int merges, int block, double allowed)
    {
        using var folder = new TempFolder();
        using var file = TestDatabase.Create(engine, folder, $"bench_{rows}");
        var rounds = merges + block;
        Fill(file, rounds * 4, rows);
        await OwnTablesMaintenance.InitialiseAsync(file.Address, null, default);
        using var database = await OperationalDatabase.OpenAsync(
            file.Address,
            MapReader.Read(Map, "bench.yaml"),
            TimeSpan.FromSeconds(30),
            TimeProvider.System,
            default
        );
        await using var connection = await ConnectAsync(file);
        var ours = new Times();
        var byHand = new Times();
        for (var first = 0; first < rounds; first += block)
        {
            // The first block warms up.
            foreach (var round in Enumerable.Range(first, Math.Min(block, rounds - first)))
            {
                var choices = new MergeChoices(
                    "vendor",
                    database.Records.ReadKey(database.Map.Map.RecordTypes[0], $"{(4 * round) + 1}"),
                    [database.Records.ReadKey(database.Map.Map.RecordTypes[0], $"{(4 * round) + 2}")],
                    new Dictionary<string, FieldChoice>()
                );
                var plan = await database.Merges.PlanAsync(choices, default);
                var request = new MergeRequest(
                    choices,
                    plan.Fingerprint.Text,
                    new AuditContext("bench", "same firm"),
                    $"{round}"
                );
                await (first == 0 ? new Times() : ours).MeasureAsync(() =>
                    database.Merges.ApplyAsync(request, default)
                );
            }

            foreach (var round in Enumerable.Range(first, Math.Min(block, rounds - first)))
                await (first == 0 ? new Times() : byHand).MeasureAsync(() =>
                    MergeByHandAsync(connection, (4 * round) + 3, (4 * round) + 4)
                );
        }

        var ratio = ours.Sum / byHand.Sum;
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{engine}: {merges} merges of a duplicate with {rows} rows over five tables, mean (median): "
                    + $"by hand {byHand.Sum / merges:0.00} ms ({byHand.Median:0.00}), ours {ours.Sum / merges:0.00} "
                    + $"ms ({ours.Median:0.00}), ratio {ratio:0.00} (at most {allowed} is allowed)"
            )
        );
        return ratio <= allowed;
    }

    /// <summary>
    /// Plans a merge of a record with very many related rows, and merges it in the same memory as one with few.
    /// </summary>
    private static async Task<bool> PlanGreatAsync(Engine engine, int rows, double allowed)
    {
        using var folder = new TempFolder();
        using var file = TestDatabase.Create(engine, folder, "bench_great");
        Fill(file, 4, rows);
        file.Execute("DELETE FROM bill WHERE vendor_id = 4 AND id % 1000 > 0");
        foreach (var table in Tables[1..])
            file.Execute($"DELETE FROM {table} WHERE vendor_id = 4");
        if (engine == Engine.Postgres)
            file.Execute("ANALYZE");
        await OwnTablesMaintenance.InitialiseAsync(file.Address, null, default);
        using var database = await OperationalDatabase.OpenAsync(
            file.Address,
            MapReader.Read(Map, "bench.yaml"),
            TimeSpan.FromSeconds(30),
            TimeProvider.System,
            default
        );
        MergeChoices Choices(long master, long duplicate) =>
            new(
                "vendor",
                database.Records.ReadKey(database.Map.Map.RecordTypes[0], $"{master}"),
                [database.Records.ReadKey(database.Map.Map.RecordTypes[0], $"{duplicate}")],
                new Dictionary<string, FieldChoice>()
            );
        var times = new Times();
        for (var round = 0; round < 5; round++)
            await times.MeasureAsync(() => database.Merges.PlanAsync(Choices(1, 2), default));
        async Task<double> MergeAsync(MergeChoices choices)
        {
            var plan = await database.Merges.PlanAsync(choices, default);
            var before = GC.GetTotalAllocatedBytes(precise: true);
            await database.Merges.ApplyAsync(
                new MergeRequest(
                    choices,
                    plan.Fingerprint.Text,
                    new AuditContext("bench", "same firm"),
                    $"{choices.Master}"
                ),
                default
            );
            return (GC.GetTotalAllocatedBytes(precise: true) - before) / 1e6;
        }

        var few = await MergeAsync(Choices(3, 4));
        var many = await MergeAsync(Choices(1, 2));
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{engine}: plan of a duplicate with {rows} rows over five tables, median "
                    + $"{times.Median / 1000:0.00} s (at most {allowed} s is allowed); merging it allocates "
                    + $"{many:0.0} MB in all, one with {rows / 5000} rows {few:0.0} MB"
            )
        );
        return times.Median <= allowed * 1000;
    }

    private static void Fill(TestDatabase file, int vendors, int rows) =>
        file.Together(execute =>
        {
            var number = file.Engine == Engine.Sqlite ? "INTEGER" : "BIGINT";
            execute(
                $"CREATE TABLE vendor (id {number} PRIMARY KEY, name TEXT NOT NULL, phone TEXT, email TEXT, "
                    + "status TEXT NOT NULL)",
                []
            );
            execute($"CREATE TABLE undo (merge {number}, tab TEXT, row_key {number}, col TEXT, before TEXT)", []);
            execute(
                "INSERT INTO vendor WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < "
                    + $"{vendors}) SELECT i, 'Bench ' || i, CASE i % 2 WHEN 0 THEN '01632 960100' END, 'v' || i || "
                    + "'@example.com', 'open' FROM n",
                []
            );
            foreach (var table in Tables)
            {
                execute(
                    $"CREATE TABLE {table} (id {number} PRIMARY KEY, vendor_id {number} NOT NULL REFERENCES "
                        + "vendor (id), day TEXT, amount NUMERIC(12, 2), memo TEXT)",
                    []
                );
                execute(
                    $"INSERT INTO {table} WITH RECURSIVE n (i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n "
                        + $"WHERE i < {(vendors * (long)rows / 10) - 1}) SELECT i, 2 + 2 * (i / {rows / 5}), "
                        + "'2024-01-01', 10.50, 'what was bought, number ' || i FROM n",
                    []
                );
                execute($"CREATE INDEX {table}_vendor ON {table} (vendor_id)", []);
            }

            if (file.Engine == Engine.Postgres)
                execute("ANALYZE", []);
        });

    private static async Task MergeByHandAsync(DbConnection connection, long master, long duplicate)
    {
        var isSqlite = connection is SqliteConnection;
        await ExecuteAsync(connection, isSqlite ? "BEGIN IMMEDIATE" : "BEGIN");
        await ExecuteAsync(
            connection,
            $"SELECT id FROM vendor WHERE id IN (@master, @duplicate) ORDER BY id{(isSqlite ? "" : " FOR UPDATE")}",
            master,
            duplicate
        );
        foreach (var table in Tables)
        {
            await ExecuteAsync(
                connection,
                $"INSERT INTO undo SELECT @master, '{table}', id, 'vendor_id', CAST(vendor_id AS TEXT) FROM "
                    + $"{table} WHERE vendor_id = @duplicate",
                master,
                duplicate
            );
            await ExecuteAsync(
                connection,
                $"UPDATE {table} SET vendor_id = @master WHERE vendor_id = @duplicate",
                master,
                duplicate
            );
        }

        await ExecuteAsync(
            connection,
            "INSERT INTO undo SELECT @master, 'vendor', id, 'status', status FROM vendor WHERE id = @duplicate",
            master,
            duplicate
        );
        await ExecuteAsync(connection, "UPDATE vendor SET status = 'merged' WHERE id = @duplicate", master, duplicate);
        await ExecuteAsync(
            connection,
            "INSERT INTO undo SELECT @master, 'vendor', id, 'phone', phone FROM vendor WHERE id = @master",
            master,
            duplicate
        );
        await ExecuteAsync(
            connection,
            "UPDATE vendor SET phone = (SELECT phone FROM vendor WHERE id = @duplicate) WHERE id = @master "
                + "AND phone IS NULL",
            master,
            duplicate
        );
        await ExecuteAsync(connection, "COMMIT");
    }

    private static async Task ExecuteAsync(
        DbConnection connection,
        string sql,
        long? master = null,
        long? duplicate = null
    )
    {
        await using var command = connection.CreateCommand();
        command.CommandText = sql;
        foreach (
            var (name, value) in new[] { ("@master", master), ("@duplicate", duplicate) }.Where(each =>
                each.Item2 is not null && sql.Contains(each.Item1, StringComparison.Ordinal)
            )
        )
        {
            var parameter = command.CreateParameter();
            parameter.ParameterName = name;
            parameter.Value = value;
            command.Parameters.Add(parameter);
        }

        await command.ExecuteNonQueryAsync();
    }

    private static async Task<DbConnection> ConnectAsync(TestDatabase file)
    {
        DbConnection connection = file is SqliteFile sqlite
            ? sqlite.Open()
            : new NpgsqlConnection(((PostgresDatabase)file).ConnectionString);
        if (connection.State != System.Data.ConnectionState.Open)
            await connection.OpenAsync();
        return connection;
    }
}
