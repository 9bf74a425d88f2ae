using System.Data.Common;
using System.Globalization;
using System.Text.RegularExpressions;
using DbUp;
using DbUp.Engine.Output;
using Kettlefog.Core;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Own;
using Microsoft.Data.Sqlite;

namespace Kettlefog.Database.Engines;

/// <summary>SQLite. Nothing about somebody's file is changed unasked: journal mode and settings stay as they are.</summary>
internal sealed partial class SqliteEngine : DatabaseEngine
{
    /// <summary>How the names of its scripts end.</summary>
    public const string ScriptEnding = ".sqlite.sql";

    private const string OwnPrefix = "kettlefog_";
    private const string VersionTable = "kettlefog_schema_version";

    /// <summary>
    /// How much of the file a connection that writes keeps in memory, at most. A merge reads its related rows four times
    /// over: to plan, to journal, to move and to prove. A setting of the connection, not of the file.
    /// </summary>
    private const int CacheKibibytes = 64 * 1024;

    private static long _watches;
    private static long _numberings;

    private static readonly string[] RowIdNames = ["rowid", "_rowid_", "oid"];

    private readonly string _path;
    private readonly string _readConnection;
    private readonly string _writeConnection;
    private readonly ConnectionPool _readers = new(mostIdle: 8);
    private readonly ConnectionPool _writers = new(mostIdle: 2);
    private readonly Lock _watching = new();
    private SqliteConnection? _watcher;
    private long _watch;
    private FileIdentity _file;

    /// <param name="path">The database file.</param>
    /// <param name="busyTimeout">How long to wait for other programs to let go of the file.</param>
    public SqliteEngine(string path, TimeSpan busyTimeout)
        : base(busyTimeout)
    {
        _path = path;
        var builder = new SqliteConnectionStringBuilder
        {
            DataSource = path,
            Mode = SqliteOpenMode.ReadOnly,
            ForeignKeys = true,
            Pooling = false,
            DefaultTimeout = Math.Max(1, (int)busyTimeout.TotalSeconds),
        };
        _readConnection = builder.ConnectionString;
        builder.Mode = SqliteOpenMode.ReadWrite;
        _writeConnection = builder.ConnectionString;
    }

    public override string Name => "sqlite";

    public override string DisplayName => Path.GetFileName(_path);

    public override async Task<Session> OpenReadAsync(CancellationToken cancellationToken)
    {
        if (File.Exists(_path + "-journal"))
            await RecoverAsync(cancellationToken);
        return await OpenAsync(_readers, _readConnection, deferred: true, cancellationToken);
    }

    protected override Task<Session> BeginWriteAsync(CancellationToken cancellationToken) => OpenAsync(_writers, _writeConnection, deferred: false, cancellationToken);

    public override Task<IReadOnlyList<MissingRight>> MissingRightsAsync(Session session, IReadOnlyList<TableUse> uses, CancellationToken cancellationToken)
    {
        var missing = new List<MissingRight>();
        if (!FileRights.MayWrite(_path))
            missing.Add(new MissingRight($"The file {DisplayName} may not be written by this user.", "Give the service's user the right to write it.", null));
        if (!FileRights.MayWrite(Path.GetDirectoryName(Path.GetFullPath(_path))!))
            missing.Add(new MissingRight($"The folder of {DisplayName} may not be written by this user, and SQLite keeps its journal there.", "Give the service's user the right to write it.", null));
        return Task.FromResult<IReadOnlyList<MissingRight>>(missing);
    }

    public override IReadOnlyList<string> OwnScripts => OwnTables.Scripts(ScriptEnding);

    public override Sql Own(string table) => Sql.Of($"{new SqlName(OwnPrefix + table)}");

    public override Sql Read(Sql expression) => expression;

    public override Sql Write(ColumnValue value, ColumnSchema column) => Sql.Of($"{value}");

    public override Sql Restore(Sql journaled, ColumnSchema column) => journaled;

    public override Sql Folded(Sql text) => Function(SqliteFunctions.Fold, text);

