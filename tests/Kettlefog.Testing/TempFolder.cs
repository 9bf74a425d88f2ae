namespace Kettlefog.Testing;

/// <summary>A folder that is removed after the test.</summary>
public sealed class TempFolder : IDisposable
{
    public TempFolder() => Path = Directory.CreateTempSubdirectory("kettlefog-test-").FullName;

    public string Path { get; }

    public string File(string name) => System.IO.Path.Combine(Path, name);

    public void Dispose()
    {
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(Path, recursive: true);
    }
}
