using System.Data.Common;
using DbUp.Builder;
using DbUp.Engine.Output;

namespace Kettlefog.Database.Engines;

/// <summary>The scripts that make and upgrade Kettlefog's tables, one for each version of them.</summary>
internal static class OwnTableScripts
{
    /// <summary>The version of the own tables that this program knows: the number of its scripts.</summary>
    public static int Version { get; } = Resources.Select(NumberOf).Distinct().Count();

    /// <summary>The scripts of an engine, in order.</summary>
    /// <param name="ending">How the names of the engine's scripts end.</param>
    public static IReadOnlyList<string> Read(string ending) => [.. Names(ending).Select(Text)];

    /// <summary>Runs an engine's scripts that a database lacks, as far as a version, in one transaction.</summary>
    /// <param name="builder">The database, and where it records which scripts ran.</param>
    /// <param name="version">The version.</param>
    /// <param name="ending">How the names of the engine's scripts end.</param>
    /// <param name="errors">Says what a database error means.</param>
    public static void Run(UpgradeEngineBuilder builder, int version, string ending, IErrorTranslator errors)
    {
        var result = builder
            .WithScriptsEmbeddedInAssembly(
                typeof(OwnTableScripts).Assembly,
                Names(ending).Take(version).ToHashSet().Contains
            )
            .WithVariablesDisabled()
            .WithTransaction()
            .LogTo(new NoOpUpgradeLog())
            .Build()
            .PerformUpgrade();
        if (!result.Successful)
            throw result.Error is DbException error ? errors.Translate(error) : result.Error;
    }

    private static IEnumerable<string> Resources =>
        typeof(OwnTableScripts)
            .Assembly.GetManifestResourceNames()
            .Where(name => name.EndsWith(".sql", StringComparison.Ordinal));

    private static string NumberOf(string name) => name.Split('.')[^3];

    private static List<string> Names(string ending) =>
        [.. Resources.Where(name => name.EndsWith(ending, StringComparison.Ordinal)).Order(StringComparer.Ordinal)];

    private static string Text(string name)
    {
        using var reader = new StreamReader(typeof(OwnTableScripts).Assembly.GetManifestResourceStream(name)!);
        return reader.ReadToEnd();
    }
}
