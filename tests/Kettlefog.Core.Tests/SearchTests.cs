using CsCheck;
using Kettlefog.Core.Search;
using Kettlefog.Core.Text;

namespace Kettlefog.Core.Tests;

public class SearchTests
{
    [Theory]
    [InlineData("gannet", "|%gannet%")]
    [InlineData("gann*", "|gann%")]
    [InlineData("g?nnet", "|g_nnet")]
    [InlineData("50%_off", "|%50\\%\\_off%")]
    [InlineData("name:gann* ltd", "name|gann% |%ltd%")]
    [InlineData("NAME:x", "name|%x%")]
    [InlineData("name:\"fish street\"", "name|%fish street%")]
    [InlineData("10:30", "|%10:30%")]
    [InlineData("", "")]
    public void A_search_is_read_as_typed(string text, string expected) =>
        string.Join(
                ' ',
                SearchQuery.Read(text, ["name", "city"]).Terms.Select(term => $"{term.Field}|{term.ToLikePattern()}")
            )
            .ShouldBe(expected);

    [Fact]
    public void An_open_quote_is_refused() =>
        Should.Throw<KettlefogException>(() => SearchQuery.Read("\"fish", [])).Code.ShouldBe(ErrorCode.InvalidQuery);

    [Theory]
    [InlineData(32, 10, null)]
    [InlineData(33, 10, "33 words")]
    [InlineData(4, 250, "1003 characters")]
    [InlineData(1, 1_000, null)]
    public void A_search_has_bounds(int words, int length, string? refusal)
    {
        SearchQuery Read() => SearchQuery.Read(string.Join(' ', Enumerable.Repeat(new string('x', length), words)), []);
        if (refusal is null)
            Read().Terms.Count.ShouldBe(words);
        else
            Should.Throw<KettlefogException>(Read).Message.ShouldContain(refusal);
    }

    [Theory]
    [InlineData("Håkon Ørn", "hakon orn")]
    [InlineData("STRAẞE Łódź", "strasse lodz")]
    [InlineData("ÆTHER", "aether")]
    [InlineData("ﬁsh", "fish")]
    public void Folding_takes_case_and_accents_away(string text, string folded) => FoldedText.Of(text).ShouldBe(folded);

    [Fact]
    public void Folding_never_fails_and_is_stable() =>
        Gen.String.Sample(text => FoldedText.Of(FoldedText.Of(text)) == FoldedText.Of(text));
}
