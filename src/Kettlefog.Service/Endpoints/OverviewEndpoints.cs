using System.Globalization;
using Kettlefog.Contracts;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Database;
using Kettlefog.Database.Duplicates.Clusters;
using Kettlefog.Database.Duplicates.Rules;
using Kettlefog.Database.Duplicates.Scans;
using Kettlefog.Database.History;
using Kettlefog.Service.Jobs;

namespace Kettlefog.Service.Endpoints;

/// <summary>The open work, and recent activity.</summary>
internal static class OverviewEndpoints
{
    private const int DaysBack = 30;
    private const int BandWidth = 5;

    public static void Map(RouteGroupBuilder api) =>
        api.MapGet("/overview", ReadAsync)
            .WithTags("overview")
            .WithName("readOverview")
            .WithSummary("Read the open work by record type and confidence, and the activity of the last thirty days.");

    private static async Task<OverviewView> ReadAsync(
        OperationalDatabase database,
        MergeJobs jobs,
        TimeProvider clock,
        CancellationToken cancellationToken
    )
    {
        var today = DateOnly.FromDateTime(clock.GetUtcNow().UtcDateTime);
        var since = today.AddDays(1 - DaysBack);
        var rules = new Dictionary<string, IReadOnlyList<RuleInForce>>();
        foreach (var type in database.Map.Map.RecordTypes)
            rules[type.Name] = await database.Rules.ListAsync(type, cancellationToken);
        var certain = rules
            .Select(each => (Type: each.Key, Automatic: AutomaticOf(each.Value)))
            .Where(each => each.Automatic is not null)
            .ToDictionary(each => each.Type, each => each.Automatic!.Value / 100);
        var counts = (await database.Clusters.CountAsync(certain, cancellationToken)).ToLookup(count =>
            count.RecordType
        );
        var types = new List<TypeOverview>();
        foreach (var type in database.Map.Map.RecordTypes)
            types.Add(
                Of(
                    type,
                    [.. counts[type.Name]],
                    rules[type.Name],
                    await database.Scans.ListAsync(type.Name, false, cancellationToken)
                )
            );
        var done = await database.History.CountAsync(since, cancellationToken);
        var days = done.GroupBy(count => count.Day)
            .Select(day => new DayOverview(
                day.Key,
                Entries(day, EntryKind.Merge),
                Entries(day, EntryKind.NonDuplicates),
                Entries(day, EntryKind.Reversal),
                Entries(day, EntryKind.Reopened)
            ));
        var people = done.GroupBy(count => count.Actor)
            .OrderByDescending(person => person.Sum(count => count.Entries))
            .ThenBy(person => person.Key, StringComparer.Ordinal)
            .Select(person => new PersonOverview(
                person.Key,
                Entries(person, EntryKind.Merge),
                Entries(person, EntryKind.NonDuplicates),
                Entries(person, EntryKind.Reversal),
                Entries(person, EntryKind.Reopened)
            ));
        var scans = (await database.Scans.ListAsync(null, true, cancellationToken)).Where(scan =>
            scan.State is ScanState.Waiting or ScanState.Running or ScanState.Stopped
        );
        return new OverviewView(
            types,
            [.. days],
            [.. people],
            since,
            today,
            [.. scans.Select(DuplicateViews.Of)],
            [.. jobs.Running.Select(Of)],
            Backlog(await database.Clusters.CountByAgeAsync(cancellationToken), since)
        );
    }

    private static List<BacklogDay> Backlog(IReadOnlyList<ClusterAge> ages, DateOnly since) =>
        [
            .. Enumerable
                .Range(0, DaysBack)
                .Select(since.AddDays)
                .Select(day => new BacklogDay(
                    day,
                    ages.Where(age => age.FoundOn <= day && !(age.DecidedOn <= day)).Sum(age => age.Clusters)
                )),
        ];

    private static TypeOverview Of(
        RecordType type,
        IReadOnlyList<ClusterCount> counts,
        IReadOnlyList<RuleInForce> rules,
        IReadOnlyList<Scan> scans
    )
    {
        var open = counts.Where(count => count.State == ClusterState.Open).ToList();
        long In(ClusterState state) => counts.Where(count => count.State == state).Sum(count => count.Clusters);
        var review = rules.Min(rule => rule.Rule.Review);
        return new TypeOverview(
            type.Name,
            In(ClusterState.Open),
            open.Where(count => count.IsAssigned).Sum(count => count.Clusters),
            open.Where(count => count.IsCertain).Sum(count => count.Clusters),
            In(ClusterState.Postponed),
            In(ClusterState.Merged),
            In(ClusterState.NonDuplicates),
            open.Sum(count => count.RelatedRows),
            type.Amount is not null ? open.Sum(count => count.Amount).ToString(CultureInfo.InvariantCulture) : null,
            review,
            AutomaticOf(rules),
            [
                .. Enumerable
                    .Range(0, 100 / BandWidth)
                    .Select(band => new ConfidenceBandView(
                        band * BandWidth,
                        (band + 1) * BandWidth,
                        open.Where(count => Math.Min(count.Percent, 99) / BandWidth == band)
                            .Sum(count => count.Clusters)
                    )),
            ],
            scans.Where(scan => scan.State == ScanState.Finished).Max(scan => scan.EndedAt),
            open.Min(count => (DateTimeOffset?)count.OldestAt)
        );
    }

    /// <summary>
    /// The confidence from which clusters of a type count as certain, in percent; null if there is none.
    /// </summary>
    private static double? AutomaticOf(IReadOnlyList<RuleInForce> rules) => rules.Min(rule => rule.Rule.Automatic);

    private static RunningJob Of(MergeJob job)
    {
        var rows = job.Rows;
        return new RunningJob(job.Id, job.Request.Kind, job.Request.Actor, rows.Moved, rows.Total);
    }

    private static long Entries(IEnumerable<DayCount> day, EntryKind kind) =>
        day.Where(count => count.Kind == kind).Sum(count => count.Entries);
}
