using Kettlefog.Database.Engines;

namespace Kettlefog.Database.Own;

/// <summary>Kettlefog's tables.</summary>
internal static class OwnTables
{
    /// <summary>The version of the own tables that this program knows.</summary>
    public static int Version => OwnTableScripts.Version;

    /// <summary>
    /// Creates the own tables in a session, or upgrades them; they are kept if the session is committed.
    /// </summary>
    /// <param name="session">The session, which writes.</param>
    /// <param name="from">The version that they have; 0 if there are none.</param>
    /// <param name="to">The version to reach.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public static async Task CreateAsync(Session session, int from, int to, CancellationToken cancellationToken)
    {
        var schema = session.Engine.OwnSchema;
        if (from == 0)
            await schema.PrepareAsync(session, cancellationToken);
        foreach (var (name, text) in OwnTableScripts.Read(schema.ScriptEnding).Take(to).Skip(from))
        {
            await session.RunScriptAsync(text, cancellationToken);
            await schema.RecordAsync(session, name, cancellationToken);
        }
    }
}
