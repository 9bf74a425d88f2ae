using System.Globalization;

namespace Kettlefog.Demo.Truth;

/// <summary>Makes people with copies and look-alikes, labelled with the truth.</summary>
internal sealed class PeopleMaker : TruthMaker<PeopleMaker.Person>
{
    private static readonly string[] Hosts =
    [
        "saltmail.example",
        "tidenet.example",
        "quayside.example",
        "harbourpost.example",
        "lantern.example",
        "ebb.example",
    ];
    private static readonly string[] StreetKinds =
    [
        "Street",
        "Road",
        "Lane",
        "Avenue",
        "Court",
        "Square",
        "Close",
        "Terrace",
        "Drive",
    ];
    private static readonly string[] ShortKinds = ["St", "Rd", "Ln", "Ave", "Ct", "Sq", "Cl", "Ter", "Dr"];

    private static readonly Dictionary<string, string[]> Nicknames = new()
    {
        ["William"] = ["Bill", "Will"],
        ["Robert"] = ["Bob", "Rob"],
        ["Richard"] = ["Dick", "Rick"],
        ["Elizabeth"] = ["Liz", "Beth", "Betty"],
        ["Margaret"] = ["Peggy", "Maggie"],
        ["James"] = ["Jim", "Jimmy"],
        ["Michael"] = ["Mike", "Mick"],
        ["Thomas"] = ["Tom"],
        ["Katherine"] = ["Kate", "Kathy"],
        ["Catherine"] = ["Cathy", "Kate"],
        ["Edward"] = ["Ted", "Ed"],
        ["Charles"] = ["Charlie", "Chuck"],
        ["Joseph"] = ["Joe"],
        ["Daniel"] = ["Dan", "Danny"],
        ["Matthew"] = ["Matt"],
        ["Christopher"] = ["Chris"],
        ["Anthony"] = ["Tony"],
        ["Steven"] = ["Steve"],
        ["Andrew"] = ["Andy", "Drew"],
        ["Kenneth"] = ["Ken"],
        ["Susan"] = ["Sue"],
        ["Patricia"] = ["Pat", "Trish"],
        ["Jennifer"] = ["Jenny"],
        ["Deborah"] = ["Debbie"],
        ["Rebecca"] = ["Becky"],
        ["Samuel"] = ["Sam"],
        ["Benjamin"] = ["Ben"],
        ["Nicholas"] = ["Nick"],
        ["Alexander"] = ["Alex", "Sandy"],
        ["Theodore"] = ["Ted", "Theo"],
        ["Victoria"] = ["Vicky"],
        ["Frederick"] = ["Fred"],
        ["Henry"] = ["Harry", "Hank"],
        ["Abigail"] = ["Abby"],
        ["Timothy"] = ["Tim"],
        ["Gregory"] = ["Greg"],
        ["Pamela"] = ["Pam"],
    };

    private readonly HashSet<string> _mailboxes = [];

    private PeopleMaker(int records, int seed)
        : base(records, seed, Math.Clamp(records / 8, 800, 24_000), StreetKinds) { }

    /// <summary>The columns, in the order of a record's values.</summary>
    public static IReadOnlyList<string> Columns { get; } =
    [
        "given_name",
        "middle_name",
        "family_name",
        "suffix",
        "birth_date",
        "email",
        "phone",
        "street",
        "postcode",
        "city",
    ];

    /// <summary>Makes records; the same number and seed give the same records.</summary>
    /// <param name="records">The approximate number.</param>
    /// <param name="seed">The seed.</param>
    public static IReadOnlyList<TruthRecord> Make(int records, int seed) =>
        new PeopleMaker(records, seed).MakeAll(records, seed);

