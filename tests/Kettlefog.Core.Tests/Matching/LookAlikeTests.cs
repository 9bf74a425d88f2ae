using Kettlefog.Core.Matching;
using Kettlefog.Demo.Truth;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>Two that have nearly everything in common, and are two all the same.</summary>
public class LookAlikeTests
{
    private static readonly IReadOnlyList<TruthRecord> Known = PeopleMaker.Make(4_000, 11);

    private static readonly Lazy<DuplicateFinder> Among = new(() =>
        Finders.Over(Finders.People, Known.Select(record => record.Values))
    );

    private static readonly Lazy<DuplicateFinder> AmongFirms = new(() =>
        Finders.Over(Finders.Organisations, OrganisationMaker.Make(4_000, 11).Select(record => record.Values))
    );

    [Theory]
    [InlineData("Holding")]
    [InlineData("Group")]
    [InlineData("Invest")]
    public void A_holding_is_not_its_company_though_both_are_at_one_desk_and_have_one_account(string holding)
    {
        var company = Firm("Torsternard Foods Ltd", host: "torsternard-foods.example");
        var parent = Firm($"Torsternard {holding} Ltd", host: "torsternard.example");
        Score(company, parent).ShouldBeLessThan(0.5);
        Score(company, Firm("Torsternard Foods Limited")).ShouldBeGreaterThan(0.95);
    }

    [Fact]
    public void A_company_with_a_new_name_is_still_one()
    {
        var old = Firm("Torsternard Foods Ltd", tax: "GB756293850");
        var now = Firm("Brasterquist Catering Ltd", tax: "GB756293850");
        Score(old, now).ShouldBeGreaterThan(0.9);
    }

    [Fact]
    public void Namesakes_born_on_one_day_are_two_if_their_name_is_common_and_nothing_else_agrees()
    {
        string Commonest(int column) =>
            Known
                .Select(record => record.Values[column])
                .OfType<string>()
                .CountBy(name => name)
                .MaxBy(counted => counted.Value)
                .Key;
        var (given, family) = (Commonest(0), Commonest(2));
        double OfTwo(string first, string last) =>
            Among
                .Value.Explain(
                    Person(first, last, "one.street@x.example", "01632 960118", "1 Fish Street", "Saltmarrow"),
                    Person(first, last, "two.road@y.example", "01632 960777", "84 Quay Road", "Tarnmouth")
                )
                .Score;
        OfTwo(given, family).ShouldBeLessThan(0.5);
        OfTwo("Zebulonia", "Quarrendish").ShouldBeGreaterThan(OfTwo(given, family) + 0.3);
    }

    [Theory]
    [InlineData("Larry", "Sarah")]
    [InlineData("Julius", "Julia")]
    [InlineData("Donna", "Scott")]
    public void Twins_are_two_though_they_share_a_mailbox(string one, string other)
    {
        double Of(string a, string b) =>
            Among
                .Value.Explain(
                    Person(a, "Tilling", "the.tillings@x.example", "01632 960118", "1 Fish Street", "Saltmarrow"),
                    Person(b, "Tilling", "the.tillings@x.example", "01632 960118", "1 Fish Street", "Saltmarrow")
                )
                .Score;
        Of(one, other).ShouldBeLessThan(0.5);
        Of(one, one).ShouldBeGreaterThan(0.99);
    }

    private static double Score(string?[] a, string?[] b) => AmongFirms.Value.Explain(a, b).Score;

    private static string?[] Firm(string name, string? tax = null, string? host = null) =>
        [
            name,
            tax,
            "GB00 7670 3638 1389 6006",
            host is null ? null : $"accounts@{host}",
            "01632 960118",
            host is null ? null : $"https://www.{host}",
            "174 Ashbernard Drive",
            "LE48 0BF",
            "Tarnmouth",
            "GB",
        ];

    private static string?[] Person(
        string given,
        string family,
        string email,
        string phone,
        string street,
        string city
    ) => [given, null, family, null, "1971-04-29", email, phone, null, street, null, city, "GB"];
}
