using System.Collections.Concurrent;
using System.Data;
using System.Data.Common;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Engines;

/// <summary>
/// A connection of Kettlefog's own pool that keeps its prepared statements: a merge runs about seventy of them, always
/// the same ones, and the SQLite driver neither keeps statements prepared in its pool nor prepares by itself.
/// </summary>
internal sealed class PooledConnection(
    ConnectionPool pool,
    SqlDialect dialect,
    DbConnection connection,
    Action<DbParameter, SqlParameter> bind
) : SessionConnection(dialect, connection, bind), IDisposable
{
    private const int MaxStatements = 256;

    // In the order of their last use: the one that was not used for longest is the first to go.
    private readonly OrderedDictionary<string, DbCommand> _idle = [];

    /// <inheritdoc/>
    public override DbCommand Take(Sql sql, DbTransaction transaction)
    {
        var (text, values) = Render(sql);
        if (_idle.Remove(text, out var command))
        {
            Rebind(command, values);
            command.Transaction = transaction;
            return command;
        }

        command = Create(text, values);
        command.Transaction = transaction;
        command.Prepare();
        return command;
    }

    /// <inheritdoc/>
    public override void Return(DbCommand command, bool failed)
    {
        command.Transaction = null;
        if (failed || !_idle.TryAdd(command.CommandText, command))
        {
            command.Dispose();
            return;
        }

        if (_idle.Count <= MaxStatements)
            return;
        _idle.GetAt(0).Value.Dispose();
        _idle.RemoveAt(0);
    }

    /// <inheritdoc/>
    public override void Release(bool broken)
    {
        if (broken || Connection.State != ConnectionState.Open)
            Dispose();
        else
            pool.Return(this);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var command in _idle.Values)
            command.Dispose();
        Connection.Dispose();
    }
}

/// <summary>A pool of connections, kept open between sessions.</summary>
/// <param name="maxIdle">The maximum number of idle connections.</param>
internal sealed class ConnectionPool(int maxIdle) : IDisposable
{
    private readonly ConcurrentBag<PooledConnection> _idle = [];
    private volatile bool _closed;

    /// <summary>An idle connection, or null if there is none.</summary>
    public PooledConnection? Take() => _idle.TryTake(out var connection) ? connection : null;

    /// <summary>Returns a connection to the pool, or closes it if enough are idle.</summary>
    public void Return(PooledConnection connection)
    {
        if (_closed || _idle.Count >= maxIdle)
            connection.Dispose();
        else
            _idle.Add(connection);
    }

    /// <summary>Closes the idle connections; new ones are opened when needed.</summary>
    public void Clear()
    {
        while (_idle.TryTake(out var connection))
            connection.Dispose();
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _closed = true;
        Clear();
    }
}
