using System.Data.Common;
using System.Globalization;

namespace Kettlefog.Testing;

/// <summary>The database engines that everything runs on.</summary>
public enum Engine
{
    /// <summary>SQLite.</summary>
    Sqlite,

    /// <summary>PostgreSQL.</summary>
    Postgres,
}

/// <summary>
/// A foreign program's view of a database: plain SQL that knows nothing of Kettlefog. Parameters are ?1, ?2 and so on.
/// </summary>
public abstract class TestDatabase : IDisposable
{
    /// <summary>The address of the database for Kettlefog.</summary>
    public abstract string Address { get; }

    public abstract Engine Engine { get; }

    /// <summary>Creates an empty database.</summary>
    public static TestDatabase Create(Engine engine, TempFolder folder, string name) =>
        engine == Engine.Sqlite ? new SqliteFile(folder.File($"{name}.db")) : PostgresServer.CreateDatabase(name);

    /// <summary>Removes the database, if it is not in the folder.</summary>
    public virtual void Dispose() => GC.SuppressFinalize(this);

    public int Execute(string sql, params object?[] values)
    {
        using var connection = Connect();
        return Execute(connection, sql, values);
    }

    /// <summary>Runs statements in one transaction on one connection, which is much faster than one by one.</summary>
    public void Together(Action<Action<string, object?[]>> statements)
    {
        using var connection = Connect();
        Execute(connection, "BEGIN", []);
        statements((sql, values) => Execute(connection, sql, values));
        Execute(connection, "COMMIT", []);
    }

    public List<object?[]> Query(string sql, params object?[] values)
    {
        using var connection = Connect();
        return Query(connection, sql, values);
    }

    protected List<object?[]> Query(DbConnection connection, string sql, params object?[] values)
    {
        using var command = Command(connection, sql, values);
        using var reader = command.ExecuteReader();
        var rows = new List<object?[]>();
        while (reader.Read())
        {
            var row = new object?[reader.FieldCount];
            for (var column = 0; column < row.Length; column++)
                row[column] =
                    reader.IsDBNull(column) ? null
                    : reader.GetValue(column) is int number ? (long)number
                    : reader.GetValue(column);
            rows.Add(row);
        }

        return rows;
    }

    public long Count(string sql, params object?[] values) =>
        Convert.ToInt64(Query(sql, values)[0][0], CultureInfo.InvariantCulture);

    /// <summary>One of Kettlefog's tables, as this engine names it.</summary>
    public string Own(string table) => Engine == Engine.Sqlite ? $"kettlefog_{table}" : $"kettlefog.\"{table}\"";

    /// <summary>The rows of a table, by column; in the form in which Kettlefog reads them.</summary>
    public abstract List<Dictionary<string, object?>> Rows(string table);

    /// <summary>Every row of every table but Kettlefog's own, with the exact content of each value.</summary>
    public abstract List<string> Dump();

    /// <summary>The same for all tables, including Kettlefog's.</summary>
    public abstract List<string> DumpAll();

    protected abstract DbConnection Connect();

    private int Execute(DbConnection connection, string sql, object?[] values)
    {
        using var command = Command(connection, sql, values);
        return command.ExecuteNonQuery();
    }

    protected abstract DbCommand Command(DbConnection connection, string sql, object?[] values);
}
