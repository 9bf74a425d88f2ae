using System.Diagnostics;
using Kettlefog.Core.Maps;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Matching.Clustering;
using Kettlefog.Core.Matching.Rules;
using Kettlefog.Demo.Truth;

namespace Kettlefog.Bench;

/// <summary>How well and how fast duplicates are found, on made-up data of which the truth is known.</summary>
internal static class Duplicates
{
    private static readonly FieldKind[] PeopleKinds =
        [FieldKind.GivenName, FieldKind.MiddleName, FieldKind.FamilyName, FieldKind.NameSuffix, FieldKind.BirthDate, FieldKind.Email, FieldKind.Phone, FieldKind.Street, FieldKind.Postcode, FieldKind.City];

    private static readonly FieldKind[] OrganisationKinds =
        [FieldKind.OrganisationName, FieldKind.TaxNumber, FieldKind.Email, FieldKind.Phone, FieldKind.Url, FieldKind.Street, FieldKind.Postcode, FieldKind.City];

    public static bool Run(int records) => Environment.GetEnvironmentVariable("KETTLEFOG_ONLY") == "org" ? Measure("organisations", OrganisationMaker.Make(records, 7), TypeOf("organisation", OrganisationMaker.Columns, OrganisationKinds), records) :
        Measure("people", PeopleMaker.Make(records, 7), TypeOf("person", PeopleMaker.Columns, PeopleKinds), records)
        & Measure("organisations", OrganisationMaker.Make(records, 7), TypeOf("organisation", OrganisationMaker.Columns, OrganisationKinds), records);

    private static bool Measure(string what, IReadOnlyList<TruthRecord> truth, RecordType type, int records)
    {
        var clock = Stopwatch.StartNew();
        using var finder = new DuplicateFinder(type, [MatchRule.Ready], new FinderOptions(1, "GB", [], []));
        foreach (var batch in truth.Chunk(20_000))
            finder.Add([.. batch.Select(record => record.Values)]);
        var added = clock.Elapsed;
        var report = finder.Prepare([], live: false, CancellationToken.None);
        var prepared = clock.Elapsed;
        var (pairs, compared) = finder.Score(0, finder.Count, null, CancellationToken.None);
        var scored = clock.Elapsed;
        var clusters = finder.Cluster(pairs, 50, CancellationToken.None);
        var all = clock.Elapsed;
        Console.WriteLine($"{truth.Count} {what}: {all.TotalSeconds:0.0} s (add {added.TotalSeconds:0.0}, prepare {(prepared - added).TotalSeconds:0.0}, score {(scored - prepared).TotalSeconds:0.0}, cluster {(all - scored).TotalSeconds:0.0}), peak {Process.GetCurrentProcess().PeakWorkingSet64 >> 20} MiB");
        Console.WriteLine($"  {report.Keys} keys, {report.Dropped} dropped; {compared} pairs compared ({(double)compared / truth.Count:0.0} a record); duplicates learned {report.Duplicates:0.000}, {report.Rounds} rounds");

        var total = truth.GroupBy(record => record.Party).Sum(group => (long)group.Count() * (group.Count() - 1) / 2);
        foreach (var threshold in new[] { 0.3, 0.5, 0.6, 0.7, 0.8, 0.9, 0.95, 0.99 })
        {
            var above = pairs.Where(pair => pair.Score >= threshold).ToList();
            Print($"pairs from {threshold:0.00}", above.Count, above.Count(pair => truth[pair.A].Party == truth[pair.B].Party), total);
        }

        var joined = clusters.SelectMany(PairsOf).ToList();
        var f1 = Print("clusters", joined.Count, joined.Count(pair => truth[pair.A].Party == truth[pair.B].Party), total);
        Recall(truth, [.. joined.Select(pair => (pair.A, pair.B))]);
        LookAlikes(truth, joined);
        if (Environment.GetEnvironmentVariable("KETTLEFOG_BENCH_SHOW") is not null)
        {
            foreach (var pair in joined.Where(pair => truth[pair.A].Party != truth[pair.B].Party).Take(25))
                Show("WRONG", truth, pair.A, pair.B, finder);
            var have = joined.Select(pair => (pair.A, pair.B)).ToHashSet();
            var byParty = truth.Select((record, index) => (record, index)).GroupBy(pair => pair.record.Party).Where(group => group.Count() > 1);
            foreach (var group in byParty.Where(group => !have.Contains((group.First().index, group.Skip(1).First().index))).Take(40))
                Show("MISSED", truth, group.First().index, group.Skip(1).First().index, finder);
        }

        return f1 && all.TotalSeconds <= (records > 500_000 ? 90 : 8);
    }

