using Kettlefog.Core.Values;

namespace Kettlefog.Core.Tests;

public class CharacterTextTests
{
    [Theory]
    [InlineData("", 5, "")]
    [InlineData("abcde", 5, "abcde")]
    [InlineData("abcdef", 5, "abcd…")]
    [InlineData("🐳🐳🐳🐳🐳", 5, "🐳🐳🐳🐳🐳")]
    [InlineData("🐳🐳🐳🐳🐳🐳", 5, "🐳🐳🐳🐳…")]
    [InlineData("ab👩‍👧cd", 5, "ab…")]
    [InlineData("e\u0301e\u0301e\u0301", 4, "e\u0301…")]
    [InlineData("🐳🐳", 1, "…")]
    public void A_text_is_cut_between_what_people_see_as_characters(string text, int max, string expected) =>
        CharacterText.Shorten(text, max).ShouldBe(expected);

    [Theory]
    [InlineData("", 0)]
    [InlineData("é", 1)]
    [InlineData("🐳", 1)]
    [InlineData("👩‍👧", 3)]
    public void Characters_are_counted_as_databases_count_them(string text, int count) =>
        CharacterText.Count(text).ShouldBe(count);
}
