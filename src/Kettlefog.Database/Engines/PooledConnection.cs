using System.Collections.Concurrent;
using System.Data.Common;

namespace Kettlefog.Database.Engines;

/// <summary>A connection that keeps its prepared statements: a merge is some seventy of them, always the same.</summary>
internal sealed class PooledConnection(DbConnection connection, Action<DbParameter, SqlParameter> bind) : IDisposable
{
    private const int MaxStatements = 256;

    private readonly Dictionary<string, DbCommand> _idle = [];

    public DbConnection Connection => connection;

    /// <summary>Takes a prepared statement with its parameters set; give it back with <see cref="Return"/>.</summary>
    public DbCommand Take(Sql sql, DbTransaction transaction)
    {
        var (text, values) = sql.Render();
        var fresh = !_idle.Remove(text, out var command);
        if (command is not null)
        {
            for (var place = 0; place < values.Count; place++)
                bind(command.Parameters[place], values[place]);
        }
        else
        {
            command = connection.CreateCommand();
            command.CommandText = text;
            Add(values, command.CreateParameter, command.Parameters);
        }

        command.Transaction = transaction;
        if (fresh)
            command.Prepare();
        return command;
    }

    /// <summary>Several statements that go to the database together.</summary>
    public DbBatch Batch(IReadOnlyList<Sql> statements, DbTransaction transaction)
    {
        var batch = connection.CreateBatch();
        batch.Transaction = transaction;
        foreach (var sql in statements)
        {
            var (text, values) = sql.Render();
            var command = batch.CreateBatchCommand();
            command.CommandText = text;
            Add(values, command.CreateParameter, command.Parameters);
            batch.BatchCommands.Add(command);
        }

        return batch;
    }

    /// <summary>Gives a statement back.</summary>
    /// <param name="command">The statement.</param>
    /// <param name="failed">True if it failed: the tables may have been changed since it was prepared.</param>
    public void Return(DbCommand command, bool failed)
    {
        command.Transaction = null;
        if (failed || _idle.Count >= MaxStatements || !_idle.TryAdd(command.CommandText, command))
            command.Dispose();
    }

    private void Add(IReadOnlyList<SqlParameter> values, Func<DbParameter> create, DbParameterCollection into)
    {
        for (var place = 0; place < values.Count; place++)
        {
            var parameter = create();
            parameter.ParameterName = Sql.ParameterName(place);
            bind(parameter, values[place]);
            into.Add(parameter);
        }
    }

    public void Dispose()
    {
        foreach (var command in _idle.Values)
            command.Dispose();
        connection.Dispose();
    }
}

/// <summary>Keeps connections open between sessions.</summary>
internal sealed class ConnectionPool(int mostIdle) : IDisposable
{
    private readonly ConcurrentBag<PooledConnection> _idle = [];
    private volatile bool _closed;

    /// <summary>An idle connection, or null if there is none.</summary>
    public PooledConnection? Take() => _idle.TryTake(out var connection) ? connection : null;

    public void Return(PooledConnection connection)
    {
        if (_closed || _idle.Count >= mostIdle)
            connection.Dispose();
        else
            _idle.Add(connection);
    }

    /// <summary>Closes the idle connections; later ones are opened anew.</summary>
    public void Clear()
    {
        while (_idle.TryTake(out var connection))
            connection.Dispose();
    }

    public void Dispose()
    {
        _closed = true;
        Clear();
    }
}
