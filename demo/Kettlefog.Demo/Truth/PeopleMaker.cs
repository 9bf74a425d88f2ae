using System.Globalization;

namespace Kettlefog.Demo.Truth;

/// <summary>
/// Makes people with copies and look-alikes, labelled with the truth. Six in ten have an employer, and four of ten of
/// those its mail; seven of ten private mailboxes are made of the name, at six hosts.
/// </summary>
internal sealed class PeopleMaker : TruthMaker<PeopleMaker.Person>
{
    private const double WithEmployer = 0.6,
        WithMailOfEmployer = 0.4,
        WithMailOfName = 0.7;

    private static readonly (double Share, string Host)[] Hosts =
    [
        (0.38, "saltmail.example"),
        (0.22, "tidenet.example"),
        (0.14, "quayside.example"),
        (0.10, "harbourpost.example"),
        (0.09, "lantern.example"),
        (0.07, "ebb.example"),
    ];

    /// <summary>The shares of the kinds of look-alikes, as they are numbered where they are made.</summary>
    private static readonly (double Share, int Kind)[] LookAlikes =
    [
        (0.27, 0),
        (0.04, 1),
        (0.15, 2),
        (0.11, 3),
        (0.17, 4),
        (0.02, 5),
        (0.12, 6),
        (0.02, 7),
        (0.10, 8),
    ];

    private static readonly string[] Trades =
    [
        "Chandlery",
        "Marine",
        "Rigging",
        "Engineering",
        "Logistics",
        "Insurance",
        "Foods",
        "Systems",
        "Transport",
        "Printing",
    ];

    private static readonly string[] Forms = ["Ltd", "Limited", "GmbH", "BV", "AB", "Inc", "SARL", ""];

    private static readonly string[] Notes =
    [
        "(deceased)",
        "- DUPLICATE",
        "(do not mail)",
        "*",
        "(new)",
        "c/o parents",
    ];

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
    private readonly Employer[] _employers;

    private PeopleMaker(int records, int seed)
        : base(records, seed, Math.Clamp(records / 8, 800, 24_000))
    {
        _employers = [.. Enumerable.Range(0, Math.Clamp(records / 12, 60, 20_000)).Select(_ => NewEmployer())];
    }

    /// <summary>The columns, in the order of a record's values, with the kinds of their fields.</summary>
    public static IReadOnlyList<(string Name, string Kind)> Columns { get; } =
    [
        ("given_name", "given-name"),
        ("middle_name", "middle-name"),
        ("family_name", "family-name"),
        ("suffix", "name-suffix"),
        ("birth_date", "birth-date"),
        ("email", "email"),
        ("phone", "phone"),
        ("company", "organisation-name"),
        ("street", "street"),
        ("postcode", "postcode"),
        ("city", "city"),
        ("country", "country"),
    ];

    /// <summary>Makes records; the same number and seed give the same records.</summary>
    /// <param name="records">The approximate number.</param>
    /// <param name="seed">The seed.</param>
    public static IReadOnlyList<TruthRecord> Make(int records, int seed) =>
        new PeopleMaker(records, seed).MakeAll(records, seed);

    protected override Person New()
    {
        var isWoman = Slips.Chance(0.5);
        var given = Names.GivenName(isWoman);
        var family = Names.Family();
        if (Slips.Chance(0.04))
            family += "-" + Names.Family();
        else if (Slips.Chance(0.03))
            family = Slips.Pick(["van der ", "de ", "von "]) + family;
        var town = Town();
        var employer = Slips.Chance(WithEmployer) ? _employers[Names.Zipf(_employers.Length)] : null;
        return new Person
        {
            IsWoman = isWoman,
            Given = given,
            Middle = Slips.Chance(0.4) ? Names.GivenName(isWoman) : null,
            Family = family,
            Born = new DateOnly(1935, 1, 1).AddDays(Random.Next(0, 27_000)),
            Email = Mailbox(given, family, employer),
            Phone = Phone(town),
            Employer = employer,
            Street = Street(town.Habit),
            Postcode = Postcode(town),
            Town = town,
        };
    }

