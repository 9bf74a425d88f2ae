using System.Data.Common;
using Kettlefog.Core;
using Kettlefog.Core.Schema;

namespace Kettlefog.Database.Engines;

/// <summary>Reads the tables of the operational database.</summary>
internal interface ICatalogReader
{
    /// <summary>Reads the catalog, without Kettlefog's tables.</summary>
    Task<DatabaseCatalog> ReadAsync(Session session, CancellationToken cancellationToken);

    /// <summary>
    /// A text that is another one whenever the definition of one of the tables changed; cheap enough for every
    /// transaction. It may also differ where nothing of them changed.
    /// </summary>
    /// <param name="session">The session.</param>
    /// <param name="tables">The tables.</param>
    /// <param name="cancellationToken">Cancels.</param>
    Task<string> ReadStateAsync(
        Session session,
        IReadOnlyList<TableSchema> tables,
        CancellationToken cancellationToken
    );
}

/// <summary>Finds missing rights of the service's user.</summary>
internal interface IRightsReader
{
    /// <summary>The rights that merging needs and the service's user does not have.</summary>
    /// <param name="session">The session.</param>
    /// <param name="uses">The tables, and what merges do to them.</param>
    /// <param name="cancellationToken">Cancels.</param>
    Task<IReadOnlyList<MissingRight>> ListMissingAsync(
        Session session,
        IReadOnlyList<TableUse> uses,
        CancellationToken cancellationToken
    );
}

/// <summary>Translates the driver's errors.</summary>
internal interface IErrorTranslator
{
    /// <summary>The exception for a database error.</summary>
    KettlefogException Translate(DbException error);

    /// <summary>
    /// True if the database aborted the transaction because of a conflict with another: it can be retried.
    /// </summary>
    bool IsConflict(KettlefogException error);

    /// <summary>True if a change would have repeated a value that must be unique.</summary>
    bool IsUniqueViolation(KettlefogException error);

    /// <summary>
    /// True if an error at the commit proves that nothing was committed: the database itself reported it.
    /// </summary>
    bool ProvesRollback(DbException error);
}

/// <summary>Kettlefog's tables in an engine.</summary>
internal interface IOwnSchema
{
    /// <summary>The suffix of the names of the scripts that create them.</summary>
    string ScriptEnding { get; }

    /// <summary>Creates, in a session, what the scripts are run in, and the table that records them.</summary>
    Task PrepareAsync(Session session, CancellationToken cancellationToken);

    /// <summary>Records, in a session, that a script was run.</summary>
    Task RecordAsync(Session session, string script, CancellationToken cancellationToken);

    /// <summary>Creates or upgrades them.</summary>
    /// <param name="version">The version to reach.</param>
    void Migrate(int version);

    /// <summary>The tables with their columns, referenced tables first; without the table of versions.</summary>
    Task<IReadOnlyList<(string Table, IReadOnlyList<string> Columns)>> ReadColumnsAsync(
        Session session,
        CancellationToken cancellationToken
    );

    /// <summary>Lets generated numbers continue after restored ones.</summary>
    Task ContinueSequencesAsync(Session session, CancellationToken cancellationToken);

    /// <summary>Removes them and everything that belongs to them.</summary>
    Task RemoveAsync(Session session, CancellationToken cancellationToken);

    /// <summary>The version in the database; 0 if there are none.</summary>
    Task<int> ReadVersionAsync(Session session, CancellationToken cancellationToken);
}
