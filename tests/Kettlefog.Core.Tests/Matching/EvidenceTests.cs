using Kettlefog.Core.Matching;
using Kettlefog.Core.Text;
using Kettlefog.Demo.Truth;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>The evidence about two values, in the words a clerk reads.</summary>
public class EvidenceTests
{
    private const string TwoSexes = "given names of a woman and of a man";

    private static readonly Lazy<DuplicateFinder> Among = new(() =>
        Finders.Over(Finders.People, PeopleMaker.Make(2_000, 3).Select(record => record.Values))
    );
    private static readonly Lazy<DuplicateFinder> AmongFirms = new(() =>
        Finders.Over(Finders.Organisations, OrganisationMaker.Make(2_000, 3).Select(record => record.Values))
    );

    [Theory]
    [InlineData("Maud", "Tilling", "MAUD", "Tílling", "same given name", "same family name")]
    [InlineData("Maud", "Tilling", "Tilling", "Maud", "same given name", "same family name")]
    [InlineData("M.", "Tilling", "Maud", "Tilling", "same initial", "same family name")]
    [InlineData("Peggy", "Tilling", "Margaret", "Tilling", "nickname of the same name", "same family name")]
    [InlineData("Maud", "van der Plaat", "Maud", "Plaat", "same given name", "same family name")]
    [InlineData("Maud", "Tilling-Weeks", "Maud", "Weeks", "same given name", "one family name is part of the other")]
    [InlineData("Maud", "Tilling", "Maud", "Tiling", "same given name", "similar family names")]
    [InlineData("Юрий", "Иванов", "Yuriy", "Ivanov", "same given name", "same family name")]
    [InlineData("Maud", "Tilling", "Corin", "Tilling", "different given names", "same family name")]
    [InlineData(null, "Tilling, Maud", "Maud", "Tilling", "same given name", "same family name")]
    [InlineData(null, "Maud Tilling", "Maud", "Tilling", "same given name", "same family name")]
    [InlineData(null, "van der Plaat", "Maud", "Plaat", null, "same family name")]
    [InlineData(null, "Tilling-Weeks", "Maud", "Tilling-Weeks", null, "same family name")]
    [InlineData("E.", "Tilling", "Liz", "Tilling", "same initial", "same family name")]
    [InlineData("Martin", "Tilling", "Martina", "Tilling", TwoSexes, "same family name")]
    [InlineData("Patrick", "Tilling", "Patricia", "Tilling", TwoSexes, "same family name")]
    [InlineData("Mario", "Tilling", "Maria", "Tilling", TwoSexes, "same family name")]
    [InlineData("Larry", "Tilling", "Sarah", "Tilling", TwoSexes, "same family name")]
    [InlineData("Larry John", "Tilling", "Sarah", "Tilling", TwoSexes, "same family name")]
    [InlineData("Larry", "Tilling", "Robin", "Tilling", "different given names", "same family name")]
    [InlineData("L.", "Tilling", "Sarah", "Tilling", "different given names", "same family name")]
    [InlineData("Martin", "Tilling", "Martn", "Tilling", "similar given names", "same family name")]
    [InlineData("Maud", "Tilling (deceased)", "Maud", "Tilling", "same given name", "same family name")]
    [InlineData("Maud", "T1lling", "Maud", "Tlling", "same given name", "similar family names")]
    [InlineData("Zoë", "Søham", "ZoÃ«", "SÃ¸ham", "same given name", "same family name")]
    [InlineData("Zoë", "Søham", "Zo&#235;", "S&oslash;ham", "same given name", "same family name")]
    [InlineData("Kelpie", "Tarn", "Osk", "Kelpie", "different given names", "same family name")]
    public void Names_of_people(
        string? givenA,
        string familyA,
        string givenB,
        string familyB,
        string? given,
        string family
    )
    {
        var words = Words(Among.Value, Person(given: givenA, family: familyA), Person(given: givenB, family: familyB));
        words.Count.ShouldBe(given is null ? 1 : 2);
        if (given is not null)
            words.ShouldContain(given);
        words.ShouldContain(family);
    }

    [Theory]
    [InlineData("maud.tilling@x.example", "maudtilling@y.example", "e-mail addresses made of the name alone")]
    [InlineData("m.tilling@x.example", "mtilling84@y.example", "e-mail addresses made of the name alone")]
    [InlineData("mtilling84@x.example", "mtilling84@y.example", "same name before the @, different domain")]
    [InlineData("chandlery84@x.example", "chandlery84@y.example", "same name before the @, different domain")]
    [InlineData("maud.tilling@x.example", "tilling.maud77@y.example", "different e-mail addresses")]
    public void A_mailbox_made_of_the_name_says_nothing_new(string a, string b, string words) =>
        Words(
                Among.Value,
                Person(given: "Maud", family: "Tilling", email: a),
                Person(given: "Maud", family: "Tilling", email: b)
            )
            .ShouldContain(words);

