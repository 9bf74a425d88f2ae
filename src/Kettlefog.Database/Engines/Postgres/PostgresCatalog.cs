using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Engines.Postgres;

/// <summary>
/// Reads PostgreSQL's catalog: all tables and views except those of the system, of extensions and of Kettlefog.
/// </summary>
internal sealed class PostgresCatalog : ICatalogReader
{
    /// <summary>The tables, views and partitioned tables; of a partitioned table only the parent.</summary>
    private static readonly Sql Tables = Sql.Literal(
        $"""
        SELECT c.oid, c.relname::text AS name, n.nspname::text AS schema, pg_catalog.pg_table_is_visible(c.oid) AS
          visible, c.relkind::text AS kind,
               CASE WHEN c.relrowsecurity AND (c.relforcerowsecurity OR NOT pg_catalog.pg_has_role(c.relowner,
                 'USAGE')) THEN 1 ELSE 0 END AS hides
        FROM pg_catalog.pg_class c JOIN pg_catalog.pg_namespace n ON n.oid = c.relnamespace
        WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND NOT c.relispartition
          AND n.nspname NOT IN ('pg_catalog', 'information_schema', '{PostgresOwnSchema.Name}')
          AND n.nspname NOT LIKE 'pg\_toast%' AND n.nspname NOT LIKE 'pg\_temp%'
          AND NOT EXISTS (SELECT 1 FROM pg_catalog.pg_depend d WHERE d.classid = 'pg_catalog.pg_class'::regclass AND
            d.objid = c.oid AND d.deptype = 'e')
        """
    );

    /// <summary>
    /// Whether two NULLs collide, read through JSON because servers before version 15 lack the column.
    /// </summary>
    private static readonly Sql NullsCollide = Sql.Literal(
        "COALESCE((pg_catalog.to_jsonb(i) ->> 'indnullsnotdistinct')::boolean, false)"
    );

    /// <summary>
    /// A digest over the catalog rows of the tables, found by name in any schema, so that a table that now hides
    /// another one counts as well. A foreign key declared by another table adds internal triggers to the one it refers
    /// to.
    /// </summary>
    public async Task<string> ReadStateAsync(
        Session session,
        IReadOnlyList<TableSchema> tables,
        CancellationToken cancellationToken
    )
    {
        var names = string.Join('\u0001', tables.Select(table => table.BareName));
        return (
            await session.QueryAsync(
                Sql.Of(
                    $"""
                    WITH t AS MATERIALIZED (
                      SELECT c.oid, c.relname, c.relkind, c.relrowsecurity, c.relforcerowsecurity, n.nspname
                      FROM pg_catalog.pg_class c JOIN pg_catalog.pg_namespace n ON n.oid = c.relnamespace
                      WHERE c.relname = ANY (pg_catalog.string_to_array({names}, E'\x01')::name[])
                        AND NOT c.relispartition
                        AND n.nspname NOT IN ('pg_catalog', 'information_schema', {PostgresOwnSchema.Name}))
                    SELECT pg_catalog.encode(pg_catalog.sha256(pg_catalog.convert_to(
                      pg_catalog.string_agg(s.line, '|' ORDER BY s.line), 'UTF8')), 'hex') FROM (
                      SELECT pg_catalog.concat_ws(',', 't', t.oid, t.nspname, t.relname, t.relkind, t.relrowsecurity,
                        t.relforcerowsecurity) AS line FROM t
                      UNION ALL
                      SELECT pg_catalog.concat_ws(',', 'a', a.attrelid, a.attnum, a.attname, a.atttypid, a.atttypmod,
                        a.attnotnull, a.atthasdef, a.attidentity, a.attgenerated, a.attcollation)
                      FROM t JOIN pg_catalog.pg_attribute a ON a.attrelid = t.oid WHERE a.attnum > 0 AND NOT
                        a.attisdropped
                      UNION ALL
                      SELECT pg_catalog.concat_ws(',', 'i', i.indexrelid, i.indisunique, i.indisvalid)
                      FROM t JOIN pg_catalog.pg_index i ON i.indrelid = t.oid
                      UNION ALL
                      SELECT pg_catalog.concat_ws(',', 'c', c.oid, c.conname)
                      FROM t JOIN pg_catalog.pg_constraint c ON c.conrelid = t.oid
                      UNION ALL
                      SELECT pg_catalog.concat_ws(',', 'g', g.oid, g.tgname, g.tgenabled, g.tgtype)
                      FROM t JOIN pg_catalog.pg_trigger g ON g.tgrelid = t.oid) s
                    """
                ),
                row => row.OptionalText() ?? "",
                cancellationToken
            )
        ).Single();
    }

