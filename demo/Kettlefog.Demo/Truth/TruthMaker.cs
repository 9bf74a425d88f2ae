namespace Kettlefog.Demo.Truth;

/// <summary>The common part of the makers: names and places, copies with errors, and the final order.</summary>
/// <typeparam name="T">An entity before some values are left out; equal if all values are.</typeparam>
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
    private int _entity;

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

    /// <summary>Makes at least the given number of records, in random order.</summary>
    public IReadOnlyList<TruthRecord> MakeAll(int records, int seed)
    {
        while (_made.Count < records)
            MakeEntity();
        var shuffled = _made.ToArray();
        new Random(seed + 1).Shuffle(shuffled);
        return shuffled;
    }

    /// <summary>A new entity.</summary>
    protected abstract T New();

    /// <summary>Applies one change to a copy, and names it; the copy may be unchanged.</summary>
    protected abstract string Corrupt(ref T copy);

    /// <summary>Adds other entities that look like this one.</summary>
    protected abstract void LookAlike(int entity, T original);

    /// <summary>The values of a record, with some left out.</summary>
    protected abstract string?[] ValuesOf(T entity);

    /// <summary>Adds another entity that looks like this one.</summary>
    protected void AddLookAlike(string sort, int looksLike, T entity) => Add(_entity++, "~" + sort, looksLike, entity);

    protected (string City, string Postcode) Place() => _places[Names.Zipf(_places.Length)];

    protected string Street() => $"{Random.Next(1, 180)} {_streets[Names.Zipf(_streets.Length)]}";

    protected string Postcode((string City, string Postcode) place) =>
        place.Postcode + (char)('A' + Random.Next(20)) + (char)('A' + Random.Next(20));

    protected string Phone() => $"0{Random.Next(1000, 1999)} {Random.Next(0, 1_000_000):000000}";

    protected string? Maybe(string? value, double missing) => Slips.Chance(missing) ? null : value;

    private void MakeEntity()
    {
        var original = New();
        var entity = _entity++;
        Add(entity, "", -1, original);
        var kind = Random.NextDouble();
        for (
            var copies =
                kind < WithTwoCopies ? 2
                : kind < WithCopy ? 1
                : 0;
            copies > 0;
            copies--
        )
            Copy(entity, original);
        if (Slips.Chance(WithLookAlike))
            LookAlike(entity, original);
    }

    private void Copy(int entity, T original)
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

        Add(entity, string.Join('+', done), -1, copy);
    }

    private void Add(int entity, string klass, int looksLike, T values) =>
        _made.Add(new TruthRecord(entity, klass, looksLike, ValuesOf(values)));
}
