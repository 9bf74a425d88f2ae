using System.Data;
using System.Globalization;
using System.Text.RegularExpressions;
using Kettlefog.Core;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Engines.Sqlite;

/// <summary>Reads SQLite's catalog: all tables and views that are not Kettlefog's.</summary>
/// <param name="path">The database file.</param>
internal sealed partial class SqliteCatalog(string path) : ICatalogReader
{
    /// <summary>
    /// <c>PRAGMA schema_version</c> (sqlite.org/pragma.html#pragma_schema_version) with the identity of the file, since
    /// another file, such as a restored backup, may have the same number.
    /// </summary>
    public async Task<string> ReadStateAsync(
        Session session,
        IReadOnlyList<TableSchema> tables,
        CancellationToken cancellationToken
    )
    {
        var number = await session.QueryLongAsync(Sql.Of($"PRAGMA schema_version"), cancellationToken);
        return string.Create(CultureInfo.InvariantCulture, $"{FileIdentity.Of(path)} {number}");
    }

    public async Task<DatabaseCatalog> ReadAsync(Session session, CancellationToken cancellationToken)
    {
        var names = await session.QueryAsync(
            Sql.Of(
                $"SELECT name, type, sql FROM sqlite_schema WHERE type IN ('table', 'view') AND name NOT LIKE "
                    + $"'sqlite\\_%' ESCAPE '\\' ORDER BY name"
            ),
            row => (Name: row.Text(), IsView: row.Text() == "view", Definition: row.OptionalText() ?? ""),
            cancellationToken
        );
        var triggers = (
            await session.QueryAsync(
                Sql.Of($"SELECT tbl_name, name, sql FROM sqlite_schema WHERE type = 'trigger' ORDER BY name"),
                row => (Table: row.Text(), Name: row.Text(), Definition: row.Text()),
                cancellationToken
            )
        ).ToLookup(
            row => row.Table,
            row => SqliteDefinitions.Trigger(row.Name, row.Definition),
            StringComparer.OrdinalIgnoreCase
        );
        var virtuals = names
            .Where(table => SqliteDefinitions.IsVirtual(table.Definition))
            .Select(table => table.Name)
            .ToList();
        var tables = new List<TableSchema>();
        foreach (
            var (name, isView, definition) in names.Where(table =>
                !table.Name.StartsWith(SqliteDialect.OwnPrefix, StringComparison.OrdinalIgnoreCase)
                && !SqliteDefinitions.IsShadow(table.Name, virtuals)
            )
        )
        {
            try
            {
                var table = await ReadTableAsync(
                    session,
                    name,
                    isView || virtuals.Contains(name),
                    definition,
                    cancellationToken
                );
                tables.Add(table with { Triggers = [.. triggers[name]] });
            }
            catch (KettlefogException) when (virtuals.Contains(name))
            {
                // Its module is not loaded; its rows could not be merged in any case.
            }
        }

        // SQLite allows a foreign key without target columns; they are then the target's primary key.
        var catalog = new DatabaseCatalog(tables);
        return new DatabaseCatalog([
            .. tables.Select(table =>
                table with
                {
                    ForeignKeys =
                    [
                        .. table.ForeignKeys.Select(key =>
                            key.TargetColumns.Count > 0
                                ? key
                                : key with
                                {
                                    TargetColumns = catalog.Find(key.Target)?.PrimaryKey ?? [],
                                }
                        ),
                    ],
                }
            ),
        ]);
    }

