using System.Diagnostics;

namespace Kettlefog.Testing;

/// <summary>A file system in memory that is soon full. Only the system's administrator can make one.</summary>
public sealed class SmallDisk : IDisposable
{
    private readonly TempFolder _folder = new();

    private SmallDisk() { }

    /// <summary>Its folder.</summary>
    public string Path => _folder.Path;

    /// <summary>Makes one.</summary>
    /// <param name="size">Its size in MiB.</param>
    /// <returns>Null if that is not allowed.</returns>
    public static SmallDisk? TryCreate(int size)
    {
        var disk = new SmallDisk();
        if (Run("mount", "-t", "tmpfs", "-o", $"size={size}m,mode=0777", "tmpfs", disk.Path))
            return disk;
        disk._folder.Dispose();
        return null;
    }

    /// <summary>Fills it, but for some space.</summary>
    /// <param name="free">How much stays free, in KiB.</param>
    public void Fill(int free)
    {
        using var ballast = new FileStream(Ballast, FileMode.Create);
        var block = new byte[64 * 1024];
        for (var space = Space() - (free * 1024L); space > 0; space -= block.Length)
            ballast.Write(block, 0, (int)Math.Min(space, block.Length));
    }

    /// <summary>Frees what <see cref="Fill"/> took.</summary>
    public void Free() => File.Delete(Ballast);

    public void Dispose()
    {
        Run("umount", "-l", Path);
        _folder.Dispose();
    }

    private string Ballast => System.IO.Path.Combine(Path, "ballast");

    private long Space() => new DriveInfo(Path).AvailableFreeSpace;

    private static bool Run(string program, params string[] arguments)
    {
        try
        {
            using var process = Process.Start(
                new ProcessStartInfo(program, arguments) { RedirectStandardError = true }
            )!;
            process.WaitForExit();
            return process.ExitCode == 0;
        }
        catch (System.ComponentModel.Win32Exception)
        {
            return false;
        }
    }
}
