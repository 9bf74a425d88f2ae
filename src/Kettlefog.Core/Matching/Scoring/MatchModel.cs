using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Features;
using Kettlefog.Core.Matching.Records;

namespace Kettlefog.Core.Matching.Scoring;

/// <summary>The kind of entity that a record type holds, which decides what identifies its records.</summary>
public enum EntityKind
{
    /// <summary>People.</summary>
    Person,

    /// <summary>Organisations.</summary>
    Organisation,

    /// <summary>Households.</summary>
    Household,

    /// <summary>Anything else, such as vessels.</summary>
    Thing,
}

/// <summary>
/// The features that are compared between the records of a type, made from its fields, and their evidence.
/// </summary>
internal sealed class MatchModel
{
    private static readonly HashSet<string> NoFillers = [];

    private static readonly HashSet<string> HouseholdFillers =
    [
        "the",
        "family",
        "household",
        "mr",
        "mrs",
        "ms",
        "miss",
        "dr",
        "and",
        "familie",
        "famille",
        "fam",
        "herr",
        "frau",
        "of",
    ];

    private MatchModel(EntityKind entity, IReadOnlyList<Feature> features, Relation[] relations)
    {
        Entity = entity;
        Features = features;
        Relations = relations;
        var evidence = new List<EvidenceKind>();
        Offsets = new int[features.Count];
        for (var index = 0; index < features.Count; index++)
        {
            Offsets[index] = evidence.Count;
            evidence.AddRange(features[index].Evidence);
        }

        Evidence = [.. evidence];
    }

    public EntityKind Entity { get; }

    public IReadOnlyList<Feature> Features { get; }

    public Relation[] Relations { get; }

    public EvidenceKind[] Evidence { get; }

    /// <summary>The index of each feature's first evidence.</summary>
    public int[] Offsets { get; }

    /// <summary>For each evidence whether it is ignored, because no named field contributes to it.</summary>
    public bool[] EvidenceWithout(IReadOnlyList<Field> fields, IReadOnlyList<string> named)
    {
        var kinds = fields.Where(field => named.Contains(field.Name)).Select(field => field.Kind).ToHashSet();
        return
        [
            .. Evidence.Select(evidence =>
                !(named.Contains(evidence.Name) || MadeOf(evidence.Name).Any(kinds.Contains))
            ),
        ];
    }

    /// <summary>Words of the name of a field that is about the organisation of a person.</summary>
    private static readonly string[] EmployerWords =
    [
        "employer",
        "company",
        "firm",
        "workplace",
        "organi",
        "affiliation",
    ];

    /// <summary>Words of the name of a field that is about a person whom an organisation names.</summary>
    private static readonly string[] ContactWords =
    [
        "contact",
        "owner",
        "manager",
        "director",
        "representative",
        "buyer",
    ];

    /// <summary>
    /// The kind of entity, judged by all fields of a record type. People have an organisation, and organisations a
    /// person to turn to: what else there is says which of them the records stand for.
    /// </summary>
    public static EntityKind EntityOf(IReadOnlyList<Field> fields)
    {
        bool Has(params FieldKind[] kinds) => fields.Any(field => kinds.Contains(field.Kind));
        if (Has(FieldKind.HouseholdName))
            return EntityKind.Household;
        var names = fields
            .Where(field => field.Kind is FieldKind.PersonName or FieldKind.GivenName or FieldKind.FamilyName)
            .ToList();
        var organisations = fields.Where(field => field.Kind == FieldKind.OrganisationName).ToList();
        if (organisations.Count == 0)
            return names.Count > 0 ? EntityKind.Person : EntityKind.Thing;
        names.RemoveAll(field => IsNamed(field, ContactWords));
        if (names.Count == 0)
            return EntityKind.Organisation;
        var person =
            (names.Exists(field => field.Kind == FieldKind.GivenName) ? 2 : 0)
            + (Has(FieldKind.BirthDate) ? 3 : 0)
            + (Has(FieldKind.MiddleName, FieldKind.NameSuffix) ? 1 : 0)
            + (organisations.TrueForAll(field => IsNamed(field, EmployerWords)) ? 1 : 0);
        var organisation =
            (organisations.Count > 1 ? 1 : 0)
            + (Has(FieldKind.TaxNumber) ? 1 : 0)
            + (Has(FieldKind.BankAccount) ? 1 : 0)
            + (Has(FieldKind.Url) ? 1 : 0);
        return person > organisation ? EntityKind.Person : EntityKind.Organisation;
    }

    /// <summary>
    /// True for a field with a name that records of the kind are not compared by, unless it names a person to turn to.
    /// </summary>
    public static bool LeavesOut(Field field, EntityKind entity) =>
        field.Kind
            is FieldKind.PersonName
                or FieldKind.GivenName
                or FieldKind.FamilyName
                or FieldKind.OrganisationName
                or FieldKind.HouseholdName
        && !Identifies(field, entity)
        && !IsNamed(field, ContactWords);

    private static bool IsNamed(Field field, string[] words) =>
        words.Any(word => field.Name.Contains(word, StringComparison.OrdinalIgnoreCase));

