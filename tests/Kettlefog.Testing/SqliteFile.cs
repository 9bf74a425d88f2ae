using System.Globalization;
using Microsoft.Data.Sqlite;

namespace Kettlefog.Testing;

/// <summary>A foreign program's view of an SQLite file: plain SQL that knows nothing of Kettlefog.</summary>
public sealed class SqliteFile(string path)
{
    private readonly string _connection = new SqliteConnectionStringBuilder { DataSource = path, Pooling = false }.ConnectionString;

    public string Path => path;

    public int Execute(string sql, params object?[] values)
    {
        using var connection = Open();
        using var command = Command(connection, sql, values);
        return command.ExecuteNonQuery();
    }

    public List<object?[]> Query(string sql, params object?[] values)
    {
        using var connection = Open();
        using var command = Command(connection, sql, values);
        using var reader = command.ExecuteReader();
        var rows = new List<object?[]>();
        while (reader.Read())
        {
            var row = new object?[reader.FieldCount];
            for (var column = 0; column < row.Length; column++)
                row[column] = reader.IsDBNull(column) ? null : reader.GetValue(column);
            rows.Add(row);
        }

        return rows;
    }

    public long Count(string sql, params object?[] values) => Convert.ToInt64(Query(sql, values)[0][0], CultureInfo.InvariantCulture);

    /// <summary>Every row of every table but Kettlefog's own, with the storage class and exact content of each value.</summary>
    public List<string> Dump() => DumpTables("name NOT LIKE 'kettlefog\\_%' ESCAPE '\\'");

    /// <summary>The same for all tables, Kettlefog's own too.</summary>
    public List<string> DumpAll() => DumpTables("1 = 1");

    public SqliteConnection Open()
    {
        var connection = new SqliteConnection(_connection);
        connection.Open();
        return connection;
    }

    private List<string> DumpTables(string which)
    {
        var lines = new List<string>();
        foreach (var table in Query($"SELECT name FROM sqlite_schema WHERE type = 'table' AND {which} ORDER BY name").Select(row => (string)row[0]!))
        {
            var columns = Query("SELECT name FROM pragma_table_info(?1)", table).Select(row => $"\"{row[0]}\"");
            var parts = columns.Select(column => $"typeof({column}) || ':' || coalesce(CASE typeof({column}) WHEN 'real' THEN printf('%!.20g', {column}) WHEN 'integer' THEN CAST({column} AS TEXT) ELSE hex({column}) END, '')");
            lines.AddRange(Query($"SELECT {string.Join(" || '|' || ", parts)} FROM \"{table}\"").Select(row => $"{table}: {row[0]}").Order(StringComparer.Ordinal));
        }

        return lines;
    }

    private static SqliteCommand Command(SqliteConnection connection, string sql, object?[] values)
    {
        var command = connection.CreateCommand();
        command.CommandText = sql;
        for (var index = 0; index < values.Length; index++)
            command.Parameters.AddWithValue($"?{index + 1}", values[index] ?? DBNull.Value);
        return command;
    }
}
