using System.Data.Common;
using Kettlefog.Core;
using Kettlefog.Core.Schema;

namespace Kettlefog.Database.Engines;

/// <summary>What differs from one database engine to the next.</summary>
internal abstract class DatabaseEngine : IDisposable
{
    /// <summary>The database's name for messages; holds no secret.</summary>
    public abstract string DisplayName { get; }

    /// <summary>Opens a session that sees one moment and can write nothing.</summary>
    /// <exception cref="Refusal">The database cannot be opened.</exception>
    public abstract Task<Session> OpenReadAsync(CancellationToken cancel);

    /// <summary>Opens a session whose changes are committed together or not at all.</summary>
    /// <exception cref="Refusal">The database cannot be opened or written, or is busy.</exception>
    public abstract Task<Session> OpenWriteAsync(CancellationToken cancel);

    /// <summary>Reads the catalog, without Kettlefog's own tables.</summary>
    public abstract Task<DatabaseCatalog> ReadCatalogAsync(Session session, CancellationToken cancel);

    /// <summary>Creates or upgrades Kettlefog's own tables.</summary>
    public abstract void Migrate();

    /// <summary>The version of the own tables that the database has; 0 if there are none.</summary>
    public abstract Task<int> OwnVersionAsync(Session session, CancellationToken cancel);

    /// <summary>One of Kettlefog's own tables.</summary>
    public abstract Sql Own(string table);

    /// <summary>A text without case and accents.</summary>
    public abstract Sql Folded(Sql text);

    /// <summary>True if a text, without case and accents, is LIKE a pattern that is folded already.</summary>
    public abstract Sql Matches(Sql text, string foldedPattern);

    /// <summary>An exact decimal sum, as text; null over no rows.</summary>
    public abstract Sql DecimalSum(Sql expression);

    /// <summary>A digest of all rows of a group, whatever their order, as text.</summary>
    public abstract Sql RowDigest(IReadOnlyList<Sql> columns);

    /// <summary>Says what a database error means to the caller.</summary>
    public abstract Refusal Translate(DbException error);

    /// <summary>Closes the connections that are kept open.</summary>
    public abstract void Dispose();
}
