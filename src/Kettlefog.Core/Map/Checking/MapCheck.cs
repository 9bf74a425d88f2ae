using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Schema;

namespace Kettlefog.Core.Map.Checking;

/// <summary>Checks a map against the catalog of its database.</summary>
public static class MapCheck
{
    /// <summary>
    /// Checks that every table and column is there, that keys are unique, and that no foreign key of the database
    /// points at a record without being named as a reference.
    /// </summary>
    /// <param name="document">The map, as read.</param>
    /// <param name="catalog">The database's tables.</param>
    /// <returns>The map with the keys filled in that the file leaves to the database.</returns>
    /// <exception cref="KettlefogException">
    /// The map does not fit; every mistake is in the details with its line.
    /// </exception>
    public static CheckedMap Against(MapDocument document, DatabaseCatalog catalog) =>
        Report(document, catalog).RequireMap();

    /// <summary>Does the same, and also finds risks; see <see cref="MapRisks"/>.</summary>
    /// <param name="document">The map, as read.</param>
    /// <param name="catalog">The database's tables.</param>
    public static MapReport Report(MapDocument document, DatabaseCatalog catalog)
    {
        ArgumentNullException.ThrowIfNull(document);
        ArgumentNullException.ThrowIfNull(catalog);
        var problems = new MapProblems(document.File);
        var types = document
            .Map.RecordTypes.Select(type => new RecordTypeCheck(type, document, catalog, problems).Run())
            .ToList();
        if (!problems.None)
            return MapReport.Of(document.File, null, problems.All);
        var map = new CheckedMap(document.Map with { RecordTypes = types }, catalog);
        return MapReport.Of(document.File, map, MapRisks.Of(map, document));
    }
}
