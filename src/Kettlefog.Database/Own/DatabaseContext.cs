using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;

namespace Kettlefog.Database.Own;

/// <summary>An operational database with its checked map, on which every service opens its sessions.</summary>
/// <param name="engine">The engine, which keeps the connections.</param>
/// <param name="map">The map, checked against the database.</param>
/// <param name="clock">Tells the time.</param>
internal sealed class DatabaseContext(DatabaseEngine engine, CheckedMap map, TimeProvider clock)
{
    /// <summary>The engine.</summary>
    public DatabaseEngine Engine => engine;

    /// <summary>The map, checked against the database.</summary>
    public CheckedMap Map => map;

    /// <summary>Tells the time.</summary>
    public TimeProvider Clock => clock;

    /// <summary>Opens a session that reads one snapshot and blocks nobody.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<Session> OpenReadAsync(CancellationToken cancellationToken) => engine.OpenReadAsync(cancellationToken);

    /// <summary>
    /// Opens a session that writes. In a database that is only previewed it creates Kettlefog's tables first, which
    /// are rolled back with it.
    /// </summary>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<Session> OpenWriteAsync(CancellationToken cancellationToken)
    {
        var session = await engine.OpenWriteAsync(cancellationToken);
        if (!engine.IsUninitialised)
            return session;
        try
        {
            await OwnTables.CreateAsync(session, OwnTables.Version, cancellationToken);
            return session;
        }
        catch
        {
            await session.DisposeAsync();
            throw;
        }
    }

    /// <summary>The key columns of a record type.</summary>
    /// <param name="type">The record type.</param>
    public IReadOnlyList<ColumnSchema> KeyColumns(RecordType type) => map.Catalog.Require(type.Table).Require(type.Key);

    /// <summary>Reads a key of a record type from its text form.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="text">The key, as <see cref="RecordKey.ToString"/> writes it.</param>
    /// <exception cref="KettlefogException">The text is not such a key.</exception>
    public RecordKey ReadKey(RecordType type, string text) => RecordKeyParser.Parse(text, KeyColumns(type));
}
