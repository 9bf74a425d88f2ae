using Kettlefog.Core;
using Kettlefog.Core.Maps;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Matching;
using Kettlefog.Database.Own;
using Kettlefog.Database.Users;

namespace Kettlefog.Database;

/// <summary>An operational database with its map: the entrance to everything that reads or writes it.</summary>
public sealed partial class OperationalDatabase : IDisposable
{
    private readonly DatabaseEngine _engine;
    private readonly TimeProvider _clock;
    private readonly MapDocument _document;
    private readonly CheckedMap _map;
    private readonly RecentPlans _recent;

    private OperationalDatabase(DatabaseEngine engine, MapDocument document, CheckedMap map, TimeProvider clock)
    {
        _engine = engine;
        _document = document;
        _map = map;
        _clock = clock;
        _recent = new RecentPlans(engine);
        Users = new UserStore(engine, clock);
        Duplicates = new Duplicates(engine, map, clock);
    }

    /// <summary>The map, checked against the database.</summary>
    public CheckedMap Map => _map;

    /// <summary>The users, and what they sign in with.</summary>
    public UserStore Users { get; }

    /// <summary>Finding duplicates, and deciding about them.</summary>
    public Duplicates Duplicates { get; }

    /// <summary>Opens a database with its map.</summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="document">The map, as read.</param>
    /// <param name="busyTimeout">How long to wait for other programs to let go of the file; to whole seconds.</param>
    /// <param name="clock">Tells the time.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The database cannot be opened, is not initialised, or the map does not fit it.</exception>
    public static async Task<OperationalDatabase> OpenAsync(
        string database,
        MapDocument document,
        TimeSpan busyTimeout,
        TimeProvider clock,
        CancellationToken cancellationToken)
    {
        var (opened, version) = await OpenAnyAsync(database, document, busyTimeout, clock, cancellationToken);
        if (version == 0)
            throw new KettlefogException(ErrorCode.NotInitialised, $"The database {opened.DisplayName} does not have Kettlefog's own tables yet.", "Create them with 'kettlefog service init'.");
        return opened;
    }

    /// <summary>
    /// Opens a database to plan and rehearse merges, also if it has no tables of ours: a rehearsal then makes them in the
    /// transaction that is rolled back.
    /// </summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="document">The map, as read.</param>
    /// <param name="clock">Tells the time.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The database cannot be opened, has our tables in another version, or the map does not fit it.</exception>
    public static async Task<OperationalDatabase> OpenForPreviewAsync(string database, MapDocument document, TimeProvider clock, CancellationToken cancellationToken)
    {
        var (opened, version) = await OpenAnyAsync(database, document, TimeSpan.FromSeconds(5), clock, cancellationToken);
        opened._engine.IsUninitialised = version == 0;
        return opened;
    }

    private static async Task<(OperationalDatabase Database, int Version)> OpenAnyAsync(string database, MapDocument document, TimeSpan busyTimeout, TimeProvider clock, CancellationToken cancellationToken)
    {
        var engine = DatabaseEngine.Of(database, busyTimeout);
        await using var session = await engine.OpenReadAsync(cancellationToken);
        var map = MapCheck.Against(document, await engine.ReadCatalogAsync(session, cancellationToken));
        var version = await engine.OwnVersionAsync(session, cancellationToken);
        if (version > OwnTables.Version)
            throw TooNew(engine, version);
        if (version > 0 && version < OwnTables.Version)
        {
            throw new KettlefogException(
                ErrorCode.NotInitialised,
                $"The database {engine.DisplayName} has Kettlefog's own tables in version {version}, but this program knows version {OwnTables.Version}.",
                "Upgrade them with 'kettlefog service init', which writes a backup first.");
        }

        return (new OperationalDatabase(engine, document, map, clock), version);
    }

    /// <summary>A session that writes; in a database that is only tried out, with tables of ours that go again with it.</summary>
    private async Task<Session> OpenWriteAsync(CancellationToken cancellationToken)
    {
        var session = await _engine.OpenWriteAsync(cancellationToken);
        if (!_engine.IsUninitialised)
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

    /// <summary>Reads a key of a record type from its text form.</summary>
    /// <exception cref="KettlefogException">The text is not such a key.</exception>
    public RecordKey ReadKey(RecordType type, string text)
    {
        ArgumentNullException.ThrowIfNull(type);
        return RecordKey.Parse(text, _map.Catalog.Require(type.Table).Require(type.Key));
    }

    /// <summary>What the database is called, without any password.</summary>
    public string DisplayName => _engine.DisplayName;

    /// <summary>How far history, queue and rules are, by whichever instance of the service they went on.</summary>
    public async Task<ChangeMarkers> ReadChangeMarkersAsync(CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        var (next, _) = await new HistoryStore(session).NextAsync(cancellationToken);
        return new ChangeMarkers(next - 1, await new ClusterStore(session).ReadChangeMarkerAsync(cancellationToken), await new RuleStore(session).CountAsync(cancellationToken));
    }

    /// <summary>True if the database answers.</summary>
    public async Task<bool> AnswersAsync(CancellationToken cancellationToken)
    {
        try
        {
            await using var session = await _engine.OpenReadAsync(cancellationToken);
            return await _engine.OwnVersionAsync(session, cancellationToken) == OwnTables.Version;
        }
        catch (KettlefogException)
        {
            return false;
        }
    }

    /// <summary>Finds records.</summary>
    public async Task<Page<FoundRecord>> SearchAsync(RecordType type, RecordSearch search, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new RecordStore(session, _map).SearchAsync(type, search, cancellationToken);
    }

    /// <summary>Reads one record.</summary>
    public async Task<FoundRecord> ReadRecordAsync(RecordType type, RecordKey key, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new RecordStore(session, _map).ReadAsync(type, key, cancellationToken);
    }

    /// <summary>The labels of those of the records that exist, by key in text form.</summary>
    public async Task<IReadOnlyDictionary<string, string>> ReadLabelsAsync(RecordType type, IReadOnlyList<string> keys, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new RecordStore(session, _map).LabelsAsync(type, [.. keys.Select(key => ReadKey(type, key))], cancellationToken);
    }

    /// <summary>Reads the related rows of a record by one reference.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="reference">The reference.</param>
    /// <param name="key">The record.</param>
    /// <param name="text">A search as typed; null finds all.</param>
    /// <param name="page">The page, counted from 1.</param>
    /// <param name="size">The number of rows on a page.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<RelatedPage> ReadRelatedAsync(RecordType type, Reference reference, RecordKey key, string? text, int page, int size, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new RecordStore(session, _map).ReadRelatedAsync(type, reference, key, text, page, size, cancellationToken);
    }

    /// <summary>Where a retired key leads today, or null if it is not retired.</summary>
    public async Task<Redirect?> FindRedirectAsync(string recordType, string key, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new RedirectStore(session).FindAsync(recordType, key, cancellationToken);
    }

    /// <summary>The retired keys that lead to a record today.</summary>
    public async Task<IReadOnlyList<Redirect>> FindRedirectsToAsync(string recordType, string key, CancellationToken cancellationToken)
    {
        await using var session = await _engine.OpenReadAsync(cancellationToken);
        return await new RedirectStore(session).ListToAsync(recordType, key, cancellationToken);
    }

    /// <summary>Closes the connections that are kept open.</summary>
    public void Dispose()
    {
        Duplicates.Dispose();
        _engine.Dispose();
    }
}
