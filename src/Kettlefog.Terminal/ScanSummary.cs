using System.Globalization;
using Kettlefog.Contracts;

namespace Kettlefog.Terminal;

/// <summary>Says what a scan did.</summary>
public static class ScanSummary
{
    /// <summary>Prints the outcome of a scan, and what it may have left out.</summary>
    public static IEnumerable<string> LinesOf(ScanReportView report)
    {
        ArgumentNullException.ThrowIfNull(report);
        yield return string.Create(
            CultureInfo.InvariantCulture,
            $"{report.Records} records ({report.Changed} new or changed), {report.Pairs} pairs proposed, "
                + $"{report.Clusters} clusters, in {TextFormat.Seconds(report.Seconds)} s."
        );
        yield return string.Create(
            CultureInfo.InvariantCulture,
            $"{report.Compared} pairs compared ({TextFormat.Share(report.ComparedShare, 4)} of all)."
        );
        if (report.ComparedBy is { Count: > 0 } by)
            yield return $"Compared as {Several(report.Entity)}, by: {string.Join(", ", by).ToLowerInvariant()}.";
        if (report.Sample is { } sample)
        {
            var drawn = TextFormat.Counted(sample.Records, "record", "records");
            var pairs =
                sample.Pairs == 0
                    ? "no pair was found."
                    : $"{TextFormat.Counted(sample.Pairs, "pair was", "pairs were")} found, of which the scan found "
                        + $"{sample.Found.ToString(CultureInfo.InvariantCulture)}.";
            yield return $"Check: {drawn} drawn at random and compared with all others: {pairs}";
        }

        if (report.CrowdedKeys > 0)
            yield return $"{TextFormat.Counted(report.CrowdedRecords, "record has", "records have")} a value that too "
                + "many share; these were compared with those most like them.";
        if (report.CutClusters > 0)
            yield return $"{TextFormat.Counted(report.CutClusters, "cluster has", "clusters have")} as many records as "
                + "one can have; merge it, and scan again for the rest.";
        if (report.UnreadableCount > 0)
            yield return $"{TextFormat.Counted(report.UnreadableCount, "value", "values")} could not be read, and "
                + "counted as missing:";
        foreach (var value in report.Unreadable ?? [])
            yield return $"  {value}";
    }

    /// <summary>The word for several of what records are taken for.</summary>
    /// <param name="entity">One of them, such as <c>person</c>.</param>
    public static string Several(string? entity) => entity == "person" ? "people" : $"{entity}s";
}
