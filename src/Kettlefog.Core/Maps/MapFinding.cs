namespace Kettlefog.Core.Maps;

/// <summary>How much a finding matters.</summary>
public enum FindingSeverity
{
    /// <summary>It is worth knowing.</summary>
    Advice,

    /// <summary>It works, but may take long, lose what others wrote, or not be taken back exactly.</summary>
    Warning,

    /// <summary>It cannot work.</summary>
    Error,
}

/// <summary>One finding about a map, or about its database.</summary>
/// <param name="Severity">How much it matters.</param>
/// <param name="Line">The line in the map's file, counted from 1; 0 if it is not about one line.</param>
/// <param name="Message">What is found, in a sentence or two.</param>
/// <param name="Remedy">What to do about it.</param>
public sealed record MapFinding(FindingSeverity Severity, int Line, string Message, string Remedy)
{
    /// <summary>The SQL statement that mends it; null if none does.</summary>
    public string? Statement { get; init; }
}

/// <summary>What was found about a map and its database.</summary>
/// <param name="File">The name of the map's file.</param>
/// <param name="Map">The map as it fits the database; null if it does not.</param>
/// <param name="Findings">The findings, those that matter most first, then in the order of the file.</param>
public sealed record MapReport(string File, CheckedMap? Map, IReadOnlyList<MapFinding> Findings)
{
    /// <summary>The severity of the worst finding; null if there is none.</summary>
    public FindingSeverity? Worst => Findings.Count == 0 ? null : Findings.Max(finding => finding.Severity);

    /// <summary>The map, if it fits the database.</summary>
    /// <exception cref="KettlefogException">It does not; every mistake is in the details with its line.</exception>
    public CheckedMap RequireMap() => Map ?? throw MapProblems.RefusalOf(File, Findings.Where(finding => finding.Severity == FindingSeverity.Error));

    /// <summary>The same with further findings.</summary>
    /// <param name="findings">What else was found.</param>
    public MapReport With(IEnumerable<MapFinding> findings) => Of(File, Map, Findings.Concat(findings));

    /// <summary>A report of findings in any order.</summary>
    internal static MapReport Of(string file, CheckedMap? map, IEnumerable<MapFinding> findings) =>
        new(file, map, [.. findings.OrderByDescending(finding => finding.Severity).ThenBy(finding => finding.Line)]);
}