    private Employer NewEmployer()
    {
        var name = Slips.Chance(0.3) ? Names.Family() : $"{Names.Family()} {Slips.Pick(Trades)}";
        return new Employer(
            $"{name} {Slips.Pick(Forms)}".Trim(),
            Plain(name).Replace(' ', '-') + (Slips.Chance(0.6) ? ".example" : $"{Random.Next(99)}.example"),
            Phone(Town())
        );
    }

    /// <summary>A unique mailbox: two people share one only where the maker intends it.</summary>
    private string Mailbox(string given, string family, Employer? employer)
    {
        var host = employer is not null && Slips.Chance(WithMailOfEmployer) ? employer.Host : null;
        for (var tries = 0; ; tries++)
        {
            var local = LocalPart(Plain(given), Plain(family).Replace(" ", "", StringComparison.Ordinal), host is null);
            if (tries > 0)
                local += Random.Next(2, tries < 5 ? 100 : 100_000).ToString(CultureInfo.InvariantCulture);
            var mailbox = $"{local}@{host ?? Slips.Share(Hosts)}";
            if (_mailboxes.Add(mailbox))
                return mailbox;
        }
    }

    private string LocalPart(string given, string family, bool isPrivate)
    {
        if (isPrivate && !Slips.Chance(WithMailOfName))
            return $"{(Slips.Chance(0.6) ? given : Plain(Slips.Pick(Trades)))}{Random.Next(1, 100_000)}";
        var digits = isPrivate && Slips.Chance(0.4) ? $"{Random.Next(40, 100)}" : "";
        return Random.Next(isPrivate ? 5 : 3) switch
        {
            0 => $"{given}.{family}{digits}",
            1 => $"{given[0]}.{family}{digits}",
            2 => $"{given[0]}{family}{digits}",
            3 => $"{given}{family}{digits}",
            _ => $"{family}.{given}{digits}",
        };
    }

    private static string Plain(string text) => Slips.WithoutAccents(text).ToLowerInvariant();

    protected override string Corrupt(ref Person person)
    {
        var inFamily = Slips.Chance(0.5);
        switch (Random.Next(20))
        {
            case 0:
                person = Renamed(person, inFamily, Slips.Typo);
                return "typo";
            case 1:
                person = Renamed(person, inFamily, Slips.Transposition);
                return "transposition";
            case 2:
                person = Renamed(person, inFamily, Slips.Phonetic);
                return "phonetic";
            case 3:
                person = Slips.Chance(0.5)
                    ? Renamed(person, true, Slips.Scanned)
                    : person with
                    {
                        Street = Slips.Scanned(person.Street),
                    };
                return "scanned";
            case 4:
                if (Nicknames.TryGetValue(person.Given, out var nicknames))
                    person = person with { Given = Slips.Pick(nicknames) };
                return "nickname";
            case 5:
                person = person with { Given = person.Family, Family = person.Given };
                return "swapped names";
            case 6:
                person = person with { Given = person.Given[..1] + (Slips.Chance(0.5) ? "." : "") };
                return "initial";
            case 7:
                // On marriage: the other's name, or both.
                if (person.IsWoman || Slips.Chance(0.2))
                    person = person with
                    {
                        Family = Slips.Chance(0.5) ? Names.Family() : $"{person.Family}-{Names.Family()}",
                    };
                return "new surname";
            case 8:
                person = Renamed(person, inFamily, Slips.WithoutAccents);
                return "lost accents";
            case 9:
                person = person with { Email = Mailbox(person.Given, person.Family, person.Employer) };
                return "other e-mail";
            case 10:
                var parts = person.Family.Split([' ', '-'], StringSplitOptions.RemoveEmptyEntries);
                person = person with
                {
                    Family = person.Family.Contains('-', StringComparison.Ordinal)
                        ? Slips.Pick(parts)
                        : string.Concat(parts.Skip(Slips.Chance(0.5) ? parts.Length - 1 : 0)),
                };
                return "part of the surname";
            case 11:
                person = person with { Phone = Phone(person.Town) };
                return "other phone";
            case 12:
                var other = New();
                person = person with { Street = other.Street, Postcode = other.Postcode, Town = other.Town };
                return "moved house";
            case 13:
                if (person.Born.Day <= 12)
                    person = person with { Born = new DateOnly(person.Born.Year, person.Born.Day, person.Born.Month) };
                return "date swap";
            case 14:
                if (Slips.Chance(0.5))
                    person = person with { Born = person.Born.AddDays(Random.Next(1, 9)) };
                return "date slip";
            case 15:
                person = person with { Employer = _employers[Names.Zipf(_employers.Length)] };
                return "other employer";
            case 16:
                person = person with { Family = $"{person.Family} {Slips.Pick(Notes)}" };
                return "annotation";
            case 17:
                if (person.Middle is { } middle)
                    person = person with { Given = middle, Middle = Slips.Chance(0.5) ? person.Given : null };
                return "middle name";
            case 18:
                if (person.Middle is { Length: > 1 } whole)
                    person = person with { Middle = whole[..1] };
                return "middle initial";
            default:
                foreach (var (full, brief) in person.Town.Habit.Kinds)
                    person = person with { Street = person.Street.Replace(full, brief, StringComparison.Ordinal) };
                return "abbreviated address";
        }
    }

