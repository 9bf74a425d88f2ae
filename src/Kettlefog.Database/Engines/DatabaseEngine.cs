using System.Data.Common;
using Kettlefog.Core;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Engines;

/// <summary>A database engine: opens sessions, and provides the parts in which engines differ.</summary>
internal abstract class DatabaseEngine(TimeSpan patience) : IDisposable
{
    /// <summary>Its SQL dialect.</summary>
    public abstract SqlDialect Dialect { get; }

    /// <summary>Reads the tables of the operational database.</summary>
    public abstract ICatalogReader Catalog { get; }

    /// <summary>Finds missing rights of the service's user.</summary>
    public abstract IRightsReader Rights { get; }

    /// <summary>Creates, upgrades and removes Kettlefog's tables.</summary>
    public abstract IOwnSchema OwnSchema { get; }

    /// <summary>Translates the driver's errors.</summary>
    public abstract IErrorTranslator Errors { get; }

    /// <summary>How long a request waits for locks of others.</summary>
    public TimeSpan Patience => patience;

    private readonly WriterQueue _turns = new(1, patience);

    /// <summary>The name of the engine.</summary>
    public abstract string Name { get; }

    /// <summary>The database's name for messages; holds no secret.</summary>
    public abstract string DisplayName { get; }

    /// <summary>Opens a session that reads one snapshot and cannot write.</summary>
    /// <exception cref="KettlefogException">The database cannot be opened.</exception>
    public abstract Task<Session> OpenReadAsync(CancellationToken cancellationToken);

    /// <summary>
    /// Opens a session whose changes are committed as a whole or not at all. Until it ends, no other one writes to
    /// Kettlefog's tables.
    /// </summary>
    /// <exception cref="KettlefogException">The database cannot be opened or written, or is busy.</exception>
    public Task<Session> OpenWriteAsync(CancellationToken cancellationToken) =>
        InTurnAsync(_turns, () => BeginWriteAsync(cancellationToken), cancellationToken);

    /// <summary>
    /// Opens a session like <see cref="OpenWriteAsync"/>, but others may write too, where the engine allows it, until
    /// this one calls <see cref="AcquireWriterLockAsync"/>. Before that it may write only to operational tables and to
    /// the journal.
    /// </summary>
    /// <exception cref="KettlefogException">The database cannot be opened or written, or is busy.</exception>
    public virtual Task<Session> OpenConcurrentWriteAsync(CancellationToken cancellationToken) =>
        OpenWriteAsync(cancellationToken);

    /// <summary>Waits until no other session writes to Kettlefog's tables, and keeps others from it.</summary>
    /// <exception cref="KettlefogException">The database is busy; the session must be given up.</exception>
    public virtual Task AcquireWriterLockAsync(Session session, CancellationToken cancellationToken) =>
        Task.CompletedTask;

    /// <summary>Waits for a turn to write to Kettlefog's tables, which ends with the session.</summary>
    protected async Task TakeTurnAsync(Session session, CancellationToken cancellationToken) =>
        session.Turns.Add(await _turns.WaitAsync(cancellationToken) ?? throw Writing(null));

    /// <summary>Opens a session when its turn in a queue has come; the turn ends with it.</summary>
    protected async Task<Session> InTurnAsync(
        WriterQueue queue,
        Func<Task<Session>> open,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(queue);
        var turn = await queue.WaitAsync(cancellationToken) ?? throw Writing(null);
        try
        {
            var session = await open();
            session.Turns.Add(turn);
            return session;
        }
        catch
        {
            turn.Dispose();
            throw;
        }
    }

    /// <summary>The refusal of a request to write while another one, of whatever instance, is writing.</summary>
    protected KettlefogException Writing(Exception? inner) =>
        new(
            ErrorCode.DatabaseBusy,
            $"A large merge, or another long operation, is writing to the database {DisplayName}.",
            "Nothing was changed. Try again in a moment.",
            inner: inner
        );

    /// <summary>Opens a session that writes; its turn within this program has come.</summary>
    protected abstract Task<Session> BeginWriteAsync(CancellationToken cancellationToken);

    /// <summary>
    /// Acquires the lock on a job that only one program may work on; it is released when the program ends.
    /// </summary>
    /// <param name="job">The job's number.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The lock, released when disposed; null if another program holds it.</returns>
    public virtual Task<IAsyncDisposable?> TryAcquireLockAsync(long job, CancellationToken cancellationToken) =>
        Task.FromResult<IAsyncDisposable?>(new NoLock());

    /// <summary>
    /// True if the database has no Kettlefog tables and is only previewed: nothing was merged or decided yet.
    /// </summary>
    public bool IsUninitialised { get; set; }

    /// <summary>True if other programs can write during a writing session.</summary>
    public virtual bool AllowsConcurrentWriters => false;

    /// <summary>True if a transaction that reads may keep others from writing for as long as it lasts.</summary>
    public virtual bool ReadersBlockWriters => false;

    /// <summary>
    /// A number that changes whenever anyone commits to the database; null if the engine has none.
    /// It has a meaning only within this program.
    /// </summary>
    public virtual long? CommitCounter() => null;

    /// <summary>Interrupts the statement running on a connection, where the driver does not do so itself.</summary>
    public virtual void Interrupt(DbConnection connection) { }

    /// <summary>Closes the idle connections.</summary>
    public virtual void Dispose() => _turns.Dispose();

    /// <summary>An SQLite file is served by a single instance.</summary>
    private sealed class NoLock : IAsyncDisposable
    {
        public ValueTask DisposeAsync() => ValueTask.CompletedTask;
    }
}
