namespace Kettlefog.Core.Matching.Evidence;

/// <summary>
/// The default probabilities, before any data is seen: how often each level of agreement occurs within one entity, by
/// chance, and between related entities. The shares within one entity follow the error rates that the record-linkage
/// literature reports for administrative files (Winkler 1990; Christen 2012, "Data Matching", ch. 6); those of related
/// entities follow from what a household, a group of branches or a shared mailbox has in common.
/// </summary>
internal static class DefaultEvidence
{
    /// <summary>
    /// Persons: another member of the household, or somebody sharing a mailbox or phone; and a namesake born on the
    /// same day, of whom there are more than chance has, because common names come in fashions and dates of birth are
    /// guessed, copied and made up.
    /// </summary>
    public static readonly Relation[] PersonRelations =
    [
        new("another person of the same household", 0.6),
        new("a namesake born on the same day", 7, "given_name", "family_name"),
    ];

    /// <summary>
    /// Organisations: a branch or sister company of the same group, and another one at the same place.
    /// </summary>
    public static readonly Relation[] OrganisationRelations =
    [
        new("another branch or company of the same group", 2.5),
        new("another organisation at the same place or mailbox", 0.5),
        new("another company of the same house at the same place", 12),
    ];

    /// <summary>Households: relatives and neighbours.</summary>
    public static readonly Relation[] HouseholdRelations = [new("another household at the same place", 1)];

    /// <summary>Things: others of the same kind and owner.</summary>
    public static readonly Relation[] ThingRelations = [new("another one of the same kind", 1)];

    public static EvidenceKind GivenName() =>
        new(
            "given_name",
            "Given name",
            [
                new("same given name", 0.658, 1, [0.05, 0.93], ByFrequency: true),
                new("nickname of the same name", 0.08, 3, [0.012, 0.01], ByFrequency: true),
                new("similar given names", 0.13, 6, [0.022, 0.01], ByFrequency: true),
                new("same initial", 0.08, 0.02, [0.012, 0.03]),
                new("one goes by the other's middle name", 0.015, 2, [0.015, 0.005], ByFrequency: true),
                new("slightly similar given names", 0.02, 0.04, [0.03, 0.005]),
                new("different given names", 0.015, 0.70, [0.459, 0.006]),
                new("given names of a woman and of a man", 0.002, 0.23, [0.40, 0.004]),
            ]
        );

    public static EvidenceKind FamilyName() =>
        new(
            "family_name",
            "Family name",
            [
                new("same family name", 0.75, 1, [0.70, 0.95], ByFrequency: true),
                new("one family name is part of the other", 0.03, 2, [0.02, 0.01], ByFrequency: true),
                new("similar family names", 0.13, 6, [0.04, 0.02], ByFrequency: true),
                new("same initial of the family name", 0.01, 0.01, [0.005, 0.005]),
                new("slightly similar family names", 0.03, 0.03, [0.015, 0.005]),
                new("different family names", 0.05, 0.94, [0.22, 0.01]),
            ]
        );

    public static EvidenceKind MiddleName() =>
        new(
            "middle_name",
            "Middle name",
            [
                new("same middle name", 0.58, 1, [0.25, 0.05], ByFrequency: true),
                new("middle initial agrees", 0.35, 0.05, [0.08, 0.06]),
                new("different middle names", 0.07, 0.92, [0.67, 0.89]),
            ]
        );

    public static EvidenceKind NameSuffix() =>
        new(
            "name_suffix",
            "Name suffix",
            [
                new("same suffix (Jr, Sr)", 0.93, 0.30, [0.08, 0.30]),
                new("suffix (Jr, Sr) on one record only", 0.05, 0.40, [0.62, 0.40]),
                new("different suffixes (Jr, Sr)", 0.02, 0.30, [0.30, 0.30]),
            ]
        );

    public static EvidenceKind BirthDate(string name, string title) =>
        new(
            name,
            title,
            [
                new("same date of birth", 0.84, 1, [0.015, 0.90], ByFrequency: true),
                new("same date of birth, day and month swapped", 0.03, 0.00004, [0.002, 0.01]),
                new("dates of birth differ by one typing error", 0.07, 0.0012, [0.012, 0.04]),
                new("dates of birth agree in part", 0.04, 0.02, [0.03, 0.03]),
                new("different dates of birth", 0.02, 0.98, [0.941, 0.02]),
            ]
        );

    public static EvidenceKind PersonPhone() =>
        new(
            "phone",
            "Phone",
            [
                new("same phone", 0.62, 1, [0.50, 0.01], ByFrequency: true),
                new("phone numbers differ by one typing error", 0.05, 0.00002, [0.01, 0.0005]),
                new("different phones", 0.33, 0.999, [0.49, 0.99]),
            ]
        );

