using System.Globalization;

namespace Kettlefog.Demo.Truth;

/// <summary>Makes people with copies and look-alikes of which the truth is known.</summary>
public sealed class PeopleMaker
{
    private static readonly string[] Hosts = ["saltmail.example", "tidenet.example", "quayside.example", "harbourpost.example", "lantern.example", "ebb.example"];
    private static readonly string[] StreetKinds = ["Street", "Road", "Lane", "Avenue", "Court", "Square", "Close", "Terrace", "Drive"];
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

    private readonly Random _random;
    private readonly Slips _slips;
    private readonly NameSource _names;
    private readonly string[] _streets;
    private readonly (string City, string Postcode)[] _places;
    private readonly List<TruthRecord> _made = [];
    private int _party;

    private PeopleMaker(int records, int seed)
    {
        _random = new Random(seed);
        _slips = new Slips(_random);
        _names = new NameSource(_random, Math.Clamp(records / 8, 800, 24_000));
        _streets = [.. Enumerable.Range(0, Math.Clamp(records / 60, 200, 6_000)).Select(_ => _names.Family() + " " + StreetKinds[_random.Next(StreetKinds.Length)]).Distinct()];
        _places = [.. Enumerable.Range(0, Math.Clamp(records / 200, 60, 3_000)).Select(place => (_names.Family() + _slips.Pick(["haven", " Quay", "mouth", "stow", ""]), $"{(char)('A' + (place % 23))}{(char)('A' + (place / 23 % 23))}{place % 89} {_random.Next(1, 10)}"))];
    }

    /// <summary>The columns, in the order of a record's values.</summary>
    public static IReadOnlyList<string> Columns { get; } =
        ["given_name", "middle_name", "family_name", "suffix", "birth_date", "email", "phone", "street", "postcode", "city"];

    /// <summary>Makes records; the same number and seed give the same ones.</summary>
    /// <param name="records">About how many.</param>
    /// <param name="seed">The seed.</param>
    public static IReadOnlyList<TruthRecord> Make(int records, int seed)
    {
        var maker = new PeopleMaker(records, seed);
        while (maker._made.Count < records)
            maker.MakeParty();

        // The first page of a list tells nothing about who belongs together.
        var shuffled = maker._made.ToArray();
        new Random(seed + 1).Shuffle(shuffled);
        return shuffled;
    }

    private void MakeParty()
    {
        var person = NewPerson();
        var party = _party++;
        Add(party, "", -1, person);
        var kind = _random.NextDouble();
        if (kind < 0.30)
        {
            for (var copies = kind < 0.06 ? 2 : 1; copies > 0; copies--)
                Copy(party, person);
        }

        if (_slips.Chance(0.3))
            LookAlike(party, person);
    }

    private Person NewPerson()
    {
        var given = _names.GivenName();
        var family = _names.Family();
        if (_slips.Chance(0.04))
            family += "-" + _names.Family();
        else if (_slips.Chance(0.03))
            family = _slips.Pick(["van der ", "de ", "von "]) + family;
        var place = _places[_names.Zipf(_places.Length)];
        return new Person
        {
            Given = given,
            Middle = _slips.Chance(0.5) ? _names.GivenName() : null,
            Family = family,
            Born = new DateOnly(1935, 1, 1).AddDays(_random.Next(0, 27_000)),
            Email = Mailbox(given, family),
            Phone = $"0{_random.Next(1000, 1999)} {_random.Next(0, 1_000_000):000000}",
            Street = $"{_random.Next(1, 180)} {_streets[_names.Zipf(_streets.Length)]}",
            Postcode = place.Postcode + (char)('A' + _random.Next(20)) + (char)('A' + _random.Next(20)),
            City = place.City,
        };
    }

    private string Mailbox(string given, string family)
    {
        var plain = Slips.WithoutAccents($"{given}.{family}").ToLowerInvariant().Replace(" ", "", StringComparison.Ordinal);
        return _random.Next(4) switch
        {
            0 => $"{plain}@{_slips.Pick(Hosts)}",
            1 => $"{plain[0]}{plain[(plain.IndexOf('.', StringComparison.Ordinal) + 1)..]}{_random.Next(10, 99)}@{_slips.Pick(Hosts)}",
            2 => $"{plain.Replace(".", "", StringComparison.Ordinal)}{_random.Next(1, 2000)}@{_slips.Pick(Hosts)}",
            _ => $"{plain.Split('.')[0]}{_random.Next(1, 100_000)}@{_slips.Pick(Hosts)}",
        };
    }

    private void Copy(int party, Person original)
    {
        var copy = original with { };
        var done = new List<string>();
        var wanted = _slips.Chance(0.45) ? 1 : _random.Next(2, 4);
        for (var tries = 0; done.Count < wanted && tries < 20; tries++)
        {
            var (name, applied) = Corrupt(ref copy);
            if (applied && !done.Contains(name))
                done.Add(name);
        }

        Add(party, string.Join('+', done), -1, copy);
    }

