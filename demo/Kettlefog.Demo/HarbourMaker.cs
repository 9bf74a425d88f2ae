using System.Globalization;
using Kettlefog.Demo.Truth;

namespace Kettlefog.Demo;

/// <summary>Inserts a row: a table, and its columns with their values.</summary>
internal delegate void InsertRow(string table, params (string Column, object? Value)[] values);

/// <summary>Makes the harbour's customers: households with their people, accounts, vessels and payments.</summary>
internal sealed class HarbourMaker
{
    private readonly Random _random;
    private readonly Slips _slips;
    private readonly InsertRow _insert;
    private readonly string[] _families;
    private readonly List<long> _contacts = [];
    private long _household = 1;
    private long _contact = 1;
    private long _account = 1;
    private long _vessel = 1;
    private long _row = 1;

    public HarbourMaker(int seed, InsertRow insert)
    {
        _random = new Random(seed);
        _slips = new Slips(_random);
        _insert = insert;
        var names = new NameSource(_random, 400);
        _families = [.. Enumerable.Range(0, 260).Select(_ => names.Family()).Distinct()];
    }

    /// <summary>Makes the given number of households, with accounts and vessels.</summary>
    public void Fill(int households)
    {
        Showcase();
        for (var count = 0; count < households; count++)
            Household();
        for (var count = 0; count < households; count++)
            Account();
    }

    /// <summary>
    /// Accounts 1 and 2 are duplicates, and so are their vessels, their owners and the owners' households.
    /// </summary>
    private void Showcase()
    {
        var place = new Home("7 Lantern Street", "SM2 4QT", "Saltmarrow", "GB");
        var account = new Holder(
            "Kittiwake Rowing Club",
            "SHT",
            null,
            "hello@kittiwakerowing.example",
            "01632 960411",
            place
        );
        string[][] copies =
        [
            ["Kittiwake Rowing Club", "Rhoda", "Marrick", "Marrick family", "Marram Lass", "SM40217K"],
            ["Kittiwake Rowing", "Rhoda", "MARRICK", "Mr & Mrs Marrick", "Maram Lass", "SM 40217-K"],
        ];
        foreach (var copy in copies)
        {
            var household = AddHousehold(
                copy[3],
                "SHT",
                "01632 960412",
                place with
                {
                    Street = copy == copies[0] ? "12 Curlew Lane" : "12 curlew lane",
                }
            );
            var contact = AddContact(
                household,
                copy[1],
                copy[2],
                null,
                new DateOnly(1971, 4, 9),
                "rhoda.marrick@saltmail.example",
                "01632 960412",
                null,
                place
            );
            var owner = Add(account with { Name = copy[0] }, null, contact);
            Add(owner, copy[4], copy[5], "Skerry Yard", 9.4m, 1998);
        }
    }

    private void Household()
    {
        var family = _slips.Pick(_families);
        var place = Place();
        var phone = Phone();
        var entity = _random.Next(4) == 0 ? "SBY" : "SHT";
        var id = AddHousehold($"{family} family", entity, phone, place);
        var people = new List<Person>();
        for (var members = _random.Next(1, 4); members > 0; members--)
        {
            var given = _random.Next(HarbourWords.Given.Length);
            if (people.All(person => person.Given != given))
                people.Add(
                    Add(
                        new Person(given, family, null, Born(1940, 2005), _slips.Chance(0.7) ? phone : Phone(), place),
                        id
                    )
                );
        }

        // Father and son: one name, one roof, two people.
        if (_slips.Chance(0.06))
            Add(
                people[0] with
                {
                    Suffix = "Jr",
                    Born = people[0].Born.AddYears(_random.Next(22, 34)),
                    Email = null,
                },
                id
            );
        if (_slips.Chance(0.16))
            Add(Copy(people[0]), null);
        if (_slips.Chance(0.12))
            AddHousehold(
                _slips.Pick([
                    $"The {family} household",
                    $"Mr & Mrs {_slips.Typo(family)}",
                    $"{family.ToUpperInvariant()}",
                ]),
                entity,
                OtherPhone(phone),
                place with
                {
                    Street = Abbreviated(place.Street),
                }
            );
    }

