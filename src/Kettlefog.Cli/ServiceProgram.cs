using System.Runtime.InteropServices;
using System.Text;
using Kettlefog.Terminal;

namespace Kettlefog.Cli;

/// <summary>The service's command line, as a command of this program: <c>kettlefog service serve</c>.</summary>
internal static class ServiceProgram
{
    private const string Name = "kettlefog-service";

    /// <summary>
    /// Executes the service, which is installed beside this program, in the same process
    /// (<c>execv(3)</c>), so that terminal and signals are its own.
    /// </summary>
    /// <param name="args">Its arguments.</param>
    /// <returns>The exit code, if it could not be executed.</returns>
    public static int Become(string[] args)
    {
        var beside = Path.Combine(Path.GetDirectoryName(Environment.ProcessPath) ?? ".", Name);
        if (!File.Exists(beside))
            return ErrorOutput.Failure(
                $"The program {Name} is not in the folder of this one.",
                "Install both in one folder, or run the service directly."
            );
        var words = new[] { beside }
            .Concat(args)
            .Select(word => Marshal.StringToCoTaskMemUTF8(word))
            .Append(IntPtr.Zero)
            .ToArray();
        return Execute(Encoding.UTF8.GetBytes(beside + "\0"), words) == 0
            ? 0
            : ErrorOutput.Failure(
                $"The program {beside} cannot be started (error {Marshal.GetLastPInvokeError()}).",
                "Check that it is executable."
            );
    }

    [DllImport("libc", EntryPoint = "execv", SetLastError = true)]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    private static extern int Execute(byte[] path, IntPtr[] arguments);
}
