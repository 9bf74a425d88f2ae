using Kettlefog.Core.Drafting;

namespace Kettlefog.Core.Tests;

/// <summary>Names of tables and columns are split into words as people compose them.</summary>
public class NameWordsTests
{
    [Theory]
    [InlineData("customer_id", "customer id")]
    [InlineData("CustomerEMail2", "customer e mail 2")]
    [InlineData("VATNumber", "vat number")]
    [InlineData("KUNDEN-NR", "kunden nr")]
    [InlineData("Straße", "strasse")]
    [InlineData("prénom", "prenom")]
    [InlineData("tbl.Kunde", "tbl kunde")]
    public void A_name_is_words(string name, string words) => string.Join(' ', NameWords.Of(name)).ShouldBe(words);

    [Theory]
    [InlineData("Kunde (alt)", "kunde_alt")]
    [InlineData("2nd phone", "x_2_nd_phone")]
    [InlineData("顧客", "x")]
    public void A_name_for_the_map_is_plain(string name, string plain) => NameWords.ForMap(name).ShouldBe(plain);

    [Theory]
    [InlineData("contact email", "email")]
    [InlineData("email address", "email")]
    [InlineData("geaendert am", "changed")]
    [InlineData("legal entity", "partition")]
    [InlineData("razon social", "organisation-name")]
    [InlineData("phone 2", "phone")]
    public void What_a_name_is_about_comes_first(string words, string concept) =>
        DraftWords.Of(words.Split(' '))[0].ShouldBe(concept);
}
