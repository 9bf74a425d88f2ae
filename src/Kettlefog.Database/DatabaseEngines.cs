using Kettlefog.Core;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Engines.Postgres;
using Kettlefog.Database.Engines.Sqlite;

namespace Kettlefog.Database;

/// <summary>Chooses the engine by a database's address.</summary>
internal static class DatabaseEngines
{
    /// <summary>The engine of a database.</summary>
    /// <param name="database">
    /// An SQLite file, or the address of a PostgreSQL database: <c>postgres://user@host/name</c>, or a connection
    /// string with <c>Host=</c>.
    /// </param>
    /// <param name="busyTimeout">How long to wait for locks held by others.</param>
    /// <exception cref="KettlefogException">The address cannot be read.</exception>
    public static DatabaseEngine Open(string database, TimeSpan busyTimeout) =>
        PostgresAddress.IsAddress(database)
            ? new PostgresEngine(database, busyTimeout)
            : new SqliteEngine(database, busyTimeout);
}
