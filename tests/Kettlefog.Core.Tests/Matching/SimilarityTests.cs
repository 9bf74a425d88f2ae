using CsCheck;
using Kettlefog.Core.Matching.Features;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Text.Similarity;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>Comparators against the examples of their papers and standards, and against common laws.</summary>
public class SimilarityTests
{
    private static readonly Gen<string> Text = Gen.String[Gen.Char["abcdeé中 .'-"], 0, 14];

    [Theory]
    [InlineData("MARTHA", "MARHTA", 0.9444, 0.9611)]
    [InlineData("DIXON", "DICKSONX", 0.7667, 0.8133)]
    [InlineData("DWAYNE", "DUANE", 0.8222, 0.84)]
    [InlineData("JONES", "JOHNSON", 0.7905, 0.8324)]
    [InlineData("ABROMS", "ABRAMS", 0.8889, 0.9222)]
    [InlineData("abc", "xyz", 0, 0)]
    public void Jaro_and_Winkler(string a, string b, double jaro, double winkler)
    {
        JaroWinkler.Jaro(a, b).ShouldBe(jaro, 0.0001);
        JaroWinkler.Of(a, b).ShouldBe(winkler, 0.0001);
    }

    [Theory]
    [InlineData("", "", 0)]
    [InlineData("kitten", "sitting", 3)]
    [InlineData("gannet", "gannett", 1)]
    [InlineData("saltmarrow", "satlmarrow", 1)]
    [InlineData("ca", "abc", 3)]
    [InlineData("a", "", 1)]
    public void Damerau_and_Levenshtein(string a, string b, int distance)
    {
        DamerauLevenshtein.Distance(a, b).ShouldBe(distance);
        DamerauLevenshtein.Distance(a, b, 1).ShouldBe(Math.Min(distance, 2));
    }

    [Theory]
    [InlineData("Robert", "R163")]
    [InlineData("Rupert", "R163")]
    [InlineData("Ashcraft", "A261")]
    [InlineData("Tymczak", "T522")]
    [InlineData("Pfister", "P236")]
    [InlineData("Honeyman", "H555")]
    [InlineData("Lee", "L000")]
    [InlineData("中", "")]
    public void Sounds_have_the_codes_of_the_archives(string name, string code) => Soundex.Of(name).ShouldBe(code);

    [Fact]
    public void Pieces_and_words()
    {
        QGrams.Of("night", "nacht").ShouldBe(2 * 3.0 / 12, 0.0001);
        QGrams.Of("", "").ShouldBe(1);
        MongeElkan.Of(["comput", "sci"], ["sci", "comput"]).ShouldBe(1, 0.0001);
        MongeElkan.Of([], ["a"]).ShouldBe(0);
    }

    [Fact]
    public void All_are_symmetric_stay_between_nothing_and_one_and_know_their_own() =>
        Gen.Select(Text, Text)
            .Sample(
                (a, b) =>
                {
                    foreach (
                        var similarity in new Func<string, string, double>[]
                        {
                            (x, y) => JaroWinkler.Of(x, y),
                            (x, y) => JaroWinkler.Jaro(x, y),
                            (x, y) => DamerauLevenshtein.Similarity(x, y),
                            (x, y) => QGrams.Of(x, y),
                            (x, y) => QGrams.Of(x, y, 3),
                            (x, y) => MongeElkan.Of(x.Split(' '), y.Split(' ')),
                        }
                    )
                    {
                        similarity(a, b).ShouldBeInRange(0, 1);
                        similarity(a, b).ShouldBe(similarity(b, a), 1e-9);
                        similarity(a, a).ShouldBe(1);
                    }

                    var distance = DamerauLevenshtein.Distance(a, b);
                    distance.ShouldBeInRange(Math.Abs(a.Length - b.Length), Math.Max(a.Length, b.Length));
                    (distance == 0).ShouldBe(a == b);
                }
            );

    [Fact]
    public void Similar_words_are_never_ruled_out_by_their_letters() =>
        Gen.Select(Gen.Char["abcde1ø"].Array[1, 10], Gen.Char["abcde1ø"].Array[1, 10])
            .Select((x, y) => (new string(x), new string(y)))
            .Sample(
                words =>
                    Math.Min(words.Item1.Length, words.Item2.Length) < 4
                    || JaroWinkler.Of(words.Item1, words.Item2) < 0.8
                    || WordRelations.Of(new Token(0, words.Item1), new Token(1, words.Item2), initials: false)
                        < WordRelation.Different,
                iter: 20_000
            );
}
