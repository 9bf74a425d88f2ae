using System.Data.Common;
using Microsoft.Data.Sqlite;

namespace Kettlefog.Testing;

/// <summary>A foreign program's view of an SQLite file.</summary>
/// <param name="path">The file.</param>
/// <param name="pooled">
/// True to keep connections open, which saves reading the schema each time; for a file that is not replaced.
/// </param>
public sealed class SqliteFile(string path, bool pooled = false) : TestDatabase
{
    private readonly string _connection = new SqliteConnectionStringBuilder
    {
        DataSource = path,
        Pooling = pooled,
    }.ConnectionString;

    public string Path => path;

    public override string Address => path;

    public override Engine Engine => Engine.Sqlite;

    public override void Dispose()
    {
        if (pooled)
        {
            using var connection = new SqliteConnection(_connection);
            SqliteConnection.ClearPool(connection);
        }

        base.Dispose();
    }

    public override List<Dictionary<string, object?>> Rows(string table)
    {
        var columns = Query("SELECT name FROM pragma_table_info(?1)", table).Select(row => (string)row[0]!).ToList();
        return
        [
            .. Query($"SELECT * FROM \"{table}\"")
                .Select(row =>
                    columns
                        .Select((column, at) => (column, row[at]))
                        .ToDictionary(pair => pair.column, pair => pair.Item2)
                ),
        ];
    }

    public override List<string> Dump() => DumpTables("name NOT LIKE 'kettlefog\\_%' ESCAPE '\\'");

    public override List<string> DumpAll() => DumpTables("1 = 1");

    public SqliteConnection Open() => (SqliteConnection)Connect();

    protected override DbConnection Connect()
    {
        var connection = new SqliteConnection(_connection);
        connection.Open();
        return connection;
    }

    protected override DbCommand Command(DbConnection connection, string sql, object?[] values)
    {
        var command = ((SqliteConnection)connection).CreateCommand();
        command.CommandText = sql;
        for (var index = 0; index < values.Length; index++)
            command.Parameters.AddWithValue($"?{index + 1}", values[index] ?? DBNull.Value);
        return command;
    }

    private List<string> DumpTables(string which)
    {
        using var connection = Connect();
        var lines = new List<string>();
        foreach (
            var table in Query(
                    connection,
                    $"SELECT name FROM sqlite_schema WHERE type = 'table' AND {which} ORDER BY name"
                )
                .Select(row => (string)row[0]!)
        )
        {
            var columns = Query(connection, "SELECT name FROM pragma_table_info(?1)", table)
                .Select(row => $"\"{row[0]}\"");
            var parts = columns.Select(column =>
                (
                    $"typeof({column}) || ':' || coalesce(CASE typeof({column}) WHEN 'real' THEN printf('%!.20g', "
                    + $"{column}) WHEN 'integer' THEN CAST({column} AS TEXT) ELSE hex({column}) END, '')"
                )
            );
            lines.AddRange(
                Query(connection, $"SELECT {string.Join(" || '|' || ", parts)} FROM \"{table}\"")
                    .Select(row => $"{table}: {row[0]}")
                    .Order(StringComparer.Ordinal)
            );
        }

        return lines;
    }
}
