using System.Diagnostics;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Database.Duplicates.Finding;
using Kettlefog.Database.Duplicates.Rules;
using Kettlefog.Database.Engines;

namespace Kettlefog.Database.Duplicates.Scans;

/// <summary>Duplicates found in a single run, without storing anything.</summary>
/// <param name="Pairs">The pairs, by key.</param>
/// <param name="Clusters">The keys of the records of each cluster.</param>
/// <param name="Report">The outcome.</param>
public sealed record FoundDuplicates(
    IReadOnlyList<StoredPair> Pairs,
    IReadOnlyList<IReadOnlyList<string>> Clusters,
    ScanReport Report
);

/// <summary>Finds duplicates in a single run.</summary>
internal static class DirectScan
{
    private const int RecordsAtOnce = 50_000;

    /// <summary>Reads the records, and finds duplicates among them.</summary>
    /// <param name="openAsync">Opens a session to read in.</param>
    /// <param name="type">The record type.</param>
    /// <param name="hasOwn">True if the database has Kettlefog's tables, with rules and decisions.</param>
    /// <param name="progress">Receives the current phase, and its progress from 0 to 1.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public static async Task<FoundDuplicates> RunAsync(
        Func<CancellationToken, Task<Session>> openAsync,
        RecordType type,
        bool hasOwn,
        Action<string, double?> progress,
        CancellationToken cancellationToken
    )
    {
        using var loaded = await LoadedFinder.LoadAsync(
            openAsync,
            type,
            async session =>
                hasOwn
                    ? await new RuleStore(session).MatchRulesAsync(type, cancellationToken)
                    : type.Matching.RulesOrReady,
            hasOwn,
            (read, total) => progress("reading", (double)read / Math.Max(1, total)),
            cancellationToken
        );
        return Find(loaded, progress, cancellationToken);
    }

    private static FoundDuplicates Find(
        LoadedFinder loaded,
        Action<string, double?> progress,
        CancellationToken cancellationToken
    )
    {
        var clock = Stopwatch.StartNew();
        progress("learning", null);
        loaded.Finder.Prepare(loaded.Decisions, live: false, cancellationToken);
        var pairs = new List<FoundPair>();
        long compared = 0;
        for (var next = 0; next < loaded.Keys.Count; next += RecordsAtOnce)
        {
            progress("comparing", (double)next / loaded.Keys.Count);
            var (found, count) = loaded.Finder.Score(
                next,
                Math.Min(loaded.Keys.Count, next + RecordsAtOnce),
                null,
                cancellationToken
            );
            pairs.AddRange(found);
            compared += count;
        }

        progress("clustering", null);
        var clusters = loaded.Finder.Cluster(pairs, cancellationToken);
        progress("checking", null);
        var sample = loaded.Finder.MeasureRecall(clusters.Clusters, cancellationToken);
        var proposed = pairs.Count(pair => pair.Proposed);
        return new FoundDuplicates(
            [
                .. pairs.Select(pair => new StoredPair(
                    loaded.Keys[pair.A],
                    loaded.Keys[pair.B],
                    Math.Round(pair.Score, StoredPair.Decimals),
                    loaded.Rules[pair.Rule].Name,
                    pair.Proposed
                )),
            ],
            [
                .. clusters.Clusters.Select(cluster =>
                    (IReadOnlyList<string>)[.. cluster.Members.Select(member => loaded.Keys[member])]
                ),
            ],
            ScanReport.Of(loaded, loaded.Keys.Count, compared, proposed, clusters, sample, clock.Elapsed)
        );
    }
}
