using CsCheck;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Features;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Matching.Scoring;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Text;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>Laws that hold for every feature, whatever the records contain.</summary>
public class FeatureLawTests
{
    private static readonly FieldKind[] Everything =
    [
        .. Enum.GetValues<FieldKind>().Where(kind => kind != FieldKind.HouseholdName),
    ];

    // Frequent pieces, so that values agree, nearly agree and differ.
    private static readonly Gen<string?> Value = Gen.OneOf(
        Gen.Const((string?)null),
        OneOf(
            "Maud",
            "Maude",
            "Tilling",
            "Mr J. Ashe Jr",
            "Berg, Anna M.",
            "van der Plaat",
            "Gannet Chandlery Ltd",
            "GANNET CHANDLERY",
            "Gannet North",
            "SHP"
        ),
        OneOf(
            "01632 960118",
            "+44 1632 960118",
            "1970-02-03",
            "03/02/1970",
            "maud@tide.example",
            "https://www.tide.example/x",
            "12 Fish Street",
            "Flat 2, 12 Fish St",
            "SM1 4QD",
            "Saltmarrow"
        ),
        OneOf("GB404118207", "404118207", "12.5", "13", "0", "n/a", "", " ", "王小明", "\ud800"),
        Gen.String.Select(text => (string?)text)
    );

    private static readonly Gen<string?[]> Row = Value.Array[Everything.Length];

    [Fact]
    public void Findings_are_symmetric_in_range_and_not_against_oneself() =>
        Gen.Select(Row.Array[3, 12], Gen.Int[0, 11], Gen.Int[0, 11])
            .Sample(
                (rows, first, second) =>
                {
                    var model = MatchModel.For(
                        Fields(),
                        [.. Fields().Select(field => field.Name)],
                        "GB",
                        new Nicknames()
                    );
                    var slices = rows.Select(row => model.Features.Select(feature => Prepare(feature, row)).ToArray())
                        .ToArray();
                    for (var feature = 0; feature < model.Features.Count; feature++)
                    {
                        foreach (var slice in slices)
                            model.Features[feature].Count(slice[feature], 1);
                        model.Features[feature].Population = rows.Length;
                        model.Features[feature].Settle();
                    }

                    var (a, b) = (slices[first % rows.Length], slices[second % rows.Length]);
                    for (var feature = 0; feature < model.Features.Count; feature++)
                    {
                        var kinds = model.Features[feature].Evidence;
                        var (there, back, self) = (
                            new Finding[kinds.Count],
                            new Finding[kinds.Count],
                            new Finding[kinds.Count]
                        );
                        model.Features[feature].Compare(a[feature], b[feature], there);
                        model.Features[feature].Compare(b[feature], a[feature], back);
                        model.Features[feature].Compare(a[feature], a[feature], self);
                        there.ShouldBe(back, model.Features[feature].GetType().Name);
                        for (var kind = 0; kind < kinds.Count; kind++)
                        {
                            there[kind].Level.ShouldBeInRange(-1, kinds[kind].Levels.Length - 1);
                            there[kind].Rarity.ShouldBeInRange(0, 20);
                            self[kind]
                                .Level.ShouldBeLessThan(kinds[kind].Levels.Length - 1, "nothing differs from itself");
                        }
                    }
                },
                iter: 400
            );

    [Fact]
    public void Equal_records_have_equal_keys() =>
        Row.Sample(
            row =>
            {
                var model = MatchModel.For(Fields(), [.. Fields().Select(field => field.Name)], "GB", new Nicknames());
                KeysOf(model, row).ShouldBe(KeysOf(model, [.. row]), ignoreOrder: true);
            },
            iter: 200
        );

    [Fact]
    public void Scores_are_symmetric_and_probabilities() =>
        Gen.Select(Row, Row)
            .Sample(
                (a, b) =>
                {
                    using var finder = Finders.Over(Finders.People, []);
                    var (x, y) = (a[..10], b[..10]);
                    var there = finder.Explain(x, y);
                    there.Score.ShouldBeInRange(0, 1);
                    finder.Explain(y, x).Score.ShouldBe(there.Score, 1e-9);
                    there
                        .Evidence.Sum(each => each.Weight)
                        .ShouldBe(Math.Log2(there.Score / (1 - there.Score)) - there.PriorWeight, 0.01);
                },
                iter: 200
            );

