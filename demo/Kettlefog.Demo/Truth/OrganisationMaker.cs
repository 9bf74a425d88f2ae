using System.Globalization;

namespace Kettlefog.Demo.Truth;

/// <summary>
/// Makes organisations with copies and look-alikes, labelled with the truth. One record in twelve has its whole address
/// in one line; one in three has a trading name of its own, under which copies may stand.
/// </summary>
internal sealed class OrganisationMaker : TruthMaker<OrganisationMaker.Organisation>
{
    private const double WithTradingName = 0.33,
        InOneLine = 0.08;

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

    /// <summary>For each country the legal forms, each with other ways to write it.</summary>
    private static readonly Dictionary<string, (string Form, string[] Others)[]> Forms = new()
    {
        ["GB"] = [("Ltd", ["Limited", "Ltd."]), ("Limited", ["Ltd", "LTD"]), ("plc", ["PLC", "P.L.C."]), ("", ["Ltd"])],
        ["US"] = [("Inc", ["Incorporated", "Inc."]), ("LLC", ["L.L.C."]), ("Corp", ["Corporation"]), ("", ["Inc"])],
        ["DE"] = [("GmbH", ["G.m.b.H.", "Gmbh"]), ("AG", ["Aktiengesellschaft"]), ("KG", ["K.G."])],
        ["FR"] = [("SARL", ["S.A.R.L."]), ("SA", ["S.A."]), ("SAS", ["S.A.S."])],
        ["NL"] = [("B.V.", ["BV", "bv"]), ("N.V.", ["NV"])],
        ["SE"] = [("AB", ["Aktiebolag", "A.B."])],
    };

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

    private static readonly string[] Notes =
    [
        "(do not use)",
        "- OLD",
        "*** BLOCKED ***",
        "(duplicate)",
        "- closed",
        "(new)",
        "inactive",
    ];

    private static readonly string[] Departments = ["Accounts Dept", "Sales Department", "Head Office", "Stores"];

    private readonly List<string> _bookkeepers = [];
    private readonly HashSet<string> _hosts = [];

    private OrganisationMaker(int records, int seed)
        : base(records, seed, Math.Clamp(records / 5, 1_000, 40_000)) { }

    /// <summary>The columns, in the order of a record's values, with the kinds of their fields.</summary>
    public static IReadOnlyList<(string Name, string Kind)> Columns { get; } =
    [
        ("name", "organisation-name"),
        ("tax_number", "tax-number"),
        ("bank_account", "bank-account"),
        ("email", "email"),
        ("phone", "phone"),
        ("website", "url"),
        ("street", "street"),
        ("postcode", "postcode"),
        ("city", "city"),
        ("country", "country"),
    ];

    /// <summary>Makes records; the same number and seed give the same records.</summary>
    /// <param name="records">The approximate number.</param>
    /// <param name="seed">The seed.</param>
    public static IReadOnlyList<TruthRecord> Make(int records, int seed) =>
        new OrganisationMaker(records, seed).MakeAll(records, seed);

    protected override Organisation New()
    {
        var name = NewName();
        var town = Town();
        var host = HostOf(name);
        return new Organisation
        {
            Name = name,
            TradingName = Slips.Chance(WithTradingName) ? NewName() : null,
            Form = Slips.Pick(Forms[town.Habit.Code]).Form,
            Tax = town.Habit.Code + Digits(9),
            Bank = $"{town.Habit.Code}00 {Digits(4)} {Digits(4)} {Digits(4)} {Digits(4)}",
            Email = $"{Slips.Pick(["office", "info", "accounts", "sales", "mail"])}@{host}",
            Phone = Phone(town),
            Website = "https://www." + host,
            Street = Street(town.Habit),
            Postcode = Postcode(town),
            Town = town,
        };
    }

    private string NewName()
    {
        var core = Random.Next(5) switch
        {
            0 => $"{Names.Family()} and {Names.Family()}",
            1 => $"{Names.Family()} {Names.Family()}",
            _ => Names.Family(),
        };
        var name = Slips.Chance(0.9) ? $"{core} {Slips.Pick(Trades)}" : core;
        return Slips.Chance(0.1) ? $"{name} {Slips.Pick(["International", "Services", "Partners"])}" : name;
    }

    /// <summary>A host that no other organisation has.</summary>
    private string HostOf(string name)
    {
        var plain = Slips
            .WithoutAccents(name)
            .ToLowerInvariant()
            .Replace(" and ", "-", StringComparison.Ordinal)
            .Replace(" ", "-", StringComparison.Ordinal);
        var host = plain + (Slips.Chance(0.5) ? "" : $"{Random.Next(99)}");
        while (!_hosts.Add(host))
            host = $"{plain}{Random.Next(100, 100_000)}";
        return host + ".example";
    }

