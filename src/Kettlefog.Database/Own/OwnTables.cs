using Kettlefog.Database.Engines;

namespace Kettlefog.Database.Own;

/// <summary>The scripts that make and upgrade Kettlefog's own tables, one for each version of them.</summary>
internal static class OwnTables
{
    /// <summary>The version of the own tables that this program knows: the number of its scripts.</summary>
    public static int Version { get; } = Names(SqliteEngine.ScriptEnding).Count;

    /// <summary>The scripts of an engine, in order.</summary>
    /// <param name="ending">How the names of the engine's scripts end.</param>
    public static IReadOnlyList<string> Scripts(string ending) => [.. Names(ending).Select(Read)];

    /// <summary>Makes the own tables in a session, as far as a version; the session decides whether they stay.</summary>
    /// <param name="session">The session, which writes.</param>
    /// <param name="version">The version.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public static async Task CreateAsync(Session session, int version, CancellationToken cancellationToken)
    {
        foreach (var script in session.Engine.OwnScripts.Take(version))
            await session.RunScriptAsync(script, cancellationToken);
    }

    /// <summary>Tells which resources are scripts of an engine as far as a version.</summary>
    /// <param name="version">The version.</param>
    /// <param name="ending">How the names of the engine's scripts end.</param>
    public static Func<string, bool> UpTo(int version, string ending) => Names(ending).Take(version).ToHashSet().Contains;

    private static List<string> Names(string ending) =>
        [.. typeof(OwnTables).Assembly.GetManifestResourceNames().Where(name => name.EndsWith(ending, StringComparison.Ordinal)).Order(StringComparer.Ordinal)];

    private static string Read(string name)
    {
        using var reader = new StreamReader(typeof(OwnTables).Assembly.GetManifestResourceStream(name)!);
        return reader.ReadToEnd();
    }
}
