namespace Kettlefog.Testing;

/// <summary>The checkout that the tests were built from.</summary>
public static class Repository
{
    /// <summary>Its folder.</summary>
    public static string Root { get; } = Find();

    /// <summary>The path of a file in it.</summary>
    public static string File(string path) => Path.Combine(Root, path);

    private static string Find()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (folder is not null && !System.IO.File.Exists(Path.Combine(folder.FullName, "Kettlefog.slnx")))
            folder = folder.Parent;
        return folder?.FullName
            ?? throw new InvalidOperationException("The tests do not run from within the checkout.");
    }
}
