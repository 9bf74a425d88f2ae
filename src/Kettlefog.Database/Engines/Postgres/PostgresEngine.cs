using System.Data;
using System.Data.Common;
using System.Globalization;
using Kettlefog.Core;
using Kettlefog.Core.Values;
using Kettlefog.Database.Statements;
using Npgsql;
using NpgsqlTypes;

namespace Kettlefog.Database.Engines.Postgres;

/// <summary>
/// PostgreSQL, with the driver's own connection pool: bounded, kept alive, with automatically prepared and evicted
/// statements. The session settings that affect the text form of values are fixed when a connection starts.
/// </summary>
internal sealed class PostgresEngine : DatabaseEngine
{
    /// <summary>
    /// The history is a chain, so only one session at a time writes to it; the others wait for this advisory lock. A
    /// merge takes it when its rows are moved, to be numbered and committed.
    /// </summary>
    public const long WriterLock = 0x4B657474_6C65666F;

    private const int MaxPreparedStatements = 200;

    private const int MaxConnections = 30;

    /// <summary>Leaves connections to those who read.</summary>
    private const int MaxConcurrentMerges = 8;

    private const int KeepAliveSeconds = 30;

    /// <summary>How long a new connection may take.</summary>
    private const int ConnectSeconds = 5;

    /// <summary>
    /// How long the server may be silent while a statement reads, or writes a few rows of Kettlefog's own tables. One
    /// that nothing is heard of for so long leads nowhere.
    /// </summary>
    private const int SilenceSeconds = 30;

    /// <summary>The same for a statement of a merge: moving a million rows takes its time.</summary>
    private const int LongSilenceSeconds = 600;

    /// <summary>
    /// The same for a commit, in which the server may still have constraints to check. A cancellation cannot end it.
    /// </summary>
    private const int CommitSilenceSeconds = 60;

    /// <summary>
    /// How long the server waits for the next statement of a transaction that writes. An instance that hangs in a merge
    /// must not stop the merges of all others.
    /// </summary>
    private const int IdleSeconds = 15;

    /// <summary>From then on the system asks whether the other end of a silent connection is still there.</summary>
    private const int TcpKeepAliveSeconds = 10;

    /// <summary>The first half of the advisory locks on jobs; the job's number is the second.</summary>
    private const int JobLock = 0x4B657474;

    private const string Settings =
        "-c TimeZone=UTC -c DateStyle=ISO,YMD -c IntervalStyle=postgres -c extra_float_digits=1 -c bytea_output=hex"
        + " -c xmloption=content -c lc_monetary=C -c standard_conforming_strings=on"
        + " -c plan_cache_mode=force_generic_plan";

    /// <summary>
    /// A user named as Kettlefog's schema would find its tables before the operational ones of the same name; so would
    /// its triggers.
    /// </summary>
    private const string OperationalSearchPath = $"""
        SELECT pg_catalog.set_config('search_path', COALESCE((
          SELECT pg_catalog.string_agg(pg_catalog.quote_ident(s), ', ' ORDER BY place)
          FROM pg_catalog.unnest(pg_catalog.current_schemas(false)) WITH ORDINALITY AS p (s, place)
          WHERE s <> '{PostgresOwnSchema.Name}'), ''), false)
        """;

    private readonly WriterQueue _merges;
    private readonly TimeSpan _busyTimeout;
    private readonly string _unpooled;
    private readonly NpgsqlDataSource _source;

