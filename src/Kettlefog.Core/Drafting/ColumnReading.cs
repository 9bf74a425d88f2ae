using System.Text.RegularExpressions;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Text;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Drafting;

/// <summary>What a column seems to be, by its name, its type and a sample of its values.</summary>
/// <param name="Profile">The column.</param>
/// <param name="Concepts">What the words of its name mean, the likeliest first.</param>
/// <param name="Kind">The kind of its values.</param>
/// <param name="Confidence">The confidence of the guess, in percent.</param>
/// <param name="Why">What it was guessed from, in words.</param>
internal sealed partial record ColumnReading(
    ColumnProfile Profile,
    IReadOnlyList<string> Concepts,
    FieldKind Kind,
    int Confidence,
    string Why
)
{
    private const double MinShare = 0.8;

    private static readonly string[] Roles = ["partition", "status", "type", "source", "owner", "parent", "tags"];

    /// <summary>Longer texts are prose.</summary>
    private const int ProseLength = 60;

    private static readonly Dictionary<string, FieldKind> TextKinds = new()
    {
        ["given-name"] = FieldKind.GivenName,
        ["family-name"] = FieldKind.FamilyName,
        ["middle-name"] = FieldKind.MiddleName,
        ["name-suffix"] = FieldKind.NameSuffix,
        ["person-name"] = FieldKind.PersonName,
        ["organisation-name"] = FieldKind.OrganisationName,
        ["household-name"] = FieldKind.HouseholdName,
        ["email"] = FieldKind.Email,
        ["phone"] = FieldKind.Phone,
        ["url"] = FieldKind.Url,
        ["street"] = FieldKind.Street,
        ["house-number"] = FieldKind.HouseNumber,
        ["unit"] = FieldKind.Unit,
        ["city"] = FieldKind.City,
        ["region"] = FieldKind.Region,
        ["postcode"] = FieldKind.Postcode,
        ["country"] = FieldKind.Country,
        ["tax-number"] = FieldKind.TaxNumber,
        ["bank-account"] = FieldKind.BankAccount,
        ["currency"] = FieldKind.Currency,
        ["long-text"] = FieldKind.LongText,
    };

    /// <summary>The column's name.</summary>
    public string Name => Profile.Column.Name;

    /// <summary>True if its values are dates or moments.</summary>
    public bool IsTime => Kind is FieldKind.Date or FieldKind.BirthDate or FieldKind.Timestamp;

    /// <summary>True if its values are numbers that can be added up.</summary>
    public bool IsAmount => Kind is FieldKind.Money;

    /// <summary>The main concept of its name; null if the name holds no known word.</summary>
    public string? FirstConcept => Concepts.Count > 0 ? Concepts[0] : null;

    /// <summary>True if its name mentions a concept.</summary>
    /// <param name="concept">The concept.</param>
    public bool IsAbout(string concept) => Concepts.Contains(concept);

    /// <summary>Reads a column.</summary>
    /// <param name="profile">The column.</param>
    /// <param name="words">The words of its name, without a prefix that all columns of the table share.</param>
    public static ColumnReading Of(ColumnProfile profile, IReadOnlyList<string> words)
    {
        var concepts = DraftWords.Of(words);

        // "State" may be a region or a status.
        if (concepts.Contains("region") && concepts.Contains("status"))
            concepts = [.. concepts.Where(concept => concept != (IsCondition(profile) ? "region" : "status"))];
        var (kind, sure, why) = ByValues(profile, concepts) ?? ByName(profile, concepts) ?? ByType(profile, concepts);
        return new ColumnReading(profile, concepts, kind, sure, why);
    }

    /// <summary>
    /// True if the values look like a status: few, or listed by a check constraint, and words rather than codes.
    /// </summary>
    private static bool IsCondition(ColumnProfile profile)
    {
        var values = profile.Column.Allowed ?? profile.Distinct;
        return values.Count is > 0 and <= 12
            && values.All(value => value.Length > 2 && char.IsLower(value[^1]))
            && (profile.Column.Allowed is not null || values.All(value => char.IsLower(value[0])));
    }

    /// <summary>Kinds that values alone prove.</summary>
    private static (FieldKind Kind, int Confidence, string Why)? ByValues(
        ColumnProfile profile,
        IReadOnlyList<string> concepts
    )
    {
        if (
            profile.Values.Count < 3
            || profile.Column.Storage is StorageClass.Integer or StorageClass.Real or StorageClass.Blob
        )
            return null;
        if (Share(profile, Email()) >= MinShare)
            return (FieldKind.Email, 98, "its values are e-mail addresses");
        if (Share(profile, Url()) >= MinShare)
            return (FieldKind.Url, 95, "its values are web addresses");
        if (Share(profile, Iban()) >= MinShare && !concepts.Contains("tax-number"))
            return (FieldKind.BankAccount, 95, "its values look like IBANs");
        if (Share(profile, Day()) >= MinShare)
            return (concepts.Contains("birth-date") ? FieldKind.BirthDate : FieldKind.Date, 95, "its values are dates");
        if (Share(profile, Moment()) >= MinShare)
            return (FieldKind.Timestamp, 95, "its values are points in time");
        return
            Share(profile, Phone()) >= MinShare
            && profile.Distinct.Count > profile.Values.Count / 3
            && (concepts.Contains("phone") || profile.Values.Any(value => value.StartsWith('+')))
            ? (FieldKind.Phone, 95, "its values are phone numbers")
            : null;
    }

    private static (FieldKind Kind, int Confidence, string Why)? ByName(
        ColumnProfile profile,
        IReadOnlyList<string> concepts
    )
    {
        var column = profile.Column;
        var type = column.DeclaredType.ToLowerInvariant();
        var isDate = type.Contains("date", StringComparison.Ordinal) || type.Contains("time", StringComparison.Ordinal);
        if (isDate || column.Storage is StorageClass.Blob)
            return null;
        var isText = column.Storage is StorageClass.Text or null;
        foreach (var concept in concepts)
        {
            // In "company code" or "contact type" the main word is code or type, so the column holds no name.
            if (Roles.Contains(concept))
                return null;
            if (concept == "birth-date" && isText)
                return (FieldKind.BirthDate, 75, "by its name");
            if (
                TextKinds.TryGetValue(concept, out var kind)
                && (isText || concept == "postcode")
                && !IsDoubtful(kind, profile)
            )
                return (
                    kind,
                    profile.Values.Count == 0 ? 60 : 85,
                    profile.Values.Count == 0 ? "by its name; it has no values yet" : "by its name"
                );
            if (concept == "money" && IsNumeric(profile))
                return (FieldKind.Money, 80, "by its name and type");
            if (concept is "active" or "deleted" && IsFlag(profile))
                return (FieldKind.Flag, 85, "by its name and values");
        }

        return null;
    }

    private static (FieldKind Kind, int Confidence, string Why) ByType(
        ColumnProfile profile,
        IReadOnlyList<string> concepts
    )
    {
        var type = profile.Column.DeclaredType.ToLowerInvariant();
        if (type.Contains("bool", StringComparison.Ordinal))
            return (FieldKind.Flag, 98, "by its type");
        if (type.Contains("timestamp", StringComparison.Ordinal) || type.Contains("datetime", StringComparison.Ordinal))
            return (FieldKind.Timestamp, 95, "by its type");
        if (type.Contains("date", StringComparison.Ordinal))
            return (concepts.Contains("birth-date") ? FieldKind.BirthDate : FieldKind.Date, 95, "by its type");
        if (profile.Column.Storage == StorageClass.Integer)
            return (FieldKind.Integer, 90, "by its type");
        if (
            type.Contains("numeric", StringComparison.Ordinal)
            || type.Contains("decimal", StringComparison.Ordinal)
            || type.Contains("money", StringComparison.Ordinal)
        )
            return (FieldKind.Number, 70, "by its type");
        if (profile.Column.Storage == StorageClass.Real)
            return (FieldKind.Number, 80, "by its type");
        if (profile.Column.Storage == StorageClass.Blob)
            return (FieldKind.Text, 30, "it is binary");
        if (
            concepts.Contains("identifier")
            && profile.Values.Count > 0
            && profile.Distinct.Count == profile.Values.Count
        )
            return (FieldKind.Identifier, 70, "by its name; all values differ");
        if (profile.Values.Count > 0 && profile.Values.Average(value => value.Length) > ProseLength)
            return (FieldKind.LongText, 80, "its values are long");
        return
            profile.Values.Count >= 10
            && profile.Distinct.Count <= profile.Values.Count / 5
            && profile.Distinct.All(value => value.Length <= 24)
            ? (
                FieldKind.Code,
                75,
                $"its values are few: {string.Join(", ", profile.Distinct.Order(StringComparer.Ordinal).Take(4))}"
            )
            : (FieldKind.Text, 50, "by its type only");
    }

    /// <summary>True if most values cannot be what the name says.</summary>
    private static bool IsDoubtful(FieldKind kind, ColumnProfile profile) =>
        profile.Values.Count >= 3
        && kind switch
        {
            FieldKind.Email => Share(profile, Email()) < 0.3,
            FieldKind.Phone => Share(profile, Phone()) < 0.5,
            FieldKind.Url => !profile.Values.Any(value => value.Contains('.', StringComparison.Ordinal)),
            FieldKind.Country => profile.Values.Any(value => value.Length > 60),
            FieldKind.Currency => Share(profile, CurrencyCode()) < MinShare,
            FieldKind.HouseNumber => !profile.Values.Any(value => value.Any(char.IsAsciiDigit)),
            _ => false,
        };

    private static bool IsFlag(ColumnProfile profile) =>
        profile.Column.DeclaredType.Contains("bool", StringComparison.OrdinalIgnoreCase)
        || (profile.Column.Storage == StorageClass.Integer && profile.Distinct.All(value => value is "0" or "1"));

    private static bool IsNumeric(ColumnProfile profile) =>
        profile.Column.Storage is StorageClass.Real or StorageClass.Integer
        || profile.Column.TextType is "numeric" or "money"
        || profile.Column.DeclaredType.Contains("NUM", StringComparison.OrdinalIgnoreCase)
        || profile.Column.DeclaredType.Contains("DEC", StringComparison.OrdinalIgnoreCase)
        || (profile.Values.Count >= 3 && Share(profile, Number()) >= 1);

    private static double Share(ColumnProfile profile, Regex pattern) =>
        profile.Values.Count == 0
            ? 0
            : (double)profile.Values.Count(value => pattern.IsMatch(value.Trim())) / profile.Values.Count;

    /// <summary>The share of values that end with the legal form of an organisation, such as Ltd or GmbH.</summary>
    public double OrganisationShare =>
        Profile.Distinct.Count == 0 ? 0 : (double)Profile.Distinct.Count(EndsWithLegalForm) / Profile.Distinct.Count;

    private static bool EndsWithLegalForm(string value)
    {
        var words = value
            .ToLowerInvariant()
            .Replace(".", "", StringComparison.Ordinal)
            .Replace("/", "", StringComparison.Ordinal)
            .Split(' ', StringSplitOptions.RemoveEmptyEntries);
        return words.Length > 1 && WordLists.LegalForms.ContainsKey(words[^1]);
    }

    [GeneratedRegex(@"^[^@\s]+@[^@\s]+\.[^@\s]+$")]
    private static partial Regex Email();

    [GeneratedRegex(@"^(https?://|www\.)\S+$", RegexOptions.IgnoreCase)]
    private static partial Regex Url();

    [GeneratedRegex("^[A-Z]{2}[0-9]{2}( ?[A-Z0-9]){10,30}$")]
    private static partial Regex Iban();

    [GeneratedRegex(@"^\d{4}-\d{2}-\d{2}$")]
    private static partial Regex Day();

    [GeneratedRegex(@"^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}")]
    private static partial Regex Moment();

    [GeneratedRegex(@"^\+?[\d\s()/.\-]{6,20}$")]
    private static partial Regex Phone();

    [GeneratedRegex("^[A-Za-z]{3}$")]
    private static partial Regex CurrencyCode();

    [GeneratedRegex(@"^-?\d+(\.\d+)?$")]
    private static partial Regex Number();
}