    public async Task<DatabaseCatalog> ReadAsync(Session session, CancellationToken cancellationToken)
    {
        var tables = await session.QueryAsync(
            Sql.Of(
                $"SELECT t.oid::bigint, t.name, CASE WHEN t.visible THEN NULL ELSE t.schema END, t.kind, "
                    + $"t.hides FROM ({Tables}) t ORDER BY t.visible DESC, t.schema, t.name"
            ),
            row =>
                (Id: row.Long(), Name: row.Text(), Schema: row.OptionalText(), Kind: row.Text(), HidesRows: row.Flag()),
            cancellationToken
        );
        var columns = (
            await session.QueryAsync(
                Sql.Of(
                    $"""
                    SELECT a.attrelid::bigint, a.attname::text, pg_catalog.format_type(a.atttypid, a.atttypmod),
                      pg_catalog.format_type(a.atttypid, -1),
                           COALESCE(b.typname, y.typname)::text, CASE WHEN a.attnotnull OR y.typnotnull THEN 1 ELSE 0
                             END,
                           GREATEST(a.atttypmod, y.typtypmod)::bigint, CASE WHEN a.attgenerated = '' THEN 0 ELSE 1 END,
                           CASE WHEN a.atthasdef OR a.attidentity <> '' OR y.typdefault IS NOT NULL THEN 1 ELSE 0 END,
                           (SELECT pg_catalog.string_agg(e.enumlabel, E'\x01' ORDER BY e.enumsortorder) FROM
                             pg_catalog.pg_enum e WHERE e.enumtypid = y.oid)
                    FROM ({Tables}) t JOIN pg_catalog.pg_attribute a ON a.attrelid = t.oid
                    JOIN pg_catalog.pg_type y ON y.oid = a.atttypid LEFT JOIN pg_catalog.pg_type b ON b.oid =
                      y.typbasetype AND y.typbasetype <> 0
                    WHERE a.attnum > 0 AND NOT a.attisdropped ORDER BY a.attrelid, a.attnum
                    """
                ),
                row =>
                    (
                        Table: row.Long(),
                        Column: ReadColumn(
                            row.Text(),
                            row.Text(),
                            row.Text(),
                            row.Text(),
                            row.Flag(),
                            row.Long(),
                            row.Flag()
                        ) with
                        {
                            HasDefault = row.Flag(),
                            Allowed = row.OptionalText()?.Split('\u0001'),
                        }
                    ),
                cancellationToken
            )
        ).ToLookup(row => row.Table, row => row.Column);
        var allowed = (
            await session.QueryAsync(
                Sql.Of(
                    $"SELECT con.conrelid::bigint, pg_catalog.pg_get_expr(con.conbin, con.conrelid) FROM "
                        + $"({Tables}) t JOIN pg_catalog.pg_constraint con ON con.conrelid = t.oid WHERE con.contype "
                        + $"= 'c' AND cardinality(con.conkey) = 1"
                ),
                row => (Table: row.Long(), Allowed: AllowedValues.Of(row.Text())),
                cancellationToken
            )
        )
            .Where(row => row.Allowed is not null)
            .ToLookup(row => row.Table, row => row.Allowed!.Value);
        var triggers = (
            await session.QueryAsync(
                Sql.Of(
                    $"""
                    SELECT g.tgrelid::bigint, g.tgname::text, g.tgtype::bigint, CASE WHEN l.lanname IN ('plpgsql',
                      'sql') THEN p.prosrc END
                    FROM ({Tables}) t JOIN pg_catalog.pg_trigger g ON g.tgrelid = t.oid
                    JOIN pg_catalog.pg_proc p ON p.oid = g.tgfoid JOIN pg_catalog.pg_language l ON l.oid = p.prolang
                    WHERE NOT g.tgisinternal AND g.tgenabled <> 'D' ORDER BY g.tgname
                    """
                ),
                row => (Table: row.Long(), Trigger: ReadTrigger(row.Text(), row.Long(), row.OptionalText())),
                cancellationToken
            )
        ).ToLookup(row => row.Table, row => row.Trigger);
        var indexes = (
            await session.QueryAsync(
                Sql.Of(
                    $"""
                    SELECT i.indrelid::bigint, x.relname::text, CASE WHEN i.indisprimary THEN 1 ELSE 0 END,
                      a.attname::text, pg_catalog.pg_get_expr(i.indpred, i.indrelid), CASE WHEN i.indisunique THEN 1
                      ELSE 0 END,
                           CASE WHEN a.attname IS NULL THEN pg_catalog.pg_get_indexdef(i.indexrelid, k.place::int,
                             false) END,
                           CASE WHEN a.attname IS NULL OR l.oid <> a.attcollation THEN
                             pg_catalog.quote_ident(ln.nspname) || '.' || pg_catalog.quote_ident(l.collname) END,
                           CASE WHEN {NullsCollide} THEN 1 ELSE 0 END
                    FROM ({Tables}) t JOIN pg_catalog.pg_index i ON i.indrelid = t.oid JOIN pg_catalog.pg_class x ON
                      x.oid = i.indexrelid
                    CROSS JOIN LATERAL unnest(i.indkey::int2[], i.indcollation::oid[]) WITH ORDINALITY AS k (attnum,
                      coll, place)
                    LEFT JOIN pg_catalog.pg_attribute a ON a.attrelid = i.indrelid AND a.attnum = k.attnum AND
                      k.attnum <> 0
                    LEFT JOIN pg_catalog.pg_collation l ON l.oid = k.coll LEFT JOIN pg_catalog.pg_namespace ln ON
                      ln.oid = l.collnamespace
                    WHERE i.indislive AND k.place <= i.indnkeyatts ORDER BY i.indrelid, x.relname, k.place
                    """
                ),
                row =>
                    (
                        Table: row.Long(),
                        Index: row.Text(),
                        Primary: row.Flag(),
                        Column: row.OptionalText(),
                        Filter: row.OptionalText(),
                        Unique: row.Flag(),
                        Expression: row.OptionalText(),
                        Collation: row.OptionalText(),
                        NullsCollide: row.Flag()
                    ),
                cancellationToken
            )
        ).ToLookup(row => row.Table);
        var names = tables.ToDictionary(table => table.Id, table => NameOf(table.Schema, table.Name));
        var foreignKeys = (
            await session.QueryAsync(
                Sql.Of(
                    $"""
                    SELECT con.conrelid::bigint, con.oid::bigint, con.confrelid::bigint, a.attname::text,
                      f.attname::text, con.confdeltype::text, con.confupdtype::text
                    FROM ({Tables}) t JOIN pg_catalog.pg_constraint con ON con.conrelid = t.oid
                    CROSS JOIN LATERAL unnest(con.conkey, con.confkey) WITH ORDINALITY AS k (local, target, place)
                    JOIN pg_catalog.pg_attribute a ON a.attrelid = con.conrelid AND a.attnum = k.local
                    JOIN pg_catalog.pg_attribute f ON f.attrelid = con.confrelid AND f.attnum = k.target
                    WHERE con.contype = 'f' AND con.conparentid = 0 ORDER BY con.conrelid, con.oid, k.place
                    """
                ),
                row =>
                    (
                        Table: row.Long(),
                        Constraint: row.Long(),
                        Target: row.Long(),
                        Column: row.Text(),
                        TargetColumn: row.Text(),
                        OnDelete: row.Text(),
                        OnUpdate: row.Text()
                    ),
                cancellationToken
            )
        ).Where(row => names.ContainsKey(row.Target)).ToLookup(row => row.Table);
        return new DatabaseCatalog([
            .. tables.Select(table => new TableSchema(
                names[table.Id],
                [
                    .. columns[table.Id]
                        .Select(column =>
                            allowed[table.Id].FirstOrDefault(each => each.Column == column.Name)
                                is { Values: { } values }
                                ? column with
                                {
                                    Allowed = values,
                                }
                                : column
                        ),
                ],
                [.. indexes[table.Id].Where(row => row.Primary).Select(row => row.Column!)],
                [
                    .. indexes[table.Id]
                        .Where(row => !row.Primary && row.Unique)
                        .GroupBy(row => row.Index)
                        .Select(index => new UniqueKey(
                            index.Key,
                            [.. index.Select(row => new KeyPart(row.Column, row.Expression, row.Collation))],
                            index.First().Filter,
                            index.First().NullsCollide
                        )),
                ],
                [
                    .. foreignKeys[table.Id]
                        .GroupBy(row => row.Constraint)
                        .Select(key => new ForeignKey(
                            [.. key.Select(row => row.Column)],
                            names[key.First().Target],
                            [.. key.Select(row => row.TargetColumn)],
                            ReadAction(key.First().OnDelete),
                            ReadAction(key.First().OnUpdate)
                        )),
                ],
                table.Kind is not ("r" or "p"),
                table.Schema,
                [
                    .. indexes[table.Id]
                        .Where(row => !row.Unique && row.Filter is null)
                        .GroupBy(row => row.Index)
                        .Select(index => (IReadOnlyList<string?>)[.. index.Select(row => row.Column)]),
                ]
            )
            {
                Triggers = [.. triggers[table.Id]],
                HidesRows = table.HidesRows,
            }),
        ]);
    }

