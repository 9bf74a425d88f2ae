namespace Kettlefog.Demo.Truth;

/// <summary>Makes organisations with copies and look-alikes of which the truth is known.</summary>
public sealed class OrganisationMaker
{
    private static readonly string[] Trades =
    [
        "Chandlery", "Marine Fuels", "Rigging", "Dredging", "Electrics", "Sailmakers", "Timber", "Coatings", "Waste Services", "Printing", "Engineering", "Logistics", "Insurance", "Trading", "Construction",
        "Consulting", "Foods", "Systems", "Equipment", "Transport", "Security", "Cleaning", "Plumbing", "Instruments", "Textiles", "Catering", "Surveyors", "Laboratories", "Machinery", "Holdings",
    ];

    private static readonly (string Form, string Other)[] Forms =
    [
        ("Ltd", "Limited"), ("Limited", "Ltd."), ("GmbH", "G.m.b.H."), ("B.V.", "BV"), ("AS", "A/S"), ("Inc", "Incorporated"), ("LLC", "L.L.C."), ("S.A.", "SA"), ("Pty Ltd", "Pty Limited"), ("AB", "Aktiebolag"), ("plc", "PLC"), ("", ""),
    ];

    private static readonly (string Full, string Short)[] Abbreviations =
    [
        ("Services", "Svcs"), ("Engineering", "Eng"), ("International", "Intl"), ("Construction", "Constr"), ("Equipment", "Equip"), ("Systems", "Sys"), ("Laboratories", "Labs"), ("Transport", "Trans"), ("Machinery", "Mach"), ("Marine", "Mar"), ("Consulting", "Cons"), ("Insurance", "Ins"), (" and ", " & "),
    ];

    private static readonly string[] StreetKinds = ["Street", "Road", "Lane", "Avenue", "Court", "Square", "Drive"];
    private static readonly string[] ShortKinds = ["St", "Rd", "Ln", "Ave", "Ct", "Sq", "Dr"];

    private readonly Random _random;
    private readonly Slips _slips;
    private readonly NameSource _names;
    private readonly string[] _streets;
    private readonly (string City, string Postcode)[] _places;
    private readonly List<TruthRecord> _made = [];
    private readonly List<string> _bookkeepers = [];
    private int _party;

    private OrganisationMaker(int records, int seed)
    {
        _random = new Random(seed);
        _slips = new Slips(_random);
        _names = new NameSource(_random, Math.Clamp(records / 5, 1_000, 40_000));
        _streets = [.. Enumerable.Range(0, Math.Clamp(records / 60, 200, 6_000)).Select(_ => _names.Family() + " " + StreetKinds[_random.Next(StreetKinds.Length)]).Distinct()];
        _places = [.. Enumerable.Range(0, Math.Clamp(records / 200, 60, 3_000)).Select(place => (_names.Family() + _slips.Pick(["haven", " Quay", "mouth", "stow", ""]), $"{(char)('A' + (place % 23))}{(char)('A' + (place / 23 % 23))}{place % 89} {_random.Next(1, 10)}"))];
    }

    /// <summary>The columns, in the order of a record's values.</summary>
    public static IReadOnlyList<string> Columns { get; } = ["name", "tax_number", "email", "phone", "website", "street", "postcode", "city"];

    /// <summary>Makes records; the same number and seed give the same ones.</summary>
    /// <param name="records">About how many.</param>
    /// <param name="seed">The seed.</param>
    public static IReadOnlyList<TruthRecord> Make(int records, int seed)
    {
        var maker = new OrganisationMaker(records, seed);
        while (maker._made.Count < records)
            maker.MakeParty();
        var shuffled = maker._made.ToArray();
        new Random(seed + 1).Shuffle(shuffled);
        return shuffled;
    }

    private void MakeParty()
    {
        var organisation = NewOrganisation();
        var party = _party++;
        Add(party, "", -1, organisation);
        var kind = _random.NextDouble();
        if (kind < 0.30)
        {
            for (var copies = kind < 0.06 ? 2 : 1; copies > 0; copies--)
                Copy(party, organisation);
        }

        if (_slips.Chance(0.3))
            LookAlike(party, organisation);
    }

    private Organisation NewOrganisation()
    {
        var core = _random.Next(5) switch
        {
            0 => $"{_names.Family()} and {_names.Family()}",
            1 => $"{_names.Family()} {_names.Family()}",
            _ => _names.Family(),
        };
        var name = _slips.Chance(0.92) ? $"{core} {_slips.Pick(Trades)}" : core;
        if (_slips.Chance(0.1))
            name += " " + _slips.Pick(["International", "Services", "Partners"]);
        var place = _places[_names.Zipf(_places.Length)];
        var host = Slips.WithoutAccents(name).ToLowerInvariant().Replace(" and ", "-", StringComparison.Ordinal).Replace(" ", "-", StringComparison.Ordinal) + (_slips.Chance(0.5) ? ".example" : $"{_random.Next(99)}.example");
        return new Organisation
        {
            Name = name,
            Form = Forms[_random.Next(Forms.Length)].Form,
            Tax = $"GB{_random.Next(100_000_000, 999_999_999)}",
            Email = $"{_slips.Pick(["office", "info", "accounts", "sales", "mail"])}@{host}",
            Phone = $"0{_random.Next(1000, 1999)} {_random.Next(0, 1_000_000):000000}",
            Website = "https://www." + host,
            Street = $"{_random.Next(1, 180)} {_streets[_names.Zipf(_streets.Length)]}",
            Postcode = place.Postcode + (char)('A' + _random.Next(20)) + (char)('A' + _random.Next(20)),
            City = place.City,
        };
    }

