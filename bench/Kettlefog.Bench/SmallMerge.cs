using Kettlefog.Contracts;
using Kettlefog.Testing;
using Microsoft.Data.Sqlite;

namespace Kettlefog.Bench;

/// <summary>
/// Merging two vendors with ten related rows each: through the API, against the same statements with a minimal undo
/// journal written by hand in one transaction. Both run on the same file in alternating blocks, so that the disk is
/// the same for both and neither has its page cache emptied by the other at every step.
/// </summary>
internal static class SmallMerge
{
    private const double MostAllowed = 5;
    private const int Block = 50;
    private const int WarmUp = 200;
    private const int Rounds = 400;

    private static readonly (string Table, string Column, string Key)[] References =
    [
        ("purchase_order", "vendor_id", "po_id"),
        ("vendor_bill", "vendor_id", "bill_id"),
        ("payment", "vendor_id", "payment_id"),
        ("note", "subject_id", "note_id"),
        ("activity", "subject_id", "activity_id"),
    ];

    /// <summary>
    /// The figure holds for SQLite's default journal mode, in which a merge by hand takes about 1 ms. The write-ahead
    /// mode is shown beside it: there a merge by hand hardly waits for the disk, and ours takes less time, but a larger
    /// multiple.
    /// </summary>
    public static async Task<bool> RunAsync()
    {
        var met = await RunAsync("DELETE") <= MostAllowed;
        await RunAsync("WAL");
        return met;
    }

    private static async Task<double> RunAsync(string journalMode)
    {
        await using var service = await RunningService.StartAsync(10, journalMode);
        MakePairs(service.File);
        service.File.Execute("CREATE TABLE undo (merge INTEGER, tab TEXT, key INTEGER, col TEXT, before)");
        using var byHandConnection = service.File.Open();
        var client = service.Client;
        var api = new Times();
        var byHand = new Times();
        for (var first = 0; first < WarmUp + Rounds; first += Block)
        {
            var rounds = Enumerable.Range(first, Block).ToList();
            foreach (var round in rounds)
            {
                var master = 100_000L + (4 * round);
                var request = new PlanRequest("vendor", $"{master}", [$"{master + 1}"]);
                var body = new MergeBody(request, (await client.PlanAsync(request)).Fingerprint, "same firm");
                var key = Guid.NewGuid().ToString();
                await (round < WarmUp ? new Times() : api).MeasureAsync(() => client.MergeAsync(body, key));
            }

            foreach (var round in rounds)
            {
                await (round < WarmUp ? new Times() : byHand).MeasureAsync(() =>
                {
                    MergeByHand(byHandConnection, 100_002L + (4 * round), 100_003L + (4 * round));
                    return Task.CompletedTask;
                });
            }
        }

        var ratio = api.Median / byHand.Median;
        Console.WriteLine(
            $"A merge of two vendors with 10 related rows each, journal mode {journalMode}, {Rounds} times "
                + "each, median (95th percentile):"
        );
        Console.WriteLine($"  by hand, one transaction   {byHand.Median, 8:0.00} ms ({byHand.P95:0.00} ms)");
        Console.WriteLine($"  through the API            {api.Median, 8:0.00} ms ({api.P95:0.00} ms)");
        Console.WriteLine(
            $"  ratio                      {ratio, 8:0.00}    "
                + $"{(journalMode == "DELETE" ? $"(at most {MostAllowed} is allowed)" : "(for comparison)")}"
        );
        return ratio;
    }

    private static void MakePairs(SqliteFile file)
    {
        using var connection = file.Open();
        using var transaction = connection.BeginTransaction();
        for (var number = 0; number < 4 * (WarmUp + Rounds); number++)
        {
            var id = 100_000L + number;
            Execute(
                connection,
                "INSERT INTO vendor (vendor_id, vendor_no, name, legal_entity, currency, category, phone, "
                    + "source, created_at, changed_at) VALUES (?1, 'N' || ?1, 'Bench ' || ?1, 'SHT', 'GBP', 'fuel', "
                    + "CASE ?1 % 2 WHEN 1 THEN '01632 960100' END, 'clerk', '2020-01-01T00:00:00Z', "
                    + "'2021-01-01T00:00:00Z')",
                id
            );
            for (var row = 0; row < 2; row++)
            {
                var key = (id * 10) + row;
                Execute(
                    connection,
                    "INSERT INTO purchase_order VALUES (?2, ?1, 'B' || ?2, '2024-01-01', 10.5, 'closed', 'c')",
                    id,
                    key
                );
                Execute(
                    connection,
                    "INSERT INTO vendor_bill VALUES (?2, ?1, 'B' || ?2, '2024-01-01', '2024-02-01', 10.5, 0, "
                        + "'paid', NULL)",
                    id,
                    key
                );
                Execute(connection, "INSERT INTO payment VALUES (?2, ?1, '2024-01-01', 10.5, 'card', NULL)", id, key);
                Execute(connection, "INSERT INTO note VALUES (?2, 'vendor', ?1, '2024-01-01', 'c', 'a note')", id, key);
                Execute(
                    connection,
                    "INSERT INTO activity VALUES (?2, 'vendor', ?1, 'call', 'a call', '2024-01-01', NULL, 'c')",
                    id,
                    key
                );
            }
        }

        transaction.Commit();
    }

    private static void MergeByHand(SqliteConnection connection, long master, long duplicate)
    {
        using var transaction = connection.BeginTransaction(deferred: false);
        foreach (var (table, column, key) in References)
        {
            var polymorphic = column == "subject_id" ? " AND subject_type = 'vendor'" : "";
            Execute(
                connection,
                $"INSERT INTO undo SELECT ?2, '{table}', {key}, '{column}', {column} FROM {table} WHERE "
                    + $"{column} = ?1{polymorphic}",
                duplicate,
                master
            );
            Execute(
                connection,
                $"UPDATE {table} SET {column} = ?2 WHERE {column} = ?1{polymorphic}",
                duplicate,
                master
            );
        }

        Execute(
            connection,
            "INSERT INTO undo SELECT ?2, 'vendor', vendor_id, 'status', status FROM vendor WHERE vendor_id = ?1",
            duplicate,
            master
        );
        Execute(connection, "UPDATE vendor SET status = 'merged' WHERE vendor_id = ?1", duplicate);
        Execute(
            connection,
            "INSERT INTO undo SELECT ?1, 'vendor', vendor_id, 'phone', phone FROM vendor WHERE vendor_id = ?1",
            master
        );
        Execute(
            connection,
            "UPDATE vendor SET phone = (SELECT phone FROM vendor WHERE vendor_id = ?1) WHERE vendor_id = ?2 "
                + "AND phone IS NULL",
            duplicate,
            master
        );
        transaction.Commit();
    }

    private static void Execute(SqliteConnection connection, string sql, params long[] values)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        for (var index = 0; index < values.Length; index++)
            command.Parameters.AddWithValue($"?{index + 1}", values[index]);
        command.ExecuteNonQuery();
    }
}
