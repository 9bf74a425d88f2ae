using System.Data.Common;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Engines;

/// <summary>A connection in use by a session: makes commands from statements, and returns to its pool.</summary>
/// <param name="dialect">The SQL dialect.</param>
/// <param name="connection">The connection, which is open.</param>
/// <param name="bind">Sets the type and value of a parameter.</param>
internal abstract class SessionConnection(
    SqlDialect dialect,
    DbConnection connection,
    Action<DbParameter, SqlParameter> bind
)
{
    /// <summary>The driver's connection.</summary>
    public DbConnection Connection => connection;

    /// <summary>A command with its parameters set; return it with <see cref="Return"/>.</summary>
    public abstract DbCommand Take(Sql sql, DbTransaction transaction);

    /// <summary>Returns a command.</summary>
    /// <param name="command">The command.</param>
    /// <param name="failed">True if it failed: the tables may have changed since it was prepared.</param>
    public abstract void Return(DbCommand command, bool failed);

    /// <summary>Ends the use by a session.</summary>
    /// <param name="broken">True if the connection cannot be used again.</param>
    public abstract void Release(bool broken);

    /// <summary>Lets the following statements take long; see <see cref="Session.ExpectLongStatements"/>.</summary>
    public virtual void ExpectLongStatements() { }

    /// <summary>Limits how long the following statements may take.</summary>
    /// <param name="seconds">How many seconds nothing may be heard of the server; null for as long as usual.</param>
    public virtual void LimitSilence(int? seconds) { }

    /// <summary>A script of several statements that changes tables; dispose it after use.</summary>
    public virtual DbCommand Script(string text, DbTransaction transaction)
    {
        var command = connection.CreateCommand();
        command.CommandText = text;
        command.Transaction = transaction;
        return command;
    }

    /// <summary>Several statements that are sent to the database together.</summary>
    public virtual DbBatch Batch(IReadOnlyList<Sql> statements, DbTransaction transaction)
    {
        var batch = connection.CreateBatch();
        batch.Transaction = transaction;
        foreach (var sql in statements)
        {
            var (text, values) = sql.Render(dialect);
            var command = batch.CreateBatchCommand();
            command.CommandText = text;
            Add(values, command.CreateParameter, command.Parameters);
            batch.BatchCommands.Add(command);
        }

        return batch;
    }

    /// <summary>A new command of a statement.</summary>
    protected DbCommand Create(string text, IReadOnlyList<SqlParameter> values)
    {
        var command = connection.CreateCommand();
        command.CommandText = text;
        Add(values, command.CreateParameter, command.Parameters);
        return command;
    }

    /// <summary>A statement's text and parameters.</summary>
    protected (string Text, IReadOnlyList<SqlParameter> Parameters) Render(Sql sql) => sql.Render(dialect);

    /// <summary>Sets the parameters of a command that was used before.</summary>
    protected void Rebind(DbCommand command, IReadOnlyList<SqlParameter> values)
    {
        for (var index = 0; index < values.Count; index++)
            bind(command.Parameters[index], values[index]);
    }

    private void Add(IReadOnlyList<SqlParameter> values, Func<DbParameter> create, DbParameterCollection into)
    {
        for (var index = 0; index < values.Count; index++)
        {
            var parameter = create();
            if (dialect.ParameterMarker(index) is ['@', ..] name)
                parameter.ParameterName = name;
            bind(parameter, values[index]);
            into.Add(parameter);
        }
    }
}

/// <summary>A connection of a driver that pools connections and prepares statements itself.</summary>
/// <param name="dialect">The SQL dialect.</param>
/// <param name="connection">The connection, which is open.</param>
/// <param name="bind">Sets the type and value of a parameter.</param>
/// <param name="silence">How many seconds nothing may be heard of the server during a statement.</param>
/// <param name="longSilence">The same for statements that are expected to take long.</param>
internal sealed class DriverConnection(
    SqlDialect dialect,
    DbConnection connection,
    Action<DbParameter, SqlParameter> bind,
    int silence,
    int longSilence
) : SessionConnection(dialect, connection, bind)
{
    private int _silence = silence;

    private int? _limit;

    /// <inheritdoc/>
    public override DbCommand Take(Sql sql, DbTransaction transaction)
    {
        var (text, values) = Render(sql);
        var command = Create(text, values);
        command.CommandTimeout = _limit ?? _silence;
        command.Transaction = transaction;
        return command;
    }

    /// <inheritdoc/>
    public override DbCommand Script(string text, DbTransaction transaction)
    {
        var command = base.Script(text, transaction);
        command.CommandTimeout = longSilence;
        return command;
    }

    /// <inheritdoc/>
    public override DbBatch Batch(IReadOnlyList<Sql> statements, DbTransaction transaction)
    {
        var batch = base.Batch(statements, transaction);
        batch.Timeout = _silence;
        return batch;
    }

    /// <inheritdoc/>
    public override void ExpectLongStatements() => _silence = Math.Max(_silence, longSilence);

    /// <inheritdoc/>
    public override void LimitSilence(int? seconds) => _limit = seconds;

    /// <inheritdoc/>
    public override void Return(DbCommand command, bool failed) => command.Dispose();

    /// <inheritdoc/>
    public override void Release(bool broken) => Connection.Dispose();
}
