using CsCheck;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Text;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>Values are normalised, however they were typed.</summary>
public class ReaderTests
{
    [Theory]
    [InlineData("01632 960118", "GB", "441632960118", "")]
    [InlineData("+44 1632 960118", null, "441632960118", "")]
    [InlineData("+44 (0)1632 960118", null, "441632960118", "")]
    [InlineData("0044 1632 960118", null, "441632960118", "")]
    [InlineData("(01632) 960-118", "gb", "441632960118", "")]
    [InlineData("01632 960118", null, "1632960118", "")]
    [InlineData("(555) 010-4477", "US", "15550104477", "")]
    [InlineData("1-555-010-4477", "US", "15550104477", "")]
    [InlineData("22 12 34 56", "NO", "4722123456", "")]
    [InlineData("01632 960118 ext. 12", "GB", "441632960118", "12")]
    [InlineData("01632 960118x7", "GB", "441632960118", "7")]
    [InlineData("01632 960118 / 01632 960200", "GB", "441632960118", "")]
    [InlineData("٠١٦٣٢ ٩٦٠١١٨", "GB", "441632960118", "")]
    [InlineData("12345", "GB", "", "")]
    [InlineData("000000000", "GB", "", "")]
    [InlineData("1234567890", "GB", "", "")]
    [InlineData("call me", "GB", "", "")]
    [InlineData("+44 1632 960118 ext 12 (0)", "GB", "441632960118", "120")]
    [InlineData("+44 1632 960118, by day; in the evening please ask the porter (0)", "GB", "441632960118", "")]
    [InlineData("+٤٤ (0)1632 960118", "GB", "441632960118", "")]
    [InlineData("01632 960118", "ZZ", "1632960118", "")]
    public void Phones(string text, string? country, string digits, string extension)
    {
        Span<char> into = stackalloc char[40];
        Span<char> beyond = stackalloc char[8];
        var (count, further) = PhoneReader.Read(text, country, into, beyond);
        into[..count].ToString().ShouldBe(digits);
        beyond[..further].ToString().ShouldBe(extension);
    }

    [Fact]
    public void Any_text_is_read_as_a_phone_without_an_error() =>
        Gen.String.Sample(text =>
        {
            Span<char> into = stackalloc char[40];
            Span<char> beyond = stackalloc char[8];
            var (count, _) = PhoneReader.Read(text, "GB", into, beyond);
            into[..count].ContainsAnyExceptInRange('0', '9').ShouldBeFalse();
        });

    [Theory]
    [InlineData("Maud.Tilling@Example.Org", "maud.tilling", "example.org")]
    [InlineData("Maud Tilling <maud@tide.example>", "maud", "tide.example")]
    [InlineData("mailto:maud@tide.example", "maud", "tide.example")]
    [InlineData("maud+club@tide.example", "maud", "tide.example")]
    [InlineData("m.a.u.d@googlemail.com", "maud", "gmail.com")]
    [InlineData(" maud@tide.example. ", "maud", "tide.example")]
    public void Mailboxes(string text, string local, string host) => EmailReader.Read(text).ShouldBe((local, host));

    [Theory]
    [InlineData("")]
    [InlineData("maud")]
    [InlineData("@tide.example")]
    [InlineData("maud@")]
    [InlineData("noemail@tide.example")]
    [InlineData("none@tide.example")]
    [InlineData("no-reply@tide.example")]
    public void What_is_no_mailbox(string text) => EmailReader.Read(text).ShouldBeNull();

    [Theory]
    [InlineData("2026-03-09")]
    [InlineData("2026-03-09T14:30:00Z")]
    [InlineData("2026-03-09 14:30:00")]
    [InlineData("20260309")]
    [InlineData("09.03.2026")]
    [InlineData("9.3.2026")]
    [InlineData("09/03/2026")]
    [InlineData("9 Mar 2026")]
    [InlineData("Mar 9, 2026")]
    [InlineData(" 2026/03/09 ")]
    public void Dates(string text) => DateReader.Read(text).ShouldBe(new DateOnly(2026, 3, 9));

    [Theory]
    [InlineData(null)]
    [InlineData("")]
    [InlineData("soon")]
    [InlineData("2026-02-30")]
    [InlineData("99/99/9999")]
    public void What_is_no_date(string? text) => DateReader.Read(text).ShouldBeNull();

    [Theory]
    [InlineData("12 Fish Street", "fish", "street", "12", "")]
    [InlineData("12b Fish St.", "fish", "street", "12b", "")]
    [InlineData("Fish Street 12", "fish", "street", "12", "")]
    [InlineData("Flat 3, 12 Fish Street", "fish", "street", "12", "3")]
    [InlineData("12 Fish Street, Apt. 3", "fish", "street", "12", "3")]
    [InlineData("4/12 Fish Street", "fish", "street", "12", "4")]
    [InlineData("Hafenstr. 7", "hafen", "street", "7", "")]
    [InlineData("Hafenstraße 7", "hafen", "street", "7", "")]
    [InlineData("PO Box 123", "pobox", "", "123", "")]
    [InlineData("The Avenue", "avenue", "", "", "")]
    [InlineData("1 North Pier", "north pier", "", "1", "")]
    [InlineData("15 5th Avenue", "5th", "avenue", "15", "")]
    public void Streets(string line, string street, string kind, string number, string unit)
    {
        var parts = new StreetParts();
        StreetReader.Read(line, new WordBuffer(), parts);
        string.Join(' ', parts.Street).ShouldBe(street);
        parts.Kind.ShouldBe(kind);
        parts.Number.ShouldBe(number);
        parts.Unit.ShouldBe(unit);
    }

