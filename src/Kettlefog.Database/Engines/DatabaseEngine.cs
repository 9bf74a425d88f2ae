using System.Data.Common;
using Kettlefog.Core;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Engines;

/// <summary>An engine: it opens sessions, and knows the parts in which engines differ.</summary>
internal abstract class DatabaseEngine(TimeSpan patience) : IDisposable
{
    /// <summary>How it writes SQL.</summary>
    public abstract SqlDialect Dialect { get; }

    /// <summary>Reads the tables of the operational database.</summary>
    public abstract ICatalogReader Catalog { get; }

    /// <summary>Tells what the service's user may not do.</summary>
    public abstract IRightsReader Rights { get; }

    /// <summary>Makes, upgrades and removes Kettlefog's tables.</summary>
    public abstract IOwnSchema OwnSchema { get; }

    /// <summary>Says what the driver's errors mean.</summary>
    public abstract IErrorTranslator Errors { get; }

    private readonly WriterQueue _turns = new(patience);

    /// <summary>What the engine is called.</summary>
    public abstract string Name { get; }

    /// <summary>The database's name for messages; holds no secret.</summary>
    public abstract string DisplayName { get; }

    /// <summary>Opens a session that sees one moment and can write nothing.</summary>
    /// <exception cref="KettlefogException">The database cannot be opened.</exception>
    public abstract Task<Session> OpenReadAsync(CancellationToken cancellationToken);

    /// <summary>Opens a session whose changes are committed together or not at all.</summary>
    /// <exception cref="KettlefogException">The database cannot be opened or written, or is busy.</exception>
    public async Task<Session> OpenWriteAsync(CancellationToken cancellationToken)
    {
        var turn = await _turns.WaitAsync(cancellationToken)
            ?? throw new KettlefogException(
                ErrorCode.DatabaseBusy,
                $"A large merge, or another long operation, is writing to the database {DisplayName}.",
                "Nothing was changed. Try again in a moment."
            );
        try
        {
            var session = await BeginWriteAsync(cancellationToken);
            session.Turn = turn;
            return session;
        }
        catch
        {
            turn.Dispose();
            throw;
        }
    }

    /// <summary>Opens a session that writes, once its turn has come within this program.</summary>
    protected abstract Task<Session> BeginWriteAsync(CancellationToken cancellationToken);

    /// <summary>Takes in hand a job that only one program may work on; whoever dies lets go of it.</summary>
    /// <param name="job">The job's number.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>What holds it until it is disposed; null if another program does.</returns>
    public virtual Task<IAsyncDisposable?> TryAcquireLockAsync(long job, CancellationToken cancellationToken) =>
        Task.FromResult<IAsyncDisposable?>(new NoLock());

    /// <summary>
    /// True if the database is only to be tried out and has no tables of ours: then nothing was merged or decided yet.
    /// </summary>
    public bool IsUninitialised { get; set; }

    /// <summary>True if other programs can write while a session of ours does.</summary>
    public virtual bool AllowsConcurrentWriters => false;

    /// <summary>
    /// A number that is another one after anybody committed anything to the database; null if the engine cannot tell.
    /// Each is good within this program only.
    /// </summary>
    public virtual long? CommitCounter() => null;

    /// <summary>
    /// Breaks off the statement that runs on a connection, where the driver does not do it by itself.
    /// </summary>
    public virtual void Interrupt(DbConnection connection) { }

    /// <summary>Closes the connections that are kept open.</summary>
    public virtual void Dispose() => _turns.Dispose();

    /// <summary>An SQLite file is served by one program of ours.</summary>
    private sealed class NoLock : IAsyncDisposable
    {
        public ValueTask DisposeAsync() => ValueTask.CompletedTask;
    }
}
