using CsCheck;
using Kettlefog.Core.Survivorship;
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
        (value, created, changed) => Of(Values[value], Moments[created], Moments[changed]));

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
        Gen.Select(Gen.Enum<SurvivorshipRule>(), AnyCandidate.Array[1, 6]).Sample((rule, candidates) =>
        {
            var chosen = candidates[SurvivorshipResolver.Resolve(rule, candidates)];
            return rule == SurvivorshipRule.Master || !chosen.Value.IsBlank || candidates.All(candidate => candidate.Value.IsBlank);
        });

    [Fact]
    public void A_tie_goes_to_the_earlier_record() =>
        Gen.Select(Gen.Enum<SurvivorshipRule>(), AnyCandidate, Gen.Int[1, 5]).Sample((rule, candidate, count) =>
            SurvivorshipResolver.Resolve(rule, Enumerable.Repeat(candidate, count).ToList()) == 0);

    [Fact]
    public void Numbers_are_compared_as_numbers_and_not_as_text()
    {
        SurvivorshipResolver.CompareValues(ColumnValue.Of("9"), ColumnValue.Of("10")).ShouldBeLessThan(0);
        SurvivorshipResolver.CompareValues(ColumnValue.Of("1.0"), ColumnValue.Of(1L)).ShouldBe(0);
    }

    private static Candidate Of(string? value, string? created, string? changed) =>
        new(ColumnValue.Of(value), ColumnValue.Of(created), ColumnValue.Of(changed));
}
