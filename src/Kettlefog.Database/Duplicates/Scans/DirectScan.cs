using System.Diagnostics;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Database.Duplicates.Decisions;
using Kettlefog.Database.Duplicates.Finding;
using Kettlefog.Database.Duplicates.Rules;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

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

    /// <summary>Reads the records; finding duplicates among them takes its time, and needs no session.</summary>
    /// <param name="session">The session to read in.</param>
    /// <param name="map">The map.</param>
    /// <param name="type">The record type.</param>
    /// <param name="hasOwn">True if the database has Kettlefog's tables, with rules and decisions.</param>
    /// <param name="progress">Receives the current phase, and its progress from 0 to 1.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public static async Task<(LoadedFinder Loaded, IReadOnlyList<Decision> Decisions)> ReadAsync(
        Session session,
        CheckedMap map,
        RecordType type,
        bool hasOwn,
        Action<string, double?> progress,
        CancellationToken cancellationToken
    )
    {
        var rules = hasOwn
            ? (await new RuleStore(session).InForceAsync(type, cancellationToken)).Select(rule => rule.Rule).ToList()
            : type.Matching.RulesOrReady;
        var total = await session.QueryLongAsync(
            Sql.Of($"SELECT COUNT(*) FROM {session.Dialect.Table(map.Catalog.Require(type.Table))}"),
            cancellationToken
        );
        var loaded = await LoadedFinder.LoadAsync(
            session,
            map,
            type,
            rules,
            hasOwn,
            read => progress("reading", (double)read / Math.Max(1, total)),
            cancellationToken
        );
        return (loaded, hasOwn ? await new NonDuplicateStore(session).DecisionsAsync(type, cancellationToken) : []);
    }

    /// <summary>Finds duplicates among records that were read.</summary>
    public static FoundDuplicates Find(
        LoadedFinder loaded,
        IReadOnlyList<Decision> decisions,
        Action<string, double?> progress,
        CancellationToken cancellationToken
    )
    {
        var clock = Stopwatch.StartNew();
        progress("learning", null);
        loaded.Finder.Prepare(decisions, live: false, cancellationToken);
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
        var proposed = pairs.Where(pair => pair.Proposed).ToList();
        return new FoundDuplicates(
            [
                .. pairs.Select(pair => new StoredPair(
                    loaded.Keys[pair.A],
                    loaded.Keys[pair.B],
                    Math.Round(pair.Score, 4),
                    loaded.Rules[pair.Rule].Name,
                    pair.Proposed
                )),
            ],
            [
                .. clusters.Select(cluster =>
                    (IReadOnlyList<string>)[.. cluster.Members.Select(member => loaded.Keys[member])]
                ),
            ],
            ScanReport.Of(loaded, loaded.Keys.Count, compared, proposed, clusters.Count, clock.Elapsed)
        );
    }
}
