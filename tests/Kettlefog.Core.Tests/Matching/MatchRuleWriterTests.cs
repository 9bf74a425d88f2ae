using CsCheck;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>A written rule is read as the same rule, whatever it contains.</summary>
public class MatchRuleWriterTests
{
    private static readonly Gen<string> Words = OneOf(
        "closed",
        "yes",
        "null",
        "12",
        "a: b",
        "# no",
        "don't",
        "\"quoted\"",
        "",
        " edge ",
        "Ölhafen",
        "1e3",
        "{",
        "- x",
        "tab\there",
        "line\nbreak",
        "~"
    );

    private static readonly Gen<Comparison> Comparisons =
        from field in OneOf([.. Finders.Organisations.Fields])
        from comparator in OneOf([.. Comparators.Fitting(field.Kind)])
        from differs in Gen.Bool
        from atLeast in Gen.Int[1, 100]
        from within in Gen.Int[0, 30]
        from digits in Gen.Int[4, 15]
        select new Comparison(
            field.Name,
            comparator,
            differs,
            Comparators.SettingOf(comparator) == "at_least" ? atLeast : 85,
            Comparators.SettingOf(comparator) == "within" ? within : 0,
            Comparators.SettingOf(comparator) == "digits" && differs ? digits : null
        );

    private static readonly Gen<ScopeCondition> Conditions =
        from field in OneOf([.. Finders.Organisations.Fields])
        from some in Words.Where(word => word.Length > 0).List[1, 3]
        from chosen in Gen.Bool
        select new ScopeCondition(field.Name, chosen ? some : [], chosen ? [] : some);

    private static readonly Gen<MatchRule> Rules =
        from title in Words.Where(word => word.Trim().Length > 0)
        from groups in Comparisons.List[1, 3].List[0, 3]
        from never in Comparisons.List[0, 2]
        from scope in Conditions.List[0, 2]
        from cross in Gen.Bool
        from compare in Gen.Shuffle(Finders.Organisations.Fields.Select(field => field.Name).ToArray(), 0, 3)
        from review in Gen.Int[1, 90]
        from automatic in Gen.Int[91, 1000]
        from master in OneOf(MasterCriterion.Oldest, MasterCriterion.MostRelated).List[0, 2]
        from survivorship in OneOf(Enum.GetValues<SurvivorshipRule>())
        select new MatchRule(
            "rule",
            title,
            [.. groups.Select(each => (IReadOnlyList<Comparison>)each)],
            never,
            scope,
            cross,
            compare,
            review,
            automatic <= 100 ? automatic : 91 + (automatic / 1000.0),
            [.. master.Select(criterion => new MasterPreference(criterion))],
            new Dictionary<string, SurvivorshipRule> { [Finders.Organisations.Fields[0].Name] = survivorship }
        );

    [Fact]
    public void What_is_written_is_read_as_the_same()
    {
        Rules.Sample(
            rule =>
            {
                var text = MatchRuleWriter.Write(rule);
                var again = MatchRuleReader.Read("rule", text, Finders.Organisations);
                MatchRuleWriter.Write(again).ShouldBe(text);
                again.Title.ShouldBe(rule.Title);
                again.AnyOf.ShouldBe(rule.AnyOf, new Groups());
                again.Never.ShouldBe(rule.Never);
                again
                    .Scope.SelectMany(condition => condition.In.Concat(["|"]).Concat(condition.NotIn))
                    .ShouldBe(rule.Scope.SelectMany(condition => condition.In.Concat(["|"]).Concat(condition.NotIn)));
                again.Compare.ShouldBe(rule.Compare);
                again.Survivorship.ShouldBe(rule.Survivorship);
                (again.CrossPartitions, again.Review, again.Automatic).ShouldBe(
                    (rule.CrossPartitions, rule.Review, rule.Automatic)
                );
            },
            iter: 2_000
        );
    }

    [Fact]
    public void The_ready_rule_can_be_read_by_people()
    {
        MatchRuleWriter.Write(MatchRule.Ready).ShouldBe("title: Ready rule\nreview: 50\nautomatic: 99\n");
        var rule = MatchRuleReader.Read(
            "same",
            "any_of: [[{field: tax_number, is: same-digits}, {field: name, is: monge-elkan}], {field: phone, "
                + "is: same-phone, digits: 7}]\nscope: [{field: city, not_in: [Saltmarrow]}]",
            Finders.Organisations
        );
        MatchRuleWriter
            .Write(rule)
            .ShouldBe(
                """
                title: Same
                any_of:
                  - [{ field: tax_number, is: same-digits }, { field: name, is: monge-elkan, at_least: 85 }]
                  - [{ field: phone, is: same-phone, digits: 7 }]
                scope:
                  - { field: city, not_in: [Saltmarrow] }
                automatic: 99

                """.ReplaceLineEndings("\n")
            );
    }

    private static Gen<T> OneOf<T>(params T[] some) => Gen.Int[0, some.Length - 1].Select(at => some[at]);

    private sealed class Groups : IEqualityComparer<IReadOnlyList<Comparison>>
    {
        public bool Equals(IReadOnlyList<Comparison>? x, IReadOnlyList<Comparison>? y) => x!.SequenceEqual(y!);

        public int GetHashCode(IReadOnlyList<Comparison> obj) => obj.Count;
    }
}
