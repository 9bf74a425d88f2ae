using Kettlefog.Core.Matching.Records;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>Words are stored once, however many threads add them.</summary>
public class TokenTableTests
{
    [Fact]
    public void Threads_that_bring_the_same_words_get_the_same_tokens()
    {
        const int Words = 60_000;
        var table = new TokenTable();
        var found = new Token[8][];
        Parallel.For(0, found.Length, thread =>
        {
            var random = new Random(thread);
            var order = Enumerable.Range(0, Words).ToArray();
            random.Shuffle(order);
            var own = found[thread] = new Token[Words];
            foreach (var word in order)
            {
                own[word] = table.Intern($"word {word}");
                own[word].Add(1);
            }
        });

        for (var word = 0; word < Words; word++)
        {
            var token = found[0][word];
            token.Text.ShouldBe($"word {word}");
            token.Count.ShouldBe(found.Length);
            found.All(own => ReferenceEquals(own[word], token)).ShouldBeTrue();
            table[token.Id].ShouldBeSameAs(token);
        }

        found[0]
            .Select(token => token.Id)
            .Order()
            .ShouldBe(Enumerable.Range(0, Words), "they are numbered without gaps");
    }

    [Theory]
    [InlineData("", " ")]
    [InlineData("a", "A")]
    [InlineData("e\u0301", "\u00e9")]
    [InlineData("same\0", "same")]
    public void Other_texts_are_other_tokens(string a, string b) => AreOthers(a, b);

    [Fact]
    public void Lone_surrogates_are_texts_too() => AreOthers($"{(char)0xD800}", $"{(char)0xD801}");

    private static void AreOthers(string a, string b)
    {
        var table = new TokenTable();
        table.Intern(a).ShouldNotBeSameAs(table.Intern(b));
        table.Intern(a.ToCharArray()).ShouldBeSameAs(table.Intern(a));
        table.Settle(count => count + 1f);
        table.Rarities!.ShouldBe([1f, 1f]);
    }
}