    public static EvidenceKind OrganisationPhone() =>
        new(
            "phone",
            "Phone",
            [
                new("same phone", 0.62, 1, [0.07, 0.40, 0.60], ByFrequency: true),
                new("phone numbers differ by one typing error", 0.05, 0.00002, [0.005, 0.01, 0.01]),
                new("different phones", 0.33, 0.999, [0.925, 0.59, 0.39]),
            ]
        );

    public static EvidenceKind PersonEmail() =>
        new(
            "email",
            "E-mail",
            [
                new("same e-mail address", 0.52, 1, [0.25, 0.004], ByFrequency: true),
                new("same name before the @, different domain", 0.05, 30, [0.01, 0.01], ByFrequency: true),
                new("similar e-mail addresses", 0.05, 0.002, [0.01, 0.01]),
                new("e-mail addresses made of the name alone", 0.04, 0.04, [0.02, 0.08]),
                new("same e-mail domain", 0.03, 1, [0.10, 0.03], ByFrequency: true),
                new("different e-mail addresses", 0.31, 0.99, [0.63, 0.87]),
            ]
        );

    public static EvidenceKind OrganisationEmail() =>
        new(
            "email",
            "E-mail",
            [
                new("same e-mail address", 0.52, 1, [0.06, 0.35, 0.15], ByFrequency: true),
                new("same name before the @, different domain", 0.03, 10, [0.01, 0.02, 0.01], ByFrequency: true),
                new("similar e-mail addresses", 0.05, 0.0002, [0.01, 0.01, 0.01]),
                new("same e-mail domain", 0.24, 1, [0.50, 0.05, 0.35], ByFrequency: true),
                new("different e-mail addresses", 0.16, 0.99, [0.42, 0.57, 0.48]),
            ]
        );

    public static EvidenceKind[] PersonAddress() =>
        [
            new(
                "address",
                "Address",
                [
                    new("same address", 0.62, 1, [0.80, 0.004], ByFrequency: true),
                    new("same address, written differently", 0.10, 2, [0.07, 0.002], ByFrequency: true),
                    new("same building, another unit", 0.02, 1, [0.03, 0.002], ByFrequency: true),
                    new("same street, another number", 0.02, 1, [0.01, 0.004], ByFrequency: true),
                    new("different addresses", 0.24, 0.99, [0.09, 0.99]),
                ]
            ),
            new(
                "place",
                "Place",
                [
                    new("same postcode or town", 0.75, 1, [0.85, 0.03], ByFrequency: true),
                    new("neighbouring postcodes, or same town", 0.08, 1, [0.05, 0.02], ByFrequency: true),
                    new("different towns", 0.17, 0.95, [0.10, 0.95]),
                ]
            ),
        ];

    public static EvidenceKind[] OrganisationAddress() =>
        [
            new(
                "address",
                "Address",
                [
                    new("same address", 0.60, 1, [0.02, 0.55], ByFrequency: true),
                    new("same address, written differently", 0.10, 2, [0.02, 0.08], ByFrequency: true),
                    new("same building, another unit", 0.03, 1, [0.01, 0.15], ByFrequency: true),
                    new("same street, another number", 0.03, 1, [0.03, 0.02], ByFrequency: true),
                    new("different addresses", 0.24, 0.99, [0.91, 0.20]),
                ]
            ),
            new(
                "place",
                "Place",
                [
                    new("same postcode or town", 0.78, 1, [0.15, 0.85], ByFrequency: true),
                    new("neighbouring postcodes, or same town", 0.07, 1, [0.10, 0.05], ByFrequency: true),
                    new("different towns", 0.15, 0.95, [0.75, 0.10]),
                ]
            ),
        ];

    public static EvidenceKind[] OrganisationName() =>
        [
            new(
                "name",
                "Name",
                [
                    new("same name", 0.60, 1, [0.35, 0.005, 0.03], ByFrequency: true),
                    new("similar names", 0.17, 3, [0.03, 0.003, 0.02], ByFrequency: true),
                    new("one name is the acronym of the other", 0.03, 0.0003, [0.01, 0.003, 0.01]),
                    new("one name is part of the other", 0.08, 3, [0.15, 0.01, 0.15], ByFrequency: true),
                    new(
                        "names that differ in a place, branch or number",
                        0.03,
                        4,
                        [0.35, 0.007, 0.35],
                        ByFrequency: true
                    ),
                    new("names that share rare words", 0.03, 6, [0.08, 0.02, 0.20], ByFrequency: true),
                    new("different names", 0.06, 0.99, [0.03, 0.952, 0.24]),
                ]
            ),
            new(
                "legal_form",
                "Legal form",
                [
                    new("same legal form", 0.88, 0.35, [0.80, 0.40, 0.55]),
                    new("different legal forms", 0.12, 0.65, [0.20, 0.60, 0.45]),
                ]
            ),
        ];