    private static async Task<TableSchema> ReadTableAsync(
        Session session,
        string name,
        bool isView,
        string definition,
        CancellationToken cancellationToken
    )
    {
        var columns = await session.QueryAsync(
            Sql.Of(
                $"SELECT name, type, \"notnull\", pk, hidden, dflt_value IS NOT NULL FROM "
                    + $"pragma_table_xinfo({name}) WHERE hidden <> 1 ORDER BY cid"
            ),
            row =>
                (
                    Column: ReadColumn(row.Text(), row.Text(), row.Flag()),
                    KeyPosition: row.Long(),
                    Hidden: row.Long(),
                    HasDefault: row.Flag()
                ),
            cancellationToken
        );
        var allowed = isView ? [] : SqliteDefinitions.Allowed(definition);

        // The database generates a key that is the row's own number (sqlite.org/lang_createtable.html#rowid).
        var counts =
            !isView
            && columns.Count(column => column.KeyPosition > 0) == 1
            && !SqliteDefinitions.HasNoRowNumber(definition);
        var indexes = await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT l.name, i.name, s.sql, l.partial, l."unique", i.coll
                FROM pragma_index_list({name}) l
                JOIN pragma_index_xinfo(l.name) i
                LEFT JOIN sqlite_schema s ON s.type = 'index' AND s.name = l.name
                WHERE l.origin <> 'pk' AND i.key = 1
                ORDER BY l.name, i.seqno
                """
            ),
            row =>
                (
                    Index: row.Text(),
                    Column: row.OptionalText(),
                    Definition: row.OptionalText(),
                    Partial: row.Flag(),
                    Unique: row.Flag(),
                    Collation: row.Text()
                ),
            cancellationToken
        );
        var foreignKeys = await session.QueryAsync(
            Sql.Of(
                $"SELECT id, \"table\", \"from\", \"to\", on_delete, on_update FROM "
                    + $"pragma_foreign_key_list({name}) ORDER BY id, seq"
            ),
            row =>
                (
                    Id: row.Long(),
                    Target: row.Text(),
                    From: row.Text(),
                    To: row.OptionalText(),
                    OnDelete: row.Text(),
                    OnUpdate: row.Text()
                ),
            cancellationToken
        );
        return new TableSchema(
            name,
            [
                .. columns.Select(column =>
                    column.Column with
                    {
                        Generated = column.Hidden > 1,
                        HasDefault =
                            column.HasDefault
                            || (
                                counts
                                && column.KeyPosition > 0
                                && column.Column.DeclaredType.Equals("INTEGER", StringComparison.OrdinalIgnoreCase)
                            ),
                        Allowed = allowed.GetValueOrDefault(column.Column.Name),
                    }
                ),
            ],
            [
                .. columns
                    .Where(column => column.KeyPosition > 0)
                    .OrderBy(column => column.KeyPosition)
                    .Select(column => column.Column.Name),
            ],
            [
                .. indexes
                    .Where(row => row.Unique)
                    .GroupBy(row => row.Index)
                    .Select(index => new UniqueKey(
                        NameOf(index.Key, index.Select(row => row.Column)),
                        [
                            .. index.Select(
                                (row, place) =>
                                    new KeyPart(
                                        row.Column,
                                        row.Column is null ? IndexDefinition.Parts(row.Definition!)[place] : null,
                                        row.Collation
                                    )
                            ),
                        ],
                        index.First().Partial ? IndexDefinition.Filter(index.First().Definition!) : null
                    )),
            ],
            [
                .. foreignKeys
                    .GroupBy(row => row.Id)
                    .Select(key => new ForeignKey(
                        [.. key.Select(row => row.From)],
                        key.First().Target,
                        [.. key.Select(row => row.To).OfType<string>()],
                        SqliteDefinitions.ReadKeyAction(key.First().OnDelete),
                        SqliteDefinitions.ReadKeyAction(key.First().OnUpdate)
                    )),
            ],
            isView,
            Indexes:
            [
                .. indexes
                    .Where(row => !row.Unique && !row.Partial)
                    .GroupBy(row => row.Index)
                    .Select(index => (IReadOnlyList<string?>)[.. index.Select(row => row.Column)]),
            ]
        );
    }

    /// <summary>SQLite's own name of the index behind a constraint has no meaning for people.</summary>
    private static string NameOf(string index, IEnumerable<string?> columns) =>
        index.StartsWith("sqlite_autoindex_", StringComparison.Ordinal) ? string.Join(", ", columns) : index;

    /// <summary>
    /// The column's affinity by the rules of SQLite's documentation, "Datatypes In SQLite", section 3.1.
    /// </summary>
    private static ColumnSchema ReadColumn(string name, string type, bool notNull)
    {
        bool Has(string part) => type.Contains(part, StringComparison.OrdinalIgnoreCase);
        StorageClass? storage = type switch
        {
            _ when Has("INT") => StorageClass.Integer,
            _ when Has("CHAR") || Has("CLOB") || Has("TEXT") => StorageClass.Text,
            _ when Has("BLOB") => StorageClass.Blob,
            _ when Has("REAL") || Has("FLOA") || Has("DOUB") => StorageClass.Real,
            _ => null,
        };
        var length = storage == StorageClass.Text ? LengthPattern().Match(type) : Match.Empty;
        return new ColumnSchema(
            name,
            type,
            storage,
            notNull,
            int.TryParse(length.Groups[1].Value, CultureInfo.InvariantCulture, out var max) ? max : null,
            false
        );
    }

    [GeneratedRegex(@"\(\s*(\d+)")]
    private static partial Regex LengthPattern();
}