    private static Person Renamed(Person person, bool inFamily, Func<string, string> change) =>
        inFamily ? person with { Family = change(person.Family) } : person with { Given = change(person.Given) };

    protected override void LookAlike(int entity, Person person)
    {
        var other = New();
        switch (Slips.Share(LookAlikes))
        {
            case 0:
                var known = new HashSet<string> { person.Given };
                for (var members = Random.Next(1, 4); members > 0; members--)
                {
                    other = New();
                    if (!known.Add(other.Given) || (other.Given[0] == person.Given[0] && Slips.Chance(0.5)))
                        continue;
                    AddLookAlike(
                        "family",
                        entity,
                        AtHomeOf(person, other) with
                        {
                            Family = person.Family,
                            Email = Slips.Chance(0.4) ? person.Email : other.Email,
                        }
                    );
                }

                break;
            case 1:
                AddLookAlike(
                    "father and son",
                    entity,
                    AtHomeOf(person, person) with
                    {
                        Middle = Slips.Chance(0.5) ? person.Middle : other.Middle,
                        Suffix = Slips.Chance(0.95) ? "Jr" : null,
                        Born = person.Born.AddDays(Random.Next(7_500, 13_000)),
                        Email = other.Email,
                        Employer = other.Employer,
                        Phone = Slips.Chance(0.5) ? person.Phone : other.Phone,
                    }
                );
                break;
            case 2:
                var named = OfCommonName(other);
                AddLookAlike("common name", AddEntity(named), NamesakeOf(named));
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
            case 4:
                AddLookAlike(
                    "neighbour",
                    entity,
                    other with
                    {
                        Street = person.Street,
                        Postcode = person.Postcode,
                        Town = person.Town,
                    }
                );
                break;
            case 5:
                // Mostly of different names, sometimes of names that differ by a letter.
                var sibling = other with { IsNamed = true };
                var rest = New();
                var twin = NameSource.Counterpart(sibling.Given) ?? rest.Given;
                if (twin == sibling.Given)
                    break;
                AddLookAlike(
                    "twin",
                    AddEntity(sibling),
                    AtHomeOf(sibling, rest) with
                    {
                        Given = twin,
                        IsNamed = true,
                        Family = sibling.Family,
                        Born = sibling.Born,
                        Email =
                            Slips.Chance(0.2) && IsPrivate(sibling.Email)
                                ? sibling.Email
                                : Mailbox(twin, sibling.Family, null),
                    }
                );
                break;
            case 6:
                // Two colleagues who are reached by one mailbox and one switchboard.
                var employer = person.Employer ?? _employers[Names.Zipf(_employers.Length)];
                var shared = $"{Slips.Pick(["info", "office", "sales"])}@{employer.Host}";
                var colleague = new Func<Person, Person>(one =>
                    one with
                    {
                        Employer = employer,
                        Email = shared,
                        Phone = Slips.Chance(0.7) ? employer.Switchboard : one.Phone,
                    }
                );
                AddLookAlike("colleague", AddEntity(colleague(other)), colleague(New()));
                break;
            case 7:
                // Two people of a common name who were born on the same day.
                var first = OfCommonName(other) with { Middle = null };
                AddLookAlike("namesake", AddEntity(first), NamesakeOf(first) with { Middle = null, Born = first.Born });
                break;
            default:
                var original = OfCommonName(other);
                AddLookAlike(
                    "name in the mailbox",
                    AddEntity(original),
                    NamesakeOf(original) with
                    {
                        Email = SameLocalPart(original),
                    }
                );
                break;
        }
    }

