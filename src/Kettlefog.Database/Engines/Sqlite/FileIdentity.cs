using System.Buffers.Binary;
using System.Runtime.InteropServices;
using System.Text;

namespace Kettlefog.Database.Engines.Sqlite;

/// <summary>
/// Distinguishes a file from another one that took its name: by device and inode, as <c>statx(2)</c> gives them.
/// </summary>
internal readonly record struct FileIdentity(uint DeviceMajor, uint DeviceMinor, ulong Inode)
{
    private const int RelativeToWorkingFolder = -100;
    private const uint WantInode = 0x100;
    private const int StatxLength = 256;

    /// <summary>The file with this name now; the default if there is none.</summary>
    public static FileIdentity Of(string path)
    {
        var status = new byte[StatxLength];
        if (
            !OperatingSystem.IsLinux()
            || StatX(RelativeToWorkingFolder, Encoding.UTF8.GetBytes(path + "\0"), 0, WantInode, status) != 0
        )
            return default;
        return new FileIdentity(
            BinaryPrimitives.ReadUInt32LittleEndian(status.AsSpan(136)),
            BinaryPrimitives.ReadUInt32LittleEndian(status.AsSpan(140)),
            BinaryPrimitives.ReadUInt64LittleEndian(status.AsSpan(32))
        );
    }

    [DllImport("libc", EntryPoint = "statx")]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    private static extern int StatX(int folder, byte[] path, int flags, uint mask, byte[] status);
}