    /// <param name="address">The address; see <see cref="PostgresAddress"/>.</param>
    /// <param name="busyTimeout">How long to wait for locks held by others.</param>
    /// <exception cref="KettlefogException">The address cannot be read.</exception>
    public PostgresEngine(string address, TimeSpan busyTimeout)
        : base(busyTimeout)
    {
        _busyTimeout = busyTimeout;
        _merges = new WriterQueue(MaxConcurrentMerges, busyTimeout);
        var options = PostgresAddress.Read(address);
        options.ApplicationName ??= "kettlefog";
        options.Options = string.IsNullOrEmpty(options.Options) ? Settings : $"{options.Options} {Settings}";

        // Statements have limits of their own: this one holds for commits.
        if (!options.ShouldSerialize("Command Timeout"))
            options.CommandTimeout = CommitSilenceSeconds;
        if (!options.ShouldSerialize("Timeout"))
            options.Timeout = ConnectSeconds;

        // A socket of the file system has no such option.
        if (options.Host?.StartsWith('/') == false)
        {
            options.TcpKeepAlive = true;
            options.TcpKeepAliveTime = TcpKeepAliveSeconds;
            options.TcpKeepAliveInterval = TcpKeepAliveSeconds / 2;
        }

        options.ClientEncoding = "UTF8";
        options.IncludeErrorDetail = true;
        if (!options.ShouldSerialize("Maximum Pool Size"))
            options.MaxPoolSize = MaxConnections;
        if (!options.ShouldSerialize("Keepalive"))
            options.KeepAlive = KeepAliveSeconds;
        options.MaxAutoPrepare = MaxPreparedStatements;
        options.AutoPrepareMinUsages = 2;

        // Settings are local to the transaction; the search path is kept as it was at the start.
        options.NoResetOnClose = true;
        options.Pooling = true;
        DisplayName = $"{options.Database} on {options.Host}";
        var source = new NpgsqlDataSourceBuilder(options.ConnectionString);
        source.UsePhysicalConnectionInitializer(Initialise, InitialiseAsync);
        _source = source.Build();
        options.Pooling = false;
        options.CommandTimeout = LongSilenceSeconds;
        _unpooled = options.ConnectionString;
        var errors = new PostgresErrors(DisplayName);
        Errors = errors;
        OwnSchema = new PostgresOwnSchema(_unpooled, errors);
    }

    public override SqlDialect Dialect { get; } = new PostgresDialect();

    public override ICatalogReader Catalog { get; } = new PostgresCatalog();

    public override IRightsReader Rights { get; } = new PostgresRights();

    public override IOwnSchema OwnSchema { get; }

    public override IErrorTranslator Errors { get; }

    public override string Name => "postgres";

    public override string DisplayName { get; }

    public override bool AllowsConcurrentWriters => true;

    public override Task<Session> OpenReadAsync(CancellationToken cancellationToken) =>
        OpenAsync(
            IsolationLevel.RepeatableRead,
            $"SET TRANSACTION READ ONLY; {LockTimeout}",
            Silence,
            cancellationToken
        );

    protected override async Task<Session> BeginWriteAsync(CancellationToken cancellationToken)
    {
        var session = await BeginConcurrentWriteAsync(Silence, cancellationToken);
        try
        {
            await LockAsync(session, cancellationToken);
            return session;
        }
        catch
        {
            await session.DisposeAsync();
            throw;
        }
    }

    public override Task<Session> OpenConcurrentWriteAsync(CancellationToken cancellationToken) =>
        InTurnAsync(_merges, () => BeginConcurrentWriteAsync(LongSilenceSeconds, cancellationToken), cancellationToken);

    public override async Task AcquireWriterLockAsync(Session session, CancellationToken cancellationToken)
    {
        if (session.IsOnlyWriter)
            return;
        await session.FlushAsync(cancellationToken);
        await TakeTurnAsync(session, cancellationToken);
        await LockAsync(session, cancellationToken);
    }

    private Task<Session> BeginConcurrentWriteAsync(int silence, CancellationToken cancellationToken) =>
        OpenAsync(
            IsolationLevel.ReadCommitted,
            string.Create(
                CultureInfo.InvariantCulture,
                $"{LockTimeout}; SET LOCAL idle_in_transaction_session_timeout = '{IdleSeconds}s'"
            ),
            silence,
            cancellationToken
        );

    private async Task LockAsync(Session session, CancellationToken cancellationToken)
    {
        try
        {
            await session.ExecuteWithinAsync(
                Sql.Of($"SELECT pg_advisory_xact_lock({WriterLock})"),
                LockWaitSeconds,
                cancellationToken
            );
            session.IsOnlyWriter = true;
        }
        catch (KettlefogException busy)
            when (busy.InnerException is PostgresException { SqlState: PostgresErrorCodes.LockNotAvailable })
        {
            throw Writing(busy);
        }
    }

    /// <summary>A statement that waits for a lock is answered by then, one way or the other.</summary>
    private int LockWaitSeconds => (int)Math.Ceiling(_busyTimeout.TotalSeconds) + ConnectSeconds;