    private Person Copy(Person person)
    {
        var copy = person with { Phone = OtherPhone(person.Phone) };
        return _random.Next(6) switch
        {
            0 => copy with { Nickname = true },
            1 => copy with { Family = _slips.Typo(copy.Family) },
            2 => copy with { Swapped = true },
            3 => copy with { Initial = true, Place = copy.Place with { Street = Abbreviated(copy.Place.Street) } },
            4 => copy with
            {
                Family = Slips.WithoutAccents(copy.Family),
                Born = copy.Born.Day <= 12 ? new DateOnly(copy.Born.Year, copy.Born.Day, copy.Born.Month) : copy.Born,
            },
            _ => copy with { Place = Place(), Email = copy.Email },
        };
    }

    private void Account()
    {
        var name = $"{_slips.Pick(Words.FirstNames)} {_slips.Pick(HarbourWords.Trusts)}";
        var place = Place();
        var account = new Holder(
            name,
            _random.Next(4) == 0 ? "SBY" : "SHT",
            _slips.Chance(0.6) ? $"{place.Country}{_random.Next(100_000_000, 999_999_999)}" : null,
            $"{_slips.Pick(["office", "hello", "skipper"])}@{Plain(name)}.example",
            Phone(),
            place
        );
        var id = Add(account, null);
        var kind = _random.NextDouble();
        if (kind < 0.12)
            Add(
                account with
                {
                    Name = _slips.Pick([
                        name.ToUpperInvariant(),
                        _slips.Typo(name),
                        name + " Ltd",
                        name.Replace("Company", "Co", StringComparison.Ordinal),
                    ]),
                    Phone = OtherPhone(account.Phone),
                    Tax = _slips.Chance(0.5) ? null : account.Tax,
                    Place = place with { Street = Abbreviated(place.Street) },
                },
                null
            );
        else if (kind < 0.18)
            Add(
                account with
                {
                    Name = $"{name}, {_slips.Pick(["Boatyard", "Winter Store"])} Branch",
                    Tax = null,
                    Phone = Phone(),
                    Place = Place(),
                },
                id
            );
    }

    private long Add(Holder holder, long? parent, long? contact = null)
    {
        var id = _account++;
        var created = Moment();
        _insert(
            "account",
            ("account_id", id),
            ("account_no", $"A-{id:00000}"),
            ("name", holder.Name),
            ("legal_entity", holder.Entity),
            ("currency", "GBP"),
            ("parent_id", parent),
            ("tax_number", holder.Tax),
            ("email", holder.Email),
            ("phone", holder.Phone),
            ("street", holder.Place.Street),
            ("postcode", holder.Place.Postcode),
            ("city", holder.Place.City),
            ("country", holder.Place.Country),
            ("status", "active"),
            ("source", _slips.Pick(Words.Sources)),
            ("owner", _slips.Pick(Words.Clerks)),
            ("created_at", Time(created)),
            ("changed_at", Time(Later(created)))
        );
        _insert(
            "account_contact",
            ("account_id", id),
            ("contact_id", contact ?? _slips.Pick(_contacts)),
            ("role", _slips.Pick(["owner", "skipper", "billing"]))
        );
        long? vessel = null;
        for (var boats = _random.Next(0, 3); boats > 0; boats--)
            vessel = Vessel(id);
        var day = DateOnly.FromDateTime(created);
        if (vessel is not null)
            _insert(
                "berth_agreement",
                ("agreement_id", _row++),
                ("account_id", id),
                ("vessel_id", vessel),
                ("berth", $"{(char)('A' + _random.Next(6))}{_random.Next(1, 80)}"),
                ("begins_on", Date(day)),
                ("ends_on", _slips.Chance(0.3) ? Date(day.AddYears(1)) : null),
                ("yearly_fee", _random.Next(60, 900) * 10m)
            );
        for (var charges = _random.Next(0, 9); charges > 0; charges--)
        {
            day = day.AddDays(_random.Next(10, 120));
            var amount = _random.Next(2_000, 90_000) / 100m;
            var paid = _slips.Chance(0.8);
            _insert(
                "mooring_charge",
                ("charge_id", _row++),
                ("account_id", id),
                ("vessel_id", vessel),
                ("charged_on", Date(day)),
                ("amount", amount),
                ("open_amount", paid ? 0m : amount)
            );
            _insert(
                "ledger_entry",
                ("entry_id", _row++),
                ("account_id", id),
                ("posted_on", Date(day)),
                ("amount", amount),
                ("text", "Mooring")
            );
            if (!paid)
                continue;
            _insert(
                "receipt",
                ("receipt_id", _row++),
                ("account_id", id),
                ("received_on", Date(day.AddDays(20))),
                ("amount", amount)
            );
            _insert(
                "ledger_entry",
                ("entry_id", _row++),
                ("account_id", id),
                ("posted_on", Date(day.AddDays(20))),
                ("amount", -amount),
                ("text", "Receipt")
            );
        }

        if (_slips.Chance(0.2))
            _insert(
                "waiting_list",
                ("place_id", _row++),
                ("pier", _slips.Pick(HarbourWords.Piers)),
                ("account_id", id),
                ("since", Date(day))
            );
        Hang("account", id);
        return id;
    }

