using System.Data.Common;
using Kettlefog.Database.Statements;
using Microsoft.Data.Sqlite;

namespace Kettlefog.Database.Engines.Sqlite;

/// <summary>SQLite. Journal mode and settings of the file are left as they are.</summary>
internal sealed class SqliteEngine : DatabaseEngine
{
    /// <summary>
    /// The page cache of a connection that writes, at most. A merge reads its related rows four
    /// times: to plan, to journal, to move and to prove. A setting of the connection, not of the file.
    /// </summary>
    private const int CacheKibibytes = 64 * 1024;

    private static long _watches;

    private readonly string _path;
    private readonly string _readConnection;
    private readonly string _writeConnection;
    private readonly ConnectionPool _readers = new(maxIdle: 8);
    private readonly ConnectionPool _writers = new(maxIdle: 2);
    private readonly Lock _watching = new();
    private SqliteConnection? _watcher;
    private long _watch;
    private FileIdentity _file;

    /// <param name="path">The database file.</param>
    /// <param name="busyTimeout">How long to wait for locks of other programs.</param>
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
        var errors = new SqliteErrors(Path.GetFileName(path));
        Errors = errors;
        Catalog = new SqliteCatalog(path);
        Rights = new SqliteRights(path);
        OwnSchema = new SqliteOwnSchema(_writeConnection, errors);
    }

    public override SqlDialect Dialect { get; } = new SqliteDialect();

    public override ICatalogReader Catalog { get; }

    public override IRightsReader Rights { get; }

    public override IOwnSchema OwnSchema { get; }

    public override IErrorTranslator Errors { get; }

    public override string Name => "sqlite";

    // With a rollback journal; with a write-ahead log a long reader lets the log grow.
    public override bool ReadersBlockWriters => true;

    public override string DisplayName => Path.GetFileName(_path);

    public override async Task<Session> OpenReadAsync(CancellationToken cancellationToken)
    {
        if (File.Exists(_path + "-journal"))
            await RecoverAsync(cancellationToken);
        return await OpenAsync(_readers, _readConnection, deferred: true, cancellationToken);
    }

    protected override Task<Session> BeginWriteAsync(CancellationToken cancellationToken) =>
        OpenAsync(_writers, _writeConnection, deferred: false, cancellationToken);

    /// <summary>
    /// By <c>PRAGMA data_version</c>, which changes for one connection with every commit of another
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

    public override void Dispose()
    {
        _readers.Dispose();
        _writers.Dispose();
        base.Dispose();
        lock (_watching)
            StopWatching();
    }

    private async Task<Session> OpenAsync(
        ConnectionPool pool,
        string connectionString,
        bool deferred,
        CancellationToken cancellationToken
    )
    {
        ForgetAnotherFile();
        var pooled = pool.Take();
        try
        {
            pooled ??= await ConnectAsync(pool, connectionString, writes: !deferred, cancellationToken);
            return new Session(this, pooled, ((SqliteConnection)pooled.Connection).BeginTransaction(deferred));
        }
        catch (Exception error)
        {
            pooled?.Dispose();
            if (error is DbException refused)
                throw Errors.Translate(refused);
            throw;
        }
    }

    /// <summary>
    /// A journal may be left by a program that died while writing. Opening the file for writing rolls it back
    /// first; a read-only connection cannot, and would fail to read until another program does.
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
            // The read that follows reports the error.
        }
    }

    private async Task<PooledConnection> ConnectAsync(
        ConnectionPool pool,
        string connectionString,
        bool writes,
        CancellationToken cancellationToken
    )
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

            return new PooledConnection(pool, Dialect, connection, (parameter, value) =>
                parameter.Value = value.Value ?? DBNull.Value
            );
        }
        catch
        {
            await connection.DisposeAsync();
            throw;
        }
    }

    /// <summary>
    /// A file that was moved away or replaced remains readable and writable through open connections, unseen by
    /// everyone else: they are closed, so that the next one opens the current file.
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
}
