using CsCheck;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging.Survivorship;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Tests;

public class SurvivorshipTests
{
    private static readonly string?[] Values = [null, " ", "a", "bb", "ccc", "10", "9"];
    private static readonly string?[] Moments = [null, "2020-01-01", "2021-01-01"];

    private static readonly Gen<Candidate> AnyCandidate = Gen.Select(
        Gen.Int[0, Values.Length - 1],
        Gen.Int[0, Moments.Length - 1],
        Gen.Int[0, Moments.Length - 1],
        (value, created, changed) => Of(Values[value], Moments[created], Moments[changed])
    );

    [Theory]
    [InlineData(SurvivorshipRule.Master, 0)]
    [InlineData(SurvivorshipRule.MasterUnlessBlank, 1)]
    [InlineData(SurvivorshipRule.Newest, 2)]
    [InlineData(SurvivorshipRule.Oldest, 1)]
    [InlineData(SurvivorshipRule.Longest, 3)]
    [InlineData(SurvivorshipRule.MostCommon, 2)]
    [InlineData(SurvivorshipRule.Largest, 2)]
    [InlineData(SurvivorshipRule.Smallest, 3)]
    public void Each_rule_chooses_what_its_name_says(SurvivorshipRule rule, int expected)
    {
        Candidate[] candidates =
        [
            Of(null, "2010-01-01", "2026-01-01"),
            Of("50", "2011-01-01", "2020-01-01"),
            Of("120", "2012-01-01", "2025-01-01"),
            Of("9.00", "2013-01-01", null),
            Of("120", null, "2019-01-01"),
        ];
        SurvivorshipResolver.Resolve(rule, candidates).ShouldBe(expected);
    }

    [Fact]
    public void No_rule_but_master_chooses_a_blank_where_there_is_a_value() =>
        Gen.Select(Gen.Enum<SurvivorshipRule>(), AnyCandidate.Array[1, 6])
            .Sample(
                (rule, candidates) =>
                {
                    var chosen = candidates[SurvivorshipResolver.Resolve(rule, candidates)];
                    return rule == SurvivorshipRule.Master
                        || !chosen.Value.IsBlank
                        || candidates.All(candidate => candidate.Value.IsBlank);
                }
            );

    [Fact]
    public void A_tie_goes_to_the_earlier_record() =>
        Gen.Select(Gen.Enum<SurvivorshipRule>(), AnyCandidate, Gen.Int[1, 5])
            .Sample(
                (rule, candidate, count) =>
                    SurvivorshipResolver.Resolve(rule, Enumerable.Repeat(candidate, count).ToList()) == 0
            );

    [Theory]
    [InlineData("2026-03-09T10:00:00+02:00", "2026-03-09T09:00:00Z", -1)]
    [InlineData("2026-03-09 10:00:00+00", "2026-03-09T12:00:00+02:00", 0)]
    [InlineData("2026-03-09T23:30:00-05:00", "2026-03-10", 1)]
    [InlineData("2026-03-09T10:00:00.5Z", "2026-03-09T10:00Z", 1)]
    [InlineData("2026-03-09", "2026-03-09T00:00:00", 0)]
    [InlineData("2026-13-09", "2026-03-09", 1)]
    public void Points_in_time_are_compared_by_when_they_are_whatever_their_time_zone(
        string left,
        string right,
        int expected
    )
    {
        Math.Sign(SurvivorshipResolver.CompareValues(ColumnValue.Of(left), ColumnValue.Of(right))).ShouldBe(expected);
        Math.Sign(SurvivorshipResolver.CompareValues(ColumnValue.Of(right), ColumnValue.Of(left))).ShouldBe(-expected);
    }

    [Fact]
    public void Numbers_are_compared_as_numbers_and_not_as_text()
    {
        SurvivorshipResolver.CompareValues(ColumnValue.Of("9"), ColumnValue.Of("10")).ShouldBeLessThan(0);
        SurvivorshipResolver.CompareValues(ColumnValue.Of("1.0"), ColumnValue.Of(1L)).ShouldBe(0);
    }