    [Theory]
    [InlineData("Møller-Strand & Co.", "moller strand and co")]
    [InlineData("O'Dunnagh", "odunnagh")]
    [InlineData("S.A.R.L. Pellin", "sarl pellin")]
    [InlineData("J.R. Ashe", "jr ashe")]
    [InlineData("Зеленый Причал", "zelenyy prichal")]
    [InlineData("Ναυτικός Όμιλος", "naytikos omilos")]
    [InlineData("\u202Etern\u202C  \t haven", "tern haven")]
    [InlineData("", "")]
    [InlineData("...", "")]
    [InlineData("王小明", "王小明")]
    public void Words(string text, string words)
    {
        var buffer = new WordBuffer();
        buffer.Split(text, FullStops.JoinLetters);
        var split = string.Join(' ', Enumerable.Range(0, buffer.Count).Select(at => buffer[at].ToString()));
        split.ShouldBe(words);
    }

    [Fact]
    public void Initials_are_parted_where_names_of_people_are_read()
    {
        var buffer = new WordBuffer();
        buffer.Split("J.R. Ashe", FullStops.Part);
        buffer.Count.ShouldBe(3);
    }

    [Fact]
    public void Words_hold_nothing_but_letters_and_digits_and_do_not_change_when_read_again() =>
        Gen.String.Sample(text =>
        {
            var buffer = new WordBuffer();
            buffer.Split(text, FullStops.Part);
            var words = Enumerable.Range(0, buffer.Count).Select(at => buffer[at].ToString()).ToList();
            words.ShouldAllBe(word =>
                word.Length > 0 && word.All(letter => char.IsLetterOrDigit(letter) || char.IsSurrogate(letter))
            );
            buffer.Split(string.Join(' ', words), FullStops.Part);
            Enumerable.Range(0, buffer.Count).Select(at => buffer[at].ToString()).ShouldBe(words);
        });

    [Theory]
    [InlineData("n/a", true)]
    [InlineData("Unknown", true)]
    [InlineData("-----", true)]
    [InlineData("xxxx", true)]
    [InlineData("  ", true)]
    [InlineData("Gannet", false)]
    [InlineData("K", false)]
    [InlineData("A Co", false)]
    public void Words_that_stand_where_nothing_is_known(string text, bool junk) => Junk.IsJunk(text).ShouldBe(junk);

    [Theory]
    [InlineData("GB", "GB")]
    [InlineData("uk", "GB")]
    [InlineData("NOR", "NO")]
    [InlineData(" Germany ", "DE")]
    [InlineData("Deutschland", "DE")]
    [InlineData("ALLEMAGNE", "DE")]
    [InlineData("Holland", "NL")]
    [InlineData("The Netherlands", "NL")]
    [InlineData("Pays-Bas", "NL")]
    [InlineData("Great Britain", "GB")]
    [InlineData("U.K.", "GB")]
    [InlineData("Viet Nam", "VN")]
    [InlineData("Việt Nam", "VN")]
    [InlineData("Österreich", "AT")]
    [InlineData("Osterreich", "AT")]
    [InlineData("Россия", "RU")]
    [InlineData("日本", "JP")]
    [InlineData("مصر", "EG")]
    [InlineData("Czech Republic", "CZ")]
    [InlineData("Georgia", "GE")]
    [InlineData("Niger", "NE")]
    [InlineData("+47", "NO")]
    [InlineData("0049", "DE")]
    [InlineData("+999", null)]
    [InlineData("+4412345678", null)]
    [InlineData("Atlantis", null)]
    [InlineData("", null)]
    [InlineData(null, null)]
    public void Lands(string? text, string? code) => Countries.CodeOf(text).ShouldBe(code);

    [Fact]
    public void Nicknames_may_be_added()
    {
        var builtIn = new Nicknames();
        builtIn.Share(new Token(0, "peggy"), new Token(1, "margaret")).ShouldBeTrue();
        builtIn.Share(new Token(0, "peggy"), new Token(1, "edward")).ShouldBeFalse();
        builtIn.Share(new Token(0, "sefa"), new Token(1, "josefa")).ShouldBeFalse();
        var extended = new Nicknames([
            ["Sefa", "Josefa"],
        ]);
        extended.Share(new Token(0, "sefa"), new Token(1, "josefa")).ShouldBeTrue();
        extended.Share(new Token(0, "peggy"), new Token(1, "margaret")).ShouldBeTrue();
    }

    [Fact]
    public void Letters_that_differ_much_are_seen_without_the_words()
    {
        foreach (
            var (word, other) in new[]
            {
                ("gannet", "gannett"),
                ("skerry", "skrery"),
                ("tilling", "tiling"),
                ("ab", "abcdefgh"),
            }
        )
            (
                LetterMask.Difference(LetterMask.Of(word), LetterMask.Of(other)) <= 4
                || LetterMask.MayContain(LetterMask.Of(word), LetterMask.Of(other))
            ).ShouldBeTrue(word);
        LetterMask.Difference(LetterMask.Of("quill"), LetterMask.Of("ashby")).ShouldBeGreaterThan(6);
    }

    [Fact]
    public void No_spelling_leads_to_another_spelling()
    {
        foreach (var spellings in new[] { WordLists.OrganisationWords, WordLists.StreetWords })
            spellings.Values.Distinct().ShouldAllBe(form => !spellings.ContainsKey(form) || spellings[form] == form);
        WordLists.JunkValues.ShouldAllBe(word => !word.Any(char.IsUpper));
    }
}
