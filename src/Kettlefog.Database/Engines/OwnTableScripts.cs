using System.Data.Common;
using DbUp.Builder;
using DbUp.Engine.Output;

namespace Kettlefog.Database.Engines;

/// <summary>The scripts that create and upgrade Kettlefog's tables, one per version.</summary>
internal static class OwnTableScripts
{
    /// <summary>The version of the own tables that this program knows: the number of its scripts.</summary>
    public static int Version { get; } = Resources.Select(NumberOf).Distinct().Count();

    /// <summary>The scripts of an engine, in order.</summary>
    /// <param name="ending">The suffix of the engine's script names.</param>
    public static IReadOnlyList<(string Name, string Text)> Read(string ending) =>
        [.. Names(ending).Select(name => (name, Text(name)))];

    /// <summary>Runs the scripts that a database lacks, up to a version, in one transaction.</summary>
    /// <param name="builder">The database, and where it records the scripts that ran.</param>
    /// <param name="version">The version.</param>
    /// <param name="ending">The suffix of the engine's script names.</param>
    /// <param name="errors">Translates database errors.</param>
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