    [Fact]
    public void Father_and_son_are_two()
    {
        var father = Person(
            "John",
            "Ashe",
            born: "1950-03-04",
            street: "1 Fish Street",
            city: "Saltmarrow",
            phone: "01632 960118"
        );
        var son = Person("John", "Ashe", "Jr", "1980-09-17", "1 Fish Street", "Saltmarrow", "01632 960118");
        var explained = Among.Value.Explain(father, son);
        explained.Score.ShouldBeLessThan(0.1);
        explained.Evidence.Single(each => each.Name == "birth_date").Strength.ShouldBe("contradicts strongly");
        explained.InShort.ShouldBe(
            "same given name, but different dates of birth, suffix (Jr, Sr) on one record only",
            "what speaks for a pair is said first, whatever is stronger"
        );
        Words(Among.Value, Person("John", "Ashe", "Sr"), Person("John", "Ashe", "Jr"))
            .ShouldContain("different suffixes (Jr, Sr)");
    }

    [Theory]
    [InlineData("01632 960118", "+44 1632 960118", "same phone")]
    [InlineData("01632 960118", "+44 (0)1632 960 118", "same phone")]
    [InlineData("0044 1632 960118", "01632960118", "same phone")]
    [InlineData("01632 960118", "01632 960181", "phone numbers differ by one typing error")]
    [InlineData("01632 960118 ext 12", "01632 960118 ext 44", "different phones")]
    [InlineData("06 1824 5970", "+31 6 18245970", "same phone")]
    [InlineData("(0)401 2945 83", "+49 401 294583", "same phone")]
    [InlineData("+47 4013 9456", "+31 4013 9456", "different phones")]
    [InlineData("01632 960118", "01632 555333", "different phones")]
    public void Phones(string a, string b, string words) =>
        Words(Among.Value, Person(phone: a), Person(phone: b)).ShouldBe([words]);

    [Theory]
    [InlineData("0000 000000")]
    [InlineData("123456789")]
    [InlineData("none")]
    [InlineData("-")]
    public void A_phone_that_is_none_says_nothing(string junk) =>
        Words(Among.Value, Person(phone: junk), Person(phone: junk)).ShouldBeEmpty();

    [Theory]
    [InlineData("1962-03-09", "1962-03-09", "same date of birth")]
    [InlineData("1962-03-09", "09/03/1962", "same date of birth")]
    [InlineData("1962-03-09", "1962-09-03", "same date of birth, day and month swapped")]
    [InlineData("1962-03-09", "1962-03-19", "dates of birth differ by one typing error")]
    [InlineData("1962-03-09", "1962-03-13", "dates of birth agree in part")]
    [InlineData("1962-03-09", "1988-11-20", "different dates of birth")]
    public void Dates_of_birth(string a, string b, string words) =>
        Words(Among.Value, Person(born: a), Person(born: b)).ShouldBe([words]);

    [Theory]
    [InlineData("maud.tilling@x.example", "Maud Tilling <MAUD.TILLING+club@x.example>", "same e-mail address")]
    [InlineData("maud.tilling@x.example", "maud.tilling@y.example", "same name before the @, different domain")]
    [InlineData("maud.tilling@x.example", "maud.tiling@x.example", "similar e-mail addresses")]
    [InlineData("maud.tilling@x.example", "corin@y.example", "different e-mail addresses")]
    public void Mailboxes(string a, string b, string words) =>
        Words(Among.Value, Person(email: a), Person(email: b)).ShouldBe([words]);

    [Theory]
    [InlineData("12 Fish Street", "12 Fish St.", "same address")]
    [InlineData("Flat 3, 12 Fish Street", "Flat 4, 12 Fish St", "same building, another unit")]
    [InlineData("12 Fish Street", "14 Fish Street", "same street, another number")]
    [InlineData("Hafenstr. 7", "Hafenstraße 7", "same address")]
    [InlineData("12 Fish Street", "80 Slipway Road", "different addresses")]
    public void Addresses(string a, string b, string words) =>
        Words(Among.Value, Person(street: a, city: "Saltmarrow"), Person(street: b, city: "Saltmarrow"))
            .ShouldContain(words);

