using Kettlefog.Core.Drafting;
using Kettlefog.Core.Map.Checking;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Matching;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;

namespace Kettlefog.Database.Maps;

/// <summary>Checks a map against its database: errors, risks, the rights of the user, and the data.</summary>
public sealed class MapService
{
    private readonly DatabaseContext _context;
    private readonly MapDocument _document;

    internal MapService(DatabaseContext context, MapDocument document) => (_context, _document) = (context, document);

    /// <summary>Checks the map in use; writes nothing.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<MapReport> CheckAsync(CancellationToken cancellationToken)
    {
        var (report, unnamed) = await InspectAsync(_context.Engine, _document, cancellationToken);
        _context.UnnamedReferences = unnamed;
        return report;
    }

    /// <summary>Checks a map; writes nothing, and does not need Kettlefog's tables.</summary>
    internal static async Task<MapReport> CheckAsync(
        DatabaseEngine engine,
        MapDocument document,
        CancellationToken cancellationToken
    ) => (await InspectAsync(engine, document, cancellationToken)).Report;

    private static async Task<(MapReport Report, IReadOnlyList<ReferenceGuess> Unnamed)> InspectAsync(
        DatabaseEngine engine,
        MapDocument document,
        CancellationToken cancellationToken
    )
    {
        await using var session = await engine.OpenReadAsync(cancellationToken);
        session.ExpectLongStatements();
        var report = MapCheck.Report(document, await engine.Catalog.ReadAsync(session, cancellationToken));
        if (report.Map is not { } map)
            return (report, []);
        var inspector = new MapInspector(session, map, document);
        return (
            report.With([.. MatchAdvice.Of(map, document), .. await inspector.FindAsync(cancellationToken)]),
            inspector.Unnamed
        );
    }
}