    protected override string Corrupt(ref Organisation organisation)
    {
        switch (Random.Next(20))
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
                var others = Array.Find(Forms[organisation.Town.Habit.Code], each => each.Form == form).Others ?? [""];
                organisation = organisation with
                {
                    Form =
                        Slips.Chance(0.3) ? ""
                        : Slips.Chance(0.1) ? Slips.Transposition(form)
                        : Slips.Pick(others),
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
                var host = organisation.Email.Split('@')[1];
                organisation = organisation with
                {
                    Email = $"{Slips.Pick(["orders", "hello", "billing", "contact"])}@{host}",
                };
                return "other e-mail";
            case 10:
                organisation = organisation with { Name = $"{organisation.Name} {Slips.Pick(Departments)}" };
                return "department";
            case 11:
                organisation = organisation with { Phone = Phone(organisation.Town) };
                return "other phone";
            case 12:
                var other = New();
                organisation = organisation with
                {
                    Street = Street(organisation.Town.Habit),
                    Postcode = Postcode(organisation.Town),
                };
                if (other.Town.Habit == organisation.Town.Habit && Slips.Chance(0.5))
                    organisation = organisation with { Town = other.Town, Postcode = other.Postcode };
                return "moved house";
            case 13:
                organisation = organisation with { Note = Slips.Pick(Notes) };
                return "annotation";
            case 14:
                organisation = organisation with { Note = $"- {organisation.Town.City}" };
                return "own town";
            case 15:
                if (organisation.TradingName is { } trading)
                    organisation = organisation with
                    {
                        Name = Slips.Chance(0.4) ? $"{organisation.Name} t/a {trading}" : trading,
                    };
                return "trading name";
            case 16:
                if (Slips.Chance(0.15))
                    organisation = organisation with { Name = NewName() };
                return "renamed";
            case 17:
                organisation = organisation with { Bank = Digits(12) };
                return "other bank";
            case 18:
                organisation = organisation with { FormFirst = true };
                return "form in front";
            default:
                foreach (var (full, brief) in organisation.Town.Habit.Kinds)
                    organisation = organisation with
                    {
                        Street = organisation.Street.Replace(full, brief, StringComparison.Ordinal),
                    };
                return "abbreviated address";
        }
    }

    protected override void LookAlike(int entity, Organisation organisation)
    {
        var other = New();
        switch (Random.Next(6))
        {
            case 0:
                for (var branches = Random.Next(1, 4); branches > 0; branches--)
                {
                    other = New();
                    var mailbox = Slips.WithoutAccents(other.Town.City).ToLowerInvariant();
                    AddLookAlike(
                        "branch",
                        entity,
                        other with
                        {
                            Name = organisation.Name,
                            TradingName = null,
                            Form = organisation.Form,
                            Website = organisation.Website,
                            Email =
                                mailbox.Replace(" ", "", StringComparison.Ordinal)
                                + "@"
                                + organisation.Email.Split('@')[1],
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
                var shared = Slips.Pick(_bookkeepers);
                AddLookAlike(
                    "shared mailbox",
                    entity,
                    other with
                    {
                        Email = Slips.Chance(0.5) ? shared : organisation.Email,
                    }
                );
                break;
            case 4:
                // A holding and its company at one desk: one bank account, two names, two tax numbers.
                AddLookAlike(
                    "holding",
                    entity,
                    other with
                    {
                        Name = $"{organisation.Name.Split(' ')[0]} {Slips.Pick(["Holding", "Invest", "Group"])}",
                        Bank = Slips.Chance(0.25) ? organisation.Bank : other.Bank,
                        Phone = organisation.Phone,
                        Street = organisation.Street,
                        Postcode = organisation.Postcode,
                        Town = organisation.Town,
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
                        Town = organisation.Town,
                    }
                );
                break;
        }
    }

    protected override string?[] ValuesOf(Organisation organisation, Source source)
    {
        var junk = Random.NextDouble();
        var name = organisation.FormFirst
            ? $"{organisation.Form} {organisation.Name} {organisation.Note}"
            : $"{organisation.Name} {organisation.Form} {organisation.Note}";
        var (street, postcode, city) = (organisation.Street, organisation.Postcode, organisation.Town.City);
        string?[] values =
        [
            source.Write(name.Trim().Replace("  ", " ", StringComparison.Ordinal), Slips),
            junk < 0.01 ? "000000000" : Maybe(Tax(organisation), 0.25),
            Maybe(organisation.Bank, 0.40),
            junk is > 0.01 and < 0.02 ? "noemail@saltmail.example" : Maybe(organisation.Email, 0.20),
            Maybe(source.Write(organisation.Phone, Slips), 0.15),
            Maybe(organisation.Website, 0.35),
            source.Write(Maybe(street, 0.10), Slips),
            Maybe(postcode, 0.12),
            source.Write(Maybe(city, 0.06), Slips),
            source.Write(organisation.Town.Habit, Slips),
        ];
        if (Slips.Chance(InOneLine))
        {
            values[6] = source.Write(
                string.Create(CultureInfo.InvariantCulture, $"{street}, {postcode} {city}"),
                Slips
            );
            values[7] = values[8] = null;
        }

        if (source == Source.Payment)
            values[1] = values[3] = values[4] = values[5] = null;
        return IsThin ? OnlyOne(values, [1], [2], [3], [4], [5], [6, 7, 8]) : values;
    }

    /// <summary>The tax number: some leave out the country, or group the digits.</summary>
    private string Tax(Organisation organisation) =>
        Slips.Chance(0.25) ? organisation.Tax[2..]
        : Slips.Chance(0.2)
            ? $"{organisation.Tax[..2]} {organisation.Tax[2..5]} {organisation.Tax[5..8]} {organisation.Tax[8..]}"
        : organisation.Tax;

    internal sealed record Organisation
    {
        public required string Name { get; init; }

        public string? TradingName { get; init; }

        public required string Form { get; init; }

        public bool FormFirst { get; init; }

        public string Note { get; init; } = "";

        public required string Tax { get; init; }

        public required string Bank { get; init; }

        public required string Email { get; init; }

        public required Phone Phone { get; init; }

        public required string Website { get; init; }

        public required string Street { get; init; }

        public required string Postcode { get; init; }

        public required Town Town { get; init; }
    }
}
