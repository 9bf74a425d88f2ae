using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;

namespace Kettlefog.Core.Map.Checking;

/// <summary>The result of checking a map against its database.</summary>
/// <param name="File">The name of the map's file.</param>
/// <param name="Map">The map as it fits the database; null if it does not.</param>
/// <param name="Findings">The findings, most severe first, then in the order of the file.</param>
public sealed record MapReport(string File, CheckedMap? Map, IReadOnlyList<MapFinding> Findings)
{
    /// <summary>The severity of the worst finding; null if there is none.</summary>
    public FindingSeverity? Worst => Findings.Count == 0 ? null : Findings.Max(finding => finding.Severity);

    /// <summary>The map, if it fits the database.</summary>
    /// <exception cref="KettlefogException">It does not; every mistake is in the details with its line.</exception>
    public CheckedMap RequireMap() =>
        Map
        ?? throw MapProblems.ExceptionOf(File, Findings.Where(finding => finding.Severity == FindingSeverity.Error));

    /// <summary>The same with further findings.</summary>
    /// <param name="findings">What else was found.</param>
    public MapReport With(IEnumerable<MapFinding> findings) => Of(File, Map, Findings.Concat(findings));

    /// <summary>A report of findings in any order.</summary>
    internal static MapReport Of(string file, CheckedMap? map, IEnumerable<MapFinding> findings) =>
        new(file, map, [.. findings.OrderByDescending(finding => finding.Severity).ThenBy(finding => finding.Line)]);
}
