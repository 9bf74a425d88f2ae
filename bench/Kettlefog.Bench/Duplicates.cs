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
    private const double MostAnswer = 10,
        MostGrowth = 1.15;

    /// <summary>Measures with the given number of records.</summary>
    /// <param name="records">The number of records.</param>
    /// <param name="seconds">The time allowed from start to clusters.</param>
    /// <param name="byHand">True to compare with a trigram join in PostgreSQL.</param>
    public static async Task<bool> RunAsync(int records, double seconds, bool byHand)
    {
        var met = true;
        foreach (var people in new[] { true, false })
        {
            var type = TypeOf(people);
            var what = people ? "people" : "organisations";
            met &= await WholeCommandAsync(what, type.Name, records, seconds);
            met &= Measure(what, people, records);
            if (byHand)
                await ByHandAsync(Make(people, Compared, Seed), type, people);
        }

        return met;
    }

    /// <summary>Measures accuracy alone.</summary>
    /// <param name="records">The number of records.</param>
    /// <param name="seed">The seed of the made-up records.</param>
    public static bool Quality(int records, int seed)
    {
        var met = true;
        foreach (var people in new[] { true, false })
        {
            var truth = Make(people, records, seed);
            var type = TypeOf(people);
            using var finder = Load(truth, type);
            finder.Prepare([], live: false, CancellationToken.None);
            var pairs = finder.Score(0, finder.Count, null, CancellationToken.None).Pairs;
            Console.WriteLine($"{records} {type.Plural} from seed {seed}");
            met &= Accuracy.Report(truth, pairs, finder.Cluster(pairs, CancellationToken.None).Clusters, finder);
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

    private static bool Measure(string what, bool people, int records)
    {
        var type = TypeOf(people);
        var truth = Make(people, records, Seed);
        var smaller = Make(people, records / 4, Seed);
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
        var met = Accuracy.Report(truth, pairs, clusters, finder);
        met &= Answers(finder, truth);
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

    /// <summary>Records whose truth is known.</summary>
    internal static IReadOnlyList<TruthRecord> Make(bool people, int records, int seed) =>
        people ? PeopleMaker.Make(records, seed) : OrganisationMaker.Make(records, seed);

    /// <summary>Their record type.</summary>
    internal static RecordType TypeOf(bool people) =>
        people ? TypeOf("person", PeopleMaker.Columns) : TypeOf("organisation", OrganisationMaker.Columns);

    /// <summary>A finder with the records, not prepared yet.</summary>
    internal static DuplicateFinder Load(IReadOnlyList<TruthRecord> truth, RecordType type)
    {
        var finder = new DuplicateFinder(
            type,
            [MatchRule.Ready],
            new FinderOptions(1, "GB", [], [], Environment.GetEnvironmentVariable("KF_NOLEARN") is null)
        );
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
                    $"{index},\"{Name(record).Replace("\"", "\"\"", StringComparison.Ordinal)}\",{record.Values[^2]}"
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

    private static IEnumerable<ScoredPair> PairsOf(FoundCluster cluster) =>
        cluster.Members.SelectMany((a, index) => cluster.Members.Skip(index + 1).Select(b => new ScoredPair(a, b, 1)));

    private static RecordType TypeOf(string name, IReadOnlyList<(string Name, string Kind)> columns) =>
        new(
            name,
            name,
            name,
            name,
            ["id"],
            "{" + columns[0].Name + "}",
            null,
            null,
            null,
            null,
            [],
            default,
            [],
            [],
            [
                .. columns.Select(column => new Field(
                    column.Name,
                    column.Name,
                    column.Name,
                    Enum.Parse<FieldKind>(column.Kind.Replace("-", "", StringComparison.Ordinal), ignoreCase: true),
                    null,
                    null
                )),
            ],
            [],
            [],
            new Retirement(true, new Dictionary<string, string>()),
            new BlockerRules([], new Dictionary<string, IReadOnlyList<string>>(), []),
            MatchSettings.None
        );
}
