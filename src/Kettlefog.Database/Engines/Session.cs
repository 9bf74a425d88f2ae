using System.Data.Common;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Engines;

/// <summary>A connection with its transaction. Disposing it without a commit rolls everything back.</summary>
internal sealed class Session(DatabaseEngine engine, SessionConnection connection, DbTransaction transaction)
    : IAsyncDisposable
{
    private const long MinRowsForHints = 1_000;

    private readonly List<(Sql Statement, Action<int>? Done)> _waiting = [];

    private (CheckedMap Map, string CatalogState)? _bound;

    /// <summary>The engine of the database.</summary>
    public DatabaseEngine Engine => engine;

    /// <summary>The engine's SQL dialect.</summary>
    public SqlDialect Dialect => engine.Dialect;

    /// <summary>The turns of a writer, which end with the session.</summary>
    public List<IDisposable> Turns { get; } = [];

    /// <summary>True if no other session writes to Kettlefog's tables until this one ends.</summary>
    public bool IsOnlyWriter { get; set; }

    /// <summary>
    /// The map, checked against the tables as this session sees them. Sessions on Kettlefog's own tables have none.
    /// </summary>
    /// <exception cref="InvalidOperationException">The session was opened without a map.</exception>
    public CheckedMap Map =>
        _bound?.Map ?? throw new InvalidOperationException("This session was opened without a record map.");

    /// <summary>The state of the tables when the session was opened; see <see cref="ICatalogReader"/>.</summary>
    public string CatalogState => _bound?.CatalogState ?? "";

    /// <summary>Gives the session its map.</summary>
    /// <param name="map">The map.</param>
    /// <param name="catalogState">The state of the tables that it was checked against.</param>
    public void Bind(CheckedMap map, string catalogState) => _bound = (map, catalogState);

    /// <summary>Builds conditions on keys.</summary>
    public KeyConditions Keys { get; } = new(engine.Dialect);

    /// <summary>
    /// Queues a statement until the next one whose result is needed, or the commit, so that many are sent to the
    /// database together, in their order.
    /// </summary>
    /// <param name="sql">The statement.</param>
    /// <param name="done">Called with the number of rows changed.</param>
    public void Enqueue(Sql sql, Action<int>? done = null) => _waiting.Add((sql, done));

    /// <summary>Runs the queued statements.</summary>
    public async Task FlushAsync(CancellationToken cancellationToken)
    {
        if (_waiting.Count == 0)
            return;
        var waiting = _waiting.ToList();
        _waiting.Clear();
        var changed =
            waiting.Count > 1 && connection.Connection.CanCreateBatch
                ? await ExecuteTogetherAsync([.. waiting.Select(each => each.Statement)], cancellationToken)
                : await ExecuteEachAsync([.. waiting.Select(each => each.Statement)], cancellationToken);
        foreach (var (each, rows) in waiting.Zip(changed))
            each.Done?.Invoke(rows);
    }

    /// <summary>Runs a statement.</summary>
    /// <returns>The number of rows changed.</returns>
    public async Task<int> ExecuteAsync(Sql sql, CancellationToken cancellationToken)
    {
        await FlushAsync(cancellationToken);
        return await ExecuteNowAsync(sql, cancellationToken);
    }

    /// <summary>Runs a statement that is answered soon, or never.</summary>
    /// <param name="sql">The statement.</param>
    /// <param name="silence">How many seconds nothing may be heard of the server.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task ExecuteWithinAsync(Sql sql, int silence, CancellationToken cancellationToken)
    {
        await FlushAsync(cancellationToken);
        connection.LimitSilence(silence);
        try
        {
            await ExecuteNowAsync(sql, cancellationToken);
        }
        finally
        {
            connection.LimitSilence(null);
        }
    }

    /// <summary>Runs a script of several statements, each of which may depend on the one before.</summary>
    public async Task RunScriptAsync(string script, CancellationToken cancellationToken)
    {
        await FlushAsync(cancellationToken);
        await using var command = connection.Script(script, transaction);
        await Translated(() => command.ExecuteNonQueryAsync(cancellationToken), cancellationToken);
    }

    private async Task<IReadOnlyList<int>> ExecuteEachAsync(
        IReadOnlyList<Sql> statements,
        CancellationToken cancellationToken
    )
    {
        var changed = new List<int>();
        foreach (var sql in statements)
            changed.Add(await ExecuteNowAsync(sql, cancellationToken));
        return changed;
    }

    private async Task<IReadOnlyList<int>> ExecuteTogetherAsync(
        IReadOnlyList<Sql> statements,
        CancellationToken cancellationToken
    )
    {
        await using var batch = connection.Batch(statements, transaction);
        try
        {
            await using var stopping = InterruptedBy(cancellationToken);
            await batch.ExecuteNonQueryAsync(cancellationToken);
            return [.. batch.BatchCommands.Select(command => command.RecordsAffected)];
        }
        catch (DbException error)
        {
            cancellationToken.ThrowIfCancellationRequested();
            throw engine.Errors.Translate(error);
        }
    }

    private async Task<int> ExecuteNowAsync(Sql sql, CancellationToken cancellationToken)
    {
        var command = Take(sql);
        var failed = true;
        try
        {
            await using var stopping = InterruptedBy(cancellationToken);
            var changed = await command.ExecuteNonQueryAsync(cancellationToken);
            failed = false;
            return changed;
        }
        catch (DbException error)
        {
            cancellationToken.ThrowIfCancellationRequested();
            throw engine.Errors.Translate(error);
        }
        finally
        {
            connection.Return(command, failed);
        }
    }

    /// <summary>
    /// For those who read or write whole tables: a statement may take minutes without being given up as lost.
    /// </summary>
    public void ExpectLongStatements() => connection.ExpectLongStatements();

    /// <summary>Reads rows, one by one.</summary>
    public async IAsyncEnumerable<T> StreamAsync<T>(
        Sql sql,
        Func<RowReader, T> read,
        [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancellationToken
    )
    {
        await FlushAsync(cancellationToken);
        var command = Take(sql);
        var failed = true;
        try
        {
            await using var stopping = InterruptedBy(cancellationToken);
            await using var reader = await Translated(
                () => command.ExecuteReaderAsync(cancellationToken),
                cancellationToken
            );
            var row = new RowReader(reader);
            while (await Translated(() => reader.ReadAsync(cancellationToken), cancellationToken))
            {
                row.Begin();
                yield return read(row);
            }

            failed = false;
        }
        finally
        {
            connection.Return(command, failed);
        }
    }

    /// <summary>Reads all rows.</summary>
    public async Task<List<T>> QueryAsync<T>(Sql sql, Func<RowReader, T> read, CancellationToken cancellationToken)
    {
        var rows = new List<T>();
        await foreach (var row in StreamAsync(sql, read, cancellationToken))
            rows.Add(row);
        return rows;
    }

    /// <summary>Runs work that joins the given number of rows to the journal.</summary>
    public async Task<T> WithLargeJoinsAsync<T>(long rows, Func<Task<T>> action, CancellationToken cancellationToken)
    {
        if (rows < MinRowsForHints || engine.Dialect.LargeJoinHints is not var (begin, end))
            return await action();
        await ExecuteAsync(begin, cancellationToken);
        var result = await action();
        await ExecuteAsync(end, cancellationToken);
        return result;
    }

    /// <summary>Reads one number.</summary>
    public async Task<long> QueryLongAsync(Sql sql, CancellationToken cancellationToken) =>
        (await QueryAsync(sql, row => row.Long(), cancellationToken)).Single();

    /// <summary>Commits everything. Once it has begun, the commit itself cannot be cancelled.</summary>
    /// <exception cref="KettlefogException">
    /// Nothing was committed; or, with <see cref="ErrorCode.OutcomeUnknown"/>, the connection was lost before the
    /// database had answered.
    /// </exception>
    public async Task CommitAsync(CancellationToken cancellationToken)
    {
        await FlushAsync(cancellationToken);
        cancellationToken.ThrowIfCancellationRequested();
        try
        {
            await transaction.CommitAsync(CancellationToken.None);
        }
        catch (DbException error) when (engine.Errors.ProvesRollback(error))
        {
            throw engine.Errors.Translate(error);
        }
        catch (Exception error)
        {
            throw new KettlefogException(
                ErrorCode.OutcomeUnknown,
                $"The connection to the database {engine.DisplayName} was lost while the change was committed; it is "
                    + "not known whether it was saved.",
                "Look whether it is there before you repeat it.",
                inner: error
            );
        }
    }

    /// <summary>Rolls back what was not committed, and returns the connection.</summary>
    public async ValueTask DisposeAsync()
    {
        var broken = true;
        try
        {
            await transaction.DisposeAsync();
            broken = false;
        }
        catch (DbException)
        {
            // The rollback failed; closing the connection does it.
        }
        finally
        {
            connection.Release(broken);
            Turns.ForEach(turn => turn.Dispose());
        }
    }

    private DbCommand Take(Sql sql)
    {
        try
        {
            return connection.Take(sql, transaction);
        }
        catch (DbException error)
        {
            throw engine.Errors.Translate(error);
        }
    }

    /// <summary>A statement may take minutes; a cancellation does not wait for its end.</summary>
    private CancellationTokenRegistration InterruptedBy(CancellationToken cancellationToken) =>
        cancellationToken.Register(() => engine.Interrupt(connection.Connection));

    private async Task<T> Translated<T>(Func<Task<T>> action, CancellationToken cancellationToken)
    {
        try
        {
            return await action();
        }
        catch (DbException error)
        {
            cancellationToken.ThrowIfCancellationRequested();
            throw engine.Errors.Translate(error);
        }
    }
}
