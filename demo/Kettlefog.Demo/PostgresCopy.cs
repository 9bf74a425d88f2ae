using System.Text;
using Microsoft.Data.Sqlite;
using Npgsql;

namespace Kettlefog.Demo;

/// <summary>Copies the world from its SQLite file to a PostgreSQL database.</summary>
internal static class PostgresCopy
{
    /// <summary>Copies everything, or nothing.</summary>
    /// <param name="file">The file.</param>
    /// <param name="connectionString">Where to; the database must be empty.</param>
    public static void Run(string file, string connectionString)
    {
        using var from = new SqliteConnection(new SqliteConnectionStringBuilder { DataSource = file, Pooling = false, Mode = SqliteOpenMode.ReadOnly }.ConnectionString);
        from.Open();
        using var to = new NpgsqlConnection(connectionString);
        to.Open();
        using var transaction = to.BeginTransaction();
        using (var schema = new NpgsqlCommand(World.Resource("saltmarrow.sql"), to, transaction))
            schema.ExecuteNonQuery();

        // In the order of the schema, in which no table refers to a later one.
        foreach (var table in Names(from, "SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%' ORDER BY rowid"))
            Copy(from, to, table);
        transaction.Commit();
    }

    private static void Copy(SqliteConnection from, NpgsqlConnection to, string table)
    {
        var columns = Names(from, $"SELECT name FROM pragma_table_info('{table}') ORDER BY cid");
        var list = string.Join(", ", columns.Select(column => $"\"{column}\""));
        using var select = from.CreateCommand();
        select.CommandText = $"SELECT {list} FROM \"{table}\" ORDER BY 1";
        using var rows = select.ExecuteReader();
        using var copy = to.BeginTextImport($"COPY \"{table}\" ({list}) FROM STDIN");
        var line = new StringBuilder();
        while (rows.Read())
        {
            line.Clear();
            for (var column = 0; column < columns.Count; column++)
                line.Append(column > 0 ? "\t" : "").Append(rows.IsDBNull(column) ? "\\N" : Escape(rows.GetString(column)));
            copy.Write(line.Append('\n').ToString());
        }
    }

    private static List<string> Names(SqliteConnection connection, string sql)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        using var reader = command.ExecuteReader();
        var names = new List<string>();
        while (reader.Read())
            names.Add(reader.GetString(0));
        return names;
    }

    /// <summary>A value in the text format of COPY.</summary>
    private static string Escape(string value) =>
        value.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("\t", "\\t", StringComparison.Ordinal).Replace("\n", "\\n", StringComparison.Ordinal).Replace("\r", "\\r", StringComparison.Ordinal);
}
