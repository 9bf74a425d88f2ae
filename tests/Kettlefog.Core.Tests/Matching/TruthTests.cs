using Kettlefog.Demo.Truth;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>The made-up data for measurements have the properties that they claim.</summary>
public class TruthTests
{
    public static TheoryData<bool> Both => [true, false];

    [Theory]
    [MemberData(nameof(Both))]
    public void Copies_are_worn_values_are_missing_and_look_alikes_abound(bool people)
    {
        var truth = Make(people, 20_000, 5);
        var copies = truth.Where(record => record.Class.Length > 0 && record.Class[0] != '~').ToList();
        (
            (double)copies.Count(copy => copy.Class.Contains('+', StringComparison.Ordinal)) / copies.Count
        ).ShouldBeGreaterThan(0.45, "about half have two errors or more, beside what is left out");
        var columns = people ? PeopleMaker.Columns : OrganisationMaker.Columns;
        var counted = Enumerable
            .Range(0, columns.Count)
            .Where(column => columns[column].Name is not ("suffix" or "middle_name" or "company"))
            .ToList();
        var missing =
            truth.Sum(record => counted.Count(column => record.Values[column] is null))
            / (double)(truth.Count * counted.Count);
        missing.ShouldBeInRange(0.12, 1.0 / 3);
        var alike =
            truth.Where(record => record.LooksLike >= 0).Select(record => record.LooksLike).Distinct().Count()
            + truth.Count(record => record.LooksLike >= 0);
        ((double)alike / truth.Count).ShouldBeGreaterThan(0.25);
        truth.Where(record => record.LooksLike >= 0).ShouldAllBe(record => record.Entity != record.LooksLike);
        truth
            .Select(record => record.Class)
            .Where(klass => klass.StartsWith('~'))
            .Distinct()
            .Count()
            .ShouldBe(people ? 9 : 6);
        truth.ShouldAllBe(record => record.Values.Length == columns.Count);
    }

    [Theory]
    [MemberData(nameof(Both))]
    public void The_same_seed_makes_the_same_data_and_another_one_other_data(bool people)
    {
        string Text(int seed) =>
            string.Join(
                '\n',
                Make(people, 500, seed)
                    .Select(record => $"{record.Entity};{record.Class};{string.Join(';', record.Values)}")
            );
        Text(3).ShouldBe(Text(3));
        Text(3).ShouldNotBe(Text(4));
    }

    [Fact]
    public void Records_are_written_as_their_sources_write()
    {
        var people = Make(true, 20_000, 1);
        double Share(Func<string?[], bool> holds) =>
            people.Count(record => holds(record.Values)) / (double)people.Count;
        Share(values => values[2] == values[2]?.ToUpperInvariant()).ShouldBeInRange(0.1, 0.2, "capitals");
        Share(values => values.Any(value => value?.Contains('Ã') == true))
            .ShouldBeGreaterThan(0.01, "the wrong encoding");
        Share(values => values[11] is null).ShouldBeInRange(0.3, 0.45, "no country");
        Share(values => values[7] is not null).ShouldBeInRange(0.35, 0.6, "an employer");
        Share(values => values[0] is null && values[2]!.Contains(' ', StringComparison.Ordinal))
            .ShouldBeInRange(0.01, 0.06, "the whole name in one field");
        people.GroupBy(record => record.Entity).Max(group => group.Count()).ShouldBeGreaterThan(4);
    }

    [Fact]
    public void Every_error_and_every_look_alike_is_met()
    {
        var people = Make(true, 20_000, 1).SelectMany(record => record.Class.Split('+')).ToHashSet();
        people.ShouldBeSupersetOf([
            "typo",
            "transposition",
            "phonetic",
            "scanned",
            "nickname",
            "swapped names",
            "initial",
            "new surname",
            "lost accents",
            "other e-mail",
            "moved house",
            "date swap",
            "other employer",
            "annotation",
            "middle name",
            "part of the surname",
            "~family",
            "~twin",
            "~colleague",
            "~namesake",
            "~name in the mailbox",
            "~father and son",
            "~common name",
            "~shared mailbox",
            "~neighbour",
        ]);
        var firms = Make(false, 20_000, 1).SelectMany(record => record.Class.Split('+')).ToHashSet();
        firms.ShouldBeSupersetOf([
            "typo",
            "legal form",
            "word order",
            "abbreviation",
            "acronym",
            "moved house",
            "trading name",
            "annotation",
            "own town",
            "department",
            "form in front",
            "~branch",
            "~holding",
            "~subsidiary",
            "~shared mailbox",
            "~neighbour",
        ]);
    }

    private static IReadOnlyList<TruthRecord> Make(bool people, int records, int seed) =>
        people ? PeopleMaker.Make(records, seed) : OrganisationMaker.Make(records, seed);
}

internal static class Sets
{
    public static void ShouldBeSupersetOf(this HashSet<string> set, IEnumerable<string> wanted) =>
        wanted.Where(each => !set.Contains(each)).ShouldBeEmpty();
}
