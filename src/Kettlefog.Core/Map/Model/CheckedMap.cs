using Kettlefog.Core.Schema;

namespace Kettlefog.Core.Map.Model;

/// <summary>A map that fits its database, with the catalog it was checked against.</summary>
/// <param name="Map">The map, with the keys filled in that the file leaves to the database.</param>
/// <param name="Catalog">The database's tables.</param>
public sealed record CheckedMap(RecordMap Map, DatabaseCatalog Catalog);
