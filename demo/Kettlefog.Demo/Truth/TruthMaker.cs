namespace Kettlefog.Demo.Truth;

/// <summary>
/// What the makers of parties have in common: names and places, copies with errors, and the order at the end.
/// </summary>
/// <typeparam name="T">A party before its values are left out; equal if all values are.</typeparam>
internal abstract class TruthMaker<T>
    where T : class
{
    private const double WithCopy = 0.30,
        WithTwoCopies = 0.06,
        WithOneError = 0.45,
        WithLookAlike = 0.30;
    private const int MostTries = 20;

    private static readonly string[] PlaceEndings = ["haven", " Quay", "mouth", "stow", ""];

    private readonly string[] _streets;
    private readonly (string City, string Postcode)[] _places;
    private readonly List<TruthRecord> _made = [];
    private int _party;

    protected TruthMaker(int records, int seed, int families, string[] streetKinds)
    {
        Random = new Random(seed);
        Slips = new Slips(Random);
        Names = new NameSource(Random, families);
        _streets =
        [
            .. Enumerable
                .Range(0, Math.Clamp(records / 60, 200, 6_000))
                .Select(_ => Names.Family() + " " + streetKinds[Random.Next(streetKinds.Length)])
                .Distinct(),
        ];
        _places =
        [
            .. Enumerable
                .Range(0, Math.Clamp(records / 200, 60, 3_000))
                .Select(place =>
                    (
                        Names.Family() + Slips.Pick(PlaceEndings),
                        $"{(char)('A' + (place % 23))}{(char)('A' + (place / 23 % 23))}{place % 89} "
                            + $"{Random.Next(1, 10)}"
                    )
                ),
        ];
    }

    protected Random Random { get; }

    protected Slips Slips { get; }

    protected NameSource Names { get; }

    /// <summary>
    /// Makes so many records, or a few more, in an order that tells nothing about who belongs together.
    /// </summary>
    public IReadOnlyList<TruthRecord> MakeAll(int records, int seed)
    {
        while (_made.Count < records)
            MakeParty();
        var shuffled = _made.ToArray();
        new Random(seed + 1).Shuffle(shuffled);
        return shuffled;
    }

    /// <summary>A party like no other.</summary>
    protected abstract T New();

    /// <summary>Does one thing to a copy, and says what; the copy may come out as it was.</summary>
    protected abstract string Corrupt(ref T copy);

    /// <summary>Adds other parties that look like this one.</summary>
    protected abstract void LookAlike(int party, T original);

    /// <summary>The values of a record, some of them left out.</summary>
    protected abstract string?[] ValuesOf(T party);

    /// <summary>Adds another party that looks like one.</summary>
    protected void AddLookAlike(string sort, int looksLike, T party) => Add(_party++, "~" + sort, looksLike, party);

    protected (string City, string Postcode) Place() => _places[Names.Zipf(_places.Length)];

    protected string Street() => $"{Random.Next(1, 180)} {_streets[Names.Zipf(_streets.Length)]}";

    protected string Postcode((string City, string Postcode) place) =>
        place.Postcode + (char)('A' + Random.Next(20)) + (char)('A' + Random.Next(20));

    protected string Phone() => $"0{Random.Next(1000, 1999)} {Random.Next(0, 1_000_000):000000}";

    protected string? Maybe(string? value, double missing) => Slips.Chance(missing) ? null : value;

    private void MakeParty()
    {
        var original = New();
        var party = _party++;
        Add(party, "", -1, original);
        var kind = Random.NextDouble();
        for (
            var copies =
                kind < WithTwoCopies ? 2
                : kind < WithCopy ? 1
                : 0;
            copies > 0;
            copies--
        )
            Copy(party, original);
        if (Slips.Chance(WithLookAlike))
            LookAlike(party, original);
    }

    private void Copy(int party, T original)
    {
        var copy = original;
        var done = new List<string>();
        var wanted = Slips.Chance(WithOneError) ? 1 : Random.Next(2, 4);
        for (var tries = 0; done.Count < wanted && tries < MostTries; tries++)
        {
            var before = copy;
            var name = Corrupt(ref copy);
            if (!copy.Equals(before) && !done.Contains(name))
                done.Add(name);
        }

        Add(party, string.Join('+', done), -1, copy);
    }

    private void Add(int party, string klass, int looksLike, T values) =>
        _made.Add(new TruthRecord(party, klass, looksLike, ValuesOf(values)));
}
