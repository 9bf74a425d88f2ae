using System.Text;
using CsCheck;
using Kettlefog.Core.Text;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>What other programs did to texts is undone before they are compared.</summary>
public class MendedTextTests
{
    private static readonly Encoding Windows1252 = CodePagesEncodingProvider.Instance.GetEncoding(1252)!;

    private static readonly string[] Alphabets =
    [
        "äöüßÄÖÜ",
        "éèêàçœÉ",
        "ñáéíóúÑ",
        "åøæÅØÆ",
        "ãõçáÃ",
        "łśćżźŁŚ",
        "čěřžšďŘ",
        "ğışçöüİŞ",
        "юрийван",
        "αλέξης",
    ];

    /// <summary>Names of one language each, with letters that have two bytes or more in UTF-8.</summary>
    private static readonly Gen<string> Names = Gen.Int[0, Alphabets.Length - 1]
        .Select(alphabet => Alphabets[alphabet])
        .SelectMany(special =>
            Gen.OneOf(Gen.Char["abcdefghijklmnopqrstuvwxyz -'"], Gen.Char[special])
                .Array[1, 20]
                .Select(letters => new string(letters))
        );

    [Fact]
    public void A_text_read_in_the_wrong_encoding_is_read_again() =>
        Names.Sample(name =>
        {
            var bytes = Encoding.UTF8.GetBytes(name);

            // Windows-1252 has nothing for five of the bytes.
            var misread = string.Concat(
                bytes.Select(each =>
                    each is 0x81 or 0x8D or 0x8F or 0x90 or 0x9D
                        ? ((char)each).ToString()
                        : Windows1252.GetString([each])
                )
            );
            MendedText.Of(misread).ShouldBe(name);
        });

    [Fact]
    public void A_text_that_is_not_broken_stays_as_it_is() =>
        Names.Sample(name =>
        {
            MendedText.Of(name).ShouldBe(name);
            MendedText.Of(MendedText.Of(name)).ShouldBe(name);
        });

    [Theory]
    [InlineData("B&ouml;sterer", "Bösterer")]
    [InlineData("B&#246;sterer", "Bösterer")]
    [InlineData("Gannet & Tern", "Gannet & Tern")]
    [InlineData("R&D; Gannet", "R&D; Gannet")]
    [InlineData("B?sterer", "Bsterer")]
    [InlineData("Why? Because", "Why? Because")]
    [InlineData("?", "?")]
    [InlineData("Ã", "Ã")]
    [InlineData("ÃÃÃ", "ÃÃÃ")]
    [InlineData("\uD83D Ã¶", "\uD83D ö")]
    public void Character_references_and_lost_letters(string broken, string mended) =>
        MendedText.Of(broken).ShouldBe(mended);

    [Theory]
    [InlineData("Gannet Ltd (do not use)", "Gannet Ltd")]
    [InlineData("Gannet Ltd - OLD", "Gannet Ltd")]
    [InlineData("Gannet Ltd *** BLOCKED ***", "Gannet Ltd")]
    [InlineData("*** BLOCKED *** Gannet Ltd", "Gannet Ltd")]
    [InlineData("Tilling [verstorben]", "Tilling")]
    [InlineData("Tilling deceased", "Tilling")]
    [InlineData("Tilling c/o parents", "Tilling")]
    [InlineData("Robert (Bob) Tilling", "Robert (Bob) Tilling")]
    [InlineData("Gannet (Saltmarrow) Ltd", "Gannet (Saltmarrow) Ltd")]
    [InlineData("New Quay - Old Harbour Ltd", "New Quay - Old Harbour Ltd")]
    [InlineData("The Old New Company", "The Old New Company")]
    [InlineData("(do not use)", "(do not use)")]
    [InlineData("((((((", "((((((")]
    [InlineData("****", "****")]
    [InlineData("", "")]
    public void Notes_beside_a_name_are_no_part_of_it(string written, string name) =>
        Annotations.WithoutThem(written).ShouldBe(name);

    [Fact]
    public void Any_text_can_be_read() =>
        Gen.OneOf(Gen.String[Gen.Char["([{*#-–/)]} aOLDdonotuse\uD83D"], 0, 30], Gen.String[0, 60])
            .Sample(text =>
            {
                var rest = Annotations.WithoutThem(text);
                rest.Length.ShouldBeLessThanOrEqualTo(text.Length);
                (rest.Any(char.IsLetterOrDigit) || rest == text).ShouldBeTrue();
                MendedText.Of(text).ShouldNotBeNull();
            });

    [Fact]
    public void Brackets_without_end_take_no_time() =>
        Annotations.WithoutThem(new string('(', 100_000)).Length.ShouldBe(100_000);
}
