using Kettlefog.Core.Schema;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Engines.Postgres;

/// <summary>Reads the rights of the session's user from PostgreSQL.</summary>
internal sealed class PostgresRights : IRightsReader
{
    /// <summary>The missing rights; see <see cref="IRightsReader"/>.</summary>
    public async Task<IReadOnlyList<MissingRight>> ListMissingAsync(
        Session session,
        IReadOnlyList<TableUse> uses,
        CancellationToken cancellationToken
    )
    {
        var user = (
            await session.QueryAsync(
                Sql.Of($"SELECT pg_catalog.quote_ident(current_user)"),
                row => row.Text(),
                cancellationToken
            )
        )[0];
        var missing = new List<MissingRight>();
        foreach (var (table, changes, updated) in uses)
        {
            var wanted = new List<string> { "SELECT" };
            if (changes.HasFlag(RowChanges.Insert))
                wanted.Add("INSERT");
            if (changes.HasFlag(RowChanges.Update))
                wanted.Add("UPDATE");
            if (changes.HasFlag(RowChanges.Delete))
                wanted.Add("DELETE");
            var name = session.Dialect.Table(table).Render(session.Dialect).Text;
            foreach (var right in wanted)
            {
                if (!await MayAsync(session, name, right, right == "UPDATE" ? updated : null, cancellationToken))
                    missing.Add(
                        new MissingRight(
                            $"The user {user} has no right to {right} on {table.Name}.",
                            "Grant it.",
                            $"GRANT {right} ON {name} TO {user};",
                            KeepsFromReading: right == "SELECT"
                        )
                    );
            }
        }

        return [.. missing, .. await OwnAsync(session, user, cancellationToken)];
    }

    private static async Task<bool> MayAsync(
        Session session,
        string table,
        string right,
        IReadOnlyList<string>? columns,
        CancellationToken cancellationToken
    )
    {
        if (
            await session.QueryLongAsync(
                Sql.Of($"SELECT CASE WHEN has_table_privilege({table}, {right}) THEN 1 ELSE 0 END"),
                cancellationToken
            ) == 1
        )
            return true;
        if (columns is null)
            return false;
        foreach (var column in columns)
        {
            if (
                await session.QueryLongAsync(
                    Sql.Of($"SELECT CASE WHEN has_column_privilege({table}, {column}, {right}) THEN 1 ELSE 0 END"),
                    cancellationToken
                ) == 0
            )
                return false;
        }

        return columns.Count > 0;
    }

    /// <summary>Kettlefog's tables: the user must be able to use existing ones, or else to create them.</summary>
    private static async Task<IReadOnlyList<MissingRight>> OwnAsync(
        Session session,
        string user,
        CancellationToken cancellationToken
    )
    {
        const string schema = PostgresOwnSchema.Name;
        var refused = await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT c.relname::text FROM pg_catalog.pg_class c JOIN pg_catalog.pg_namespace n ON n.oid =
                  c.relnamespace
                WHERE n.nspname = {schema} AND c.relkind = 'r'
                  AND NOT (has_schema_privilege(n.oid, 'USAGE') AND has_table_privilege(c.oid, 'SELECT') AND
                    has_table_privilege(c.oid, 'INSERT'))
                ORDER BY c.relname
                """
            ),
            row => row.Text(),
            cancellationToken
        );
        if (refused.Count > 0)
            return
            [
                new MissingRight(
                    $"The user {user} may not use Kettlefog's tables in the schema {schema}: "
                        + $"{string.Join(", ", refused.Take(3))}{(refused.Count > 3 ? ", ..." : "")}.",
                    "Make the service's user their owner, or grant it all rights on them.",
                    $"GRANT USAGE ON SCHEMA {schema} TO {user}; GRANT ALL ON ALL TABLES IN SCHEMA {schema} TO {user};"
                ),
            ];
        var mayMake = await session.QueryLongAsync(
            Sql.Of(
                $"SELECT CASE WHEN EXISTS (SELECT 1 FROM pg_catalog.pg_namespace WHERE nspname = {schema}) OR "
                    + $"has_database_privilege(current_database(), 'CREATE') THEN 1 ELSE 0 END"
            ),
            cancellationToken
        );
        return mayMake == 1
            ? []
            :
            [
                new MissingRight(
                    $"The user {user} may not create the schema {schema} for Kettlefog's tables.",
                    "Ask an administrator of the database to create it for that user.",
                    $"CREATE SCHEMA {schema} AUTHORIZATION {user};"
                ),
            ];
    }
}