    /// <summary>The same with a common name, which two people have by chance.</summary>
    private Person OfCommonName(Person person)
    {
        var (given, family) = (Names.CommonGivenName(person.IsWoman), Names.CommonFamily());
        return person with { Given = given, Family = family, Email = Mailbox(given, family, person.Employer) };
    }

    /// <summary>Another person of the same name.</summary>
    private Person NamesakeOf(Person person)
    {
        var other = New();
        return other with
        {
            IsWoman = person.IsWoman,
            Given = person.Given,
            Family = person.Family,
            Email = Mailbox(person.Given, person.Family, other.Employer),
        };
    }

    private static bool IsPrivate(string mailbox) =>
        Hosts.Any(host => mailbox.EndsWith($"@{host.Host}", StringComparison.Ordinal));

    private static Person AtHomeOf(Person one, Person other) =>
        other with
        {
            Phone = one.Phone,
            Street = one.Street,
            Postcode = one.Postcode,
            Town = one.Town,
        };

    /// <summary>What stands before the @ if it is made of the name, at another host.</summary>
    private string SameLocalPart(Person person)
    {
        var mailbox = person.Email;
        var local = mailbox[..mailbox.IndexOf('@', StringComparison.Ordinal)];
        if (local.Any(char.IsAsciiDigit))
            local = $"{Plain(person.Given)}.{Plain(person.Family).Replace(" ", "", StringComparison.Ordinal)}";
        foreach (var (_, host) in Hosts)
        {
            if (_mailboxes.Add($"{local}@{host}"))
                return $"{local}@{host}";
        }

        return mailbox;
    }

    protected override string?[] ValuesOf(Person person, Source source)
    {
        var junk = Random.NextDouble();
        var (given, middle, family) = (person.Given, Maybe(person.Middle, 0.3), person.Family);
        string? Born() => person.Born.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
        string?[] values =
        [
            source.Write(person.IsNamed ? given : Maybe(given, 0.02), Slips),
            source.Write(middle, Slips),
            source.Write(family, Slips),
            source.Write(person.Suffix, Slips),
            junk < 0.01 ? "1900-01-01" : Maybe(Born(), 0.2),
            junk is > 0.01 and < 0.02 ? "noemail@saltmail.example" : Maybe(person.Email, 0.2),
            junk is > 0.02 and < 0.03 ? "0000 000000" : Maybe(source.Write(person.Phone, Slips), 0.18),
            source.Write(Maybe(person.Employer?.Name, 0.25), Slips),
            source.Write(Maybe(person.Street, 0.12), Slips),
            Maybe(person.Postcode, 0.15),
            source.Write(Maybe(person.Town.City, 0.1), Slips),
            source.Write(person.Town.Habit, Slips),
        ];
        if (source == Source.Payment)
        {
            // The whole name stands in one field, as the bank wrote it.
            values[0] = values[1] = values[4] = values[5] = values[6] = null;
            values[2] = Slips.WithoutAccents(
                Slips.Chance(0.5)
                    ? $"{family}, {given}"
                    : $"{given} {middle} {family}".Replace("  ", " ", StringComparison.Ordinal)
            );
        }

        return IsThin ? OnlyOne(values, [4], [5], [6], [8, 9, 10]) : values;
    }

    /// <summary>The organisation of a person.</summary>
    internal sealed record Employer(string Name, string Host, Phone Switchboard);

    internal sealed record Person
    {
        public required bool IsWoman { get; init; }

        public required string Given { get; init; }

        /// <summary>True if no source leaves the given name out: nothing else tells twins apart.</summary>
        public bool IsNamed { get; init; }

        public string? Middle { get; init; }

        public required string Family { get; init; }

        public string? Suffix { get; init; }

        public required DateOnly Born { get; init; }

        public required string Email { get; init; }

        public required Phone Phone { get; init; }

        public Employer? Employer { get; init; }

        public required string Street { get; init; }

        public required string Postcode { get; init; }

        public required Town Town { get; init; }
    }
}