    [Fact]
    public void Every_level_has_shares_that_can_be_and_differences_never_speak_for_a_match()
    {
        foreach (
            var entity in new[]
            {
                FieldKind.PersonName,
                FieldKind.OrganisationName,
                FieldKind.HouseholdName,
                FieldKind.Text,
            }
        )
        {
            var fields = Fields()
                .Where(field =>
                    field.Kind
                        is not (
                            FieldKind.PersonName
                            or FieldKind.OrganisationName
                            or FieldKind.GivenName
                            or FieldKind.FamilyName
                        )
                )
                .Append(new Field("own", "Own", "own", entity, null, null))
                .ToList();
            var model = MatchModel.For(fields, [], null, new Nicknames());
            model.Evidence.Select(kind => kind.Name).ShouldBeUnique();
            foreach (var kind in model.Evidence)
            {
                kind.Levels.Sum(level => level.Match).ShouldBe(1, 0.011, kind.Name);
                kind.Levels.ShouldAllBe(level =>
                    level.Match > 0
                    && level.Match < 1
                    && level.Random > 0
                    && level.Related.Length == model.Relations.Length
                    && level.Related.All(share => share > 0 && share < 1)
                );
                for (var relation = 0; relation < model.Relations.Length; relation++)
                    kind.Levels.Sum(level => level.Related[relation]).ShouldBe(1, 0.06, kind.Name);
            }

            // Even if learned from very little, a difference never supports a match, and no weaker agreement
            // weighs more.
            Finding[] nothing = [.. model.Evidence.Select(_ => Finding.None)];
            var learned = ScoreLearner.Learn(model.Evidence, model.Relations, 1_000, 0.25, [nothing], 1);
            foreach (var levels in learned.Evidence.Select(kind => kind.Levels))
            {
                for (var relation = 0; relation < model.Relations.Length; relation++)
                {
                    var weights = levels.Select(level => Math.Log2(level.Match / level.Related[relation])).ToList();
                    weights[^1].ShouldBeLessThanOrEqualTo(0.5);
                    weights.Zip(weights.Skip(1)).ShouldAllBe(pair => pair.Second <= pair.First + 0.5);
                }
            }
        }
    }

    [Theory]
    [InlineData(FieldKind.PersonName, EntityKind.Person)]
    [InlineData(FieldKind.FamilyName, EntityKind.Person)]
    [InlineData(FieldKind.OrganisationName, EntityKind.Organisation)]
    [InlineData(FieldKind.HouseholdName, EntityKind.Household)]
    [InlineData(FieldKind.Text, EntityKind.Thing)]
    public void The_kinds_of_fields_say_what_a_record_stands_for(FieldKind kind, EntityKind entity) =>
        MatchModel
            .EntityOf([
                new Field("f", "F", "f", kind, null, null),
                new Field("c", "C", "c", FieldKind.City, null, null),
            ])
            .ShouldBe(entity);

    [Theory]
    [InlineData("given_name:GivenName family_name:FamilyName company:OrganisationName", EntityKind.Person)]
    [InlineData("name:PersonName birth_date:BirthDate employer:OrganisationName", EntityKind.Person)]
    [InlineData("first:GivenName last:FamilyName company:OrganisationName site:Url", EntityKind.Person)]
    [InlineData("name:OrganisationName contact_person:PersonName", EntityKind.Organisation)]
    [InlineData("name:OrganisationName contact_first:GivenName contact_last:FamilyName", EntityKind.Organisation)]
    [InlineData("name:OrganisationName owner:PersonName tax:TaxNumber", EntityKind.Organisation)]
    [InlineData(
        "company:OrganisationName trading_as:OrganisationName given:GivenName tax:TaxNumber",
        EntityKind.Organisation
    )]
    public void What_a_record_stands_for_comes_from_all_its_fields(string fields, EntityKind entity) =>
        MatchModel
            .EntityOf([
                .. fields
                    .Split(' ')
                    .Select(field => field.Split(':'))
                    .Select(parts => new Field(
                        parts[0],
                        parts[0],
                        parts[0],
                        Enum.Parse<FieldKind>(parts[1]),
                        null,
                        null
                    )),
            ])
            .ShouldBe(entity);

    [Fact]
    public void Fields_that_tell_nobody_apart_are_refused()
    {
        var refusal = Should.Throw<KettlefogException>(() =>
            MatchModel.For(
                [new Field("seen", "Seen", "seen", FieldKind.Timestamp, null, null)],
                [],
                null,
                new Nicknames()
            )
        );
        refusal.Code.ShouldBe(ErrorCode.InvalidRule);
        refusal.Hint!.ShouldContain("person-name");
    }

    [Fact]
    public void A_rule_that_names_fields_looks_at_nothing_else()
    {
        var model = MatchModel.For(Finders.People.Fields, ["phone", "family_name"], null, new Nicknames());
        model
            .Evidence.Select(kind => kind.Name)
            .ShouldBe(["given_name", "family_name", "middle_name", "name_suffix", "phone"], ignoreOrder: true);
        var without = model.EvidenceWithout(Finders.People.Fields, ["phone"]);
        model.Evidence.Zip(without).Where(pair => !pair.Second).Select(pair => pair.First.Name).ShouldBe(["phone"]);
    }

    private static Gen<string?> OneOf(params string[] values) =>
        Gen.Int[0, values.Length - 1].Select(index => (string?)values[index]);

    private static List<Field> Fields() =>
        [
            .. Everything.Select(kind => new Field(
                EnumName.Of(kind).Replace('-', '_'),
                $"{kind}",
                $"{kind}",
                kind,
                null,
                null
            )),
        ];

    private static int[] Prepare(Feature feature, string?[] row)
    {
        var into = new List<int>();
        feature.Prepare(row, new WordBuffer(), into);
        return [.. into];
    }

    private static HashSet<ulong> KeysOf(MatchModel model, string?[] row)
    {
        var parts = new KeyParts();
        foreach (var feature in model.Features)
            feature.AddParts(Prepare(feature, row), parts);
        var keys = new List<ulong>();
        BlockIndex.AddKeys(parts, keys);
        return [.. keys];
    }
}