    private static KeyAction ReadAction(string action) =>
        action switch
        {
            "c" => KeyAction.Cascade,
            "n" => KeyAction.SetNull,
            "d" => KeyAction.SetDefault,
            _ => KeyAction.Refuse,
        };

    /// <summary>
    /// The bits of <c>tgtype</c> as in the server's header <c>pg_trigger.h</c>: 4 insert, 8 delete, 16 update.
    /// </summary>
    private static Trigger ReadTrigger(string name, long type, string? body) =>
        new(
            name,
            ((type & 4) != 0 ? RowChanges.Insert : 0)
                | ((type & 8) != 0 ? RowChanges.Delete : 0)
                | ((type & 16) != 0 ? RowChanges.Update : 0),
            body
        );

    private static string NameOf(string? schema, string name) => schema is null ? name : $"{schema}.{name}";

    private static ColumnSchema ReadColumn(
        string name,
        string declared,
        string type,
        string underlying,
        bool notNull,
        long modifier,
        bool generated
    )
    {
        StorageClass? storage = underlying switch
        {
            "int2" or "int4" or "int8" => StorageClass.Integer,
            "float4" or "float8" => StorageClass.Real,
            "text" or "varchar" or "bpchar" or "citext" or "name" => StorageClass.Text,
            "bytea" => StorageClass.Blob,
            _ => null,
        };

        // The modifier of a text type is its maximum length plus four bytes of header.
        var length = underlying is "varchar" or "bpchar" && modifier > 4 ? (int?)(modifier - 4) : null;
        return new ColumnSchema(name, declared, storage, notNull, length, generated, type);
    }
}