    [Theory]
    [InlineData("red; blue", "Blue;green", null, "red; blue; green")]
    [InlineData("red,blue", "green", null, "red,blue,green")]
    [InlineData("red", "blue", null, "red, blue")]
    [InlineData("a|b", "b|c", "|", "a|b|c")]
    [InlineData("[\"red\", 7]", "[\"blue\", 7]", null, "[\"red\",7,\"blue\"]")]
    [InlineData("[\"red\"]", "blue", null, "[\"red\",\"blue\"]")]
    [InlineData("[not json", "b", null, "[not json, b")]
    [InlineData("naïve", "NAÏVE", null, "naïve")]
    public void Sets_are_united_each_member_once(string a, string b, string? separator, string expected)
    {
        var survivor = SurvivorshipResolver
            .Decide(SurvivorshipRule.Union, [Of(a, null, null), Of(b, null, null)], separator)!
            .Value;
        survivor.Value.ToText().ShouldBe(expected);
        survivor.From.ShouldBe(expected == a ? 0 : null);
    }

    [Fact]
    public void A_union_has_every_member_and_uniting_again_changes_nothing() =>
        Gen.String[Gen.Char["abcAB; ,|"], 0, 8]
            .Array[2, 5]
            .Sample(sets =>
            {
                var candidates = sets.Select(set => Of(set, null, null)).ToList();
                var united = SurvivorshipResolver.Decide(SurvivorshipRule.Union, candidates, ";")!.Value.Value;
                if (candidates.Count(candidate => !candidate.IsBlank) < 2)
                    return;
                static HashSet<string> Members(string? text) =>
                    [
                        .. (text ?? "")
                            .Split(';', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                            .Select(each => each.ToUpperInvariant()),
                    ];
                Members(united.ToText()).SetEquals(sets.SelectMany(Members)).ShouldBeTrue(united.ToText());
                SurvivorshipResolver
                    .Decide(SurvivorshipRule.Union, [Of(united.ToText(), null, null), .. candidates], ";")!
                    .Value.Value.ToText()
                    ?.Trim()
                    .ShouldBe(united.ToText()?.Trim());
            });

    [Fact]
    public void Appended_text_names_the_origin_of_each_part_and_repeats_none()
    {
        Candidate Text(string? text, string origin) =>
            new(ColumnValue.Of(text), ColumnValue.Null, ColumnValue.Null, string.IsNullOrWhiteSpace(text), 0, origin);
        string? Append(params Candidate[] candidates) =>
            SurvivorshipResolver.Decide(SurvivorshipRule.Append, candidates)!.Value.Value.ToText();
        Append(Text("Prefers e-mail. ", "1, clerk"), Text("Asks for separate bills.", "2, import"), Text("e-mail", "3"))
            .ShouldBe("Prefers e-mail.\n\n[2, import] Asks for separate bills.");
        Append(Text(null, "1"), Text("one", "2"), Text("two", "3")).ShouldBe("one\n\n[3] two");
        Append(Text("same", "1"), Text("same", "2")).ShouldBe("same");
        Append(Text("same ", "1"), Text(" ", "2")).ShouldBe("same ");
    }

    [Theory]
    [InlineData("0.1", "0.2", "0.3")]
    [InlineData("9007199254740993", "1", "9007199254740994")]
    [InlineData("1.10", "2.205", "3.305")]
    [InlineData("ten", "1", null)]
    [InlineData("79228162514264337593543950335", "79228162514264337593543950335", null)]
    public void A_total_is_exact_and_adds_up_nothing_but_numbers(string a, string b, string? expected) =>
        SurvivorshipResolver
            .Decide(SurvivorshipRule.Total, [Of(a, null, null), Of(b, null, null), Of(null, null, null)])
            ?.Value.ToText()
            .ShouldBe(expected);

    [Fact]
    public void The_source_that_goes_first_wins_and_a_placeholder_does_not_count()
    {
        Candidate From(string? value, int place, bool blank = false) =>
            new(ColumnValue.Of(value), ColumnValue.Null, ColumnValue.Null, blank || value is null, place);
        SurvivorshipResolver
            .Resolve(SurvivorshipRule.SourceOrder, [From("a", 2), From("b", 0), From("c", 0)])
            .ShouldBe(1);
        SurvivorshipResolver
            .Resolve(SurvivorshipRule.SourceOrder, [From("a", 2), From("n/a", 0, blank: true), From(null, 0)])
            .ShouldBe(0);
        SurvivorshipResolver
            .Resolve(SurvivorshipRule.MasterUnlessBlank, [From("1900-01-01", 0, blank: true), From("1961-02-03", 0)])
            .ShouldBe(1);
    }

    private static Candidate Of(string? value, string? created, string? changed) =>
        new(ColumnValue.Of(value), ColumnValue.Of(created), ColumnValue.Of(changed));
}