    /// <summary>Makes the model of a record type.</summary>
    /// <param name="fields">The record type's fields.</param>
    /// <param name="compare">
    /// The names of the fields to compare; empty for all fields whose kind identifies a record.
    /// </param>
    /// <param name="country">The default country of records, or null.</param>
    /// <param name="nicknames">Groups of given names that are forms of one name.</param>
    /// <exception cref="KettlefogException">No field can be compared.</exception>
    public static MatchModel For(
        IReadOnlyList<Field> fields,
        IReadOnlyList<string> compare,
        string? country,
        Nicknames nicknames
    )
    {
        var entity = EntityOf(fields);
        var used =
            compare.Count > 0
                ? fields.Where(field => compare.Contains(field.Name)).ToList()
                : [.. fields.Where(field => Identifies(field, entity))];
        if (used.Count == 0)
        {
            throw new KettlefogException(
                ErrorCode.InvalidRule,
                "No field has a kind by which records can be told apart.",
                "Give the fields kinds in the map, such as person-name, email or phone, or name the fields "
                    + "under 'compare'."
            );
        }

        var relations = entity switch
        {
            EntityKind.Person => DefaultEvidence.PersonRelations,
            EntityKind.Organisation => DefaultEvidence.OrganisationRelations,
            EntityKind.Household => DefaultEvidence.HouseholdRelations,
            _ => DefaultEvidence.ThingRelations,
        };
        return new MatchModel(
            entity,
            Make(fields, used, entity, relations.Length, country, nicknames, compare.Count > 0),
            relations
        );
    }

    /// <summary>The kinds of field behind evidence that has a name of its own.</summary>
    private static FieldKind[] MadeOf(string evidence) =>
        evidence switch
        {
            "given_name" => [FieldKind.PersonName, FieldKind.GivenName],
            "family_name" => [FieldKind.PersonName, FieldKind.FamilyName],
            "middle_name" => [FieldKind.PersonName, FieldKind.GivenName, FieldKind.MiddleName],
            "name_suffix" => [FieldKind.PersonName, FieldKind.NameSuffix, FieldKind.FamilyName],
            "name" or "legal_form" or "employer" => [FieldKind.OrganisationName],
            "phone" => [FieldKind.Phone],
            "email" => [FieldKind.Email],
            "website" => [FieldKind.Url],
            "address" => [FieldKind.Street, FieldKind.HouseNumber, FieldKind.Unit],
            "place" => [FieldKind.Postcode, FieldKind.City, FieldKind.Region],
            _ => [],
        };

    private static bool Identifies(Field field, EntityKind entity) =>
        field.Kind switch
        {
            FieldKind.Text => entity == EntityKind.Thing,
            FieldKind.PersonName
            or FieldKind.GivenName
            or FieldKind.MiddleName
            or FieldKind.FamilyName
            or FieldKind.NameSuffix => entity == EntityKind.Person,
            FieldKind.Number or FieldKind.Integer or FieldKind.Code => entity == EntityKind.Thing,
            FieldKind.LongText
            or FieldKind.Timestamp
            or FieldKind.Date
            or FieldKind.Money
            or FieldKind.Currency
            or FieldKind.Flag => false,
            _ => true,
        };

