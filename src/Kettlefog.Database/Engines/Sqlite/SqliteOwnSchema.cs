using System.Data;
using DbUp;
using Kettlefog.Database.Statements;
using Microsoft.Data.Sqlite;

namespace Kettlefog.Database.Engines.Sqlite;

/// <summary>Kettlefog's tables in an SQLite file: those with its prefix.</summary>
internal sealed class SqliteOwnSchema(string writeConnection, SqliteErrors errors) : IOwnSchema
{
    /// <inheritdoc/>
    public Task ContinueSequencesAsync(Session session, CancellationToken cancellationToken) => Task.CompletedTask;

    public string ScriptEnding => ".sqlite.sql";

    private const string VersionTable = "kettlefog_schema_version";

    /// <summary>The table of versions in the form that the upgrades keep it in.</summary>
    public Task PrepareAsync(Session session, CancellationToken cancellationToken) =>
        session.ExecuteAsync(
            Sql.Of(
                $"CREATE TABLE {new SqlName(VersionTable)} (SchemaVersionID INTEGER CONSTRAINT "
                    + $"{new SqlName($"PK_{VersionTable}_Id")} PRIMARY KEY AUTOINCREMENT NOT NULL, ScriptName TEXT NOT "
                    + $"NULL, Applied DATETIME NOT NULL)"
            ),
            cancellationToken
        );

    public Task RecordAsync(Session session, string script, CancellationToken cancellationToken) =>
        session.ExecuteAsync(
            Sql.Of($"INSERT INTO {new SqlName(VersionTable)} (ScriptName, Applied) VALUES ({script}, datetime('now'))"),
            cancellationToken
        );

    public void Migrate(int version)
    {
        // Opened once explicitly, so that a missing or foreign file gives the usual error.
        using (var connection = new SqliteConnection(writeConnection))
        {
            try
            {
                connection.Open();
                using var command = connection.CreateCommand();
                command.CommandText = "SELECT COUNT(*) FROM sqlite_schema";
                command.ExecuteScalar();
            }
            catch (SqliteException error)
            {
                throw errors.Translate(error);
            }
        }

        OwnTableScripts.Run(
            DeployChanges.To.SqliteDatabase(writeConnection).JournalToSqliteTable(VersionTable),
            version,
            ScriptEnding,
            errors
        );
    }

    public async Task<IReadOnlyList<(string Table, IReadOnlyList<string> Columns)>> ReadColumnsAsync(
        Session session,
        CancellationToken cancellationToken
    )
    {
        var columns = await session.QueryAsync(
            Sql.Of(
                $"SELECT s.name, c.name FROM sqlite_schema s JOIN pragma_table_xinfo(s.name) c WHERE s.type = "
                    + $"'table' AND s.name LIKE {SqliteDialect.OwnPrefix + "%"} AND s.name <> {VersionTable} ORDER "
                    + $"BY s.rowid, c.cid"
            ),
            row => (Table: row.Text()[SqliteDialect.OwnPrefix.Length..], Column: row.Text()),
            cancellationToken
        );
        return
        [
            .. columns
                .GroupBy(row => row.Table)
                .Select(table => (table.Key, (IReadOnlyList<string>)[.. table.Select(row => row.Column)])),
        ];
    }

    public async Task RemoveAsync(Session session, CancellationToken cancellationToken)
    {
        var made = await session.QueryAsync(
            Sql.Of(
                $"SELECT type, name FROM sqlite_schema WHERE type IN ('table', 'view') AND name LIKE "
                    + $"{SqliteDialect.OwnPrefix + "%"} ORDER BY type DESC, rowid DESC"
            ),
            row => (IsView: row.Text() == "view", Name: row.Text()),
            cancellationToken
        );
        foreach (var (isView, name) in made)
            await session.ExecuteAsync(
                isView ? Sql.Of($"DROP VIEW {new SqlName(name)}") : Sql.Of($"DROP TABLE {new SqlName(name)}"),
                cancellationToken
            );
    }

    public async Task<int> ReadVersionAsync(Session session, CancellationToken cancellationToken)
    {
        var exists = await session.QueryLongAsync(
            Sql.Of($"SELECT COUNT(*) FROM sqlite_schema WHERE type = 'table' AND name = {VersionTable}"),
            cancellationToken
        );
        return exists == 0
            ? 0
            : (int)
                await session.QueryLongAsync(
                    Sql.Of($"SELECT COUNT(*) FROM {new SqlName(VersionTable)}"),
                    cancellationToken
                );
    }
}
