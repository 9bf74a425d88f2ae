using System.Data.Common;
using System.Text.RegularExpressions;
using Kettlefog.Core;
using Microsoft.Data.Sqlite;

namespace Kettlefog.Database.Engines.Sqlite;

/// <summary>Translates SQLite's errors.</summary>
internal sealed partial class SqliteErrors(string displayName) : IErrorTranslator
{
    /// <inheritdoc/>
    public bool IsConflict(KettlefogException error) => false;

    /// <inheritdoc/>
    public bool IsUniqueViolation(KettlefogException error) =>
        error.InnerException is SqliteException { SqliteErrorCode: 19, SqliteExtendedErrorCode: 1555 or 2067 };

    /// <summary>After a failure of the disk, what is in the file is known only when it is read again.</summary>
    public bool ProvesRollback(DbException error) => error is SqliteException { SqliteErrorCode: not 10 };

    public KettlefogException Translate(DbException error)
    {
        var code = (error as SqliteException)?.SqliteErrorCode ?? 0;
        var said = Unwrap(error.Message);
        return code switch
        {
            5 or 6 => new KettlefogException(
                ErrorCode.DatabaseBusy,
                $"Another program is writing to the database {displayName} and did not release it in time.",
                "Nothing was changed. Try again in a moment.",
                inner: error
            ),
            8 => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"The database {displayName} is read-only.",
                "Give the service's user the right to write the file and its folder.",
                inner: error
            ),
            13 => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"There is no space left for the database {displayName}.",
                "Nothing was changed. Free disk space and try again.",
                inner: error
            ),
            14 => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"The database {displayName} cannot be opened: there is no such file, or no right to open it.",
                "Check the path and the rights of the file.",
                inner: error
            ),
            11 or 26 => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"The file {displayName} is not an SQLite database, or is damaged.",
                "Check the path; if the file is damaged, restore it from a backup.",
                inner: error
            ),
            10 => new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"The disk failed while the database {displayName} was used.",
                "Nothing was changed. Check the disk and try again.",
                inner: error
            ),
            19 => new KettlefogException(
                ErrorCode.DatabaseRefused,
                $"The database refused the change: {said}.",
                "Everything was rolled back. Resolve what it names, then make a new plan.",
                inner: error
            ),
            _ => new KettlefogException(
                ErrorCode.DatabaseRefused,
                $"The database reported an error: {said}.",
                "Nothing was changed.",
                inner: error
            ),
        };
    }

    private static string Unwrap(string message)
    {
        var match = MessagePattern().Match(message);
        return (match.Success ? match.Groups[1].Value : message).TrimEnd('.');
    }

    [GeneratedRegex(@"^SQLite Error \d+: '(.*)'\.?$", RegexOptions.Singleline)]
    private static partial Regex MessagePattern();
}
