using CsCheck;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Features;
using Kettlefog.Core.Matching.Rules;
using Kettlefog.Core.Text;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>
/// Values as people type them, by grammars of what is seen in ledgers and address books: no record ends a scan.
/// </summary>
public class DirtyValueTests
{
    private static readonly Gen<string> Digits = Gen.Char["0123456789"]
        .Array[1, 14]
        .Select(letters => new string(letters));

    private static readonly Gen<string> Gap = Pick(
        "",
        "",
        " ",
        "  ",
        "-",
        ".",
        "/",
        " / ",
        "\u00a0",
        "\u2011",
        "(",
        ")",
        "\t"
    );

    private static readonly Gen<string> Phone = Gen.Select(
            Pick("", "+", "00", "++", "tel:", "Tel. ", "☎ ", "(+", "+44 (0)", "+44(0) ", "0"),
            Gen.Select(Digits, Gap, (digits, gap) => digits + gap).Array[1, 6].Select(string.Concat),
            Pick("", "", " x12", " ext. 5", "#77", " e", "EXT", " (home)", " / ", " ; ", " or ", "\r\n", " (0)", "٣٤٥")
        )
        .Select((before, number, after) => before + number + after)
        .Array[1, 3]
        .Select(numbers => string.Join(" / ", numbers));

    private static readonly Gen<string> Word = Gen.OneOf(
        Pick(
            "Maud",
            "maud",
            "MAUD",
            "Möwe",
            "O'Neill",
            "D’Arcy",
            "van",
            "der",
            "de",
            "la",
            "Jr.",
            "III",
            "Dr",
            "Mrs",
            "-"
        ),
        Pick(
            "Ltd",
            "GmbH & Co. KG",
            "S.p.A.",
            "株式会社",
            "مؤسسة",
            "ООО",
            "und",
            "&",
            "+",
            "'",
            "\"",
            "(",
            ")",
            ",",
            "."
        ),
        Pick("\u0301", "\u200d", "\u202e", "👩‍👧", "\ud83d", "\0", "ﬁ", "İ", "ß", "", "x", "Ⅷ", "½")
    );

    private static readonly Gen<string> Name = Gen.Select(Word, Gap, (word, gap) => word + gap)
        .Array[0, 8]
        .Select(string.Concat);

    private static readonly Gen<string> Date = Gen.Select(
        Pick("0", "1", "31", "32", "29", "-1", "2", "٣", ""),
        Pick("-", "/", ".", " ", "", "T", "\u2010"),
        Pick("2", "02", "13", "00", "Feb", "février", "99"),
        Pick("1900", "0000", "9999", "70", "-5", "19700", "", "2026-01-01T25:61:61Z"),
        (day, between, month, year) => $"{day}{between}{month}{between}{year}"
    );

    private static readonly Gen<string> Address = Gen.Select(
        Pick("", "12", "12-14", "12a", "1/2", "Flat 3,", "Haus Nr. 5", "№7", "P.O. Box"),
        Name,
        Pick("St", "Str.", "straße", "Road", "Rd.", "via", "улица", "通り", ","),
        Pick("", "SM1 4QD", "12345", "\n", " ,,, ", "Top 5", "1.OG"),
        (number, name, kind, rest) => $"{number} {name} {kind} {rest}"
    );

    private static readonly Gen<string> Mail = Gen.Select(
        Name,
        Pick("@", "", "@@", " at ", "＠"),
        Pick("tide.example", "", "TIDE.EXAMPLE", "[127.0.0.1]", "münchen.example", ".", "a..b"),
        Pick("", ">", "; b@tide.example", "?subject=x", " "),
        (local, at, domain, after) => local + at + domain + after
    );

    private static readonly Gen<string?> Value = Gen.OneOf(
        Phone.Select(Nullable),
        Name.Select(Nullable),
        Date.Select(Nullable),
        Address.Select(Nullable),
        Mail.Select(Nullable),
        Gen.String.Select(Nullable),
        Gen.Const((string?)null),
        Gen.Const((string?)new string('x', 20_000))
    );

    private static readonly FieldKind[] Everything = [.. Enum.GetValues<FieldKind>()];

    [Fact]
    public void Whatever_is_written_in_a_field_can_be_read() =>
        Value
            .Array[Everything.Length]
            .Array[2, 10]
            .Sample(
                rows =>
                {
                    var type = Finders.TypeOf([.. Everything.Select(kind => kind.ToString())], Everything);
                    using var finder = new DuplicateFinder(type, [MatchRule.Ready], new FinderOptions(1, "GB", [], []));
                    finder.Add(rows);
                    finder.Prepare([], live: true, CancellationToken.None);
                    finder.Unreadable.ShouldBeEmpty();
                    finder.Score(0, rows.Length, null, CancellationToken.None);
                    finder.FindSimilar(rows[0], 10, 0);
                    finder.Explain(rows[0], rows[1]);
                    finder.Unreadable.ShouldBeEmpty();
                },
                iter: 1_500,
                threads: 2
            );

    [Fact]
    public void Two_numbers_in_one_field_are_read() =>
        Should.NotThrow(() =>
            PhoneReader.Read("+44 1632 960118 / +44 (0)20 7946 0321", "GB", new char[40], new char[8])
        );

    [Fact]
    public void A_value_that_a_reader_cannot_cope_with_counts_as_missing_and_is_named()
    {
        var unreadable = new UnreadableValues();
        var into = new List<int> { 7 };
        unreadable.Prepare(new Faulty(), 3, ["x"], new WordBuffer(), into);
        into.ShouldBe([7]);
        unreadable.Count.ShouldBe(1);
        unreadable.Listed.Single().ShouldBe(new UnreadableValue(3, "Mood", "too sad"));

        // Values that somebody asks about belong to no record.
        unreadable.Prepare(new Faulty(), -1, ["x"], new WordBuffer(), into);
        unreadable.Count.ShouldBe(1);
    }

    private static string? Nullable(string text) => text;

    private static Gen<string> Pick(params string[] values) =>
        Gen.Int[0, values.Length - 1].Select(place => values[place]);

    private sealed class Faulty : Feature
    {
        public override IReadOnlyList<EvidenceKind> Evidence { get; } = [new EvidenceKind("mood", "Mood", [])];

        public override void Prepare(IReadOnlyList<string?> row, WordBuffer words, List<int> into)
        {
            into.Add(1);
            throw new InvalidOperationException("too sad");
        }

        public override void Count(ReadOnlySpan<int> slice, int records) { }

        public override void Compare(ReadOnlySpan<int> a, ReadOnlySpan<int> b, Span<Finding> into) { }

        public override void AddParts(ReadOnlySpan<int> slice, KeyParts parts) { }
    }
}