    private (string Name, bool Applied) Corrupt(ref Person person)
    {
        var before = person;
        var which = _random.Next(16);
        string name;
        switch (which)
        {
            case 0:
                name = "typo";
                person = _slips.Chance(0.5) ? person with { Family = _slips.Typo(person.Family) } : person with { Given = _slips.Typo(person.Given) };
                break;
            case 1:
                name = "transposition";
                person = _slips.Chance(0.5) ? person with { Family = _slips.Transposition(person.Family) } : person with { Given = _slips.Transposition(person.Given) };
                break;
            case 2:
                name = "phonetic";
                person = _slips.Chance(0.6) ? person with { Family = _slips.Phonetic(person.Family) } : person with { Given = _slips.Phonetic(person.Given) };
                break;
            case 3:
                name = "scanned";
                person = _slips.Chance(0.5) ? person with { Family = _slips.Scanned(person.Family) } : person with { Street = _slips.Scanned(person.Street) };
                break;
            case 4:
                name = "nickname";
                if (Nicknames.TryGetValue(person.Given, out var nicknames))
                    person = person with { Given = _slips.Pick(nicknames) };
                break;
            case 5:
                name = "swapped names";
                person = person with { Given = person.Family, Family = person.Given };
                break;
            case 6:
                name = "initial";
                person = person with { Given = person.Given[..1] + (_slips.Chance(0.5) ? "." : "") };
                break;
            case 7:
                name = "new surname";
                if (_slips.Chance(0.35))
                    person = person with { Family = _names.Family() };
                break;
            case 8:
                name = "lost accents";
                person = person with { Given = Slips.WithoutAccents(person.Given), Family = Slips.WithoutAccents(person.Family) };
                break;
            case 9:
                name = "other e-mail";
                person = person with { Email = Mailbox(person.Given, person.Family) };
                break;
            case 10:
                name = "phone format";
                if (person.Phone[0] != '+')
                    person = person with { Phone = _random.Next(3) switch { 0 => "+44 " + person.Phone[1..], 1 => person.Phone.Replace(" ", "", StringComparison.Ordinal), _ => "+44 (0)" + person.Phone[1..] } };
                break;
            case 11:
                name = "other phone";
                person = person with { Phone = $"0{_random.Next(1000, 1999)} {_random.Next(0, 1_000_000):000000}" };
                break;
            case 12:
                name = "moved house";
                var other = NewPerson();
                person = person with { Street = other.Street, Postcode = other.Postcode, City = other.City };
                break;
            case 13:
                name = "date swap";
                if (person.Born.Day <= 12)
                    person = person with { Born = new DateOnly(person.Born.Year, person.Born.Day, person.Born.Month) };
                break;
            case 14:
                name = "date slip";
                if (_slips.Chance(0.5))
                    person = person with { Born = person.Born.AddDays(_random.Next(1, 9)) };
                break;
            default:
                name = "abbreviated address";
                for (var kind = 0; kind < StreetKinds.Length; kind++)
                    person = person with { Street = person.Street.Replace(StreetKinds[kind], ShortKinds[kind], StringComparison.Ordinal) };
                break;
        }

        return (name, person != before);
    }

    private void LookAlike(int party, Person person)
    {
        var other = NewPerson();
        switch (_random.Next(5))
        {
            case 0:
                for (var members = _random.Next(1, 4); members > 0; members--)
                {
                    other = NewPerson();
                    if (other.Given[0] == person.Given[0] && _slips.Chance(0.5))
                        continue;
                    Add(_party++, "~family", party, other with { Family = person.Family, Phone = person.Phone, Street = person.Street, Postcode = person.Postcode, City = person.City, Email = _slips.Chance(0.4) ? person.Email : other.Email });
                }

                break;
            case 1:
                Add(_party++, "~father and son", party, person with { Middle = _slips.Chance(0.5) ? person.Middle : other.Middle, Suffix = _slips.Chance(0.85) ? "Jr" : null, Born = person.Born.AddDays(_random.Next(7_500, 13_000)), Email = other.Email, Phone = _slips.Chance(0.5) ? person.Phone : other.Phone });
                break;
            case 2:
                Add(_party++, "~common name", party, other with { Given = person.Given, Family = person.Family, Email = Mailbox(person.Given, person.Family) });
                break;
            case 3:
                Add(_party++, "~shared mailbox", party, other with { Email = person.Email, Phone = _slips.Chance(0.5) ? person.Phone : other.Phone });
                break;
            default:
                Add(_party++, "~neighbour", party, other with { Street = person.Street, Postcode = person.Postcode, City = person.City });
                break;
        }
    }

    private void Add(int party, string klass, int looksLike, Person person)
    {
        string? Maybe(string? value, double missing) => _slips.Chance(missing) ? null : value;
        var junk = _random.NextDouble();
        _made.Add(new TruthRecord(party, klass, looksLike,
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
        ]));
    }

    private sealed record Person
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