    private static void Show(string word, IReadOnlyList<TruthRecord> truth, int a, int b, DuplicateFinder finder)
    {
        Console.WriteLine($"  {word} {truth[a].Class} / {truth[b].Class}");
        Console.WriteLine($"     {string.Join(" | ", truth[a].Values)}");
        Console.WriteLine($"     {string.Join(" | ", truth[b].Values)}");
        Console.WriteLine($"     {string.Join(", ", finder.Explain(truth[a].Values, truth[b].Values).Evidence.Select(each => $"{each.Words} {each.Weight:+0.0;-0.0}"))}");
    }

    private static bool Print(string what, int found, int right, long total)
    {
        var (precision, recall) = ((double)right / Math.Max(1, found), (double)right / Math.Max(1, total));
        var f1 = 2 * precision * recall / Math.Max(1e-9, precision + recall);
        Console.WriteLine($"  {what,-18} precision {precision:0.0000}  recall {recall:0.0000}  F1 {f1:0.0000}");
        return f1 >= 0.96 && precision >= 0.98;
    }

    private static void Recall(IReadOnlyList<TruthRecord> truth, HashSet<(int, int)> joined)
    {
        var first = new Dictionary<int, int>();
        for (var index = 0; index < truth.Count; index++)
        {
            if (truth[index].Class.Length == 0 || truth[index].Class[0] == '~')
                first[truth[index].Party] = index;
        }

        var met = new SortedDictionary<string, (int All, int Found)>();
        for (var index = 0; index < truth.Count; index++)
        {
            var record = truth[index];
            if (record.Class.Length == 0 || record.Class[0] == '~')
                continue;
            var other = first[record.Party];
            var found = joined.Contains((Math.Min(index, other), Math.Max(index, other)));
            foreach (var each in record.Class.Split('+'))
            {
                var (seen, hits) = met.GetValueOrDefault(each);
                met[each] = (seen + 1, hits + (found ? 1 : 0));
            }
        }

        Console.WriteLine("  recall by corruption: " + string.Join(", ", met.Select(pair => $"{pair.Key} {(double)pair.Value.Found / pair.Value.All:0.000}")));
    }

    private static void LookAlikes(IReadOnlyList<TruthRecord> truth, List<ScoredPair> joined)
    {
        var clusterMates = joined.SelectMany(pair => new[] { (pair.A, pair.B), (pair.B, pair.A) }).ToLookup(pair => pair.Item1, pair => pair.Item2);
        var classes = truth.Select((record, index) => (record, index)).Where(pair => pair.record.LooksLike >= 0).GroupBy(pair => pair.record.Class).OrderBy(group => group.Key, StringComparer.Ordinal);
        Console.WriteLine("  look-alikes joined: " + string.Join(", ", classes.Select(group =>
            $"{group.Key[1..]} {(double)group.Count(pair => clusterMates[pair.index].Any(mate => truth[mate].Party == pair.record.LooksLike)) / group.Count():0.000}")));
    }

    private static IEnumerable<ScoredPair> PairsOf(FoundCluster cluster)
    {
        for (var i = 0; i < cluster.Members.Count; i++)
        {
            for (var j = i + 1; j < cluster.Members.Count; j++)
                yield return new ScoredPair(cluster.Members[i], cluster.Members[j], 1);
        }
    }

    private static RecordType TypeOf(string name, IReadOnlyList<string> columns, FieldKind[] kinds) => new(
        name, name, name, name, ["id"], "{" + columns[0] + "}", null, null, null, null, default,
        [.. columns.Select((column, index) => new Field(column, column, column, kinds[index], null, null))],
        [], [], new Retirement(true, new Dictionary<string, string>()), new BlockerRules([], new Dictionary<string, IReadOnlyList<string>>()), MatchSettings.None);
}
