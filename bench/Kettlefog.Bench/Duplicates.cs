using System.Diagnostics;
using System.Globalization;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Matching.Clustering;
using Kettlefog.Core.Matching.Rules;
using Kettlefog.Demo.Truth;
using Kettlefog.Testing;

namespace Kettlefog.Bench;

/// <summary>Accuracy and speed of finding duplicates, on made-up data with known truth.</summary>
internal static class Duplicates
{
    private const int Seed = 7;
    private const int Compared = 20_000;
    private const int Questions = 5_000;
    private const double LeastF1 = 0.96,
        LeastPrecision = 0.98,
        MostJoined = 0.03,
        MostAnswer = 10,
        MostGrowth = 1.15;

    private static readonly FieldKind[] PeopleKinds =
    [
        FieldKind.GivenName,
        FieldKind.MiddleName,
        FieldKind.FamilyName,
        FieldKind.NameSuffix,
        FieldKind.BirthDate,
        FieldKind.Email,
        FieldKind.Phone,
        FieldKind.Street,
        FieldKind.Postcode,
        FieldKind.City,
    ];

    private static readonly FieldKind[] OrganisationKinds =
    [
        FieldKind.OrganisationName,
        FieldKind.TaxNumber,
        FieldKind.Email,
        FieldKind.Phone,
        FieldKind.Url,
        FieldKind.Street,
        FieldKind.Postcode,
        FieldKind.City,
    ];

    /// <summary>Measures with the given number of records.</summary>
    /// <param name="records">The number of records.</param>
    /// <param name="seconds">The time allowed from start to clusters.</param>
    /// <param name="byHand">True to compare with a trigram join in PostgreSQL.</param>
    public static async Task<bool> RunAsync(int records, double seconds, bool byHand)
    {
        var met = true;
        foreach (var people in new[] { true, false })
        {
            var make = people ? PeopleMaker.Make : (Func<int, int, IReadOnlyList<TruthRecord>>)OrganisationMaker.Make;
            var type = people
                ? TypeOf("person", PeopleMaker.Columns, PeopleKinds)
                : TypeOf("organisation", OrganisationMaker.Columns, OrganisationKinds);
            var what = people ? "people" : "organisations";
            met &= await WholeCommandAsync(what, type.Name, records, seconds);
            met &= Measure(what, make, type, records);
            if (byHand)
                await ByHandAsync(make(Compared, Seed), type, people);
        }

        return met;
    }

    /// <summary>The command as a user runs it, from its start to the written clusters.</summary>
    private static async Task<bool> WholeCommandAsync(string what, string type, int records, double seconds)
    {
        using var folder = new TempFolder();
        (await Programs.RunAsync(Programs.Demo, [what, folder.Path, $"{records}", $"{Seed}"])).ShouldSucceed();
        var clock = Stopwatch.StartNew();
        using var process = Programs.Start(
            Programs.Service,
            [
                "find",
                type,
                "--database",
                Path.Combine(folder.Path, what + ".db"),
                "--map",
                Path.Combine(folder.Path, what + ".map.yaml"),
                "--clusters",
                Path.Combine(folder.Path, "clusters.csv"),
            ]
        );
        long peak = 0;
        while (!process.WaitForExit(50))
        {
            process.Refresh();
            peak = Math.Max(peak, process.HasExited ? 0 : process.PeakWorkingSet64);
        }

        var took = clock.Elapsed.TotalSeconds;
        Console.WriteLine(
            $"{records} {what}, one command from start to clusters: {took:0.0} s, at most {seconds:0} s "
                + $"allowed; peak {peak >> 20} MiB{(took <= seconds ? "" : "  TOO SLOW")}"
        );
        return took <= seconds && process.ExitCode == 0;
    }

