namespace Kettlefog.Core.Tests;

/// <summary>The checkout that the tests were built from.</summary>
internal static class Repository
{
    public static string Root { get; } = Find();

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