    public override Sql Matches(Sql text, string foldedPattern) =>
        // LIKE ignores case in ASCII by itself and is many times faster than a call out of the database; only a text
        // that has anything else in it, and so more bytes than characters, needs to be folded.
        Sql.Of($"({text} LIKE {foldedPattern} ESCAPE '\\' OR (octet_length({text}) <> length({text}) AND {Folded(text)} LIKE {foldedPattern} ESCAPE '\\'))");

    public override void Dispose()
    {
        _readers.Dispose();
        _writers.Dispose();
        base.Dispose();
        lock (_watching)
            StopWatching();
    }

    /// <summary>
    /// By <c>PRAGMA data_version</c>, which one connection sees change with every commit of another
    /// (sqlite.org/pragma.html#pragma_data_version); this one never writes.
    /// </summary>
    public override long? CommitCounter()
    {
        lock (_watching)
        {
            ForgetAnotherFile();
            try
            {
                if (_watcher is null)
                {
                    _watcher = new SqliteConnection(_readConnection);
                    _watcher.Open();
                    _watch = Interlocked.Increment(ref _watches);
                }

                using var command = _watcher.CreateCommand();
                command.CommandText = "PRAGMA data_version";
                return (_watch << 32) | (uint)(long)command.ExecuteScalar()!;
            }
            catch (SqliteException)
            {
                StopWatching();
                return null;
            }
        }
    }

    private void StopWatching()
    {
        _watcher?.Dispose();
        _watcher = null;
    }

    public override void Interrupt(DbConnection connection)
    {
        if (((SqliteConnection)connection).Handle is { IsInvalid: false, IsClosed: false } handle)
            SQLitePCL.raw.sqlite3_interrupt(handle);
    }

    public override Sql DecimalSum(Sql expression, ColumnSchema? column = null) => Function(SqliteFunctions.Sum, expression);

    public override Sql RowIdentity(TableSchema table, string? alias) => alias is null ? RowId(table) : Sql.Of($"{new SqlName(alias)}.kettlefog_row");

    public override Sql RowIdentityColumns(TableSchema table, string alias) => Sql.Of($"{new SqlName(alias)}.{RowId(table)} AS kettlefog_row");

    /// <summary>The first of the names of the row number that is no column's own. A table without it has a primary key.</summary>
    private static Sql RowId(TableSchema table) => Sql.Literal(RowIdNames.First(name => table.IndexOf(name) < 0));

    // A window would first put all rows aside, which takes as long as journaling them.
    public override Sql RowNumber() => Function(SqliteFunctions.Number, Sql.Of($"{Interlocked.Increment(ref _numberings)}"));

    public override Sql RowDigest(TableSchema table, string alias) =>
        Function(SqliteFunctions.Digest, Sql.Join(", ", table.Columns.Select(column => Sql.Of($"{new SqlName(alias)}.{new SqlName(column.Name)}"))));

    public override Sql JournalText(Sql journaled) => Sql.Of($"""
        CASE typeof({journaled}) WHEN 'integer' THEN 'i' || {journaled} WHEN 'text' THEN 't' || hex({journaled}) WHEN 'real' THEN 'r' || printf('%!.20g', {journaled}) WHEN 'blob' THEN 'b' || hex({journaled}) ELSE 'n' END
        """);

    // The rows come in the order of the primary key, by which they are found.
    public override Sql Concatenated(Sql text, Sql order) => Sql.Of($"group_concat({text}, ';')");

