using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Matching.Rules;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>Each comparator of a rule, on values a clerk would try.</summary>
public class ComparatorTests
{
    private static readonly RecordType Type = Finders.TypeOf(
        ["name", "firm", "mail", "phone", "street", "born", "size", "code"],
        [
            FieldKind.PersonName,
            FieldKind.OrganisationName,
            FieldKind.Email,
            FieldKind.Phone,
            FieldKind.Street,
            FieldKind.BirthDate,
            FieldKind.Number,
            FieldKind.Code,
        ]
    );

    [Theory]
    [InlineData("code, is: exact", "A-1", "A-1", true)]
    [InlineData("code, is: exact", "A-1", "a-1", false)]
    [InlineData("code, is: ignoring-case", "Å-1", "a 1", true)]
    [InlineData("code, is: ignoring-case", "A-1", "A-2", false)]
    [InlineData("code, is: same-digits", "GB 12.34", "1234", true)]
    [InlineData("code, is: same-digits", "none here", "nor here", false)]
    [InlineData("mail, is: same-mailbox", "M+x@tide.example", "m@tide.example", true)]
    [InlineData("mail, is: same-mailbox", "m@tide.example", "m@ebb.example", false)]
    [InlineData("phone, is: same-phone", "01632 960118", "+44 1632 960118", true)]
    [InlineData("phone, is: same-phone", "+31 20 794 6032", "020 794 6032", true)]
    [InlineData("phone, is: same-phone", "+31 20 794 6032", "+44 20 794 6032", true)]
    [InlineData("phone, is: same-phone", "+31 20 794 6032", "+49 20 794 6032", false)]
    [InlineData("phone, is: same-phone", "01632 960118", "01632 960119", false)]
    [InlineData("phone, is: same-phone, digits: 6", "01632 960118", "01904 960118", true)]
    [InlineData("name, is: similar-person-name, at_least: 90", "Anna Berg", "Berg, Anna", true)]
    [InlineData("name, is: similar-person-name, at_least: 85", "Peggy Ashe", "Margaret Ashe", true)]
    [InlineData("name, is: similar-person-name, at_least: 80", "John Ashe Sr", "John Ashe Jr", false)]
    [InlineData("name, is: similar-person-name, at_least: 80", "Anna Berg", "Corin Berg", false)]
    [InlineData(
        "firm, is: similar-organisation-name, at_least: 90",
        "Gannet Chandlery Ltd",
        "CHANDLERY GANNET LIMITED",
        true
    )]
    [InlineData(
        "firm, is: similar-organisation-name, at_least: 90",
        "Gannet Chandlery Ltd",
        "Gannet Chandlery GmbH",
        true
    )]
    [InlineData(
        "firm, is: similar-organisation-name, at_least: 95",
        "Gannet Chandlery Ltd",
        "Gannet Chandlery GmbH",
        false
    )]
    [InlineData("firm, is: similar-organisation-name", "Gannet Chandlery", "Kelpie Sawmill", false)]
    [InlineData("street, is: similar-address", "12 Fish Street", "12 Fish St.", true)]
    [InlineData("street, is: similar-address, at_least: 80", "Flat 1, 12 Fish St", "Flat 2, 12 Fish St", false)]
    [InlineData("street, is: similar-address", "12 Fish Street", "80 Slipway Road", false)]
    [InlineData("born, is: same-date", "1970-02-03", "03.02.1970", true)]
    [InlineData("born, is: same-date", "1970-02-03", "1970-03-02", true)]
    [InlineData("born, is: same-date", "1970-02-03", "1970-02-05", false)]
    [InlineData("born, is: same-date, within: 2", "1970-02-03", "1970-02-05", true)]
    [InlineData("size, is: near-number, within: 0.5", "12.4", "12.9", true)]
    [InlineData("size, is: near-number, within: 0.5", "12.4", "12.91", false)]
    [InlineData("size, is: near-number, within: 5", "twelve", "12", false)]
    [InlineData("code, is: sounds-alike", "Robert Ashe", "Ash Rupert", true)]
    [InlineData("code, is: sounds-alike", "Robert", "Sefa", false)]
    [InlineData("code, is: jaro-winkler, at_least: 95", "Martha", "Marhta", true)]
    [InlineData("code, is: jaro-winkler, at_least: 97", "Martha", "Marhta", false)]
    [InlineData("code, is: damerau-levenshtein, at_least: 83", "Gannet", "Gannett", true)]
    [InlineData("code, is: monge-elkan, at_least: 90", "deck supplies", "supplies deck", true)]
    [InlineData("code, is: q-gram, at_least: 80", "chandlery", "chandlary", true)]
    [InlineData("code, is: q-gram, at_least: 80", "chandlery", "sawmill", false)]
    public void Values_agree_or_not(string comparison, string a, string b, bool holds)
    {
        Holds(comparison, a, b).ShouldBe(holds);
        Holds(comparison, b, a).ShouldBe(holds);
        Holds(comparison.Replace(" is:", " differs:", StringComparison.Ordinal), a, b).ShouldBe(!holds);
        if (holds)
            Holds(comparison, a, a).ShouldBeTrue("what agrees with another agrees with itself");
    }

    [Theory]
    [InlineData("code, is: exact")]
    [InlineData("code, differs: exact")]
    [InlineData("firm, is: similar-organisation-name")]
    [InlineData("phone, differs: same-phone")]
    public void A_missing_value_holds_neither_way(string comparison)
    {
        foreach (var missing in new[] { null, "", "  ", "n/a", "unknown", "----" })
        {
            Holds(comparison, missing, "Gannet 1632 960118").ShouldBeFalse();
            Holds(comparison, missing, missing).ShouldBeFalse();
        }
    }

    [Theory]
    [InlineData("code, is: exact", "A-1")]
    [InlineData("code, is: ignoring-case", "Å-1")]
    [InlineData("code, is: same-digits", "GB 12.34")]
    [InlineData("mail, is: same-mailbox", "m@tide.example")]
    [InlineData("phone, is: same-phone", "01632 960118")]
    [InlineData("code, is: sounds-alike", "Robert")]
    [InlineData("born, is: same-date", "1970-02-03")]
    public void Values_that_agree_have_a_key_in_common(string comparison, string value)
    {
        var compiled = Compile(comparison);
        compiled.HasKey.ShouldBeTrue();
        compiled
            .KeyOf(Row(comparison, value))
            .ShouldNotBeNull()
            .ShouldBe(compiled.KeyOf(Row(comparison, value))!.Value);
        compiled.KeyOf(Row(comparison, null)).ShouldBeNull();
        Compile(comparison.Replace(" is:", " differs:", StringComparison.Ordinal)).HasKey.ShouldBeFalse();
    }

    private static bool Holds(string comparison, string? a, string? b) =>
        Compile(comparison).Holds(Row(comparison, a), Row(comparison, b));

    private static string?[] Row(string comparison, string? value)
    {
        var row = new string?[Type.Fields.Count];
        row[Type.Fields.IndexOf(comparison.Split(',')[0])] = value;
        return row;
    }

    private static CompiledComparison Compile(string comparison)
    {
        var read = MatchRuleReader.Read("rule", $"any_of: [[{{field: {comparison}}}]]", Type).AnyOf[0][0];
        return new CompiledComparison(read, Type.Fields.IndexOf(read.Field), "GB", new Nicknames());
    }
}
