namespace Kettlefog.Demo.Truth;

/// <summary>Makes organisations with copies and look-alikes, labelled with the truth.</summary>
internal sealed class OrganisationMaker : TruthMaker<OrganisationMaker.Organisation>
{
    private static readonly string[] Trades =
    [
        "Chandlery",
        "Marine Fuels",
        "Rigging",
        "Dredging",
        "Electrics",
        "Sailmakers",
        "Timber",
        "Coatings",
        "Waste Services",
        "Printing",
        "Engineering",
        "Logistics",
        "Insurance",
        "Trading",
        "Construction",
        "Consulting",
        "Foods",
        "Systems",
        "Equipment",
        "Transport",
        "Security",
        "Cleaning",
        "Plumbing",
        "Instruments",
        "Textiles",
        "Catering",
        "Surveyors",
        "Laboratories",
        "Machinery",
        "Holdings",
    ];

    private static readonly (string Form, string Other)[] Forms =
    [
        ("Ltd", "Limited"),
        ("Limited", "Ltd."),
        ("GmbH", "G.m.b.H."),
        ("B.V.", "BV"),
        ("AS", "A/S"),
        ("Inc", "Incorporated"),
        ("LLC", "L.L.C."),
        ("S.A.", "SA"),
        ("Pty Ltd", "Pty Limited"),
        ("AB", "Aktiebolag"),
        ("plc", "PLC"),
        ("", ""),
    ];

    private static readonly (string Full, string Short)[] Abbreviations =
    [
        ("Services", "Svcs"),
        ("Engineering", "Eng"),
        ("International", "Intl"),
        ("Construction", "Constr"),
        ("Equipment", "Equip"),
        ("Systems", "Sys"),
        ("Laboratories", "Labs"),
        ("Transport", "Trans"),
        ("Machinery", "Mach"),
        ("Marine", "Mar"),
        ("Consulting", "Cons"),
        ("Insurance", "Ins"),
        (" and ", " & "),
    ];

    private static readonly string[] StreetKinds = ["Street", "Road", "Lane", "Avenue", "Court", "Square", "Drive"];
    private static readonly string[] ShortKinds = ["St", "Rd", "Ln", "Ave", "Ct", "Sq", "Dr"];

    private readonly List<string> _bookkeepers = [];

    private OrganisationMaker(int records, int seed)
        : base(records, seed, Math.Clamp(records / 5, 1_000, 40_000), StreetKinds) { }

    /// <summary>The columns, in the order of a record's values.</summary>
    public static IReadOnlyList<string> Columns { get; } =
    ["name", "tax_number", "email", "phone", "website", "street", "postcode", "city"];

    /// <summary>Makes records; the same number and seed give the same records.</summary>
    /// <param name="records">The approximate number.</param>
    /// <param name="seed">The seed.</param>
    public static IReadOnlyList<TruthRecord> Make(int records, int seed) =>
        new OrganisationMaker(records, seed).MakeAll(records, seed);

    protected override Organisation New()
    {
        var core = Random.Next(5) switch
        {
            0 => $"{Names.Family()} and {Names.Family()}",
            1 => $"{Names.Family()} {Names.Family()}",
            _ => Names.Family(),
        };
        var name = Slips.Chance(0.92) ? $"{core} {Slips.Pick(Trades)}" : core;
        if (Slips.Chance(0.1))
            name += " " + Slips.Pick(["International", "Services", "Partners"]);
        var place = Place();
        var host =
            Slips
                .WithoutAccents(name)
                .ToLowerInvariant()
                .Replace(" and ", "-", StringComparison.Ordinal)
                .Replace(" ", "-", StringComparison.Ordinal)
            + (Slips.Chance(0.5) ? ".example" : $"{Random.Next(99)}.example");
        return new Organisation
        {
            Name = name,
            Form = Forms[Random.Next(Forms.Length)].Form,
            Tax = $"GB{Random.Next(100_000_000, 999_999_999)}",
            Email = $"{Slips.Pick(["office", "info", "accounts", "sales", "mail"])}@{host}",
            Phone = Phone(),
            Website = "https://www." + host,
            Street = Street(),
            Postcode = Postcode(place),
            City = place.City,
        };
    }

