using System.Data.Common;
using Kettlefog.Core;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Database.Engines;

/// <summary>What differs from one database engine to the next.</summary>
internal abstract class DatabaseEngine(TimeSpan patience) : IDisposable
{
    private readonly WriterQueue _turns = new(patience);

    /// <summary>The engine of a database.</summary>
    /// <param name="database">An SQLite file, or the address of a PostgreSQL database: <c>postgres://user@host/name</c>, or a connection string with <c>Host=</c>.</param>
    /// <param name="busyTimeout">How long to wait for others to let go of what they hold.</param>
    /// <exception cref="KettlefogException">The address cannot be read.</exception>
    public static DatabaseEngine Of(string database, TimeSpan busyTimeout) => PostgresEngine.IsAddress(database)
        ? new PostgresEngine(database, busyTimeout)
        : new SqliteEngine(database, busyTimeout);

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
        var turn = await _turns.WaitAsync(cancellationToken) ?? throw new KettlefogException(
            ErrorCode.DatabaseBusy,
            $"A great merge, or something else that takes long, is writing to the database {DisplayName}.",
            "Nothing was changed. Try again in a moment.");
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
    public virtual Task<IAsyncDisposable?> TryAcquireLockAsync(long job, CancellationToken cancellationToken) => Task.FromResult<IAsyncDisposable?>(new NoLock());

    /// <summary>Reads the catalog, without Kettlefog's own tables.</summary>
    public abstract Task<DatabaseCatalog> ReadCatalogAsync(Session session, CancellationToken cancellationToken);

    /// <summary>What the service's user may not do, of all that merging needs.</summary>
    /// <param name="session">The session.</param>
    /// <param name="uses">The tables, and what is done to them.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public abstract Task<IReadOnlyList<MissingRight>> MissingRightsAsync(Session session, IReadOnlyList<TableUse> uses, CancellationToken cancellationToken);

    /// <summary>True if the database is only to be tried out and has no tables of ours: then nothing was merged or decided yet.</summary>
    public bool IsUninitialised { get; set; }

    /// <summary>The scripts that make Kettlefog's own tables, one for each version, in order.</summary>
    public abstract IReadOnlyList<string> OwnScripts { get; }

    /// <summary>Makes Kettlefog's own tables, or upgrades them.</summary>
    /// <param name="version">The version they then have.</param>
    public abstract void Migrate(int version);

    /// <summary>Kettlefog's own tables with their columns, those that others point at before those; without the record of their version.</summary>
    public abstract Task<IReadOnlyList<(string Table, IReadOnlyList<string> Columns)>> OwnColumnsAsync(Session session, CancellationToken cancellationToken);

    /// <summary>Lets numbers that the engine gives out go on after those that were restored.</summary>
    public virtual Task ContinueSequencesAsync(Session session, CancellationToken cancellationToken) => Task.CompletedTask;

    /// <summary>Removes Kettlefog's own tables and all that belongs to them.</summary>
    public abstract Task RemoveOwnAsync(Session session, CancellationToken cancellationToken);

    /// <summary>The version of the own tables that the database has; 0 if there are none.</summary>
    public abstract Task<int> OwnVersionAsync(Session session, CancellationToken cancellationToken);

    /// <summary>One of Kettlefog's own tables.</summary>
    public abstract Sql Own(string table);

    /// <summary>A table of the operational database.</summary>
    public virtual Sql Table(TableSchema table) => Sql.Of($"{new SqlName(table.Name)}");

    /// <summary>An expression of the operational database as it is read and journaled: so that its value arrives exactly.</summary>
    public abstract Sql Read(Sql expression);

    /// <summary>A value as it is compared with a column, or written to it.</summary>
    public abstract Sql Write(ColumnValue value, ColumnSchema column);

    /// <summary>What the journal keeps, as it is compared with a column, or written to it.</summary>
    public abstract Sql Restore(Sql journaled, ColumnSchema column);

    /// <summary>Stands in an INSERT whose values are those of a row that was there: no value is to be made anew.</summary>
    public virtual Sql KeepIdentity => Sql.Empty;

    /// <summary>True if other programs can write while a session of ours does.</summary>
    public virtual bool AllowsConcurrentWriters => false;

    /// <summary>Ends a SELECT from <c>t</c> whose rows nobody else may change until the session ends; empty if none can anyway.</summary>
    public virtual Sql LockRows => Sql.Empty;

    /// <summary>A text without case and accents.</summary>
    public abstract Sql Folded(Sql text);

    /// <summary>True if a text, without case and accents, is LIKE a pattern that is folded already.</summary>
    public abstract Sql Matches(Sql text, string foldedPattern);

    /// <summary>An exact decimal sum, as text; null over no rows.</summary>
    /// <param name="expression">What is summed.</param>
    /// <param name="column">The column, if that is all it is: a number need not be read from its text.</param>
    public abstract Sql DecimalSum(Sql expression, ColumnSchema? column = null);

    /// <summary>What the engine itself tells rows of a table by, as long as a transaction lasts: for tables without any key.</summary>
    /// <param name="table">The table.</param>
    /// <param name="alias">What selects <see cref="RowIdentityColumns"/>; null for the table itself.</param>
    public abstract Sql RowIdentity(TableSchema table, string? alias);

    /// <summary>The same as columns of a select list.</summary>
    /// <param name="table">The table.</param>
    /// <param name="alias">What the table is called in the statement.</param>
    public abstract Sql RowIdentityColumns(TableSchema table, string alias);

    /// <summary>A column of a SELECT from one table that numbers the rows from 1, in any order.</summary>
    public virtual Sql RowNumber() => Sql.Literal("ROW_NUMBER() OVER ()");

    /// <summary>A digest of all rows of a group, whatever their order, as text: of all columns, exactly as they are kept.</summary>
    /// <param name="table">The table.</param>
    /// <param name="alias">What the table is called in the statement.</param>
    public abstract Sql RowDigest(TableSchema table, string alias);

    /// <summary>One value of the journal as text: other values, other texts.</summary>
    public abstract Sql JournalText(Sql journaled);

    /// <summary>The texts of a group of rows, one after the other in the order of the rows.</summary>
    public abstract Sql Concatenated(Sql text, Sql order);

    /// <summary>
    /// Two statements between which the engine joins great many rows by hashing or sorting, even if it has no statistics of
    /// what was written just now and so believes that they are few; null if it does well anyway.
    /// </summary>
    public virtual (Sql Begin, Sql End)? LargeJoinHints => null;

    /// <summary>
    /// A number that is another one after anybody committed anything to the database; null if the engine cannot tell. Each
    /// is good within this program only.
    /// </summary>
    public virtual long? CommitCounter() => null;

    /// <summary>Breaks off the statement that runs on a connection, where the driver does not do it by itself.</summary>
    public virtual void Interrupt(DbConnection connection)
    {
    }

    /// <summary>Says what a database error means to the caller.</summary>
    public abstract KettlefogException Translate(DbException error);

    /// <summary>Closes the connections that are kept open.</summary>
    public virtual void Dispose() => _turns.Dispose();

    /// <summary>An SQLite file is served by one program of ours.</summary>
    private sealed class NoLock : IAsyncDisposable
    {
        public ValueTask DisposeAsync() => ValueTask.CompletedTask;
    }
}
