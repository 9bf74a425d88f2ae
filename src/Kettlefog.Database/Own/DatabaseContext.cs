using Kettlefog.Core;
using Kettlefog.Core.Drafting;
using Kettlefog.Core.Map.Checking;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;

namespace Kettlefog.Database.Own;

/// <summary>
/// An operational database with its map, on which every service opens its sessions. Other programs may change the
/// tables at any time: each session checks, inside its transaction, that they are still those that the map was checked
/// against, and otherwise reads them anew.
/// </summary>
internal sealed class DatabaseContext
{
    private readonly MapDocument _document;
    private volatile MapState _current;
    private volatile Misfit? _misfit;

    private DatabaseContext(DatabaseEngine engine, MapDocument document, MapState current, TimeProvider clock)
    {
        Engine = engine;
        Clock = clock;
        _document = document;
        _current = current;
    }

    /// <summary>The engine.</summary>
    public DatabaseEngine Engine { get; }

    /// <summary>
    /// The map, as last checked against the database; within a session use <see cref="Session.Map"/>.
    /// </summary>
    public CheckedMap Map => _current.Map;

    /// <summary>Tells the time.</summary>
    public TimeProvider Clock { get; }

    /// <summary>
    /// References that the values suggest and the map does not name, as last measured; empty as long as nobody has
    /// checked the map against the data.
    /// </summary>
    public IReadOnlyList<ReferenceGuess> UnnamedReferences { get; set; } = [];

    /// <summary>Called when the tables have changed, with the map checked against the new ones.</summary>
    public event Action<CheckedMap>? MapChanged;

    /// <summary>Checks the map against the database.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="document">The map, as read.</param>
    /// <param name="session">A session to read the tables in.</param>
    /// <param name="clock">Tells the time.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The map does not fit.</exception>
    public static async Task<DatabaseContext> CreateAsync(
        DatabaseEngine engine,
        MapDocument document,
        Session session,
        TimeProvider clock,
        CancellationToken cancellationToken
    )
    {
        var map = MapCheck.Against(document, await engine.Catalog.ReadAsync(session, cancellationToken));
        var state = await engine.Catalog.ReadStateAsync(session, map.Tables, cancellationToken);
        return new DatabaseContext(engine, document, new MapState(map, state), clock);
    }

    /// <summary>Opens a session that reads one snapshot and blocks nobody.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The tables changed, and the map no longer fits them.</exception>
    public async Task<Session> OpenReadAsync(CancellationToken cancellationToken) =>
        await BoundAsync(await Engine.OpenReadAsync(cancellationToken), cancellationToken);

    /// <summary>
    /// Opens a session that writes. In a database that is only previewed it creates Kettlefog's tables first, which
    /// are rolled back with it.
    /// </summary>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The tables changed, and the map no longer fits them.</exception>
    public async Task<Session> OpenWriteAsync(CancellationToken cancellationToken)
    {
        var session = await BoundAsync(await Engine.OpenWriteAsync(cancellationToken), cancellationToken);
        if (!Engine.IsUninitialised)
            return session;
        try
        {
            await OwnTables.CreateAsync(session, 0, OwnTables.Version, cancellationToken);
            return session;
        }
        catch
        {
            await session.DisposeAsync();
            throw;
        }
    }

    /// <summary>
    /// Opens a session that writes, beside others until it takes the writer lock; see
    /// <see cref="DatabaseEngine.OpenConcurrentWriteAsync"/>.
    /// </summary>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The tables changed, and the map no longer fits them.</exception>
    public async Task<Session> OpenConcurrentWriteAsync(CancellationToken cancellationToken) =>
        Engine.IsUninitialised
            ? await OpenWriteAsync(cancellationToken)
            : await BoundAsync(await Engine.OpenConcurrentWriteAsync(cancellationToken), cancellationToken);

    /// <summary>
    /// Checks, as the last thing before the commit, that the tables did not change since the session was opened: from
    /// then on the locks of its own changes keep others from changing them.
    /// </summary>
    /// <exception cref="KettlefogException">They changed.</exception>
    public async Task EnsureUnchangedAsync(Session session, CancellationToken cancellationToken)
    {
        var state = await Engine.Catalog.ReadStateAsync(session, session.Map.Tables, cancellationToken);
        if (state != session.CatalogState)
            throw new KettlefogException(
                ErrorCode.CatalogChanged,
                "The tables of the database were changed while the request was carried out.",
                "Everything was rolled back. Make a new plan."
            );
    }

    /// <summary>The key columns of a record type.</summary>
    /// <param name="type">The record type.</param>
    public IReadOnlyList<ColumnSchema> KeyColumns(RecordType type) => Map.Catalog.Require(type.Table).Require(type.Key);

    /// <summary>Reads a key of a record type from its text form.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="text">The key, as <see cref="RecordKey.ToString"/> writes it.</param>
    /// <exception cref="KettlefogException">The text is not such a key.</exception>
    public RecordKey ReadKey(RecordType type, string text) => RecordKeyParser.Parse(text, KeyColumns(type));

    private async Task<Session> BoundAsync(Session session, CancellationToken cancellationToken)
    {
        try
        {
            var current = _current;
            var state = await Engine.Catalog.ReadStateAsync(session, current.Map.Tables, cancellationToken);
            if (state != current.State)
                current = await ReadAgainAsync(session, state, cancellationToken);
            session.Bind(current.Map, current.State);
            return session;
        }
        catch
        {
            await session.DisposeAsync();
            throw;
        }
    }

    private async Task<MapState> ReadAgainAsync(Session session, string state, CancellationToken cancellationToken)
    {
        if (_misfit is { } known && known.State == state)
            throw Outdated(known);
        var before = _current.Map;
        var catalog = await Engine.Catalog.ReadAsync(session, cancellationToken);
        CheckedMap map;
        try
        {
            map = MapCheck.Against(_document, catalog);
        }
        catch (KettlefogException mistakes)
        {
            var changes = CatalogChanges.Between(before.Tables, before.TablesIn(catalog));
            _misfit = new Misfit(state, [.. changes, .. mistakes.Details]);
            throw Outdated(_misfit);
        }

        var changed = map.Version != before.Version;
        map = map with { Changes = changed ? CatalogChanges.Between(before.Tables, map.Tables) : before.Changes };
        var current = new MapState(map, await Engine.Catalog.ReadStateAsync(session, map.Tables, cancellationToken));
        (_current, _misfit) = (current, null);
        if (changed)
            MapChanged?.Invoke(map);
        return current;
    }

    private static KettlefogException Outdated(Misfit misfit) =>
        new(
            ErrorCode.MapOutdated,
            "The tables of the database changed, and the record map no longer fits them.",
            "Nothing was changed. Correct the record map and restart the service.",
            misfit.Findings
        );

    /// <summary>A map that fits, and the state of the tables that it was checked against.</summary>
    private sealed record MapState(CheckedMap Map, string State);

    /// <summary>A state of the tables that the map does not fit: what changed, and the mistakes of the map.</summary>
    private sealed record Misfit(string State, IReadOnlyList<string> Findings);
}