    protected override string Corrupt(ref Organisation organisation)
    {
        switch (Random.Next(14))
        {
            case 0:
                organisation = organisation with { Name = Slips.Typo(organisation.Name) };
                return "typo";
            case 1:
                organisation = organisation with { Name = Slips.Transposition(organisation.Name) };
                return "transposition";
            case 2:
                organisation = organisation with { Name = Slips.Phonetic(organisation.Name) };
                return "phonetic";
            case 3:
                organisation = organisation with { Name = Slips.Scanned(organisation.Name) };
                return "scanned";
            case 4:
                var form = organisation.Form;
                organisation = organisation with
                {
                    Form = Slips.Chance(0.3) ? "" : (Array.Find(Forms, pair => pair.Form == form).Other ?? ""),
                };
                return "legal form";
            case 5:
                var words = organisation.Name.Split(' ');
                if (words.Length > 1)
                    organisation = organisation with { Name = string.Join(' ', words[1..].Append(words[0])) };
                return "word order";
            case 6:
                foreach (var (full, brief) in Abbreviations)
                    organisation = organisation with
                    {
                        Name = organisation.Name.Replace(full, brief, StringComparison.Ordinal),
                    };
                return "abbreviation";
            case 7:
                var initials = string.Concat(
                    organisation.Name.Split(' ').Where(word => word.Length > 0 && word != "and").Select(word => word[0])
                );
                if (initials.Length > 2 && Slips.Chance(0.5))
                    organisation = organisation with { Name = initials.ToUpperInvariant() };
                return "acronym";
            case 8:
                organisation = organisation with { Name = Slips.WithoutAccents(organisation.Name) };
                return "lost accents";
            case 9:
                organisation = organisation with
                {
                    Email =
                        $"{Slips.Pick(["orders", "hello", "billing", "contact"])}@{organisation.Email.Split('@')[1]}",
                };
                return "other e-mail";
            case 10:
                if (organisation.Phone[0] != '+')
                    organisation = organisation with
                    {
                        Phone =
                            Random.Next(2) == 0
                                ? "+44 " + organisation.Phone[1..]
                                : organisation.Phone.Replace(" ", "", StringComparison.Ordinal),
                    };
                return "phone format";
            case 11:
                organisation = organisation with { Phone = Phone() };
                return "other phone";
            case 12:
                var other = New();
                organisation = organisation with
                {
                    Street = other.Street,
                    Postcode = other.Postcode,
                    City = other.City,
                };
                return "moved house";
            default:
                for (var kind = 0; kind < StreetKinds.Length; kind++)
                    organisation = organisation with
                    {
                        Street = organisation.Street.Replace(
                            StreetKinds[kind],
                            ShortKinds[kind],
                            StringComparison.Ordinal
                        ),
                    };
                return "abbreviated address";
        }
    }

    protected override void LookAlike(int entity, Organisation organisation)
    {
        var other = New();
        switch (Random.Next(5))
        {
            case 0:
                for (var branches = Random.Next(1, 4); branches > 0; branches--)
                {
                    other = New();
                    AddLookAlike(
                        "branch",
                        entity,
                        other with
                        {
                            Name = organisation.Name,
                            Form = organisation.Form,
                            Website = organisation.Website,
                            Email =
                                $"{Slips.WithoutAccents(other.City).ToLowerInvariant()
                                    .Replace(" ", "", StringComparison.Ordinal)}@{organisation.Email.Split('@')[1]}",
                        }
                    );
                }

                break;
            case 1:
                AddLookAlike(
                    "subsidiary",
                    entity,
                    other with
                    {
                        Name =
                            $"{organisation.Name.Split(' ')[0]} "
                            + $"{Slips.Pick(["Holdings", "Properties", "International", "Leasing", "Finance"])}",
                        Website = organisation.Website,
                        Street = Slips.Chance(0.5) ? organisation.Street : other.Street,
                    }
                );
                break;
            case 2:
                AddLookAlike(
                    "common name",
                    entity,
                    other with
                    {
                        Name =
                            $"{organisation.Name.Split(' ')[0]} {Slips.Pick(Trades)}" == organisation.Name
                                ? other.Name
                                : $"{organisation.Name.Split(' ')[0]} {Slips.Pick(Trades)}",
                    }
                );
                break;
            case 3:
                if (_bookkeepers.Count == 0 || Slips.Chance(0.1))
                    _bookkeepers.Add($"clients@{Names.Family().ToLowerInvariant()}-books.example");
                var mailbox = Slips.Pick(_bookkeepers);
                AddLookAlike(
                    "shared mailbox",
                    entity,
                    other with
                    {
                        Email = Slips.Chance(0.5) ? mailbox : organisation.Email,
                    }
                );
                break;
            default:
                AddLookAlike(
                    "neighbour",
                    entity,
                    other with
                    {
                        Street = organisation.Street,
                        Postcode = organisation.Postcode,
                        City = organisation.City,
                    }
                );
                break;
        }
    }

    protected override string?[] ValuesOf(Organisation organisation)
    {
        var junk = Random.NextDouble();
        return
        [
            $"{organisation.Name} {organisation.Form}".Trim(),
            junk < 0.01 ? "000000000" : Maybe(organisation.Tax, 0.35),
            junk is > 0.01 and < 0.02 ? "noemail@saltmail.example" : Maybe(organisation.Email, 0.25),
            Maybe(organisation.Phone, 0.2),
            Maybe(organisation.Website, 0.4),
            Maybe(organisation.Street, 0.15),
            Maybe(organisation.Postcode, 0.2),
            Maybe(organisation.City, 0.12),
        ];
    }

    internal sealed record Organisation
    {
        public required string Name { get; init; }

        public required string Form { get; init; }

        public required string Tax { get; init; }

        public required string Email { get; init; }

        public required string Phone { get; init; }

        public required string Website { get; init; }

        public required string Street { get; init; }

        public required string Postcode { get; init; }

        public required string City { get; init; }
    }
}
