using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Drafting;

/// <summary>Which kind of entity the rows of a table are.</summary>
internal enum EntityRole
{
    /// <summary>Organisations, or unknown.</summary>
    Organisation,

    /// <summary>People.</summary>
    Person,

    /// <summary>Households.</summary>
    Household,
}

/// <summary>The likely content of a table.</summary>
/// <param name="Profile">The table.</param>
/// <param name="Words">The words of its name.</param>
/// <param name="Columns">Its columns.</param>
internal sealed record TableReading(
    TableProfile Profile,
    IReadOnlyList<string> Words,
    IReadOnlyList<ColumnReading> Columns
)
{
    private const int MinScore = 6;

    private static readonly string[] Prefixes = ["tbl", "tab", "t", "tb", "dbo", "app", "crm", "erp", "dim", "m"];

    private static readonly string[] Suffixes =
    [
        "table",
        "master",
        "stamm",
        "data",
        "info",
        "details",
        "detail",
        "list",
        "records",
        "record",
        "base",
        "tbl",
    ];

    private static readonly string[] People =
    [
        "contact",
        "person",
        "member",
        "kontakt",
        "mitglied",
        "contacto",
        "socio",
        "lid",
        "medlem",
        "patient",
        "student",
        "guest",
        "employee",
        "donor",
        "persona",
        "people",
        "adherent",
        "subscriber",
        "lead",
        "leden",
    ];

    private static readonly string[] Households = ["household", "haushalt", "family", "foyer", "hogar", "gezin"];

    /// <summary>The table's name.</summary>
    public string Name => Profile.Table.Name;

    /// <summary>
    /// The columns that identify its rows: the primary key, else columns that are unique together and never blank;
    /// empty if there are none.
    /// </summary>
    public IReadOnlyList<string> Key { get; } = KeyOf(Profile);

    /// <summary>The words of its name without prefixes such as <c>tbl</c>, the last in the singular.</summary>
    public IReadOnlyList<string> Stem { get; } = StemOf(Words);

    /// <summary>The words of its name without prefixes such as <c>tbl</c>.</summary>
    public IReadOnlyList<string> Called { get; } =
    [.. Words.Take(Words.Count - 1).SkipWhile(Prefixes.Contains), .. Words.TakeLast(1)];

    /// <summary>Reads a table.</summary>
    /// <param name="profile">The table.</param>
    public static TableReading Of(TableProfile profile)
    {
        var names = profile.Columns.Select(column => NameWords.Of(column.Column.Name)).ToList();

        // KD_NAME, KD_PLZ: a prefix that all columns share says nothing about any of them.
        var first = names.Where(words => words.Count > 1).GroupBy(words => words[0]).MaxBy(group => group.Count());
        var shared = first is not null && names.Count > 3 && first.Count() >= 0.8 * names.Count ? first.Key : null;
        return new TableReading(
            profile,
            NameWords.Of(profile.Table.BareName),
            BesideFamilyName([
                .. profile.Columns.Zip(names, (column, words) =>
                    ColumnReading.Of(
                        column,
                        shared is not null && words.Count > 1 && words[0] == shared ? [.. words.Skip(1)] : words
                    )
                ),
            ])
        );
    }

    /// <summary>A plain "name" beside a family name is the given name.</summary>
    private static IReadOnlyList<ColumnReading> BesideFamilyName(IReadOnlyList<ColumnReading> columns) =>
        columns.Any(column => column.Kind == FieldKind.FamilyName)
        && !columns.Any(column => column.Kind == FieldKind.GivenName)
        && columns.FirstOrDefault(column =>
            column.FirstConcept == "name" && column.Kind is FieldKind.Text or FieldKind.Code
        )
            is { } plain
            ?
            [
                .. columns.Select(column =>
                    column == plain
                        ? column with
                        {
                            Kind = FieldKind.GivenName,
                            Confidence = 75,
                            Why = "by its name, beside a family name",
                        }
                        : column
                ),
            ]
            : columns;

    /// <summary>The column of a kind; of several, the one with the fewest words in its name.</summary>
    /// <param name="kind">The kind.</param>
    public ColumnReading? Of(FieldKind kind) =>
        Columns
            .Where(column =>
                column.Kind == kind && !column.Profile.Column.Generated && !Key.ContainsIdentifier(column.Name)
            )
            .MinBy(column => NameWords.Of(column.Name).Count);

    /// <summary>A column whose name mentions a concept.</summary>
    /// <param name="concept">The concept.</param>
    /// <param name="fits">A further condition.</param>
    public ColumnReading? About(string concept, Func<ColumnReading, bool> fits) =>
        Columns.FirstOrDefault(column => column.FirstConcept == concept && fits(column))
        ?? Columns.FirstOrDefault(column => column.IsAbout(concept) && fits(column));

    /// <summary>The columns of a record's label, most important first; empty if no column names a record.</summary>
    public IReadOnlyList<ColumnReading> Names
    {
        get
        {
            if (Of(FieldKind.GivenName) is { } given && Of(FieldKind.FamilyName) is { } family)
                return [given, family];

            // Of several names, such as a trading name, the one that is filled in most often.
            var whole = Columns
                .Where(column => !column.Profile.Column.Generated && !Key.ContainsIdentifier(column.Name))
                .Where(column =>
                    column.Kind is FieldKind.OrganisationName or FieldKind.HouseholdName
                    || (column.FirstConcept == "name" && column.Kind is FieldKind.Text or FieldKind.Code)
                )
                .OrderByDescending(column => column.Profile.Values.Count)
                .ThenBy(column => NameWords.Of(column.Name).Count)
                .FirstOrDefault()
                ?? Of(FieldKind.PersonName)
                ?? Of(FieldKind.FamilyName);
            return whole is null ? [] : [whole];
        }
    }

    /// <summary>Which kind of entity the rows are.</summary>
    public EntityRole Role
    {
        get
        {
            if (Stem.Any(word => Households.Contains(word)))
                return EntityRole.Household;
            if (Of(FieldKind.GivenName) is not null || Of(FieldKind.BirthDate) is not null)
                return EntityRole.Person;
            return Stem.Any(word => People.Contains(word)) && !(Names.Count > 0 && Names[0].OrganisationShare > 0.2)
                ? EntityRole.Person
                : EntityRole.Organisation;
        }
    }

    /// <summary>
    /// True if its name stands for people or organisations: a customer, and not a customer's address.
    /// </summary>
    private bool HasRecordName => Stem.Count > 0 && DraftWords.Of([Stem[^1]]).Contains("party");

    /// <summary>True if it holds logins, which no operator merges.</summary>
    public bool HasPassword =>
        Columns.Any(column =>
            column.Name.Contains("passw", StringComparison.OrdinalIgnoreCase)
            || column.Name.Contains("pwd", StringComparison.OrdinalIgnoreCase)
        );

    /// <summary>
    /// How much the table looks like a list of people or organisations, and why; null if no column names a row.
    /// </summary>
    /// <param name="foreignKeys">The number of foreign keys that refer to it.</param>
    public (int Score, IReadOnlyList<string> Why)? RecordScore(int foreignKeys)
    {
        if (Names.Count == 0 || HasPassword)
            return null;
        var (score, why) = (0, new List<string>());
        void Add(int points, string reason)
        {
            score += points;
            why.Add(reason);
        }

        if (HasRecordName)
            Add(3, "its name");
        Add(Names.Count > 1 ? 3 : 2, "names");
        foreach (
            var (kind, points, reason) in new[]
            {
                (FieldKind.Email, 2, "e-mail"),
                (FieldKind.Phone, 2, "phone"),
                (FieldKind.Street, 1, "address"),
                (FieldKind.City, 1, "town"),
                (FieldKind.Postcode, 1, "postcode"),
                (FieldKind.TaxNumber, 2, "tax number"),
                (FieldKind.BankAccount, 1, "bank account"),
                (FieldKind.BirthDate, 2, "date of birth"),
            }
        )
        {
            if (Of(kind) is not null)
                Add(points, reason);
        }

        if (foreignKeys > 0)
            Add(Math.Min(3, foreignKeys), $"{foreignKeys} foreign keys that refer to it");

        // Bills and payments have names and addresses too, but belong to a record of another table.
        if (Stem.Count > 0 && !HasRecordName && DraftWords.Of([Stem[^1]]).Contains("transaction"))
            score -= 6;
        if (
            Profile.Table.ForeignKeys.Count > 0
            && Columns.Any(column =>
                column.IsAmount && !column.Name.Contains("limit", StringComparison.OrdinalIgnoreCase)
            )
            && Columns.Any(column => column.IsTime)
        )
            score -= 4;
        if (Profile.Table.ForeignKeys.Count > 0 && Columns.Count <= 5 && !HasRecordName)
            score -= 3;
        if (
            Key.Count > 1
            && Profile
                .Table.ForeignKeys.SelectMany(key => key.Columns)
                .ToHashSet(StringComparer.OrdinalIgnoreCase)
                .IsSupersetOf(Key)
        )
            score -= 5;
        return score >= MinScore ? (score, why) : null;
    }

    /// <summary>True if the database keeps <see cref="Key"/> unique, and not only its values are today.</summary>
    public bool HasUniqueKey => DeclaredKeyOf(Profile.Table).Count > 0;

    private static IReadOnlyList<string> KeyOf(TableProfile profile) =>
        DeclaredKeyOf(profile.Table) is { Count: > 0 } declared ? declared
        : profile.UniqueColumns.Count == 0 ? []
        :
        [
            profile.UniqueColumns.FirstOrDefault(column => LooksLikeKey(profile.Table, column))
                ?? profile.UniqueColumns[0],
        ];

    private static bool LooksLikeKey(TableSchema table, string column) =>
        NameWords.Of(column) is [.., var last]
        && (DraftWords.Of([last]).Contains("key") || table.Find(column)!.Storage == StorageClass.Integer);

    private static IReadOnlyList<string> DeclaredKeyOf(TableSchema table) =>
        table.PrimaryKey.Count > 0
            ? table.PrimaryKey
            :
            [
                .. table
                    .UniqueKeys.FirstOrDefault(key =>
                        key.Filter is null
                        && key.Columns.All(column => column is not null && table.Find(column)!.NotNull)
                    )
                    ?.Columns.OfType<string>()
                    ?? [],
            ];

    private static List<string> StemOf(IReadOnlyList<string> words)
    {
        var stem = words.Where(word => !int.TryParse(word, out _)).ToList();
        while (stem.Count > 1 && Prefixes.Contains(stem[0]))
            stem.RemoveAt(0);
        while (stem.Count > 1 && Suffixes.Contains(stem[^1]))
            stem.RemoveAt(stem.Count - 1);
        if (stem.Count > 0)
            stem[^1] = NameWords.Singular(stem[^1]);
        return stem;
    }
}
