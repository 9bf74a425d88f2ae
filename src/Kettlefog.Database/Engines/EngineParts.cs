using System.Data.Common;
using Kettlefog.Core;
using Kettlefog.Core.Schema;

namespace Kettlefog.Database.Engines;

/// <summary>Reads the tables of the operational database.</summary>
internal interface ICatalogReader
{
    /// <summary>Reads the catalog, without Kettlefog's tables.</summary>
    Task<DatabaseCatalog> ReadAsync(Session session, CancellationToken cancellationToken);
}

/// <summary>Tells what the service's user may not do.</summary>
internal interface IRightsReader
{
    /// <summary>What the service's user may not do, of all that merging needs.</summary>
    /// <param name="session">The session.</param>
    /// <param name="uses">The tables, and what is done to them.</param>
    /// <param name="cancellationToken">Cancels.</param>
    Task<IReadOnlyList<MissingRight>> ListMissingAsync(
        Session session,
        IReadOnlyList<TableUse> uses,
        CancellationToken cancellationToken
    );
}

/// <summary>Says what the driver's errors mean.</summary>
internal interface IErrorTranslator
{
    /// <summary>What a database error means to the caller.</summary>
    KettlefogException Translate(DbException error);

    /// <summary>
    /// True if the database gave up one of two transactions that were in each other's way: done again, it works.
    /// </summary>
    bool IsConflict(KettlefogException error);
}

/// <summary>Kettlefog's tables, as an engine keeps them.</summary>
internal interface IOwnSchema
{
    /// <summary>The scripts that make them, one for each version, in order.</summary>
    IReadOnlyList<string> Scripts { get; }

    /// <summary>Makes them, or upgrades them.</summary>
    /// <param name="version">The version they then have.</param>
    void Migrate(int version);

    /// <summary>
    /// The tables with their columns, those that others point at before those; without the record of their version.
    /// </summary>
    Task<IReadOnlyList<(string Table, IReadOnlyList<string> Columns)>> ReadColumnsAsync(
        Session session,
        CancellationToken cancellationToken
    );

    /// <summary>Lets numbers that the engine gives out continue after those that were restored.</summary>
    Task ContinueSequencesAsync(Session session, CancellationToken cancellationToken);

    /// <summary>Removes them and all that belongs to them.</summary>
    Task RemoveAsync(Session session, CancellationToken cancellationToken);

    /// <summary>The version that the database has; 0 if there are none.</summary>
    Task<int> ReadVersionAsync(Session session, CancellationToken cancellationToken);
}
