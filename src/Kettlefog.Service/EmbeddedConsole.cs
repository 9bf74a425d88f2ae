using Microsoft.Extensions.FileProviders;
using Microsoft.Extensions.Primitives;

namespace Kettlefog.Service;

/// <summary>The console's files, which are part of the program.</summary>
internal sealed class EmbeddedConsole : IFileProvider
{
    private const string Root = "console";

    /// <summary>They have the program's date, so that a browser requests them again after an upgrade.</summary>
    private static readonly DateTimeOffset Built = File.GetLastWriteTimeUtc(
        Environment.ProcessPath ?? AppContext.BaseDirectory
    );

    public IFileInfo GetFileInfo(string subpath)
    {
        var name = Root + (subpath.StartsWith('/') ? subpath : "/" + subpath);
        using var stream = typeof(EmbeddedConsole).Assembly.GetManifestResourceStream(name);
        return stream is null ? new NotFoundFileInfo(subpath) : new EmbeddedFile(name, stream.Length);
    }

    public IDirectoryContents GetDirectoryContents(string subpath) => NotFoundDirectoryContents.Singleton;

    public IChangeToken Watch(string filter) => NullChangeToken.Singleton;

    private sealed class EmbeddedFile(string name, long length) : IFileInfo
    {
        public bool Exists => true;

        public bool IsDirectory => false;

        public DateTimeOffset LastModified => Built;

        public long Length => length;

        public string Name => name[(name.LastIndexOf('/') + 1)..];

        public string? PhysicalPath => null;

        public Stream CreateReadStream() => typeof(EmbeddedConsole).Assembly.GetManifestResourceStream(name)!;
    }
}