    private int Silence => Math.Max(SilenceSeconds, LockWaitSeconds);

    private string LockTimeout =>
        string.Create(CultureInfo.InvariantCulture, $"SET LOCAL lock_timeout = {(long)_busyTimeout.TotalMilliseconds}");

    public override async Task<IAsyncDisposable?> TryAcquireLockAsync(long job, CancellationToken cancellationToken)
    {
        // Not from the pool: the lock lasts as long as the connection, which is closed when the job ends.
        var connection = new NpgsqlConnection(_unpooled);
        try
        {
            await connection.OpenAsync(cancellationToken);
            await using var command = new NpgsqlCommand("SELECT pg_try_advisory_lock($1, $2)", connection)
            {
                Parameters =
                {
                    new() { Value = JobLock },
                    new() { Value = (int)job },
                },
            };
            if (await command.ExecuteScalarAsync(cancellationToken) is true)
                return connection;
        }
        catch (Exception error)
        {
            await connection.DisposeAsync();
            if (error is DbException refused)
                throw Errors.Translate(refused);
            throw;
        }

        await connection.DisposeAsync();
        return null;
    }

    public override void Dispose()
    {
        _source.Dispose();
        _merges.Dispose();
        base.Dispose();
    }

    private static void Initialise(NpgsqlConnection connection)
    {
        using var command = new NpgsqlCommand(OperationalSearchPath, connection);
        command.ExecuteNonQuery();
    }

    private static async Task InitialiseAsync(NpgsqlConnection connection)
    {
        await using var command = new NpgsqlCommand(OperationalSearchPath, connection);
        await command.ExecuteNonQueryAsync();
    }

    private async Task<Session> OpenAsync(
        IsolationLevel isolation,
        string first,
        int silence,
        CancellationToken cancellationToken
    )
    {
        try
        {
            return await BeginAsync(isolation, first, silence, cancellationToken);
        }
        catch (DbException error) when (IsCutConnection(error))
        {
            // An idle connection was lost, or leads nowhere, and the others with it: new ones are opened, once.
            _source.Clear();
        }
        catch (DbException error)
        {
            throw Errors.Translate(error);
        }

        try
        {
            return await BeginAsync(isolation, first, silence, cancellationToken);
        }
        catch (DbException error)
        {
            throw Errors.Translate(error);
        }
    }

    private static bool IsCutConnection(DbException error) =>
        error is PostgresException server
            ? server.SqlState is PostgresErrorCodes.AdminShutdown or PostgresErrorCodes.CrashShutdown
            : !PostgresErrors.IsPoolExhausted(error);

    /// <summary>
    /// Begins a transaction. Its first command, which takes no time but that of waiting for a lock, proves that the
    /// connection leads to the server.
    /// </summary>
    private async Task<Session> BeginAsync(
        IsolationLevel isolation,
        string first,
        int silence,
        CancellationToken cancellationToken
    )
    {
        var connection = await _source.OpenConnectionAsync(cancellationToken);
        try
        {
            var transaction = await connection.BeginTransactionAsync(isolation, cancellationToken);
            await using (var command = new NpgsqlCommand(first, connection, transaction))
            {
                command.CommandTimeout = LockWaitSeconds;
                await command.ExecuteNonQueryAsync(cancellationToken);
            }

            return new Session(
                this,
                new DriverConnection(Dialect, connection, Bind, silence, LongSilenceSeconds),
                transaction
            );
        }
        catch
        {
            await connection.DisposeAsync();
            throw;
        }
    }

    private static void Bind(DbParameter parameter, SqlParameter value)
    {
        var typed = (NpgsqlParameter)parameter;
        typed.NpgsqlDbType = value.Type switch
        {
            SqlParameterType.Whole => NpgsqlDbType.Bigint,
            SqlParameterType.Real => NpgsqlDbType.Double,
            _ => NpgsqlDbType.Text,
        };
        typed.Value =
            value.Type == SqlParameterType.Column
                ? (object?)ColumnValue.FromDriver(value.Value).ToText() ?? DBNull.Value
                : value.Value ?? DBNull.Value;
    }
}
