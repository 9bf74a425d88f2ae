using Kettlefog.Core;
using Kettlefog.Core.Drafting;
using Kettlefog.Core.Map.Checking;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Database.Duplicates.Scans;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Maps;
using Kettlefog.Database.Own;

namespace Kettlefog.Database;

/// <summary>Operations on a database without Kettlefog's tables. Nothing is written.</summary>
public static class UninitialisedDatabase
{
    /// <summary>The name of a database for messages, without any password.</summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <exception cref="KettlefogException">The address cannot be read.</exception>
    public static string DisplayNameOf(string database)
    {
        using var engine = DatabaseEngines.Open(database, TimeSpan.FromSeconds(5));
        return engine.DisplayName;
    }

    /// <summary>The number of tables in a database, without Kettlefog's.</summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The database cannot be opened.</exception>
    public static async Task<int> CountTablesAsync(string database, CancellationToken cancellationToken)
    {
        using var engine = DatabaseEngines.Open(database, TimeSpan.FromSeconds(5));
        await using var session = await engine.OpenReadAsync(cancellationToken);
        session.ExpectLongStatements();
        return (await engine.Catalog.ReadAsync(session, cancellationToken)).Tables.Count(table => !table.IsView);
    }

    /// <summary>
    /// Checks a map against its database: errors, risks, the rights of the user, and the data. Writes
    /// nothing, and does not need Kettlefog's tables.
    /// </summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="document">The map, as read.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The database cannot be opened.</exception>
    public static async Task<MapReport> CheckMapAsync(
        string database,
        MapDocument document,
        CancellationToken cancellationToken
    )
    {
        using var engine = DatabaseEngines.Open(database, TimeSpan.FromSeconds(5));
        return await MapService.CheckAsync(engine, document, cancellationToken);
    }

    /// <summary>
    /// Drafts a map from a database's catalog and samples of its values; writes nothing, and does not need Kettlefog's
    /// tables.
    /// </summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="tables">The tables that hold records; empty to find them.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">
    /// The database cannot be opened, or no table looks like a list of people or organisations.
    /// </exception>
    public static async Task<MapDraft> DraftMapAsync(
        string database,
        IReadOnlyList<string> tables,
        CancellationToken cancellationToken
    )
    {
        using var engine = DatabaseEngines.Open(database, TimeSpan.FromSeconds(5));
        await using var session = await engine.OpenReadAsync(cancellationToken);
        session.ExpectLongStatements();
        var profiler = new DatabaseProfiler(session, await engine.Catalog.ReadAsync(session, cancellationToken));
        var drafter = new MapDrafter(
            await profiler.ReadAsync(
                Path.GetFileNameWithoutExtension(engine.DisplayName.Split(" on ")[0]),
                cancellationToken
            ),
            tables
        );
        async Task<IReadOnlyList<ReferenceGuess>> MeasureAsync(IReadOnlyList<ReferenceGuess> guesses)
        {
            var measured = new List<ReferenceGuess>();
            foreach (var guess in guesses)
                measured.Add(await profiler.MeasureAsync(guess, cancellationToken));
            return measured;
        }

        var references = await MeasureAsync(drafter.References);
        return drafter.Draft(references, await MeasureAsync(drafter.DependentsOf(references)));
    }

    /// <summary>Finds duplicates in a single run; writes nothing, and does not need Kettlefog's tables.</summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="document">The map, as read.</param>
    /// <param name="recordType">The name of the record type.</param>
    /// <param name="progress">Receives the current phase in words, and its progress from 0 to 1, or null.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The database cannot be opened, or the map does not fit it.</exception>
    public static async Task<FoundDuplicates> FindDuplicatesAsync(
        string database,
        MapDocument document,
        string recordType,
        Action<string, double?> progress,
        CancellationToken cancellationToken
    )
    {
        using var engine = DatabaseEngines.Open(database, TimeSpan.FromSeconds(5));
        var (map, hasOwn) = await CheckAsync();
        return await DirectScan.RunAsync(OpenAsync, map.Map.Require(recordType), hasOwn, progress, cancellationToken);

        async Task<(CheckedMap Map, bool HasOwn)> CheckAsync()
        {
            await using var session = await engine.OpenReadAsync(cancellationToken);
            session.ExpectLongStatements();
            return (
                MapCheck.Against(document, await engine.Catalog.ReadAsync(session, cancellationToken)),
                await engine.OwnSchema.ReadVersionAsync(session, cancellationToken) == OwnTables.Version
            );
        }

        async Task<Session> OpenAsync(CancellationToken cancelled)
        {
            var session = await engine.OpenReadAsync(cancelled);
            session.Bind(map, "");
            return session;
        }
    }
}
