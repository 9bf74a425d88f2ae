using System.Data.Common;
using Kettlefog.Core;
using Npgsql;

namespace Kettlefog.Database.Engines.Postgres;

/// <summary>Translates PostgreSQL's errors.</summary>
internal sealed class PostgresErrors(string displayName) : IErrorTranslator
{
    /// <summary>The server ended a transaction that sent no statement for too long.</summary>
    private const string IdleInTransactionTimeout = "25P03";

    /// <inheritdoc/>
    public bool IsConflict(KettlefogException error) =>
        error.InnerException
            is PostgresException
            {
                SqlState: PostgresErrorCodes.SerializationFailure or PostgresErrorCodes.DeadlockDetected
            };

    /// <inheritdoc/>
    public bool IsUniqueViolation(KettlefogException error) =>
        error.InnerException is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation };

    /// <inheritdoc/>
    public bool ProvesRollback(DbException error) =>
        error
            is PostgresException
            {
                SqlState: not (
                    PostgresErrorCodes.StatementCompletionUnknown
                    or ['5', '7', ..]
                    or ['X', 'X', ..]
                    or ['0', '8', ..]
                )
            };

    /// <summary>True if all connections of the pool were in use.</summary>
    public static bool IsPoolExhausted(DbException error) =>
        error.InnerException is TimeoutException && error.Message.Contains("pool", StringComparison.Ordinal);

    public KettlefogException Translate(DbException error)
    {
        var server = error as PostgresException;
        var said = (server?.MessageText ?? error.Message).TrimEnd('.');
        var detail = server?.Detail is { Length: > 0 } more ? $" {more.TrimEnd('.')}." : "";
        return server?.SqlState switch
        {
            PostgresErrorCodes.LockNotAvailable
            or PostgresErrorCodes.SerializationFailure
            or PostgresErrorCodes.DeadlockDetected => new KettlefogException(
                ErrorCode.DatabaseBusy,
                $"Another program is using the same rows of the database {displayName} and did not release it in time.",
                "Nothing was changed. Try again in a moment.",
                inner: error
            ),
            PostgresErrorCodes.InvalidPassword or PostgresErrorCodes.InvalidAuthorizationSpecification =>
                new KettlefogException(
                    ErrorCode.DatabaseUnavailable,
                    $"The database {displayName} refused the sign-in: {said}.",
                    "Check user and password in the address.",
                    inner: error
                ),
            PostgresErrorCodes.InvalidCatalogName => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"The database {displayName} does not exist.",
                "Check the name in the address.",
                inner: error
            ),
            PostgresErrorCodes.ReadOnlySqlTransaction => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"The database {displayName} is read-only.",
                "Use the address of the primary server.",
                inner: error
            ),
            PostgresErrorCodes.DiskFull => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"There is no space left for the database {displayName}.",
                "Nothing was changed. Free disk space and try again.",
                inner: error
            ),
            PostgresErrorCodes.TooManyConnections
            or PostgresErrorCodes.AdminShutdown
            or PostgresErrorCodes.CrashShutdown
            or PostgresErrorCodes.CannotConnectNow
            or IdleInTransactionTimeout => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"The database {displayName} is not available: {said}.",
                "Nothing was changed. Try again in a moment.",
                inner: error
            ),
            PostgresErrorCodes.InsufficientPrivilege => new KettlefogException(
                ErrorCode.DatabaseRefused,
                $"The database refused: {said}.",
                "Grant the service's user the right it names.",
                inner: error
            ),
            null when IsPoolExhausted(error) => new KettlefogException(
                ErrorCode.DatabaseBusy,
                $"All connections to the database {displayName} are in use.",
                "Nothing was changed. Try again in a moment.",
                inner: error
            ),
            null => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"The database {displayName} is not responding.",
                "Nothing was changed. Check that the server is running and can be reached, then try again.",
                inner: error
            ),
            ['2', '3', ..] or PostgresErrorCodes.RaiseException => new KettlefogException(
                ErrorCode.DatabaseRefused,
                $"The database refused the change: {said}.{detail}",
                "Everything was rolled back. Resolve what it names, then make a new plan.",
                inner: error
            ),
            _ => new KettlefogException(
                ErrorCode.DatabaseRefused,
                $"The database reported an error: {said}.{detail}",
                "Nothing was changed.",
                inner: error
            ),
        };
    }
}