    private void Copy(int party, Organisation original)
    {
        var copy = original with { };
        var done = new List<string>();
        var wanted = _slips.Chance(0.45) ? 1 : _random.Next(2, 4);
        for (var tries = 0; done.Count < wanted && tries < 20; tries++)
        {
            var before = copy;
            var name = Corrupt(ref copy);
            if (copy != before && !done.Contains(name))
                done.Add(name);
        }

        Add(party, string.Join('+', done), -1, copy);
    }

    private string Corrupt(ref Organisation organisation)
    {
        switch (_random.Next(14))
        {
            case 0:
                organisation = organisation with { Name = _slips.Typo(organisation.Name) };
                return "typo";
            case 1:
                organisation = organisation with { Name = _slips.Transposition(organisation.Name) };
                return "transposition";
            case 2:
                organisation = organisation with { Name = _slips.Phonetic(organisation.Name) };
                return "phonetic";
            case 3:
                organisation = organisation with { Name = _slips.Scanned(organisation.Name) };
                return "scanned";
            case 4:
                var form = organisation.Form;
                organisation = organisation with { Form = _slips.Chance(0.3) ? "" : (Array.Find(Forms, pair => pair.Form == form).Other ?? "") };
                return "legal form";
            case 5:
                var words = organisation.Name.Split(' ');
                if (words.Length > 1)
                    organisation = organisation with { Name = string.Join(' ', words[1..].Append(words[0])) };
                return "word order";
            case 6:
                foreach (var (full, brief) in Abbreviations)
                    organisation = organisation with { Name = organisation.Name.Replace(full, brief, StringComparison.Ordinal) };
                return "abbreviation";
            case 7:
                var initials = string.Concat(organisation.Name.Split(' ').Where(word => word.Length > 0 && word != "and").Select(word => word[0]));
                if (initials.Length > 2 && _slips.Chance(0.5))
                    organisation = organisation with { Name = initials.ToUpperInvariant() };
                return "acronym";
            case 8:
                organisation = organisation with { Name = Slips.WithoutAccents(organisation.Name) };
                return "lost accents";
            case 9:
                organisation = organisation with { Email = $"{_slips.Pick(["orders", "hello", "billing", "contact"])}@{organisation.Email.Split('@')[1]}" };
                return "other e-mail";
            case 10:
                if (organisation.Phone[0] != '+')
                    organisation = organisation with { Phone = _random.Next(2) == 0 ? "+44 " + organisation.Phone[1..] : organisation.Phone.Replace(" ", "", StringComparison.Ordinal) };
                return "phone format";
            case 11:
                organisation = organisation with { Phone = $"0{_random.Next(1000, 1999)} {_random.Next(0, 1_000_000):000000}" };
                return "other phone";
            case 12:
                var other = NewOrganisation();
                organisation = organisation with { Street = other.Street, Postcode = other.Postcode, City = other.City };
                return "moved house";
            default:
                for (var kind = 0; kind < StreetKinds.Length; kind++)
                    organisation = organisation with { Street = organisation.Street.Replace(StreetKinds[kind], ShortKinds[kind], StringComparison.Ordinal) };
                return "abbreviated address";
        }
    }

    private void LookAlike(int party, Organisation organisation)
    {
        var other = NewOrganisation();
        switch (_random.Next(5))
        {
            case 0:
                for (var branches = _random.Next(1, 4); branches > 0; branches--)
                {
                    other = NewOrganisation();
                    Add(_party++, "~branch", party, other with { Name = organisation.Name, Form = organisation.Form, Website = organisation.Website, Email = $"{Slips.WithoutAccents(other.City).ToLowerInvariant().Replace(" ", "", StringComparison.Ordinal)}@{organisation.Email.Split('@')[1]}" });
                }

                break;
            case 1:
                Add(_party++, "~subsidiary", party, other with { Name = $"{organisation.Name.Split(' ')[0]} {_slips.Pick(["Holdings", "Properties", "International", "Leasing", "Finance"])}", Website = organisation.Website, Street = _slips.Chance(0.5) ? organisation.Street : other.Street });
                break;
            case 2:
                Add(_party++, "~common name", party, other with { Name = $"{organisation.Name.Split(' ')[0]} {_slips.Pick(Trades)}" == organisation.Name ? other.Name : $"{organisation.Name.Split(' ')[0]} {_slips.Pick(Trades)}" });
                break;
            case 3:
                if (_bookkeepers.Count == 0 || _slips.Chance(0.1))
                    _bookkeepers.Add($"clients@{_names.Family().ToLowerInvariant()}-books.example");
                var mailbox = _slips.Pick(_bookkeepers);
                Add(_party++, "~shared mailbox", party, other with { Email = _slips.Chance(0.5) ? mailbox : organisation.Email });
                break;
            default:
                Add(_party++, "~neighbour", party, other with { Street = organisation.Street, Postcode = organisation.Postcode, City = organisation.City });
                break;
        }
    }

    private void Add(int party, string klass, int looksLike, Organisation organisation)
    {
        string? Maybe(string? value, double missing) => _slips.Chance(missing) ? null : value;
        var junk = _random.NextDouble();
        _made.Add(new TruthRecord(party, klass, looksLike,
        [
            $"{organisation.Name} {organisation.Form}".Trim(),
            junk < 0.01 ? "000000000" : Maybe(organisation.Tax, 0.35),
            junk is > 0.01 and < 0.02 ? "noemail@saltmail.example" : Maybe(organisation.Email, 0.25),
            Maybe(organisation.Phone, 0.2),
            Maybe(organisation.Website, 0.4),
            Maybe(organisation.Street, 0.15),
            Maybe(organisation.Postcode, 0.2),
            Maybe(organisation.City, 0.12),
        ]));
    }

    private sealed record Organisation
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
