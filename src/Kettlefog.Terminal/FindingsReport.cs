using System.Globalization;
using Kettlefog.Contracts;

namespace Kettlefog.Terminal;

/// <summary>Shows the findings of a map check.</summary>
public static class FindingsReport
{
    /// <summary>The findings, one row each.</summary>
    public static Grid Rows(IReadOnlyList<MapFindingView> findings) =>
        new(
            ["severity", "line", "finding", "remedy", "statement"],
            [
                .. findings.Select(finding =>
                    (IReadOnlyList<string?>)
                        [
                            finding.Severity,
                            finding.Line?.ToString(CultureInfo.InvariantCulture),
                            finding.Message,
                            finding.Remedy,
                            finding.Statement,
                        ]
                ),
            ]
        );

    /// <summary>Shows them for people.</summary>
    public static void Print(Printer output, IReadOnlyList<MapFindingView> findings)
    {
        ArgumentNullException.ThrowIfNull(output);
        ArgumentNullException.ThrowIfNull(findings);
        foreach (var finding in findings)
        {
            output.Line(
                $"{finding.Severity}: {finding.File}{(finding.Line is { } line ? $":{line}" : "")}: {finding.Message}"
            );
            output.Line($"    {finding.Remedy}");
            if (finding.Statement is not null)
                output.Line($"    {finding.Statement}");
        }
    }
}