    protected override Person New()
    {
        var given = Names.GivenName();
        var family = Names.Family();
        if (Slips.Chance(0.04))
            family += "-" + Names.Family();
        else if (Slips.Chance(0.03))
            family = Slips.Pick(["van der ", "de ", "von "]) + family;
        var place = Place();
        return new Person
        {
            Given = given,
            Middle = Slips.Chance(0.5) ? Names.GivenName() : null,
            Family = family,
            Born = new DateOnly(1935, 1, 1).AddDays(Random.Next(0, 27_000)),
            Email = Mailbox(given, family),
            Phone = Phone(),
            Street = Street(),
            Postcode = Postcode(place),
            City = place.City,
        };
    }

    /// <summary>A unique mailbox: two people share one only where the maker intends it.</summary>
    private string Mailbox(string given, string family)
    {
        string mailbox;
        do mailbox = MailboxLike(given, family);
        while (!_mailboxes.Add(mailbox));
        return mailbox;
    }

    private string MailboxLike(string given, string family)
    {
        var plain = Slips
            .WithoutAccents($"{given}.{family}")
            .ToLowerInvariant()
            .Replace(" ", "", StringComparison.Ordinal);
        return Random.Next(4) switch
        {
            0 => $"{plain}@{Slips.Pick(Hosts)}",
            1 =>
                $"{plain[0]}{plain[(plain.IndexOf('.', StringComparison.Ordinal) + 1)..]}{Random
                    .Next(10, 99)}@{Slips.Pick(Hosts)}",
            2 => $"{plain.Replace(".", "", StringComparison.Ordinal)}{Random.Next(1, 2000)}@{Slips.Pick(Hosts)}",
            _ => $"{plain.Split('.')[0]}{Random.Next(1, 100_000)}@{Slips.Pick(Hosts)}",
        };
    }

    protected override string Corrupt(ref Person person)
    {
        var which = Random.Next(16);
        string name;
        switch (which)
        {
            case 0:
                name = "typo";
                person = Slips.Chance(0.5)
                    ? person with
                    {
                        Family = Slips.Typo(person.Family),
                    }
                    : person with
                    {
                        Given = Slips.Typo(person.Given),
                    };
                break;
            case 1:
                name = "transposition";
                person = Slips.Chance(0.5)
                    ? person with
                    {
                        Family = Slips.Transposition(person.Family),
                    }
                    : person with
                    {
                        Given = Slips.Transposition(person.Given),
                    };
                break;
            case 2:
                name = "phonetic";
                person = Slips.Chance(0.6)
                    ? person with
                    {
                        Family = Slips.Phonetic(person.Family),
                    }
                    : person with
                    {
                        Given = Slips.Phonetic(person.Given),
                    };
                break;
            case 3:
                name = "scanned";
                person = Slips.Chance(0.5)
                    ? person with
                    {
                        Family = Slips.Scanned(person.Family),
                    }
                    : person with
                    {
                        Street = Slips.Scanned(person.Street),
                    };
                break;
            case 4:
                name = "nickname";
                if (Nicknames.TryGetValue(person.Given, out var nicknames))
                    person = person with { Given = Slips.Pick(nicknames) };
                break;
            case 5:
                name = "swapped names";
                person = person with { Given = person.Family, Family = person.Given };
                break;
            case 6:
                name = "initial";
                person = person with { Given = person.Given[..1] + (Slips.Chance(0.5) ? "." : "") };
                break;
            case 7:
                name = "new surname";
                if (Slips.Chance(0.35))
                    person = person with { Family = Names.Family() };
                break;
            case 8:
                name = "lost accents";
                person = person with
                {
                    Given = Slips.WithoutAccents(person.Given),
                    Family = Slips.WithoutAccents(person.Family),
                };
                break;
            case 9:
                name = "other e-mail";
                person = person with { Email = Mailbox(person.Given, person.Family) };
                break;
            case 10:
                name = "phone format";
                if (person.Phone[0] != '+')
                    person = person with
                    {
                        Phone = Random.Next(3) switch
                        {
                            0 => "+44 " + person.Phone[1..],
                            1 => person.Phone.Replace(" ", "", StringComparison.Ordinal),
                            _ => "+44 (0)" + person.Phone[1..],
                        },
                    };
                break;
            case 11:
                name = "other phone";
                person = person with { Phone = Phone() };
                break;
            case 12:
                name = "moved house";
                var other = New();
                person = person with { Street = other.Street, Postcode = other.Postcode, City = other.City };
                break;
            case 13:
                name = "date swap";
                if (person.Born.Day <= 12)
                    person = person with { Born = new DateOnly(person.Born.Year, person.Born.Day, person.Born.Month) };
                break;
            case 14:
                name = "date slip";
                if (Slips.Chance(0.5))
                    person = person with { Born = person.Born.AddDays(Random.Next(1, 9)) };
                break;
            default:
                name = "abbreviated address";
                for (var kind = 0; kind < StreetKinds.Length; kind++)
                    person = person with
                    {
                        Street = person.Street.Replace(StreetKinds[kind], ShortKinds[kind], StringComparison.Ordinal),
                    };
                break;
        }

        return name;
    }

    protected override void LookAlike(int entity, Person person)
    {
        var other = New();
        switch (Random.Next(5))
        {
            case 0:
                for (var members = Random.Next(1, 4); members > 0; members--)
                {
                    other = New();
                    if (other.Given == person.Given || (other.Given[0] == person.Given[0] && Slips.Chance(0.5)))
                        continue;
                    AddLookAlike(
                        "family",
                        entity,
                        other with
                        {
                            Family = person.Family,
                            Phone = person.Phone,
                            Street = person.Street,
                            Postcode = person.Postcode,
                            City = person.City,
                            Email = Slips.Chance(0.4) ? person.Email : other.Email,
                        }
                    );
                }

                break;
            case 1:
                AddLookAlike(
                    "father and son",
                    entity,
                    person with
                    {
                        Middle = Slips.Chance(0.5) ? person.Middle : other.Middle,
                        Suffix = Slips.Chance(0.9) ? "Jr" : null,
                        Born = person.Born.AddDays(Random.Next(7_500, 13_000)),
                        Email = other.Email,
                        Phone = Slips.Chance(0.5) ? person.Phone : other.Phone,
                    }
                );
                break;
            case 2:
                AddLookAlike(
                    "common name",
                    entity,
                    other with
                    {
                        Given = person.Given,
                        Family = person.Family,
                        Email = Mailbox(person.Given, person.Family),
                    }
                );
                break;
            case 3:
                AddLookAlike(
                    "shared mailbox",
                    entity,
                    other with
                    {
                        Email = person.Email,
                        Phone = Slips.Chance(0.5) ? person.Phone : other.Phone,
                    }
                );
                break;
            default:
                AddLookAlike(
                    "neighbour",
                    entity,
                    other with
                    {
                        Street = person.Street,
                        Postcode = person.Postcode,
                        City = person.City,
                    }
                );
                break;
        }
    }

    protected override string?[] ValuesOf(Person person)
    {
        var junk = Random.NextDouble();
        return
        [
            Maybe(person.Given, 0.02),
            Maybe(person.Middle, 0.3),
            person.Family,
            person.Suffix,
            junk < 0.01 ? "1900-01-01" : Maybe(person.Born.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture), 0.2),
            junk is > 0.01 and < 0.02 ? "noemail@saltmail.example" : Maybe(person.Email, 0.25),
            junk is > 0.02 and < 0.03 ? "0000 000000" : Maybe(person.Phone, 0.2),
            Maybe(person.Street, 0.15),
            Maybe(person.Postcode, 0.2),
            Maybe(person.City, 0.12),
        ];
    }

    internal sealed record Person
    {
        public required string Given { get; init; }

        public string? Middle { get; init; }

        public required string Family { get; init; }

        public string? Suffix { get; init; }

        public required DateOnly Born { get; init; }

        public required string Email { get; init; }

        public required string Phone { get; init; }

        public required string Street { get; init; }

        public required string Postcode { get; init; }

        public required string City { get; init; }
    }
}