    private long Vessel(long account)
    {
        var name = _slips.Pick(HarbourWords.Boats);
        var hull = $"{_slips.Pick(["SM", "TH", "PQ"])}{_random.Next(10_000, 99_999)}{(char)('A' + _random.Next(26))}";
        var (builder, length, built) = (
            _slips.Pick(HarbourWords.Builders),
            _random.Next(60, 190) / 10m,
            (long)_random.Next(1968, 2024)
        );
        var id = Add(account, name, Known(hull), builder, length, built);
        if (_slips.Chance(0.12))
            Add(
                account,
                _slips.Pick([name.ToUpperInvariant(), _slips.Typo(name), "MV " + name]),
                Known(_slips.Chance(0.3) ? _slips.Digit(hull) : hull),
                _slips.Chance(0.5) ? null : builder,
                length,
                built
            );
        return id;
    }

    private long Add(long account, string name, string? hull, string? builder, decimal length, long built)
    {
        var id = _vessel++;
        var created = Moment();
        _insert(
            "vessel",
            ("vessel_id", id),
            ("account_id", account),
            ("name", name),
            ("hull_number", hull),
            ("builder", builder),
            ("length_m", length),
            ("built", built),
            ("status", "active"),
            ("source", _slips.Pick(Words.Sources)),
            ("created_at", Time(created)),
            ("changed_at", Time(Later(created)))
        );
        return id;
    }

    private string? Known(string hull) => _slips.Chance(0.1) ? null : hull;

    private long AddHousehold(string name, string entity, string phone, Home place)
    {
        var id = _household++;
        var created = Moment();
        _insert(
            "household",
            ("household_id", id),
            ("name", name),
            ("legal_entity", entity),
            ("phone", phone),
            ("street", place.Street),
            ("postcode", place.Postcode),
            ("city", place.City),
            ("country", place.Country),
            ("status", "active"),
            ("source", _slips.Pick(Words.Sources)),
            ("created_at", Time(created)),
            ("changed_at", Time(Later(created)))
        );
        return id;
    }

    private Person Add(Person person, long? household)
    {
        var given =
            person.Initial ? HarbourWords.Given[person.Given][..1] + "."
            : person.Nickname ? HarbourWords.Short[person.Given]
            : HarbourWords.Given[person.Given];
        person = person with
        {
            Email = person.Email
                ?? $"{Plain(HarbourWords.Given[person.Given])}.{Plain(person.Family)}"
                    + $"{_random.Next(1, 99)}@saltmail.example",
        };
        AddContact(
            household,
            person.Swapped ? person.Family : given,
            person.Swapped ? given : person.Family,
            person.Suffix,
            _slips.Chance(0.8) ? person.Born : null,
            _slips.Chance(0.8) ? person.Email : null,
            _slips.Chance(0.85) ? person.Phone : null,
            _slips.Chance(0.3) ? Phone() : null,
            person.Place
        );
        return person;
    }