    [Theory]
    [InlineData("Gannet Chandlery Ltd", "GANNET CHANDLERY LIMITED", "same name", "same legal form")]
    [InlineData("Gannet Chandlery Ltd", "Chandlery Gannet GmbH", "same name", "different legal forms")]
    [InlineData("Oskarssen Dredging A/S", "Oskarssen Dredging AS", "same name", "same legal form")]
    [InlineData("Pellin Sp. z o.o.", "Pellin spółka z ograniczoną odpowiedzialnością", "same name", "same legal form")]
    [InlineData("Gannet & Tern", "Gannet and Tern", "same name", null)]
    [InlineData("Gannett Chandlery", "Gannet Chandlery", "similar names", null)]
    [InlineData("Saltmarrow Harbour Pilots", "SHP", "one name is the acronym of the other", null)]
    [InlineData("Gannet Marine Engineering", "Gannet Mar Eng", "same name", null)]
    [InlineData(
        "Gannet Chandlery North",
        "Gannet Chandlery South",
        "names that differ in a place, branch or number",
        null
    )]
    [InlineData("Gannet Chandlery", "Kelpie Sawmill", "different names", null)]
    [InlineData("Gannet Chandlery Ltd", "Ltd Gannet Chandlery", "same name", "same legal form")]
    [InlineData("Gannet Chandlery Limited", "Gannet Chandlery Limtied", "same name", "same legal form")]
    [InlineData("Gannet Chandlery Ltd", "Gannet Chandlery Ltd (do not use)", "same name", "same legal form")]
    [InlineData("Gannet Chandlery Ltd", "Gannet Chandlery Ltd - OLD", "same name", "same legal form")]
    [InlineData("Gannet Chandlery Ltd", "*** BLOCKED *** Gannet Chandlery Ltd", "same name", "same legal form")]
    [InlineData("Gannet Chandlery", "Gannet Chandlery, Accounts Dept", "same name", null)]
    [InlineData("Gannet Chandlery", "Kelpie Ltd t/a Gannet Chandlery", "same name", null)]
    [InlineData("Gannet (Saltmarrow) Chandlery", "Gannet Saltmarrow Chandlery", "same name", null)]
    public void Names_of_organisations(string a, string b, string name, string? form)
    {
        var words = Words(AmongFirms.Value, Firm(a), Firm(b));
        words.ShouldContain(name);
        if (form is not null)
            words.ShouldContain(form);
    }

    [Fact]
    public void The_own_town_behind_a_name_is_no_part_of_it()
    {
        var here = Firm("Gannet Chandlery - Sankt Brack", city: "Sankt Brack");
        Words(AmongFirms.Value, here, Firm("Gannet Chandlery", city: "Sankt Brack")).ShouldContain("same name");
        Words(AmongFirms.Value, Firm("Gannet Chandlery - Saltmarrow", city: "Brack"), Firm("Gannet Chandlery"))
            .ShouldNotContain("same name");
    }

    [Fact]
    public void The_host_of_a_mailbox_stands_in_for_a_web_address() =>
        Words(
                AmongFirms.Value,
                Firm("Gannet", email: "office@gannet.example"),
                Firm("Gannet", website: "https://www.gannet.example/shop")
            )
            .ShouldContain("same website");

    [Fact]
    public void The_same_tax_number_outweighs_a_new_name_and_tells()
    {
        var explained = AmongFirms.Value.Explain(
            Firm("Gannet Chandlery", "GB404118207", city: "Saltmarrow"),
            Firm("Kelpie Sawmill", "GB404118207", city: "Saltmarrow")
        );
        explained.Score.ShouldBeGreaterThan(0.6);
        explained.Evidence.Single(each => each.Name == "name").Strength.ShouldStartWith("contradicts");
        explained.Evidence.Single(each => each.Name == "tax_number").Strength.ShouldBe("supports strongly");
    }

    [Fact]
    public void Different_tax_numbers_speak_strongly_against()
    {
        var explained = AmongFirms.Value.Explain(
            Firm("Gannet Chandlery", "GB404118207"),
            Firm("Gannet Chandlery", "GB733902115")
        );
        explained.Evidence.Single(each => each.Name == "tax_number").Strength.ShouldBe("contradicts strongly");
        Words(AmongFirms.Value, Firm("Gannet", "404118207"), Firm("Gannet", "GB 404.118.207"))
            .ShouldContain("same tax_number");
        AmongFirms
            .Value.Explain(Firm("Gannet", "000000000"), Firm("Gannet", "000000000"))
            .Missing.ShouldContain("tax_number");
    }

    [Fact]
    public void Legal_forms_of_thirty_countries_are_known()
    {
        var countries = WordLists
            .LegalForms.Values.Select(form => form[..2])
            .Where(country => country is not ("XX" or "EU"))
            .Distinct();
        countries.Count().ShouldBeGreaterThanOrEqualTo(30);
    }

    private static List<string> Words(DuplicateFinder finder, string?[] a, string?[] b)
    {
        var one = finder.Explain(a, b).Evidence.Select(each => each.Words).ToList();
        finder.Explain(b, a).Evidence.Select(each => each.Words).ShouldBe(one, ignoreOrder: true);
        return one;
    }

    private static string?[] Person(
        string? given = null,
        string? family = null,
        string? suffix = null,
        string? born = null,
        string? street = null,
        string? city = null,
        string? phone = null,
        string? email = null
    ) => [given, null, family, suffix, born, email, phone, null, street, null, city, null];

    private static string?[] Firm(
        string name,
        string? tax = null,
        string? email = null,
        string? website = null,
        string? city = null
    ) => [name, tax, null, email, null, website, null, null, city, null];
}
