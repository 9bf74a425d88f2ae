using System.Data;
using System.Data.Common;
using System.Globalization;
using DbUp;
using Kettlefog.Database.Statements;
using Npgsql;

namespace Kettlefog.Database.Engines.Postgres;

/// <summary>Kettlefog's tables in a PostgreSQL database: a schema of their own.</summary>
internal sealed class PostgresOwnSchema(string connectionString, PostgresErrors errors) : IOwnSchema
{
    /// <summary>The schema of Kettlefog's tables.</summary>
    public const string Name = "kettlefog";

    private const string VersionTable = "schema_version";

    public string ScriptEnding => ".postgres.sql";

    /// <summary>
    /// Creates the schema only where it is missing: the service's user need not have the right to create one. The table
    /// of versions has the form that the upgrades keep it in.
    /// </summary>
    public async Task PrepareAsync(Session session, CancellationToken cancellationToken)
    {
        var schemas = await session.QueryLongAsync(
            Sql.Of($"SELECT COUNT(*) FROM pg_catalog.pg_namespace WHERE nspname = {Name}"),
            cancellationToken
        );
        if (schemas == 0)
            await session.ExecuteAsync(Sql.Of($"CREATE SCHEMA {new SqlName(Name)}"), cancellationToken);
        await session.ExecuteAsync(
            Sql.Of(
                $"CREATE TABLE {session.Dialect.Own(VersionTable)} (schemaversionsid serial NOT NULL, scriptname "
                    + $"varchar(255) NOT NULL, applied timestamp NOT NULL, CONSTRAINT "
                    + $"{new SqlName($"PK_{VersionTable}_Id")} PRIMARY KEY (schemaversionsid))"
            ),
            cancellationToken
        );
    }

    public Task RecordAsync(Session session, string script, CancellationToken cancellationToken) =>
        session.ExecuteAsync(
            Sql.Of(
                $"INSERT INTO {session.Dialect.Own(VersionTable)} (scriptname, applied) VALUES ({script}, "
                    + $"(now() AT TIME ZONE 'UTC'))"
            ),
            cancellationToken
        );

    public void Migrate(int version)
    {
        // Two services that start at the same time must not both upgrade: the second waits, and finds it done.
        using var connection = new NpgsqlConnection(connectionString);
        try
        {
            connection.Open();
            using var command = connection.CreateCommand();
            command.CommandText = string.Create(
                CultureInfo.InvariantCulture,
                $"SELECT pg_advisory_lock({PostgresEngine.WriterLock})"
            );
            command.ExecuteNonQuery();
            command.CommandText = $"SELECT COUNT(*) FROM pg_catalog.pg_namespace WHERE nspname = '{Name}'";
            if ((long)command.ExecuteScalar()! == 0)
            {
                command.CommandText = $"CREATE SCHEMA {Name}";
                command.ExecuteNonQuery();
            }
        }
        catch (DbException error)
        {
            throw errors.Translate(error);
        }

        OwnTableScripts.Run(
            DeployChanges.To.PostgresqlDatabase(connectionString).JournalToPostgresqlTable(Name, VersionTable),
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
                $"""
                SELECT c.relname::text, a.attname::text FROM pg_catalog.pg_class c JOIN pg_catalog.pg_namespace n ON
                  n.oid = c.relnamespace
                JOIN pg_catalog.pg_attribute a ON a.attrelid = c.oid
                WHERE n.nspname = {Name} AND c.relkind = 'r' AND c.relname <> {VersionTable} AND a.attnum > 0 AND NOT
                  a.attisdropped
                ORDER BY EXISTS (SELECT 1 FROM pg_catalog.pg_constraint f WHERE f.conrelid = c.oid AND f.contype =
                  'f'), c.oid, a.attnum
                """
            ),
            row => (Table: row.Text(), Column: row.Text()),
            cancellationToken
        );
        return
        [
            .. columns
                .GroupBy(row => row.Table)
                .Select(table => (table.Key, (IReadOnlyList<string>)[.. table.Select(row => row.Column)])),
        ];
    }

    public async Task ContinueSequencesAsync(Session session, CancellationToken cancellationToken)
    {
        // A backup of an earlier version has fewer tables.
        var numbered = await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT c.relname::text FROM pg_catalog.pg_class c JOIN pg_catalog.pg_namespace n ON
                  n.oid = c.relnamespace
                JOIN pg_catalog.pg_attribute a ON a.attrelid = c.oid
                WHERE n.nspname = {Name} AND c.relkind = 'r' AND a.attname = 'id' AND a.attidentity <> ''
                """
            ),
            row => row.Text(),
            cancellationToken
        );
        foreach (var table in numbered)
        {
            var name = $"{Name}.{table}";
            await session.QueryLongAsync(
                Sql.Of(
                    $"SELECT setval(pg_get_serial_sequence({name}, 'id'), COALESCE((SELECT MAX(id) FROM "
                        + $"{session.Dialect.Own(table)}), 1), EXISTS (SELECT 1 FROM {session.Dialect.Own(table)}))"
                ),
                cancellationToken
            );
        }
    }

    /// <summary>
    /// Drops what is in the schema, and keeps the schema: an administrator may have created it, and the service's user
    /// may not be able to create it again. What others built on the tables is not dropped; the database then refuses.
    /// </summary>
    public async Task RemoveAsync(Session session, CancellationToken cancellationToken)
    {
        var relations = await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT c.relkind::text, c.relname::text FROM pg_catalog.pg_class c
                JOIN pg_catalog.pg_namespace n ON n.oid = c.relnamespace
                WHERE n.nspname = {Name} AND c.relkind IN ('r', 'v') ORDER BY c.relkind DESC, c.oid
                """
            ),
            row => (IsView: row.Text() == "v", Name: row.Text()),
            cancellationToken
        );
        var functions = await session.QueryAsync(
            Sql.Of(
                $"SELECT p.proname::text FROM pg_catalog.pg_proc p JOIN pg_catalog.pg_namespace n ON n.oid = "
                    + $"p.pronamespace WHERE n.nspname = {Name}"
            ),
            row => row.Text(),
            cancellationToken
        );
        foreach (var view in relations.Where(relation => relation.IsView))
            await session.ExecuteAsync(Sql.Of($"DROP VIEW {session.Dialect.Own(view.Name)}"), cancellationToken);
        var tables = relations
            .Where(relation => !relation.IsView)
            .Select(relation => session.Dialect.Own(relation.Name))
            .ToList();
        if (tables.Count > 0)
            await session.ExecuteAsync(Sql.Of($"DROP TABLE {Sql.Join(", ", tables)}"), cancellationToken);
        foreach (var function in functions)
            await session.ExecuteAsync(Sql.Of($"DROP FUNCTION {session.Dialect.Own(function)}"), cancellationToken);
    }

    public async Task<int> ReadVersionAsync(Session session, CancellationToken cancellationToken)
    {
        var exists = await session.QueryLongAsync(
            Sql.Of(
                $"SELECT COUNT(*) FROM pg_catalog.pg_tables WHERE schemaname = {Name} AND tablename = {VersionTable}"
            ),
            cancellationToken
        );
        return exists == 0
            ? 0
            : (int)
                await session.QueryLongAsync(
                    Sql.Of($"SELECT COUNT(*) FROM {session.Dialect.Own(VersionTable)}"),
                    cancellationToken
                );
    }
}
