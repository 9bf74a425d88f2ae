namespace Kettlefog.Demo.Truth;

/// <summary>Any number of invented names, a few common and most rare, like real names.</summary>
internal sealed class NameSource
{
    private static readonly string[] Starts =
    [
        "Bra",
        "Ska",
        "Tre",
        "Wil",
        "Har",
        "Mar",
        "Pel",
        "Gan",
        "Ost",
        "Fen",
        "Quil",
        "Ash",
        "Thi",
        "Bel",
        "Cor",
        "Dun",
        "Eld",
        "Far",
        "Gri",
        "Hol",
        "Ing",
        "Jor",
        "Kes",
        "Lar",
        "Mor",
        "Nes",
        "Ol",
        "Pra",
        "Ras",
        "Sel",
        "Tor",
        "Ul",
        "Ven",
        "Wes",
        "Yar",
        "Zel",
        "Bö",
        "Sø",
        "Mü",
        "Gär",
        "Dé",
        "Cas",
        "Lem",
        "Rou",
        "San",
    ];

    private static readonly string[] Middles =
    [
        "",
        "",
        "",
        "da",
        "ber",
        "lin",
        "mo",
        "ra",
        "ti",
        "ven",
        "ling",
        "ster",
        "do",
        "ne",
        "ki",
        "la",
        "ma",
        "ri",
        "wo",
        "ze",
    ];

    private static readonly string[] Ends =
    [
        "berg",
        "ton",
        "ley",
        "sen",
        "son",
        "ford",
        "wick",
        "man",
        "ham",
        "well",
        "ning",
        "gaard",
        "sk",
        "ova",
        "ini",
        "ero",
        "ez",
        "eau",
        "stad",
        "mere",
        "by",
        "field",
        "worth",
        "er",
        "ach",
        "lund",
        "strand",
        "quist",
        "more",
        "dale",
        "kins",
        "low",
        "nard",
        "pin",
        "rat",
        "tell",
    ];

    private static readonly string[] Men =
    [
        "James",
        "Robert",
        "John",
        "Michael",
        "David",
        "William",
        "Richard",
        "Joseph",
        "Thomas",
        "Charles",
        "Christopher",
        "Daniel",
        "Matthew",
        "Anthony",
        "Steven",
        "Paul",
        "Andrew",
        "Joshua",
        "Kenneth",
        "Kevin",
        "Brian",
        "George",
        "Edward",
        "Ronald",
        "Timothy",
        "Jason",
        "Jeffrey",
        "Gary",
        "Nicholas",
        "Eric",
        "Jonathan",
        "Stephen",
        "Larry",
        "Frank",
        "Scott",
        "Benjamin",
        "Samuel",
        "Gregory",
        "Raymond",
        "Alexander",
        "Patrick",
        "Jack",
        "Dennis",
        "Jerry",
        "Tyler",
        "Ivo",
        "Corin",
        "Joss",
        "Bram",
        "Odd",
        "Tobin",
        "Kester",
        "Hob",
        "René",
        "Søren",
        "Jürgen",
        "Håkon",
        "Frederick",
        "Gabriel",
        "Henry",
        "Leonard",
        "Nathaniel",
        "Oliver",
        "Peter",
        "Simon",
        "Theodore",
        "Walter",
        "Zachary",
        "Martin",
        "Christian",
        "Mario",
        "Julian",
        "Stefan",
        "Andre",
        "Marcel",
        "Robin",
        "Noel",
        "Carl",
        "Denis",
        "Luis",
    ];

    private static readonly string[] Women =
    [
        "Mary",
        "Patricia",
        "Jennifer",
        "Linda",
        "Elizabeth",
        "Barbara",
        "Susan",
        "Jessica",
        "Sarah",
        "Karen",
        "Nancy",
        "Margaret",
        "Sandra",
        "Ashley",
        "Dorothy",
        "Kimberly",
        "Emily",
        "Donna",
        "Michelle",
        "Carol",
        "Amanda",
        "Melissa",
        "Deborah",
        "Stephanie",
        "Rebecca",
        "Laura",
        "Sharon",
        "Cynthia",
        "Kathleen",
        "Amy",
        "Angela",
        "Anna",
        "Ruth",
        "Brenda",
        "Pamela",
        "Nicole",
        "Katherine",
        "Virginia",
        "Catherine",
        "Christine",
        "Samantha",
        "Debra",
        "Janet",
        "Rachel",
        "Carolyn",
        "Maud",
        "Sefa",
        "Petra",
        "Anneke",
        "Nessa",
        "Wilma",
        "Rhoda",
        "Liesl",
        "Zoë",
        "Chloé",
        "Isabella",
        "Victoria",
        "Abigail",
        "Beatrice",
        "Caroline",
        "Eleanor",
        "Martina",
        "Daniela",
        "Gabriele",
        "Christiane",
        "Maria",
        "Juliane",
        "Stefanie",
        "Paula",
        "Andrea",
        "Marcela",
        "Robina",
        "Noelle",
        "Carla",
        "Denise",
        "Luise",
    ];

    private readonly Random _random;
    private readonly string[] _families;
    private readonly string[] _men;
    private readonly string[] _women;

    public NameSource(Random random, int families)
    {
        _random = random;
        var made = new HashSet<string>();
        while (made.Count < families)
            made.Add(Pick(Starts) + Pick(Middles) + (made.Count > 4_000 ? Pick(Middles) : "") + Pick(Ends));
        _families = [.. made];
        _men = Further(Men, ["o", "ius", "us", "el", "an", "ric", "in", "is"]);
        _women = Further(Women, ["a", "ette", "ina", "ine", "anne", "ella", "ie", "ea"]);
    }

    /// <summary>A family name; the first ones are the most common (Zipf's law).</summary>
    public string Family() => _families[Zipf(_families.Length)];

    /// <summary>One of the most common family names.</summary>
    public string CommonFamily() => _families[_random.Next(60)];

    /// <summary>A given name, likewise.</summary>
    public string GivenName(bool woman) => woman ? _women[Zipf(_women.Length)] : _men[Zipf(_men.Length)];

    /// <summary>One of the most common given names.</summary>
    public string CommonGivenName(bool woman) => woman ? _women[_random.Next(20)] : _men[_random.Next(20)];

    /// <summary>
    /// The given name that differs from another by its ending or a letter, and is of the other sex; null if none is.
    /// </summary>
    public static string? Counterpart(string given)
    {
        var at = Array.IndexOf(Men, given);
        if (at >= 0 && Array.Find(Women, name => IsNear(name, given)) is { } woman)
            return woman;
        return Array.IndexOf(Women, given) >= 0 ? Array.Find(Men, name => IsNear(given, name)) : null;
    }

    private static bool IsNear(string woman, string man) =>
        woman[0] == man[0]
        && woman.Length - man.Length is 0 or 1 or 2
        && woman.StartsWith(man[..^1], StringComparison.Ordinal);

    /// <summary>A number below a bound; small ones are more frequent.</summary>
    public int Zipf(int bound)
    {
        var value = Math.Exp(_random.NextDouble() * Math.Log(bound + 8.0)) - 8;
        return value < 0 ? _random.Next(Math.Min(bound, 40)) : Math.Min(bound - 1, (int)value);
    }

    private string[] Further(string[] known, string[] endings)
    {
        var names = new HashSet<string>(known);
        while (names.Count < 320)
            names.Add(Pick(Starts) + Pick(endings));
        return [.. names];
    }

    private string Pick(string[] items) => items[_random.Next(items.Length)];
}