    private static bool Measure(
        string what,
        Func<int, int, IReadOnlyList<TruthRecord>> make,
        RecordType type,
        int records
    )
    {
        var truth = make(records, Seed);
        var smaller = make(records / 4, Seed);
        Time(smaller, type);
        var quarter = Time(smaller, type);
        var whole = Time(truth, type);
        var growth = Math.Log(whole / quarter) / Math.Log(4);
        Console.WriteLine(
            $"  grows like n^{growth:0.00} from {smaller.Count} to {truth.Count}; at most n^{MostGrowth:0.00} allowed"
        );

        using var finder = Load(truth, type);
        var report = finder.Prepare([], live: true, CancellationToken.None);
        var (pairs, compared) = finder.Score(0, finder.Count, null, CancellationToken.None);
        var clusters = finder.Cluster(pairs, CancellationToken.None).Clusters;
        Console.WriteLine(
            $"  {compared} pairs compared, {(double)compared / truth.Count:0.0} a record; {report.Keys} keys, "
                + $"{report.Crowded} crowded, of {report.CrowdedRecords} records"
        );
        var sampling = Stopwatch.StartNew();
        var sample = finder.MeasureRecall(clusters, CancellationToken.None);
        Console.WriteLine(
            $"  {sample.Records} records compared with all: {sample.Found} of {sample.Pairs} pairs are found, in "
                + $"{sampling.Elapsed.TotalSeconds:0.0} s"
        );
        var total = truth.GroupBy(record => record.Entity).Sum(group => (long)group.Count() * (group.Count() - 1) / 2);
        foreach (var threshold in new[] { 0.5, 0.7, 0.9, 0.99 })
        {
            var above = pairs.Where(pair => pair.Score >= threshold).ToList();
            Print(
                $"pairs from {threshold:0.00}",
                above.Count,
                above.Count(pair => truth[pair.A].Entity == truth[pair.B].Entity),
                total
            );
        }

        var joined = clusters.SelectMany(PairsOf).ToList();
        var met = Print(
            "clusters",
            joined.Count,
            joined.Count(pair => truth[pair.A].Entity == truth[pair.B].Entity),
            total
        );
        Console.WriteLine($"  at least F1 {LeastF1} and precision {LeastPrecision} wanted{(met ? "" : "  NOT MET")}");
        Recall(truth, [.. joined.Select(pair => (pair.A, pair.B))]);
        met &= LookAlikes(truth, joined);
        met &= Answers(finder, truth);
        if (Environment.GetEnvironmentVariable("KETTLEFOG_BENCH_SHOW") is not null)
            ShowMistakes(truth, joined, finder);
        return met && growth <= MostGrowth;
    }

    private static double Time(IReadOnlyList<TruthRecord> truth, RecordType type)
    {
        var clock = Stopwatch.StartNew();
        using var finder = Load(truth, type);
        finder.Prepare([], live: false, CancellationToken.None);
        finder.Cluster(finder.Score(0, finder.Count, null, CancellationToken.None).Pairs, CancellationToken.None);
        return clock.Elapsed.TotalSeconds;
    }

    private static DuplicateFinder Load(IReadOnlyList<TruthRecord> truth, RecordType type)
    {
        var finder = new DuplicateFinder(type, [MatchRule.Ready], new FinderOptions(1, "GB", [], []));
        foreach (var batch in truth.Chunk(20_000))
            finder.Add([.. batch.Select(record => record.Values)]);
        return finder;
    }

    /// <summary>One record against the live index.</summary>
    private static bool Answers(DuplicateFinder finder, IReadOnlyList<TruthRecord> truth)
    {
        var times = new List<double>();
        var step = Math.Max(1, truth.Count / Questions);
        for (var index = 0; index < truth.Count; index += step)
        {
            var clock = Stopwatch.GetTimestamp();
            finder.FindSimilar(truth[index].Values, 10, 0.2);
            times.Add(Stopwatch.GetElapsedTime(clock).TotalMilliseconds);
        }

        times.Sort();
        var p99 = times[(int)(times.Count * 0.99)];
        Console.WriteLine(
            $"  one record against the live index of {truth.Count}: median {times[times.Count / 2]:0.00} ms, "
                + $"p99 {p99:0.00} ms; at most {MostAnswer:0} ms allowed{(p99 <= MostAnswer ? "" : "  TOO SLOW")}"
        );
        return p99 <= MostAnswer;
    }