    public override void Migrate(int version)
    {
        // Opened once by hand, so that a missing or foreign file is told like everywhere else.
        using (var connection = new SqliteConnection(_writeConnection))
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
                throw Translate(error);
            }
        }

        var result = DeployChanges.To
            .SqliteDatabase(_writeConnection)
            .JournalToSqliteTable(VersionTable)
            .WithScriptsEmbeddedInAssembly(typeof(SqliteEngine).Assembly, OwnTables.UpTo(version, ScriptEnding))
            .WithTransaction()
            .LogTo(new NoOpUpgradeLog())
            .Build()
            .PerformUpgrade();
        if (!result.Successful)
            throw result.Error is DbException error ? Translate(error) : result.Error;
    }

    public override async Task<IReadOnlyList<(string Table, IReadOnlyList<string> Columns)>> OwnColumnsAsync(Session session, CancellationToken cancellationToken)
    {
        var columns = await session.QueryAsync(
            Sql.Of($"SELECT s.name, c.name FROM sqlite_schema s JOIN pragma_table_xinfo(s.name) c WHERE s.type = 'table' AND s.name LIKE {OwnPrefix + "%"} AND s.name <> {VersionTable} ORDER BY s.rowid, c.cid"),
            row => (Table: row.Text()[OwnPrefix.Length..], Column: row.Text()),
            cancellationToken);
        return [.. columns.GroupBy(row => row.Table).Select(table => (table.Key, (IReadOnlyList<string>)[.. table.Select(row => row.Column)]))];
    }

    public override async Task RemoveOwnAsync(Session session, CancellationToken cancellationToken)
    {
        var made = await session.QueryAsync(
            Sql.Of($"SELECT type, name FROM sqlite_schema WHERE type IN ('table', 'view') AND name LIKE {OwnPrefix + "%"} ORDER BY type DESC, rowid DESC"),
            row => (IsView: row.Text() == "view", Name: row.Text()),
            cancellationToken);
        foreach (var (isView, name) in made)
            await session.ExecuteAsync(isView ? Sql.Of($"DROP VIEW {new SqlName(name)}") : Sql.Of($"DROP TABLE {new SqlName(name)}"), cancellationToken);
    }

    public override async Task<int> OwnVersionAsync(Session session, CancellationToken cancellationToken)
    {
        var exists = await session.QueryLongAsync(
            Sql.Of($"SELECT COUNT(*) FROM sqlite_schema WHERE type = 'table' AND name = {VersionTable}"),
            cancellationToken);
        return exists == 0
            ? 0
            : (int)await session.QueryLongAsync(Sql.Of($"SELECT COUNT(*) FROM {new SqlName(VersionTable)}"), cancellationToken);
    }

    public override async Task<DatabaseCatalog> ReadCatalogAsync(Session session, CancellationToken cancellationToken)
    {
        var names = await session.QueryAsync(
            Sql.Of($"SELECT name, type, sql FROM sqlite_schema WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY name"),
            row => (Name: row.Text(), IsView: row.Text() == "view", Definition: row.OptionalText() ?? ""),
            cancellationToken);
        var triggers = (await session.QueryAsync(
            Sql.Of($"SELECT tbl_name, name, sql FROM sqlite_schema WHERE type = 'trigger' ORDER BY name"),
            row => (Table: row.Text(), Name: row.Text(), Definition: row.Text()),
            cancellationToken)).ToLookup(row => row.Table, row => SqliteDefinitions.Trigger(row.Name, row.Definition), StringComparer.OrdinalIgnoreCase);
        var virtuals = names.Where(table => SqliteDefinitions.IsVirtual(table.Definition)).Select(table => table.Name).ToList();
        var tables = new List<TableSchema>();
        foreach (var (name, isView, definition) in names.Where(table => !table.Name.StartsWith(OwnPrefix, StringComparison.OrdinalIgnoreCase) && !SqliteDefinitions.IsShadow(table.Name, virtuals)))
        {
            try
            {
                var table = await ReadTableAsync(session, name, isView || virtuals.Contains(name), definition, cancellationToken);
                tables.Add(table with { Triggers = [.. triggers[name]] });
            }
            catch (KettlefogException) when (virtuals.Contains(name))
            {
                // Its module is not here; nothing of it could be merged anyway.
            }
        }

        // SQLite lets a foreign key leave the target's columns out; they are then the target's primary key.
        var catalog = new DatabaseCatalog(tables);
        return new DatabaseCatalog([
            .. tables.Select(table => table with
            {
                ForeignKeys = [.. table.ForeignKeys.Select(key => key.TargetColumns.Count > 0
                    ? key
                    : key with { TargetColumns = catalog.Find(key.Target)?.PrimaryKey ?? [] })],
            }),
        ]);
    }

    public override KettlefogException Translate(DbException error)
    {
        var code = (error as SqliteException)?.SqliteErrorCode ?? 0;
        var said = Unwrap(error.Message);
        return code switch
        {
            5 or 6 => new KettlefogException(
                ErrorCode.DatabaseBusy,
                $"Another program is writing to the database {DisplayName} and did not let go in time.",
                "Nothing was changed. Try again in a moment.",
                inner: error),
            8 => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"The database {DisplayName} is read-only.",
                "Give the service's user the right to write the file and its folder.",
                inner: error),
            13 => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"There is no room left to write to the database {DisplayName}.",
                "Nothing was changed. Make room on the disk and try again.",
                inner: error),
            14 => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"The database {DisplayName} cannot be opened: there is no such file, or no right to open it.",
                "Check the path and the rights of the file.",
                inner: error),
            11 or 26 => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"The file {DisplayName} is not an SQLite database, or is damaged.",
                "Check the path; if the file is damaged, restore it from a backup.",
                inner: error),
            10 => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"The disk failed while the database {DisplayName} was used.",
                "Nothing was changed. Check the disk and try again.",
                inner: error),
            19 => new KettlefogException(
                ErrorCode.DatabaseRefused,
                $"The database refused the change: {said}.",
                "Everything was rolled back. Clear what it names, then make a new plan.",
                inner: error),
            _ => new KettlefogException(
                ErrorCode.DatabaseRefused,
                $"The database reported an error: {said}.",
                "Nothing was changed.",
                inner: error),
        };
    }

    private static Sql Function(string name, Sql arguments) => Sql.Of($"{new SqlName(name)}({arguments})");

    private async Task<Session> OpenAsync(ConnectionPool pool, string connectionString, bool deferred, CancellationToken cancellationToken)
    {
        ForgetAnotherFile();
        var pooled = pool.Take();
        try
        {
            pooled ??= await ConnectAsync(connectionString, writes: !deferred, cancellationToken);
            return new Session(this, pooled, ((SqliteConnection)pooled.Connection).BeginTransaction(deferred), pool);
        }
        catch (DbException error)
        {
            pooled?.Dispose();
            throw Translate(error);
        }
    }

    /// <summary>
    /// A journal may be what a program left that died while writing. Whoever opens the file for writing rolls it back
    /// first; a read-only connection cannot, and would refuse to read until somebody else does.
    /// </summary>
    private async Task RecoverAsync(CancellationToken cancellationToken)
    {
        try
        {
            await using var connection = new SqliteConnection(_writeConnection);
            await connection.OpenAsync(cancellationToken);
            await using var command = connection.CreateCommand();
            command.CommandText = "SELECT COUNT(*) FROM sqlite_schema";
            await command.ExecuteScalarAsync(cancellationToken);
        }
        catch (SqliteException)
        {
            // What is wrong is told by the read that follows.
        }
    }

    private static async Task<PooledConnection> ConnectAsync(string connectionString, bool writes, CancellationToken cancellationToken)
    {
        var connection = new SqliteConnection(connectionString);
        try
        {
            await connection.OpenAsync(cancellationToken);
            SqliteFunctions.Register(connection);
            if (writes)
            {
                using var settings = connection.CreateCommand();
                settings.CommandText = $"PRAGMA cache_size = -{CacheKibibytes}";
                settings.ExecuteNonQuery();
            }

            return new PooledConnection(connection, (parameter, value) => parameter.Value = value.Value ?? DBNull.Value);
        }
        catch (DbException)
        {
            await connection.DisposeAsync();
            throw;
        }
    }

    /// <summary>
    /// A file that was moved away or replaced stays readable and writable through open connections, unseen by
    /// everybody else: they are closed, so that the next one meets the file that is there now.
    /// </summary>
    private void ForgetAnotherFile()
    {
        var file = FileIdentity.Of(_path);
        if (file == _file)
            return;
        _readers.Clear();
        _writers.Clear();
        lock (_watching)
            StopWatching();
        _file = file;
    }

    private static async Task<TableSchema> ReadTableAsync(Session session, string name, bool isView, string definition, CancellationToken cancellationToken)
    {
        var columns = await session.QueryAsync(
            Sql.Of($"SELECT name, type, \"notnull\", pk, hidden, dflt_value IS NOT NULL FROM pragma_table_xinfo({name}) WHERE hidden <> 1 ORDER BY cid"),
            row => (Column: ReadColumn(row.Text(), row.Text(), row.Flag()), KeyPosition: row.Long(), Hidden: row.Long(), HasDefault: row.Flag()),
            cancellationToken);
        var allowed = isView ? [] : SqliteDefinitions.Allowed(definition);

        // The database counts up a key that is the row's own number (sqlite.org/lang_createtable.html#rowid).
        var counts = !isView && columns.Count(column => column.KeyPosition > 0) == 1 && !SqliteDefinitions.HasNoRowNumber(definition);
        var indexes = await session.QueryAsync(
            Sql.Of($"""
                SELECT l.name, i.name, s.sql, l.partial, l."unique", i.coll
                FROM pragma_index_list({name}) l
                JOIN pragma_index_xinfo(l.name) i
                LEFT JOIN sqlite_schema s ON s.type = 'index' AND s.name = l.name
                WHERE l.origin <> 'pk' AND i.key = 1
                ORDER BY l.name, i.seqno
                """),
            row => (Index: row.Text(), Column: row.OptionalText(), Definition: row.OptionalText(), Partial: row.Flag(), Unique: row.Flag(), Collation: row.Text()),
            cancellationToken);
        var foreignKeys = await session.QueryAsync(
            Sql.Of($"SELECT id, \"table\", \"from\", \"to\", on_delete, on_update FROM pragma_foreign_key_list({name}) ORDER BY id, seq"),
            row => (Id: row.Long(), Target: row.Text(), From: row.Text(), To: row.OptionalText(), OnDelete: row.Text(), OnUpdate: row.Text()),
            cancellationToken);
        return new TableSchema(
            name,
            [.. columns.Select(column => column.Column with
            {
                Generated = column.Hidden > 1,
                HasDefault = column.HasDefault || (counts && column.KeyPosition > 0 && column.Column.DeclaredType.Equals("INTEGER", StringComparison.OrdinalIgnoreCase)),
                Allowed = allowed.GetValueOrDefault(column.Column.Name),
            })],
            [.. columns.Where(column => column.KeyPosition > 0).OrderBy(column => column.KeyPosition).Select(column => column.Column.Name)],
            [.. indexes.Where(row => row.Unique).GroupBy(row => row.Index).Select(index => new UniqueKey(
                NameOf(index.Key, index.Select(row => row.Column)),
                [.. index.Select((row, place) => new KeyPart(row.Column, row.Column is null ? IndexDefinition.Parts(row.Definition!)[place] : null, row.Collation))],
                index.First().Partial ? IndexDefinition.Filter(index.First().Definition!) : null))],
            [.. foreignKeys.GroupBy(row => row.Id).Select(key => new ForeignKey(
                [.. key.Select(row => row.From)],
                key.First().Target,
                [.. key.Select(row => row.To).OfType<string>()],
                SqliteDefinitions.KeyAction(key.First().OnDelete),
                SqliteDefinitions.KeyAction(key.First().OnUpdate)))],
            isView,
            Indexes: [.. indexes.Where(row => !row.Unique && !row.Partial).GroupBy(row => row.Index).Select(index => (IReadOnlyList<string?>)[.. index.Select(row => row.Column)])]);
    }

    /// <summary>SQLite names the index behind a constraint itself, which tells nobody anything.</summary>
    private static string NameOf(string index, IEnumerable<string?> columns) =>
        index.StartsWith("sqlite_autoindex_", StringComparison.Ordinal) ? string.Join(", ", columns) : index;

    /// <summary>The column's affinity by the rules of SQLite's documentation, "Datatypes In SQLite", section 3.1.</summary>
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
            length.Success ? int.Parse(length.Groups[1].Value, CultureInfo.InvariantCulture) : null,
            false);
    }

    private static string Unwrap(string message)
    {
        var match = MessagePattern().Match(message);
        return (match.Success ? match.Groups[1].Value : message).TrimEnd('.');
    }

    [GeneratedRegex(@"\(\s*(\d+)")]
    private static partial Regex LengthPattern();

    [GeneratedRegex(@"^SQLite Error \d+: '(.*)'\.?$", RegexOptions.Singleline)]
    private static partial Regex MessagePattern();
}
