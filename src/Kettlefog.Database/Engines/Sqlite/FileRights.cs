using System.Runtime.InteropServices;
using System.Text;

namespace Kettlefog.Database.Engines.Sqlite;

/// <summary>
/// Checks whether files may be written, by <c>access(2)</c>: opening a database only to find out would release
/// the locks that this program has on it (sqlite.org/howtocorrupt.html, section 2.2).
/// </summary>
internal static class FileRights
{
    private const int Write = 2;

    /// <summary>True if the file or folder may be written, or that is unknown.</summary>
    public static bool MayWrite(string path) =>
        !OperatingSystem.IsLinux() || Access(Encoding.UTF8.GetBytes(path + "\0"), Write) == 0;

    [DllImport("libc", EntryPoint = "access")]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    private static extern int Access(byte[] path, int mode);
}