    private static List<Feature> Make(
        IReadOnlyList<Field> fields,
        List<Field> used,
        EntityKind entity,
        int relations,
        string? defaultCountry,
        Nicknames nicknames,
        bool named
    )
    {
        var features = new List<Feature>();
        int[] Of(params FieldKind[] kinds) =>
            [
                .. fields
                    .Select((field, index) => (field, index))
                    .Where(pair =>
                        kinds.Contains(pair.field.Kind)
                        && (used.Contains(pair.field) || pair.field.Kind == FieldKind.Country)
                    )
                    .Select(pair => pair.index),
            ];
        int One(FieldKind kind) => Of(kind) is [var first, ..] ? first : -1;

        if (entity == EntityKind.Person || named)
        {
            var columns = new PersonNameColumns(
                Of(FieldKind.PersonName),
                Of(FieldKind.GivenName),
                Of(FieldKind.MiddleName),
                Of(FieldKind.FamilyName),
                Of(FieldKind.NameSuffix)
            );
            if (columns.Full.Length + columns.Given.Length + columns.Family.Length > 0)
                features.Add(
                    new PersonNameFeature(
                        columns,
                        nicknames,
                        [
                            .. new[]
                            {
                                DefaultEvidence.GivenName(),
                                DefaultEvidence.FamilyName(),
                                DefaultEvidence.MiddleName(),
                                DefaultEvidence.NameSuffix(),
                            }.Select(kind => Widen(kind, relations)),
                        ]
                    )
                );
        }

        if (Of(FieldKind.OrganisationName) is { Length: > 0 } names)
            features.Add(
                new OrganisationNameFeature(
                    names,
                    entity == EntityKind.Person ? [] : Of(FieldKind.City),
                    entity == EntityKind.Person
                        ? [Widen(DefaultEvidence.Employer(fields[names[0]].Title), relations)]
                        : [.. DefaultEvidence.OrganisationName().Select(kind => Widen(kind, relations))]
                )
            );
        foreach (var index in Of(FieldKind.HouseholdName))
            features.Add(
                new TextFeature(
                    index,
                    Widen(DefaultEvidence.HouseholdName(fields[index].Name, fields[index].Title), relations),
                    HouseholdFillers,
                    isName: true
                )
            );
        foreach (var index in Of(FieldKind.TaxNumber))
            features.Add(
                new IdentifierFeature(
                    index,
                    withCountry: true,
                    DefaultEvidence.Identifier(fields[index].Name, fields[index].Title, relations, 0.06, differs: 0.008)
                )
            );
        foreach (var index in Of(FieldKind.Identifier))
            features.Add(
                new IdentifierFeature(
                    index,
                    withCountry: false,
                    DefaultEvidence.Identifier(fields[index].Name, fields[index].Title, relations, 0.05)
                )
            );
        foreach (var index in Of(FieldKind.BankAccount))
            features.Add(
                new IdentifierFeature(
                    index,
                    withCountry: false,
                    BankAccount(DefaultEvidence.Identifier(fields[index].Name, fields[index].Title, relations, 0.15))
                )
            );
        foreach (var index in Of(FieldKind.BirthDate))
            features.Add(
                new BirthDateFeature(
                    index,
                    Widen(DefaultEvidence.BirthDate(fields[index].Name, fields[index].Title), relations)
                )
            );
        if (Of(FieldKind.Phone) is { Length: > 0 } phones)
            features.Add(
                new PhoneFeature(
                    phones,
                    One(FieldKind.Country),
                    defaultCountry,
                    Widen(
                        entity == EntityKind.Organisation
                            ? DefaultEvidence.OrganisationPhone()
                            : DefaultEvidence.PersonPhone(),
                        relations
                    )
                )
            );
        if (Of(FieldKind.Email) is { Length: > 0 } mails)
            features.Add(
                new EmailFeature(
                    mails,
                    entity == EntityKind.Person
                        ? Of(FieldKind.PersonName, FieldKind.GivenName, FieldKind.MiddleName, FieldKind.FamilyName)
                        : [],
                    Widen(
                        entity == EntityKind.Organisation
                            ? DefaultEvidence.OrganisationEmail()
                            : DefaultEvidence.PersonEmail(),
                        relations
                    )
                )
            );
        var address = new AddressColumns(
            Of(FieldKind.Street),
            One(FieldKind.HouseNumber),
            One(FieldKind.Unit),
            One(FieldKind.Postcode),
            One(FieldKind.City),
            One(FieldKind.Region)
        );
        if (address.Street.Length > 0 || address.Postcode >= 0 || address.City >= 0)
            features.Add(
                new AddressFeature(
                    address,
                    [
                        .. (
                            entity == EntityKind.Organisation
                                ? DefaultEvidence.OrganisationAddress()
                                : DefaultEvidence.PersonAddress()
                        ).Select(kind => Widen(kind, relations)),
                    ]
                )
            );
        foreach (var index in Of(FieldKind.Url))
            features.Add(
                new ValueFeature(
                    index,
                    entity == EntityKind.Organisation ? Of(FieldKind.Email) : [],
                    ValueForm.Host,
                    Widen(DefaultEvidence.Website(), relations)
                )
            );
        var first = entity == EntityKind.Thing;
        foreach (var index in Of(FieldKind.Text, FieldKind.LongText))
        {
            features.Add(
                new TextFeature(
                    index,
                    DefaultEvidence.Text(fields[index].Name, fields[index].Title, relations),
                    NoFillers,
                    first
                )
            );
            first = false;
        }

        foreach (
            var (kind, form) in new[]
            {
                (FieldKind.Number, ValueForm.Number),
                (FieldKind.Integer, ValueForm.Number),
                (FieldKind.Money, ValueForm.Number),
                (FieldKind.Date, ValueForm.Date),
                (FieldKind.Timestamp, ValueForm.Date),
                (FieldKind.Code, ValueForm.Code),
                (FieldKind.Currency, ValueForm.Code),
                (FieldKind.Flag, ValueForm.Code),
            }
        )
        {
            foreach (var index in Of(kind))
                features.Add(
                    new ValueFeature(
                        index,
                        [],
                        form,
                        DefaultEvidence.Value(fields[index].Name, fields[index].Title, relations)
                    )
                );
        }

        return features;
    }

    /// <summary>Bank accounts change: a different one is weak evidence against a match.</summary>
    private static EvidenceKind BankAccount(EvidenceKind kind) =>
        kind with
        {
            Levels = [kind.Levels[0] with { Match = 0.60 }, kind.Levels[1], kind.Levels[2] with { Match = 0.35 }],
        };

    /// <summary>Adapts evidence made for one relation to several, or the other way round.</summary>
    private static EvidenceKind Widen(EvidenceKind kind, int relations) =>
        kind with
        {
            Levels =
            [
                .. kind.Levels.Select(level =>
                    level with
                    {
                        Related =
                        [
                            .. Enumerable
                                .Range(0, relations)
                                .Select(index => level.Related[Math.Min(index, level.Related.Length - 1)]),
                        ],
                    }
                ),
            ],
        };
}