    private long AddContact(
        long? household,
        string given,
        string family,
        string? suffix,
        DateOnly? born,
        string? email,
        string? phone,
        string? mobile,
        Home place
    )
    {
        var id = _contact++;
        var created = Moment();
        _insert(
            "contact",
            ("contact_id", id),
            ("household_id", household),
            ("given_name", given),
            ("middle_name", null),
            ("family_name", family),
            ("suffix", suffix),
            ("birth_date", born is { } day ? Date(day) : null),
            ("email", email),
            ("phone", phone),
            ("mobile", mobile),
            ("street", place.Street),
            ("postcode", place.Postcode),
            ("city", place.City),
            ("country", place.Country),
            ("status", "active"),
            ("source", _slips.Pick(Words.Sources)),
            ("owner", _slips.Pick(Words.Clerks)),
            ("created_at", Time(created)),
            ("changed_at", Time(Later(created)))
        );
        _contacts.Add(id);
        Hang("contact", id);
        return id;
    }

    /// <summary>Tags, files and follow-ups on a record.</summary>
    private void Hang(string type, long id)
    {
        if (_slips.Chance(0.3))
            _insert(
                "tag",
                ("subject_type", type),
                ("subject_id", id),
                ("word", _slips.Pick(["vip", "winter berth", "pays late", "newsletter"]))
            );
        if (_slips.Chance(0.2))
            _insert(
                "file",
                ("file_id", _row++),
                ("subject_type", type),
                ("subject_id", id),
                ("name", _slips.Pick(["insurance.pdf", "registration.pdf", "letter.txt"])),
                ("size", (long)_random.Next(900, 900_000))
            );
        if (_slips.Chance(0.2))
            _insert(
                "follow_up",
                ("follow_up_id", _row++),
                ("subject_type", type),
                ("subject_id", id),
                ("due_on", Date(DateOnly.FromDateTime(VendorMaker.Today).AddDays(_random.Next(1, 90)))),
                ("text", _slips.Pick(Words.Tasks)),
                ("done", 0L)
            );
    }

    private Home Place()
    {
        var place = _slips.Pick(Words.Places);
        var postcode =
            place.Postcode.Length == 3
                ? $"{place.Postcode} "
                    + $"{_random.Next(1, 10)}{(char)('A' + _random.Next(20))}{(char)('A' + _random.Next(20))}"
                : place.Postcode;
        return new Home(
            $"{_random.Next(1, 140)} {_slips.Pick(Words.Streets).Full}",
            postcode,
            place.City,
            place.Country
        );
    }

    private string Phone() => $"01632 960{_random.Next(0, 1000):000}";

    private string OtherPhone(string phone) =>
        _random.Next(3) switch
        {
            0 => phone,
            1 => "+44 " + phone[1..],
            _ => phone.Replace(" ", "", StringComparison.Ordinal),
        };

    private DateOnly Born(int from, int to) => new DateOnly(from, 1, 1).AddDays(_random.Next(0, (to - from) * 365));

    private DateTime Moment() =>
        new DateTime(2014, 1, 6, 8, 0, 0, DateTimeKind.Utc).AddMinutes(_random.Next(0, 6_000_000));

    private DateTime Later(DateTime moment) =>
        moment.AddMinutes(_random.Next(1, Math.Max(2, (int)(VendorMaker.Today - moment).TotalMinutes)));

    private static string Abbreviated(string street) =>
        Words.Streets.Aggregate(street, (text, pair) => text.Replace(pair.Full, pair.Short, StringComparison.Ordinal));

    private static string Plain(string name) =>
        new([.. Slips.WithoutAccents(name).ToLowerInvariant().Where(char.IsAsciiLetterLower)]);

    private static string Time(DateTime moment) =>
        moment.ToString("yyyy-MM-ddTHH:mm:ssZ", CultureInfo.InvariantCulture);

    private static string Date(DateOnly day) => day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);

    private sealed record Home(string Street, string Postcode, string City, string Country);

    private sealed record Holder(string Name, string Entity, string? Tax, string Email, string Phone, Home Place);

    private sealed record Person(int Given, string Family, string? Suffix, DateOnly Born, string Phone, Home Place)
    {
        public string? Email { get; init; }

        public bool Nickname { get; init; }

        public bool Swapped { get; init; }

        public bool Initial { get; init; }
    }
}
