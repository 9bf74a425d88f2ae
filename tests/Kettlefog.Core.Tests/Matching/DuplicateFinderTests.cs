using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Matching.Scoring;
using Kettlefog.Demo.Truth;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>Finding duplicates as a whole, on made-up records with known truth.</summary>
public class DuplicateFinderTests
{
    private static readonly IReadOnlyList<TruthRecord> People = PeopleMaker.Make(6_000, 11);
    private static readonly IReadOnlyList<TruthRecord> Firms = OrganisationMaker.Make(6_000, 11);

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void Most_copies_are_found_and_little_else(bool people)
    {
        var truth = people ? People : Firms;
        using var finder = Finders.Over(
            people ? Finders.People : Finders.Organisations,
            truth.Select(record => record.Values)
        );
        var joined = finder
            .Clusters()
            .SelectMany(cluster =>
                cluster.Members.SelectMany((a, index) => cluster.Members.Skip(index + 1).Select(b => (a, b)))
            )
            .ToList();
        var right = joined.Count(pair => truth[pair.a].Entity == truth[pair.b].Entity);
        var all = truth.GroupBy(record => record.Entity).Sum(group => group.Count() * (group.Count() - 1) / 2);
        ((double)right / joined.Count).ShouldBeGreaterThan(0.95);
        ((double)right / all).ShouldBeGreaterThan(0.85);
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void What_is_said_is_true_on_records_that_were_not_seen_before(bool people)
    {
        // Another seed and number of records than the calibration was measured with.
        var truth = people ? PeopleMaker.Make(12_000, 23) : OrganisationMaker.Make(12_000, 23);
        using var finder = Finders.Over(
            people ? Finders.People : Finders.Organisations,
            truth.Select(record => record.Values)
        );
        var pairs = finder.Pairs();
        var error = pairs
            .GroupBy(pair => Math.Min(9, (int)(pair.Score * 10)))
            .Sum(tenth =>
                Math.Abs(tenth.Sum(pair => pair.Score - (truth[pair.A].Entity == truth[pair.B].Entity ? 1 : 0)))
            );
        ((double)error / pairs.Count).ShouldBeLessThan(0.025);
        var certain = pairs.Where(pair => pair.Score * 100 >= MatchRule.DefaultAutomatic).ToList();
        certain.Count(pair => truth[pair.A].Entity != truth[pair.B].Entity).ShouldBeLessThan(certain.Count / 300);
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void Blocking_brings_copies_together_and_compares_few_pairs(bool people)
    {
        var truth = people ? People : Firms;
        using var finder = Finders.Over(
            people ? Finders.People : Finders.Organisations,
            truth.Select(record => record.Values)
        );
        var copies = truth
            .Select((record, index) => (record, index))
            .GroupBy(pair => pair.record.Entity)
            .Where(group => group.Count() > 1)
            .Select(group => (A: group.First().index, B: group.Last().index))
            .ToList();
        var together = copies.Count(pair => finder.Compare(pair.A, pair.B).Together);
        ((double)together / copies.Count).ShouldBeGreaterThan(0.95);
        finder
            .Score(0, finder.Count, null, CancellationToken.None)
            .Compared.ShouldBeLessThan((long)(0.02 * finder.Count * finder.Count));
        var sample = finder.MeasureRecall([], CancellationToken.None);
        sample.Pairs.ShouldBeGreaterThan(50);
        ((double)sample.Found / sample.Pairs).ShouldBeGreaterThan(0.97);
    }

    [Theory]
    [InlineData(60)]
    [InlineData(400)]
    public void Many_equal_records_are_one_cluster(int copies)
    {
        // Among others, of which none may be lost for them; and two that are almost equal.
        var firm = Firms[0].Values;
        var typed = firm.ToArray();
        typed[0] = firm[0] + "s";
        var rows = Firms
            .Skip(1)
            .Take(600)
            .Select(record => record.Values)
            .Concat(Enumerable.Repeat(firm, copies - 1))
            .Append(typed)
            .ToList();
        using var finder = Finders.Over(Finders.Organisations, rows, live: true);
        var many = finder.Clusters().MaxBy(cluster => cluster.Members.Count)!;
        many.Members.Count(member => member >= rows.Count - copies).ShouldBe(copies);
        many.Weakest.ShouldBeGreaterThan(0.7);
        var check = finder.MeasureRecall(finder.Clusters(), CancellationToken.None);
        check.Pairs.ShouldBeGreaterThanOrEqualTo(copies * (copies - 1) / 2);
        check.Found.ShouldBe(check.Pairs);
        finder.Report!.CrowdedRecords.ShouldBeGreaterThanOrEqualTo(copies - 1);
        var asked = finder.FindSimilar(typed, 100, 0.7);
        asked.Count.ShouldBeGreaterThan(20);
        asked[0].Number.ShouldBe(rows.Count - 1);
    }

    [Fact]
    public void More_equal_records_than_one_merge_takes_are_several_clusters_and_told()
    {
        var rows = Enumerable.Repeat(Firms[0].Values, (2 * DuplicateFinder.MaxClusterSize) + 50).ToList();
        using var finder = Finders.Over(Finders.Organisations, rows);
        var found = finder.Cluster(finder.Pairs(), CancellationToken.None);
        found.Clusters.Sum(cluster => cluster.Members.Count).ShouldBe(rows.Count);
        found.Clusters.Max(cluster => cluster.Members.Count).ShouldBeLessThanOrEqualTo(DuplicateFinder.MaxClusterSize);
        found.Cut.ShouldBeGreaterThan(0);
    }

    [Fact]
    public void People_with_an_employer_are_people_and_colleagues_are_not_one()
    {
        var rows = People.Select(record => record.Values).ToList();

        // Colleagues have employer, mailbox, phone and address in common.
        var colleagues = new List<(int A, int B)>();
        for (var pair = 0; pair < 200; pair++)
        {
            var (at, with) = (pair * 20, (pair * 20) + 9);
            var (one, other) = (People[at].Values.ToArray(), People[with].Values);
            if (People[at].Entity == People[with].Entity || other[0] is null || one[0] is null || one[0] == other[0])
                continue;
            (one[5], one[7]) = ($"info@firm-{pair}.example", $"Gannet {pair} Ltd");
            rows[at] = one;
            var colleague = one.ToArray();
            (colleague[0], colleague[1], colleague[2], colleague[4]) = (other[0], other[1], other[2], null);
            colleagues.Add((at, rows.Count));
            rows.Add(colleague);
        }

        colleagues.Count.ShouldBeGreaterThan(100);
        using var finder = Finders.Over(Finders.People, rows);
        finder.Entity.ShouldBe(EntityKind.Person);
        var proposed = finder.Pairs().Where(pair => pair.Proposed).Select(pair => (pair.A, pair.B)).ToHashSet();
        ((double)colleagues.Count(proposed.Contains) / colleagues.Count).ShouldBeLessThan(0.03);
        finder
            .Explain(rows[colleagues[0].A], rows[colleagues[0].B])
            .Evidence.Select(each => each.Name)
            .ShouldContain("given_name");
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void Same_data_and_seed_give_same_scores_in_one_go_or_in_slices(bool people)
    {
        var type = people ? Finders.People : Finders.Organisations;

        // A hundred with one e-mail address and nothing else in common are a crowd, of whom not all meet.
        var rows = (people ? People : Firms)
            .Select(
                (record, index) =>
                {
                    var values = record.Values.ToArray();
                    if (index % 60 == 0)
                        values[type.Fields.Index().Single(field => field.Item.Kind == FieldKind.Email).Index] =
                            "post@saltmarrow.example";
                    return values;
                }
            )
            .ToList();
        using var one = Finders.Over(type, rows);
        using var other = new DuplicateFinder(type, [MatchRule.Ready], Finders.Options);
        foreach (var batch in rows.Chunk(713))
            other.Add([.. batch]);
        other.Prepare([], live: true, CancellationToken.None);
        var sliced = new List<FoundPair>();
        for (var from = 0; from < other.Count; from += 1_009)
            sliced.AddRange(other.Score(from, Math.Min(other.Count, from + 1_009), null, CancellationToken.None).Pairs);
        sliced.ShouldBe(one.Pairs());
    }

    [Fact]
    public void What_changed_is_compared_with_everything_once()
    {
        using var finder = Finders.Over(Finders.People, People.Select(record => record.Values));
        var changed = Enumerable.Range(0, finder.Count).Select(number => number % 7 == 0).ToArray();
        var some = finder.Score(0, finder.Count, changed, CancellationToken.None).Pairs;
        some.ShouldBe(finder.Pairs().Where(pair => changed[pair.A] || changed[pair.B]), ignoreOrder: true);
    }

    [Fact]
    public void The_live_index_finds_what_a_scan_finds()
    {
        using var finder = Finders.Over(Finders.People, People.Select(record => record.Values), live: true);
        foreach (var pair in finder.Pairs().Where(pair => pair.Proposed).Take(200))
        {
            var found = finder.FindSimilar(People[pair.A].Values, 50, 0.2);
            found.ShouldContain(each => each.Number == pair.B && Math.Abs(each.Score - pair.Score) < 0.001);
        }
    }

    [Theory]
    [InlineData(true, 70)]
    [InlineData(false, 70)]
    [InlineData(true, 3)]
    public void No_pair_is_given_up_that_comparing_to_the_end_would_keep(bool people, double review)
    {
        var truth = people ? People : Firms;
        using var finder = Finders.Over(
            people ? Finders.People : Finders.Organisations,
            truth.Select(record => record.Values),
            live: true,
            MatchRule.Ready with
            {
                Review = review,
            }
        );

        // A single record is fully compared with all others.
        var least = Math.Min(DuplicateFinder.Floor, review / 100);
        var whole = truth.SelectMany(
            (record, number) =>
                finder
                    .FindSimilar(record.Values, int.MaxValue, least)
                    .Where(like => like.Number > number)
                    .Select(like => (A: number, B: like.Number, like.Score))
        );
        finder.Pairs().Select(pair => (pair.A, pair.B, pair.Score)).ShouldBe(whole, ignoreOrder: true);
    }

    [Fact]
    public void The_live_index_follows_changes()
    {
        using var finder = Finders.Over(Finders.People, People.Select(record => record.Values), live: true);
        string?[] newcomer =
        [
            "Quintilla",
            null,
            "Zwartewaal",
            null,
            "1961-02-03",
            "q.zwartewaal@ebb.example",
            "01632 960444",
            "3 Fish Street",
            null,
            "Saltmarrow",
        ];
        finder.FindSimilar(newcomer, 5, 0.5).ShouldBeEmpty();
        var number = finder.AddFresh(newcomer);
        finder.FindSimilar(newcomer, 5, 0.5).Single().Number.ShouldBe(number);
        finder.Remove(number);
        finder.FindSimilar(newcomer, 5, 0.5).ShouldBeEmpty();
    }

    [Fact]
    public async Task Many_may_ask_while_records_come_and_go()
    {
        using var finder = Finders.Over(Finders.People, People.Take(2_000).Select(record => record.Values), live: true);
        var asking = Enumerable
            .Range(0, 4)
            .Select(asker =>
                Task.Run(() =>
                {
                    for (var index = asker; index < 2_000; index += 4)
                        finder.FindSimilar(People[index].Values, 5, 0.2).ShouldAllBe(found => found.Number < 2_400);
                })
            )
            .ToList();
        for (var index = 2_000; index < 2_400; index++)
        {
            var number = finder.AddFresh(People[index].Values);
            number.ShouldBe(index);
            if (index % 3 == 0)
                finder.Remove(number);
        }

        await Task.WhenAll(asking);
    }

    [Fact]
    public void What_is_kept_apart_is_not_proposed_nor_clustered()
    {
        using var before = Finders.Over(Finders.People, People.Select(record => record.Values));
        var cluster = before.Clusters().First(found => found.Members.Count == 2);
        using var finder = new DuplicateFinder(Finders.People, [MatchRule.Ready], Finders.Options);
        finder.Add([.. People.Select(record => record.Values)]);
        finder.AddNonDuplicates(cluster.Members[1], cluster.Members[0]);
        finder.Prepare([], live: false, CancellationToken.None);
        finder.Pairs().ShouldNotContain(pair => pair.A == cluster.Members[0] && pair.B == cluster.Members[1]);
        finder
            .Clusters()
            .ShouldNotContain(found =>
                found.Members.Contains(cluster.Members[0]) && found.Members.Contains(cluster.Members[1])
            );
    }

    [Fact]
    public void Among_few_records_a_rare_value_is_still_rare()
    {
        string?[][] rows =
        [
            ["Anna", "Maria", "Berg", null, "1970-02-03", "anna.berg@x.example", null, null, null, null, null, null],
            ["Anna", "M.", "Berg", null, "1970-02-03", null, null, null, null, null, null, null],
            ["Mary", null, "Smith-Jones", null, null, "mary.jones@x.example", null, null, null, null, null, null],
            ["Mary", null, "Jones", null, null, "mary.jones@x.example", null, null, null, null, null, null],
            ["Odd", null, "Larsen", null, "1981-01-05", "odd@y.example", null, null, null, null, null, null],
        ];
        using var finder = Finders.Over(Finders.People, rows);
        finder.Clusters().Select(cluster => string.Join(' ', cluster.Members)).ShouldBe(["0 1", "2 3"]);
    }

    [Fact]
    public void A_switchboard_loses_its_weight()
    {
        var rows = PeopleMaker.Make(1_500, 4).Select(record => record.Values.ToArray()).ToList();
        for (var index = 0; index < 60; index++)
            rows[index][6] = "01632 960999";
        using var finder = Finders.Over(Finders.People, rows);
        string?[] Only(string phone) => [.. new string?[6], phone, .. new string?[5]];
        var shared = finder.Explain(Only("01632 960999"), Only("01632 960999")).Evidence.Single();
        var usual = rows[700][6] ?? "01632 960321";
        var own = finder.Explain(Only(usual), Only(usual)).Evidence.Single();
        shared.Weight.ShouldBeLessThan(own.Weight - 3);
    }

    [Fact]
    public void Rules_of_a_clerk_decide_alone_or_with_the_score()
    {
        string?[][] rows =
        [
            ["Gannet Chandlery", "GB404118207", null, "a@one.example", null, null, null, null, "Saltmarrow", null],
            ["Kelpie Sawmill", "GB404118207", null, "b@two.example", null, null, null, null, "Ternhaven", null],
            ["Gannet Chandlery", "GB999111222", null, "a@one.example", null, null, null, null, "Saltmarrow", null],
        ];
        using var byTax = Finders.Over(
            Finders.Organisations,
            rows,
            false,
            Rule("any_of: [[{field: tax_number, is: same-digits}]]")
        );
        byTax.Pairs().Where(pair => pair.Proposed).Select(pair => (pair.A, pair.B)).ShouldBe([(0, 1)]);
        byTax
            .Clusters()
            .Single()
            .Members.ShouldBe([0, 1], "what a rule proposes lands in the queue, also if the score doubts it");
        using var never = Finders.Over(
            Finders.Organisations,
            rows,
            false,
            Rule("{any_of: [[{field: email, is: same-mailbox}]], never: [{field: tax_number, differs: same-digits}]}")
        );
        never.Clusters().ShouldBeEmpty();
        using var similar = Finders.Over(
            Finders.Organisations,
            rows,
            false,
            Rule(
                "any_of: [[{field: name, is: similar-organisation-name, at_least: 90}, {field: city, is: "
                    + "ignoring-case}]]"
            )
        );
        similar.Pairs().Where(pair => pair.Proposed).Select(pair => (pair.A, pair.B)).ShouldBe([(0, 2)]);
        using var scoped = Finders.Over(
            Finders.Organisations,
            rows,
            false,
            Rule("{any_of: [[{field: tax_number, is: same-digits}]], scope: [{field: city, not_in: [Ternhaven]}]}")
        );
        scoped.Pairs().ShouldNotContain(pair => pair.Proposed);
    }

    [Fact]
    public void Partitions_are_crossed_only_by_a_rule_that_says_so()
    {
        var type = Finders.TypeOf(
            ["name", "tax", "entity"],
            [FieldKind.OrganisationName, FieldKind.TaxNumber, FieldKind.Code]
        );
        string?[][] rows =
        [
            ["Gannet Chandlery", "GB404118207", "SHT"],
            ["Gannet Chandlery", "GB404118207", "SBY"],
        ];
        IReadOnlyList<FoundPair> Found(string rule)
        {
            using var finder = new DuplicateFinder(
                type,
                [MatchRuleReader.Read("rule", rule, type)],
                Finders.Options with
                {
                    Partition = ["entity"],
                }
            );
            finder.Add(rows);
            finder.Prepare([], false, CancellationToken.None);
            return [.. finder.Pairs().Where(pair => pair.Proposed)];
        }

        Found("any_of: [[{field: tax, is: same-digits}]]").ShouldBeEmpty();
        Found("{any_of: [[{field: tax, is: same-digits}]], cross_partitions: true}").Count.ShouldBe(1);
    }

    [Fact]
    public async Task Hostile_text_neither_breaks_nor_stalls()
    {
        string[] hostile =
        [
            new('a', 1_000_000),
            string.Concat(Enumerable.Repeat("ab ", 200_000)),
            "\ud800lone",
            "\udc00\ud800",
            "\u202Eevil\u202C",
            "👩‍🚀 👨‍👩‍👧",
            "ابن سينا",
            "王小明",
            "a\0b",
            "'; DROP",
            new('\u0301', 5_000),
            "%_\\",
            "\uFFFF",
            new('9', 100_000),
            "@@@@",
            "+++",
            "1/1/1/1",
        ];
        var rows = hostile
            .Select(text => Enumerable.Repeat<string?>(text, 10).ToArray())
            .Concat(hostile.Select(text => Enumerable.Repeat<string?>(text + "x", 10).ToArray()))
            .ToList();
        await Task.Run(() =>
            {
                using var people = Finders.Over(Finders.People, rows, live: true);
                people.Clusters();
                foreach (var row in rows)
                {
                    people.FindSimilar(row, 5, 0.1);
                    people.Explain(row, rows[0]).Score.ShouldBeInRange(0, 1);
                }

                using var firms = Finders.Over(Finders.Organisations, rows.Select(row => row[..8]));
                firms.Clusters();
            })
            .WaitAsync(TimeSpan.FromSeconds(60));
    }

    private static MatchRule Rule(string yaml) => MatchRuleReader.Read("rule", yaml, Finders.Organisations);
}
