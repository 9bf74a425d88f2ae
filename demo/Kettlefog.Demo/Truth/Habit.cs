namespace Kettlefog.Demo.Truth;

/// <summary>How a country writes its own name, phones, postcodes and streets.</summary>
/// <param name="Code">ISO 3166, two letters.</param>
/// <param name="Names">What people write for the country, in several languages.</param>
/// <param name="Calling">The calling code.</param>
/// <param name="Trunk">What stands before a number dialled from within.</param>
/// <param name="Area">The number of digits of an area.</param>
/// <param name="Line">The number of digits after it.</param>
/// <param name="Postcode"><c>#</c> stands for a digit, <c>@</c> for a letter.</param>
/// <param name="Kinds">Kinds of street, in full and short.</param>
/// <param name="Street">The line, with <c>{0}</c> for the number, <c>{1}</c> for the name and <c>{2}</c> for the kind.
/// </param>
internal sealed record Habit(
    string Code,
    string[] Names,
    string Calling,
    string Trunk,
    int Area,
    int Line,
    string Postcode,
    (string Full, string Short)[] Kinds,
    string Street
)
{
    private static readonly (string, string)[] English =
    [
        ("Street", "St"),
        ("Road", "Rd"),
        ("Lane", "Ln"),
        ("Avenue", "Ave"),
        ("Court", "Ct"),
        ("Square", "Sq"),
        ("Drive", "Dr"),
    ];

    /// <summary>The countries, each with its share of the places.</summary>
    public static IReadOnlyList<(double Share, Habit Habit)> All { get; } =
    [
        (
            0.52,
            new("GB", ["United Kingdom", "UK", "Great Britain"], "44", "0", 4, 6, "@@## #@@", English, "{0} {1} {2}")
        ),
        (0.12, new("US", ["United States", "USA", "U.S.A."], "1", "", 3, 7, "#####", English, "{0} {1} {2}")),
        (
            0.13,
            new(
                "DE",
                ["Germany", "Deutschland"],
                "49",
                "0",
                3,
                7,
                "#####",
                [("straße", "str."), ("weg", "w."), ("gasse", "g.")],
                "{1}{2} {0}"
            )
        ),
        (
            0.09,
            new(
                "FR",
                ["France", "Frankrijk"],
                "33",
                "0",
                1,
                8,
                "#####",
                [("rue", "r."), ("avenue", "av."), ("boulevard", "bd")],
                "{0} {2} {1}"
            )
        ),
        (
            0.08,
            new(
                "NL",
                ["Netherlands", "Holland", "Nederland"],
                "31",
                "0",
                2,
                7,
                "#### @@",
                [("straat", "str."), ("laan", "ln."), ("kade", "kd.")],
                "{1}{2} {0}"
            )
        ),
        (
            0.06,
            new(
                "SE",
                ["Sweden", "Sverige"],
                "46",
                "0",
                2,
                7,
                "### ##",
                [("gatan", "g."), ("vägen", "v."), ("torget", "t.")],
                "{1}{2} {0}"
            )
        ),
    ];
}

/// <summary>A place of a country.</summary>
/// <param name="Habit">The country.</param>
/// <param name="City">The town.</param>
/// <param name="Postcode">
/// What the postcodes of the town have in common; the rest stands for digits and letters.
/// </param>
/// <param name="Area">The digits of its area.</param>
internal sealed record Town(Habit Habit, string City, string Postcode, string Area);

/// <summary>A phone number, before it is written in one of the ways in which people write it.</summary>
/// <param name="Habit">The country.</param>
/// <param name="Area">The digits of the area.</param>
/// <param name="Line">The digits after it.</param>
internal sealed record Phone(Habit Habit, string Area, string Line);