    /// <summary>
    /// The organisation of a person. People change it, and colleagues share it as members of a household share an
    /// address: it speaks against chance, and not for one of two colleagues.
    /// </summary>
    public static EvidenceKind Employer(string title) =>
        new(
            "employer",
            title,
            [
                new($"same {Lower(title)}", 0.50, 1, [0.40, 0.02], ByFrequency: true),
                new($"similar {Lower(title)}", 0.10, 3, [0.08, 0.005], ByFrequency: true),
                new($"one {Lower(title)} is the acronym of the other", 0.02, 0.0003, [0.016, 0.001]),
                new($"one {Lower(title)} is part of the other", 0.06, 3, [0.05, 0.005], ByFrequency: true),
                new($"{Lower(title)} differs in a place, branch or number", 0.02, 4, [0.02, 0.005], ByFrequency: true),
                new($"{Lower(title)} shares rare words", 0.02, 6, [0.02, 0.005], ByFrequency: true),
                new($"different {Lower(title)}", 0.28, 0.99, [0.414, 0.96]),
            ]
        );

    public static EvidenceKind Website() =>
        new(
            "website",
            "Website",
            [
                new("same website", 0.85, 1, [0.70, 0.02, 0.40], ByFrequency: true),
                new("similar websites", 0.02, 0.001, [0.02, 0.01, 0.01]),
                new("different websites", 0.13, 0.99, [0.28, 0.97, 0.59]),
            ]
        );

    /// <summary>A tax number or other identifying number.</summary>
    /// <param name="name">The name of the field.</param>
    /// <param name="title">Its title.</param>
    /// <param name="relations">How many relations there are.</param>
    /// <param name="sharedByHouse">How often companies of one group share it.</param>
    /// <param name="differs">How often two records of one entity have different ones.</param>
    public static EvidenceKind Identifier(
        string name,
        string title,
        int relations,
        double sharedByHouse,
        double differs = 0.03
    ) =>
        new(
            name,
            title,
            [
                new(
                    $"same {Lower(title)}",
                    0.95 - differs,
                    1,
                    Identifying(relations, sharedByHouse, 0.003, 0.01),
                    ByFrequency: true
                ),
                new(
                    $"{Lower(title)}s differ by one typing error",
                    0.05,
                    0.00002,
                    Identifying(relations, 0.01, 0.005, 0.005)
                ),
                new(
                    $"different {Lower(title)}s",
                    differs,
                    0.999,
                    Identifying(relations, 0.99 - sharedByHouse, 0.985, 0.985)
                ),
            ]
        );

    /// <summary>The name of a record that is no person or organisation, or text that a rule names.</summary>
    public static EvidenceKind Text(string name, string title, int relations) =>
        new(
            name,
            title,
            [
                new($"same {Lower(title)}", 0.62, 1, Same(relations, 0.25), ByFrequency: true),
                new($"similar {Lower(title)}", 0.20, 4, Same(relations, 0.08), ByFrequency: true),
                new($"partly similar {Lower(title)}", 0.08, 0.02, Same(relations, 0.17)),
                new($"different {Lower(title)}", 0.10, 0.97, Same(relations, 0.50)),
            ]
        );

    /// <summary>A household's name.</summary>
    public static EvidenceKind HouseholdName(string name, string title) =>
        new(
            name,
            title,
            [
                new("same name", 0.62, 1, [0.06], ByFrequency: true),
                new("similar names", 0.24, 4, [0.04], ByFrequency: true),
                new("partly similar names", 0.08, 0.01, [0.05]),
                new("different names", 0.06, 0.98, [0.85]),
            ]
        );

    /// <summary>Any other value.</summary>
    public static EvidenceKind Value(string name, string title, int relations) =>
        new(
            name,
            title,
            [
                new($"same {Lower(title)}", 0.80, 1, Same(relations, 0.55), ByFrequency: true),
                new($"{Lower(title)} nearly the same", 0.08, 0.05, Same(relations, 0.10)),
                new($"different {Lower(title)}", 0.12, 0.80, Same(relations, 0.35)),
            ]
        );

    /// <summary>How often an identifying value is met within a house, at one place, and between any others.</summary>
    private static double[] Identifying(int relations, double house, double place, double other) =>
        relations switch
        {
            1 => [other],
            2 => [house, place],
            _ => [house, place, house],
        };

    private static double[] Same(int relations, double share) => [.. Enumerable.Repeat(share, relations)];

    private static string Lower(string title) =>
        title.Length > 1 && char.IsLower(title[1]) ? char.ToLowerInvariant(title[0]) + title[1..] : title;
}
