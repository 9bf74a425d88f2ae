namespace Kettlefog.Demo;

/// <summary>A vendor of the demo world.</summary>
internal sealed record Vendor
{
    public required long Id { get; init; }

    public required string Name { get; init; }

    public string? TradingName { get; init; }

    public required string LegalEntity { get; init; }

    public required string Currency { get; init; }

    public required string Category { get; init; }

    public string? TaxNumber { get; init; }

    public string? ContactPerson { get; init; }

    public string? Email { get; init; }

    public string? Phone { get; init; }

    public string? Phone2 { get; init; }

    public string? Street { get; init; }

    public string? Postcode { get; init; }

    public string? City { get; init; }

    public string? Country { get; init; }

    public string? Website { get; init; }

    public string? BankAccount { get; init; }

    public long? PaymentTermsDays { get; init; }

    public decimal? CreditLimit { get; init; }

    public string Status { get; init; } = "active";

    public string? Remark { get; init; }

    public required string Source { get; init; }

    public string? Buyer { get; init; }

    public required DateTime Created { get; init; }

    public required DateTime Changed { get; init; }

    public string? LegacyRef { get; init; }
}

/// <summary>Makes vendors, and copies of them as different people would type them.</summary>
internal sealed class VendorMaker(Random random)
{
    private static readonly DateTime FirstDay = new(2014, 1, 6, 8, 0, 0, DateTimeKind.Utc);

    /// <summary>The current day of the demo world.</summary>
    public static readonly DateTime Today = new(2026, 3, 2, 8, 0, 0, DateTimeKind.Utc);

    public Vendor Make(long id)
    {
        var (category, trades) = Pick(Words.Trades);
        var first = Pick(Words.FirstNames);
        var name = $"{first} {Pick(trades)} {Pick(Words.LegalForms).Form}".Trim();
        var place = Pick(Words.Places);
        var host = Plain(first) + "-" + category;
        var created = FirstDay.AddMinutes(random.Next(0, (int)(Today - FirstDay).TotalMinutes));
        var euro = place.Country is "IE" or "NL";
        return new Vendor
        {
            Id = id,
            Name = name,
            LegalEntity = random.Next(4) == 0 ? "SBY" : "SHT",
            Currency =
                place.Country == "NO" ? "NOK"
                : euro ? "EUR"
                : "GBP",
            Category = category,
            TaxNumber = Chance(0.8) ? $"{place.Country}{random.Next(100_000_000, 999_999_999)}" : null,
            ContactPerson = Chance(0.7) ? Pick(Words.People) : null,
            Email = Chance(0.85) ? $"{Pick("office", "accounts", "info", "sales")}@{host}.example" : null,
            Phone = Chance(0.9) ? $"01632 960{random.Next(0, 1000):000}" : null,
            Street = $"{random.Next(1, 120)} {Pick(Words.Streets).Full}",
            Postcode =
                place.Postcode.Length == 3
                    ? $"{place.Postcode} "
                        + $"{random.Next(1, 10)}{(char)('A' + random.Next(20))}{(char)('A' + random.Next(20))}"
                    : place.Postcode,
            City = place.City,
            Country = place.Country,
            Website = Chance(0.4) ? $"https://{host}.example" : null,
            BankAccount = Chance(0.7)
                ? $"XX{random.Next(10, 99)}SALT{random.Next(0, 100_000_000):00000000}{random.Next(0, 1_000_000):000000}"
                : null,
            PaymentTermsDays = Pick(14, 30, 30, 30, 45, 60),
            CreditLimit = Chance(0.5) ? random.Next(5, 200) * 500m : null,
            Remark = Chance(0.3) ? Pick(Words.Notes) : null,
            Source = Pick(Words.Sources),
            Buyer = Pick(Words.Clerks),
            Created = created,
            Changed = Later(created),
            LegacyRef = Chance(0.3) ? $"OLD/{random.Next(1000, 9999)}" : null,
        };
    }

    /// <summary>The same vendor, as another clerk, an import or a web form would have entered it.</summary>
    public Vendor Copy(Vendor original, long id)
    {
        var created = Later(original.Created);
        var street = original.Street;
        foreach (var (full, brief) in Words.Streets.Where(_ => Chance(0.5)))
            street = street?.Replace(full, brief, StringComparison.Ordinal);
        return original with
        {
            Id = id,
            Name = Misspell(OtherForm(original.Name)),
            TradingName = Chance(0.2) ? original.Name : null,
            TaxNumber = Chance(0.4) ? null : original.TaxNumber,
            ContactPerson = Chance(0.5) ? Pick(Words.People) : original.ContactPerson,
            Email =
                Chance(0.3) ? null
                : Chance(0.4) ? original.Email?.Replace("office@", "orders@", StringComparison.Ordinal)
                : original.Email,
            Phone = Chance(0.25) ? null : OtherPhone(original.Phone),
            Phone2 = Chance(0.2) ? $"01632 960{random.Next(0, 1000):000}" : null,
            Street = Chance(0.15) ? null : street,
            Postcode = Chance(0.2) ? original.Postcode?.Replace(" ", "", StringComparison.Ordinal) : original.Postcode,
            Website = Chance(0.6) ? null : original.Website,
            BankAccount = Chance(0.5) ? null : original.BankAccount,
            PaymentTermsDays = Pick(14, 30, 45),
            CreditLimit = Chance(0.4) ? random.Next(5, 200) * 500m : null,
            Remark = Chance(0.4) ? Pick(Words.Notes) : null,
            Source = Pick(Words.Sources),
            Buyer = Pick(Words.Clerks),
            Created = created,
            Changed = Later(created),
            LegacyRef = Chance(0.3) ? $"OLD/{random.Next(1000, 9999)}" : null,
        };
    }

    /// <summary>Another vendor that looks like this one: a branch in another town, with its own numbers.</summary>
    public Vendor Branch(Vendor original, long id)
    {
        var other = Make(id);
        return other with { Name = original.Name, Category = original.Category, LegalEntity = original.LegalEntity };
    }

    private string OtherForm(string name)
    {
        foreach (var (form, variants) in Words.LegalForms)
        {
            if (form.Length > 0 && name.EndsWith($" {form}", StringComparison.Ordinal))
                return $"{name[..^form.Length]}{Pick(variants)}".Trim();
        }

        return Chance(0.5) ? $"{name} {Pick("Ltd", "Co.")}" : name;
    }

    private string Misspell(string name)
    {
        if (Chance(0.45))
            return name;
        var at = random.Next(1, name.Length - 1);
        return random.Next(4) switch
        {
            0 => name.Remove(at, 1),
            1 => name.Insert(at, name[at].ToString()),
            2 => $"{name[..at]}{name[at + 1]}{name[at]}{name[(at + 2)..]}",
            _ => name.ToUpperInvariant(),
        };
    }

    private string? OtherPhone(string? phone) =>
        phone is null
            ? null
            : random.Next(3) switch
            {
                0 => phone,
                1 => "+44 " + phone[1..],
                _ => phone.Replace(" ", "", StringComparison.Ordinal),
            };

    private static string Plain(string name) =>
        new([.. name.ToLowerInvariant().Replace("å", "a").Replace("ø", "o").Where(char.IsAsciiLetterLower)]);

    private DateTime Later(DateTime moment) =>
        moment.AddMinutes(random.Next(1, Math.Max(2, (int)(Today - moment).TotalMinutes)));

    private bool Chance(double share) => random.NextDouble() < share;

    private T Pick<T>(params T[] items) => items[random.Next(items.Length)];
}
