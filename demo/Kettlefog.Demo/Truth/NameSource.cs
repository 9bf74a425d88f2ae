namespace Kettlefog.Demo.Truth;

/// <summary>Invented names in any number, some common and most rare, as names are.</summary>
internal sealed class NameSource
{
    private static readonly string[] Starts =
    [
        "Bra", "Ska", "Tre", "Wil", "Har", "Mar", "Pel", "Gan", "Ost", "Fen", "Quil", "Ash", "Thi", "Bel", "Cor", "Dun", "Eld", "Far", "Gri", "Hol",
        "Ing", "Jor", "Kes", "Lar", "Mor", "Nes", "Ol", "Pra", "Ras", "Sel", "Tor", "Ul", "Ven", "Wes", "Yar", "Zel", "Bö", "Sø", "Mü", "Gär", "Dé", "Cas", "Lem", "Rou", "San",
    ];

    private static readonly string[] Middles = ["", "", "", "da", "ber", "lin", "mo", "ra", "ti", "ven", "ling", "ster", "do", "ne", "ki", "la", "ma", "ri", "wo", "ze"];

    private static readonly string[] Ends =
    [
        "berg", "ton", "ley", "sen", "son", "ford", "wick", "man", "ham", "well", "ning", "gaard", "sk", "ova", "ini", "ero", "ez", "eau", "stad", "mere", "by", "field", "worth", "er", "ach", "lund", "strand", "quist", "more", "dale", "kins", "low", "nard", "pin", "rat", "tell",
    ];

    private static readonly string[] Given =
    [
        "James", "Mary", "Robert", "Patricia", "John", "Jennifer", "Michael", "Linda", "David", "Elizabeth", "William", "Barbara", "Richard", "Susan", "Joseph", "Jessica", "Thomas", "Sarah",
        "Charles", "Karen", "Christopher", "Nancy", "Daniel", "Margaret", "Matthew", "Sandra", "Anthony", "Ashley", "Steven", "Dorothy", "Paul", "Kimberly", "Andrew", "Emily", "Joshua", "Donna",
        "Kenneth", "Michelle", "Kevin", "Carol", "Brian", "Amanda", "George", "Melissa", "Edward", "Deborah", "Ronald", "Stephanie", "Timothy", "Rebecca", "Jason", "Laura", "Jeffrey", "Sharon",
        "Gary", "Cynthia", "Nicholas", "Kathleen", "Eric", "Amy", "Jonathan", "Angela", "Stephen", "Anna", "Larry", "Ruth", "Frank", "Brenda", "Scott", "Pamela", "Benjamin", "Nicole", "Samuel",
        "Katherine", "Gregory", "Virginia", "Raymond", "Catherine", "Alexander", "Christine", "Patrick", "Samantha", "Jack", "Debra", "Dennis", "Janet", "Jerry", "Rachel", "Tyler", "Carolyn",
        "Maud", "Ivo", "Sefa", "Corin", "Petra", "Joss", "Anneke", "Bram", "Nessa", "Odd", "Wilma", "Tobin", "Rhoda", "Kester", "Liesl", "Hob", "Zoë", "René", "Søren", "Jürgen", "Chloé", "Håkon",
        "Frederick", "Gabriel", "Henry", "Isabella", "Leonard", "Nathaniel", "Oliver", "Peter", "Simon", "Theodore", "Victoria", "Walter", "Zachary", "Abigail", "Beatrice", "Caroline", "Eleanor",
    ];

    private readonly Random _random;
    private readonly string[] _families;
    private readonly string[] _given;

    public NameSource(Random random, int families)
    {
        _random = random;
        var made = new HashSet<string>();
        while (made.Count < families)
            made.Add(Pick(Starts) + Pick(Middles) + (made.Count > 4_000 ? Pick(Middles) : "") + Pick(Ends));
        _families = [.. made];
        var further = new HashSet<string>(Given);
        while (further.Count < 600)
            further.Add(Pick(Starts) + Pick(["a", "o", "in", "ius", "ette", "is", "ina", "us", "el", "an", "ne", "ric"]));
        _given = [.. further];
    }

    /// <summary>A family name; the first ones are the most common, after Zipf.</summary>
    public string Family() => _families[Zipf(_families.Length)];

    /// <summary>A given name, likewise.</summary>
    public string GivenName() => _given[Zipf(_given.Length)];

    /// <summary>A number below a bound, small ones more often.</summary>
    public int Zipf(int bound)
    {
        var value = Math.Exp(_random.NextDouble() * Math.Log(bound + 8.0)) - 8;
        return value < 0 ? _random.Next(Math.Min(bound, 40)) : Math.Min(bound - 1, (int)value);
    }

    private string Pick(string[] items) => items[_random.Next(items.Length)];
}
