using System.Data.Common;
using Kettlefog.Core.Values;

namespace Kettlefog.Database.Engines;

/// <summary>A connection with its transaction. Disposing it without a commit leaves nothing done.</summary>
internal sealed class Session(DatabaseEngine engine, PooledConnection connection, DbTransaction transaction, ConnectionPool pool) : IAsyncDisposable
{
    private const long ManyRows = 1_000;

    private readonly List<(Sql Statement, Action<int>? Done)> _waiting = [];

    public DatabaseEngine Engine => engine;

    /// <summary>Ends with the session: the turn of whoever writes.</summary>
    public IDisposable? Turn { get; set; }

    /// <summary>Makes conditions on keys.</summary>
    public KeyMatch Keys { get; } = new(engine);

    /// <summary>
    /// Lets a statement wait for the next one whose result is wanted, or for the commit, so that many go to the database
    /// together, in their order.
    /// </summary>
    /// <param name="sql">The statement.</param>
    /// <param name="done">Is told the number of rows changed.</param>
    public void Later(Sql sql, Action<int>? done = null) => _waiting.Add((sql, done));

    /// <summary>Runs the statements that wait.</summary>
    public async Task FlushAsync(CancellationToken cancel)
    {
        if (_waiting.Count == 0)
            return;
        var waiting = _waiting.ToList();
        _waiting.Clear();
        var changed = waiting.Count > 1 && connection.Connection.CanCreateBatch
            ? await ExecuteTogetherAsync([.. waiting.Select(each => each.Statement)], cancel)
            : await ExecuteEachAsync([.. waiting.Select(each => each.Statement)], cancel);
        foreach (var (each, rows) in waiting.Zip(changed))
            each.Done?.Invoke(rows);
    }

    /// <summary>Runs a statement.</summary>
    /// <returns>The number of rows changed.</returns>
    public async Task<int> ExecuteAsync(Sql sql, CancellationToken cancel)
    {
        await FlushAsync(cancel);
        return await ExecuteNowAsync(sql, cancel);
    }

    /// <summary>Runs a script of several statements, of which each may need what the one before has made.</summary>
    public async Task RunScriptAsync(string script, CancellationToken cancel)
    {
        await FlushAsync(cancel);
        await using var command = connection.Connection.CreateCommand();
        command.CommandText = script;
        command.Transaction = transaction;
        await Translated(() => command.ExecuteNonQueryAsync(cancel), cancel);
    }

    private async Task<IReadOnlyList<int>> ExecuteEachAsync(IReadOnlyList<Sql> statements, CancellationToken cancel)
    {
        var changed = new List<int>();
        foreach (var sql in statements)
            changed.Add(await ExecuteNowAsync(sql, cancel));
        return changed;
    }

    private async Task<IReadOnlyList<int>> ExecuteTogetherAsync(IReadOnlyList<Sql> statements, CancellationToken cancel)
    {
        await using var batch = connection.Batch(statements, transaction);
        try
        {
            await using var stopping = InterruptedBy(cancel);
            await batch.ExecuteNonQueryAsync(cancel);
            return [.. batch.BatchCommands.Select(command => command.RecordsAffected)];
        }
        catch (DbException error)
        {
            cancel.ThrowIfCancellationRequested();
            throw engine.Translate(error);
        }
    }

    private async Task<int> ExecuteNowAsync(Sql sql, CancellationToken cancel)
    {
        var command = Take(sql);
        var failed = true;
        try
        {
            await using var stopping = InterruptedBy(cancel);
            var changed = await command.ExecuteNonQueryAsync(cancel);
            failed = false;
            return changed;
        }
        catch (DbException error)
        {
            cancel.ThrowIfCancellationRequested();
            throw engine.Translate(error);
        }
        finally
        {
            connection.Return(command, failed);
        }
    }

    /// <summary>Reads rows, one by one.</summary>
    public async IAsyncEnumerable<T> StreamAsync<T>(
        Sql sql,
        Func<RowReader, T> read,
        [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancel)
    {
        await FlushAsync(cancel);
        var command = Take(sql);
        var failed = true;
        try
        {
            await using var stopping = InterruptedBy(cancel);
            await using var reader = await Translated(() => command.ExecuteReaderAsync(cancel), cancel);
            var row = new RowReader(reader);
            while (await Translated(() => reader.ReadAsync(cancel), cancel))
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
    public async Task<List<T>> QueryAsync<T>(Sql sql, Func<RowReader, T> read, CancellationToken cancel)
    {
        var rows = new List<T>();
        await foreach (var row in StreamAsync(sql, read, cancel))
            rows.Add(row);
        return rows;
    }

    /// <summary>Does something that joins as many rows as are said to the journal.</summary>
    public async Task<T> JoiningAsync<T>(long rows, Func<Task<T>> action, CancellationToken cancel)
    {
        if (rows < ManyRows || engine.GreatJoins is not var (begin, end))
            return await action();
        await ExecuteAsync(begin, cancel);
        var result = await action();
        await ExecuteAsync(end, cancel);
        return result;
    }

    /// <summary>Reads one number.</summary>
    public async Task<long> NumberAsync(Sql sql, CancellationToken cancel) =>
        (await QueryAsync(sql, row => row.Long(), cancel)).Single();

    /// <summary>Commits everything.</summary>
    public async Task CommitAsync(CancellationToken cancel)
    {
        await FlushAsync(cancel);
        try
        {
            await transaction.CommitAsync(cancel);
        }
        catch (DbException error)
        {
            throw engine.Translate(error);
        }
    }

    public async ValueTask DisposeAsync()
    {
        try
        {
            await transaction.DisposeAsync();
            if (connection.Connection.State == System.Data.ConnectionState.Open)
                pool.Return(connection);
            else
                connection.Dispose();
        }
        catch (DbException)
        {
            // The transaction could not even be rolled back by name; closing the connection does it.
            connection.Dispose();
        }
        finally
        {
            Turn?.Dispose();
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
            throw engine.Translate(error);
        }
    }

    /// <summary>A statement may take minutes; whoever stops it does not wait for its end.</summary>
    private CancellationTokenRegistration InterruptedBy(CancellationToken cancel) => cancel.Register(() => engine.Interrupt(connection.Connection));

    private async Task<T> Translated<T>(Func<Task<T>> action, CancellationToken cancel)
    {
        try
        {
            return await action();
        }
        catch (DbException error)
        {
            cancel.ThrowIfCancellationRequested();
            throw engine.Translate(error);
        }
    }
}

/// <summary>Reads the columns of a row from left to right.</summary>
internal sealed class RowReader(DbDataReader reader)
{
    private int _column;

    public void Begin() => _column = 0;

    public ColumnValue Value() => ColumnValue.FromDriver(reader.GetValue(_column++));

    public string Text() => reader.GetString(_column++);

    public string? OptionalText() => reader.IsDBNull(_column++) ? null : reader.GetString(_column - 1);

    public long Long() => reader.GetInt64(_column++);

    public long? OptionalLong() => reader.IsDBNull(_column++) ? null : reader.GetInt64(_column - 1);

    public double Real() => reader.GetDouble(_column++);

    public bool Flag() => Long() != 0;

    public RecordKey Key(int columns) => new(Enumerable.Range(0, columns).Select(_ => Value()).ToList());

    public IReadOnlyList<ColumnValue> Values(int columns)
    {
        var values = new ColumnValue[columns];
        for (var index = 0; index < columns; index++)
            values[index] = Value();
        return values;
    }
}