    /// <summary>
    /// The alternative that a user would write: a join by trigram similarity of the names, within one town.
    /// </summary>
    private static async Task ByHandAsync(IReadOnlyList<TruthRecord> truth, RecordType type, bool people)
    {
        using var folder = new TempFolder();
        var input = Path.Combine(folder.Path, "in.csv");
        var output = Path.Combine(folder.Path, "out.csv");
        string Name(TruthRecord record) => people ? $"{record.Values[0]} {record.Values[2]}".Trim() : record.Values[0]!;
        await File.WriteAllLinesAsync(
            input,
            truth.Select(
                (record, index) =>
                    $"{index},\"{Name(record).Replace("\"", "\"\"", StringComparison.Ordinal)}\",{record.Values[^1]}"
            )
        );
        using var script = Process.Start(
            new ProcessStartInfo("bash", [Path.Combine(AppContext.BaseDirectory, "trigram.sh"), input, output, "0.6"])
            {
                RedirectStandardOutput = true,
            }
        )!;
        var said = await script.StandardOutput.ReadToEndAsync();
        await script.WaitForExitAsync();
        if (script.ExitCode != 0)
        {
            Console.WriteLine("  by hand in PostgreSQL: not measured");
            return;
        }

        var theirs = double.Parse(said.Trim().Split('\n')[^1], CultureInfo.InvariantCulture);
        var found = (await File.ReadAllLinesAsync(output))
            .Select(line => line.Split(','))
            .Select(pair =>
                (
                    A: int.Parse(pair[0], CultureInfo.InvariantCulture),
                    B: int.Parse(pair[1], CultureInfo.InvariantCulture)
                )
            )
            .ToList();
        var total = truth.GroupBy(record => record.Entity).Sum(group => (long)group.Count() * (group.Count() - 1) / 2);
        var theirF1 = F1(found.Count, found.Count(pair => truth[pair.A].Entity == truth[pair.B].Entity), total);
        Time(truth, type);
        var ours = Time(truth, type);
        using var finder = Load(truth, type);
        finder.Prepare([], live: false, CancellationToken.None);
        var joined = finder
            .Cluster(finder.Score(0, finder.Count, null, CancellationToken.None).Pairs, CancellationToken.None)
            .Clusters.SelectMany(PairsOf)
            .ToList();
        var ourF1 = F1(joined.Count, joined.Count(pair => truth[pair.A].Entity == truth[pair.B].Entity), total);
        Console.WriteLine(
            $"  against a trigram self-join in PostgreSQL, {truth.Count} records: {ours:0.0} s against "
                + $"{theirs:0.0} s, {theirs / ours:0.0} times as fast; F1 {ourF1:0.000} against {theirF1:0.000}"
        );
    }

    private static double F1(int found, int right, long total) => 2.0 * right / Math.Max(1, found + total);

    private static bool Print(string what, int found, int right, long total)
    {
        var (precision, recall, f1) = (
            (double)right / Math.Max(1, found),
            (double)right / Math.Max(1, total),
            F1(found, right, total)
        );
        Console.WriteLine($"  {what, -18} precision {precision:0.0000}  recall {recall:0.0000}  F1 {f1:0.0000}");
        return f1 >= LeastF1 && precision >= LeastPrecision;
    }

    private static void Recall(IReadOnlyList<TruthRecord> truth, HashSet<(int, int)> joined)
    {
        var first = new Dictionary<int, int>();
        for (var index = 0; index < truth.Count; index++)
        {
            if (truth[index].Class.Length == 0 || truth[index].Class[0] == '~')
                first[truth[index].Entity] = index;
        }

        var met = new SortedDictionary<string, (int All, int Found)>();
        for (var index = 0; index < truth.Count; index++)
        {
            var record = truth[index];
            if (record.Class.Length == 0 || record.Class[0] == '~')
                continue;
            var other = first[record.Entity];
            var found = joined.Contains((Math.Min(index, other), Math.Max(index, other)));
            foreach (var each in record.Class.Split('+'))
            {
                var (seen, hits) = met.GetValueOrDefault(each);
                met[each] = (seen + 1, hits + (found ? 1 : 0));
            }
        }

        Console.WriteLine(
            "  recall by corruption: "
                + string.Join(", ", met.Select(pair => $"{pair.Key} {(double)pair.Value.Found / pair.Value.All:0.000}"))
        );
    }

    private static bool LookAlikes(IReadOnlyList<TruthRecord> truth, List<ScoredPair> joined)
    {
        var mates = joined
            .SelectMany(pair => new[] { (pair.A, pair.B), (pair.B, pair.A) })
            .ToLookup(pair => pair.Item1, pair => pair.Item2);
        var shares = truth
            .Select((record, index) => (record, index))
            .Where(pair => pair.record.LooksLike >= 0)
            .GroupBy(pair => pair.record.Class)
            .OrderBy(group => group.Key, StringComparer.Ordinal)
            .Select(group =>
                (
                    Name: group.Key[1..],
                    Share: (double)
                        group.Count(pair => mates[pair.index].Any(mate => truth[mate].Entity == pair.record.LooksLike))
                        / group.Count()
                )
            )
            .ToList();
        Console.WriteLine(
            "  look-alikes joined: "
                + string.Join(
                    ", ",
                    shares.Select(share =>
                        $"{share.Name} {share.Share:0.000}{(share.Share <= MostJoined ? "" : " TOO MANY")}"
                    )
                )
        );
        return shares.All(share => share.Share <= MostJoined);
    }

    private static void ShowMistakes(IReadOnlyList<TruthRecord> truth, List<ScoredPair> joined, DuplicateFinder finder)
    {
        void Show(string word, int a, int b)
        {
            Console.WriteLine($"  {word} {truth[a].Class} / {truth[b].Class}");
            Console.WriteLine($"     {string.Join(" | ", truth[a].Values)}");
            Console.WriteLine($"     {string.Join(" | ", truth[b].Values)}");
            Console.WriteLine(
                "     "
                    + $"{string.Join(", ", finder.Explain(truth[a].Values, truth[b].Values).Evidence
                        .Select(each => $"{each.Words} {each.Weight:+0.0;-0.0}"))}"
            );
        }

        foreach (var pair in joined.Where(pair => truth[pair.A].Entity != truth[pair.B].Entity).Take(25))
            Show("WRONG", pair.A, pair.B);
        var have = joined.Select(pair => (pair.A, pair.B)).ToHashSet();
        var entities = truth
            .Select((record, index) => (record, index))
            .GroupBy(pair => pair.record.Entity)
            .Where(group => group.Count() > 1)
            .Select(group => (A: group.First().index, B: group.Skip(1).First().index));
        foreach (var (a, b) in entities.Where(pair => !have.Contains(pair)).Take(40))
            Show("MISSED", a, b);
    }

    private static IEnumerable<ScoredPair> PairsOf(FoundCluster cluster) =>
        cluster.Members.SelectMany((a, index) => cluster.Members.Skip(index + 1).Select(b => new ScoredPair(a, b, 1)));

    private static RecordType TypeOf(string name, IReadOnlyList<string> columns, FieldKind[] kinds) =>
        new(
            name,
            name,
            name,
            name,
            ["id"],
            "{" + columns[0] + "}",
            null,
            null,
            null,
            null,
            [],
            default,
            [],
            [],
            [.. columns.Select((column, index) => new Field(column, column, column, kinds[index], null, null))],
            [],
            [],
            new Retirement(true, new Dictionary<string, string>()),
            new BlockerRules([], new Dictionary<string, IReadOnlyList<string>>(), []),
            MatchSettings.None
        );
}
