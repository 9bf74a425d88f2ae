using Kettlefog.Core;
using Kettlefog.Core.Drafting;
using Kettlefog.Core.Map.Checking;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Database.Duplicates.Scans;
using Kettlefog.Database.Maps;
using Kettlefog.Database.Own;

namespace Kettlefog.Database;

/// <summary>What can be done with a database that has none of Kettlefog's tables. Nothing is written.</summary>
public static class UninitialisedDatabase
{
    /// <summary>What a database is called in messages, without any password.</summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <exception cref="KettlefogException">The address cannot be read.</exception>
    public static string DisplayNameOf(string database)
    {
        using var engine = DatabaseEngines.Open(database, TimeSpan.FromSeconds(5));
        return engine.DisplayName;
    }

    /// <summary>How many tables a database has, without ours.</summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The database cannot be opened.</exception>
    public static async Task<int> CountTablesAsync(string database, CancellationToken cancellationToken)
    {
        using var engine = DatabaseEngines.Open(database, TimeSpan.FromSeconds(5));
        await using var session = await engine.OpenReadAsync(cancellationToken);
        return (await engine.Catalog.ReadAsync(session, cancellationToken)).Tables.Count(table => !table.IsView);
    }

    /// <summary>
    /// Checks a map against its database: what cannot work, what is risky, the rights of the user, and the data. Writes
    /// nothing, and needs no tables of our own.
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
    /// Drafts a map from a database's catalog and samples of its values; writes nothing, and needs no tables of our
    /// own.
    /// </summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="tables">The tables that hold records, if somebody says so; empty to find them.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">
    /// The database cannot be opened, or no table looks like one of parties.
    /// </exception>
    public static async Task<MapDraft> DraftMapAsync(
        string database,
        IReadOnlyList<string> tables,
        CancellationToken cancellationToken
    )
    {
        using var engine = DatabaseEngines.Open(database, TimeSpan.FromSeconds(5));
        await using var session = await engine.OpenReadAsync(cancellationToken);
        var profiler = new DatabaseProfiler(session, await engine.Catalog.ReadAsync(session, cancellationToken));
        var drafter = new MapDrafter(
            await profiler.ReadAsync(
                Path.GetFileNameWithoutExtension(engine.DisplayName.Split(" on ")[0]),
                cancellationToken
            ),
            tables
        );
        var measured = new List<ReferenceGuess>();
        foreach (var guess in drafter.References)
            measured.Add(await profiler.MeasureAsync(guess, cancellationToken));
        return drafter.Draft(measured);
    }

    /// <summary>Finds duplicates in one go; writes nothing, and needs no tables of our own.</summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="document">The map, as read.</param>
    /// <param name="recordType">The name of the record type.</param>
    /// <param name="progress">Is told what is done, in words, and how far it has come: from 0 to 1, or null.</param>
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
        await using var session = await engine.OpenReadAsync(cancellationToken);
        var map = MapCheck.Against(document, await engine.Catalog.ReadAsync(session, cancellationToken));
        return await DirectScan.RunAsync(
            session,
            map,
            map.Map.Require(recordType),
            await engine.OwnSchema.ReadVersionAsync(session, cancellationToken) == OwnTables.Version,
            progress,
            cancellationToken
        );
    }
}
