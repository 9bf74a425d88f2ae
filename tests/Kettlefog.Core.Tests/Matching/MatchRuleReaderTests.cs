using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Matching.Rules;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>A rule that cannot work is refused, with what to write instead.</summary>
public class MatchRuleReaderTests
{
    [Theory]
    [InlineData("any_of: [{field: nme, is: exact}]", "The record type has no field 'nme'. Write 'name'.")]
    [InlineData(
        "any_of: [{field: name, is: same-date}]",
        "'same-date' does not fit 'name', which is of the kind organisation-name."
    )]
    [InlineData("any_of: [{field: email, is: near-number, within: 3}]", "'near-number' does not fit 'email'")]
    [InlineData("any_of: [{field: name, is: similar}]", "'similar' is not a known value")]
    [InlineData(
        "any_of: [{field: name, is: jaro-winkler, at_least: 120}]",
        "'at_least' is 120, which is not a percentage from 1 to 100."
    )]
    [InlineData("any_of: [{field: name, is: exact, at_least: 90}]", "'exact' gives only yes or no")]
    [InlineData("any_of: [{field: name}]", "must have either 'is' or 'differs'")]
    [InlineData("any_of: [[]]", "has an empty group")]
    [InlineData("review: 130", "'review' is 130, which is not a percentage from 1 to 100.")]
    [InlineData("review: 0", "'review' is 0")]
    [InlineData("{review: 90, automatic: 80}", "has 'automatic' 80 %, below its 'review' 90 %")]
    [InlineData("revue: 90", "has no key 'revue'.")]
    [InlineData("scope: [{field: city}]", "The condition on 'city' is empty.")]
    [InlineData("compare: [name, fax]", "The record type has no field 'fax'.")]
    [InlineData("master: [best]", "'best' is not a preference for the master.")]
    [InlineData("survivorship: {fax: newest}", "The record type has no field 'fax'.")]
    [InlineData("any_of: [{field: phone, is: same-phone, digits: 2}]", "'digits: 2' does not fit")]
    [InlineData("[1, 2", "is not YAML")]
    public void A_mistake_is_reported(string yaml, string message)
    {
        var refusal = Should.Throw<KettlefogException>(() => MatchRuleReader.Read("rule", yaml, Finders.Organisations));
        refusal.Code.ShouldBe(ErrorCode.InvalidRule);
        refusal.Details.ShouldContain(
            detail => detail.Contains(message, StringComparison.Ordinal),
            string.Join('\n', refusal.Details)
        );
    }

    [Fact]
    public void Json_is_read_too_and_everything_arrives()
    {
        var rule = MatchRuleReader.Read(
            "same_tax",
            """
            {
              "title": "Same tax number",
              "any_of": [
                [{"field": "tax_number", "is": "same-digits"}, {"field": "name", "is": "monge-elkan", "at_least": 70}],
                {"field": "phone", "is": "same-phone", "digits": 7}
              ],
              "never": [{"field": "city", "differs": "ignoring-case"}],
              "scope": [{"field": "city", "in": ["Saltmarrow"]}],
              "cross_partitions": true,
              "compare": ["name"],
              "review": 60,
              "automatic": 97.5,
              "master": ["most-related", "oldest"],
              "survivorship": {"phone": "newest"}
            }
            """,
            Finders.Organisations
        );
        rule.AnyOf.Count.ShouldBe(2);
        rule.AnyOf[0][1].AtLeast.ShouldBe(70);
        rule.AnyOf[1][0].Digits.ShouldBe(7);
        rule.Never.Single().Differs.ShouldBeTrue();
        rule.Automatic.ShouldBe(97.5);
        rule.Master.Select(preference => preference.Criterion)
            .ShouldBe([MasterCriterion.MostRelated, MasterCriterion.Oldest]);
        RuleWords
            .Of(rule)[1]
            .ShouldBe(
                "  the values of tax_number have the same digits and the values of name are at least 70 % "
                    + "similar (monge-elkan)"
            );
    }

    [Fact]
    public void A_map_may_hold_rules_and_its_mistakes_have_lines()
    {
        const string Yaml = """
            kettlefog: 1
            name: test
            record_types:
              vendor:
                table: vendor
                label: "{name}"
                fields:
                  name: { kind: organisation-name }
                retire: { delete: true }
                matching:
                  country: GB
                  partition: entity
                  nicknames: [[Maud, Maudie]]
                  rules:
                    plain:
                    odd: { any_of: [{ field: nam, is: exact }] }
            """;
        var refusal = Should.Throw<KettlefogException>(() => MapReader.Read(Yaml, "v.yaml"));
        refusal.Details.ShouldContain(detail =>
            detail.StartsWith("v.yaml:16:", StringComparison.Ordinal)
            && detail.Contains("no field 'nam'", StringComparison.Ordinal)
        );
        refusal.Details.ShouldContain(detail => detail.Contains("names the field 'entity'", StringComparison.Ordinal));
        var map = MapReader
            .Read(
                Yaml.Replace("nam,", "name,", StringComparison.Ordinal)
                    .Replace("partition: entity", "partition: name", StringComparison.Ordinal),
                "v.yaml"
            )
            .Map;
        map.RecordTypes[0].Matching.Rules.Select(rule => rule.Name).ShouldBe(["plain", "odd"]);
        map.RecordTypes[0].Matching.Nicknames.Single().ShouldBe(["Maud", "Maudie"]);
    }
}
