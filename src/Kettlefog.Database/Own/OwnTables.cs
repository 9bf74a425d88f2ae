using Kettlefog.Database.Engines;

namespace Kettlefog.Database.Own;

/// <summary>Kettlefog's tables.</summary>
internal static class OwnTables
{
    /// <summary>The version of the own tables that this program knows.</summary>
    public static int Version => OwnTableScripts.Version;

    /// <summary>Creates the own tables in a session; they are kept if the session is committed.</summary>
    /// <param name="session">The session, which writes.</param>
    /// <param name="version">The version.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public static async Task CreateAsync(Session session, int version, CancellationToken cancellationToken)
    {
        foreach (var script in session.Engine.OwnSchema.Scripts.Take(version))
            await session.RunScriptAsync(script, cancellationToken);
    }
}
