using Kettlefog.Core.Schema;

namespace Kettlefog.Core.Map.Model;

/// <summary>A map that fits its database, with the catalog it was checked against.</summary>
/// <param name="Map">The map, with the keys filled in that the file leaves to the database.</param>
/// <param name="Catalog">The database's tables.</param>
public sealed record CheckedMap(RecordMap Map, DatabaseCatalog Catalog)
{
    /// <summary>
    /// The tables that matter to merges: those that the map names, and those with a foreign key to one of them.
    /// </summary>
    public IReadOnlyList<TableSchema> Tables { get; } = TablesOf(Map, Catalog);

    /// <summary>Identifies the state of <see cref="Tables"/>; see <see cref="CatalogVersion"/>.</summary>
    public string Version { get; } = CatalogVersion.Of(TablesOf(Map, Catalog));

    /// <summary>
    /// What changed in the tables since the version before this one, one sentence each; empty if the program has seen
    /// no other.
    /// </summary>
    public IReadOnlyList<string> Changes { get; init; } = [];

    /// <summary>The tables of another state of the catalog that matter to merges.</summary>
    /// <param name="catalog">The catalog.</param>
    public IReadOnlyList<TableSchema> TablesIn(DatabaseCatalog catalog) => TablesOf(Map, catalog);

    private static List<TableSchema> TablesOf(RecordMap map, DatabaseCatalog catalog)
    {
        ArgumentNullException.ThrowIfNull(catalog);
        var names = map.RecordTypes.SelectMany(type => type.TableNames).ToHashSet(StringComparer.OrdinalIgnoreCase);
        return
        [
            .. catalog.Tables.Where(table =>
                names.Contains(table.Name) || table.ForeignKeys.Any(key => names.Contains(key.Target))
            ),
        ];
    }
}
