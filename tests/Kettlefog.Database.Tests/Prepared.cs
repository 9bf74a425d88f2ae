using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>
/// Empty databases with Kettlefog's tables: created once per engine, and copied for thousands of worlds.
/// </summary>
internal static class Prepared
{
    private static readonly TempFolder Folder = new();

    private static readonly Lazy<string> SqliteTemplate = new(() =>
    {
        var file = new SqliteFile(Folder.File("empty.db"));
        file.Execute("CREATE TABLE first (id INTEGER); DROP TABLE first");
        OwnTablesMaintenance.InitialiseAsync(file.Address, null, default).GetAwaiter().GetResult();
        return file.Path;
    });

    private static readonly Lazy<PostgresDatabase> PostgresTemplate = new(() =>
    {
        var database = PostgresServer.CreateDatabase("empty");
        OwnTablesMaintenance.InitialiseAsync(database.Address, null, default).GetAwaiter().GetResult();
        return database;
    });

    /// <summary>Creates one.</summary>
    public static TestDatabase Create(Engine engine, TempFolder folder, string name)
    {
        if (engine == Engine.Postgres)
        {
            // Kettlefog's schema exists before the world's tables, and has the name of the tests' user: the tables must
            // not be created in it.
            var database = PostgresServer.CreateDatabase(name, PostgresTemplate.Value);
            database.Execute($"ALTER DATABASE \"{database.Name}\" SET search_path TO public");
            database.Forget();
            return database;
        }

        File.Copy(SqliteTemplate.Value, folder.File($"{name}.db"));
        return new SqliteFile(folder.File($"{name}.db"), pooled: true);
    }
}
