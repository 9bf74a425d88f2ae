using CsCheck;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Matching.Features;
using Kettlefog.Core.Text;
using Kettlefog.Demo.Truth;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>Names in other scripts and spellings: the table beside this file, which anybody can extend.</summary>
public class ScriptTests
{
    private static readonly string[] Against = ["different ", "slightly similar "];

    private static readonly Lazy<DuplicateFinder> People = new(() =>
        Finders.Over(
            Finders.TypeOf(
                ["name", "given_name", "family_name"],
                [FieldKind.PersonName, FieldKind.GivenName, FieldKind.FamilyName]
            ),
            PeopleMaker.Make(2_000, 3).Select(record => new[] { null, record.Values[0], record.Values[2] })
        )
    );
    private static readonly Lazy<DuplicateFinder> Companies = new(() =>
        Finders.Over(
            Finders.TypeOf(["name"], [FieldKind.OrganisationName]),
            OrganisationMaker.Make(2_000, 3).Select(record => new[] { record.Values[0] })
        )
    );

    public static TheoryData<string> Lines()
    {
        var data = new TheoryData<string>();
        foreach (
            var line in File.ReadLines(Path.Combine(AppContext.BaseDirectory, "Matching", "names-across-scripts.txt"))
        )
        {
            if (line.Length > 0 && line[0] != '#')
                data.Add(line);
        }

        return data;
    }

    [Theory]
    [MemberData(nameof(Lines))]
    public void A_name_is_known_in_another_script_and_one_that_looks_alike_is_not(string line)
    {
        var parts = line.Split('|', StringSplitOptions.TrimEntries);
        var isCompany = parts[0].StartsWith("company ", StringComparison.Ordinal);
        var finder = isCompany ? Companies.Value : People.Value;
        var (a, b) = isCompany ? ([parts[1]], [parts[2]]) : (Person(parts[1]), Person(parts[2]));
        var words = finder.Explain(a, b).Evidence.Select(each => each.Words).ToList();
        finder.Explain(b, a).Evidence.Select(each => each.Words).ShouldBe(words, ignoreOrder: true);
        var told = string.Join(", ", words);
        var contradicts = words.Exists(each => Against.Any(start => each.StartsWith(start, StringComparison.Ordinal)));
        switch (parts[0].Split(' ')[^1])
        {
            case "same":
                contradicts.ShouldBeFalse(told);
                words.Count.ShouldBeGreaterThanOrEqualTo(isCompany ? 1 : 2, told);
                break;
            case "unread":
                contradicts.ShouldBeFalse(told);
                break;
            default:
                contradicts.ShouldBeTrue(told);
                break;
        }
    }

    [Fact]
    public void Any_two_words_compare_the_same_both_ways() =>
        Gen.Select(Word, Word)
            .Sample(
                words =>
                {
                    var (a, b) = (Reading.Of(words.Item1), Reading.Of(words.Item2));
                    return a.Script == b.Script || Readings.Relation(a, b) == Readings.Relation(b, a);
                },
                iter: 20_000
            );

    private static readonly string[] Letters =
    [
        "abcdeghijklmnopqrstuvwxyz",
        "محدعبايويرسلةضهء",
        "אבגדוחיכלמנש",
        "タナカッショウンー",
        "김이민수영",
        "王小明田中太郎々",
        "สมชายร์ี",
        "रामिश्",
        "aهוッ김王ร์ि1ø",
    ];

    /// <summary>Words of one script, of several mixed, and of anything at all.</summary>
    private static readonly Gen<string> Word = Gen.OneOf(
            Gen.Int[0, Letters.Length - 1].SelectMany(script => Gen.String[Gen.Char[Letters[script]], 1, 6]),
            Gen.String[1, 8]
        )
        .Select(text =>
        {
            var words = new WordBuffer();
            words.Split(text, FullStops.Part);
            return words.Count > 0 ? words[0].ToString() : "a";
        });

    private static string?[] Person(string name) =>
        name.Split('/', StringSplitOptions.TrimEntries) is [var given, var family]
            ? [null, given, family]
            : [name, null, null];
}
