using System.Globalization;

namespace Kettlefog.Demo.Truth;

/// <summary>
/// The common part of the makers: names and places, copies with errors, and the final order. Of the entities 30 % have
/// copies: four of five one, the others two, and of a hundred one up to eight; a third of further copies is made of a
/// copy. Half of the copies have more than one change, beside what their sources write differently or leave out; 2 % of
/// all records are thin, with nothing but the name and one more value. 30 % of the entities have look-alikes.
/// </summary>
/// <typeparam name="T">An entity before some values are left out; equal if all values are.</typeparam>
internal abstract class TruthMaker<T>
    where T : class
{
    private const double WithCopy = 0.30,
        WithTwoCopies = 0.06,
        WithManyCopies = 0.003,
        OfCopy = 0.33,
        WithOneError = 0.45,
        WithLookAlike = 0.30;
    private const int MostTries = 20;
    private const int MostCopies = 8;

    private static readonly string[] PlaceEndings = ["haven", " Quay", "mouth", "stow", ""];

    private readonly string[] _streets;
    private readonly Town[] _towns;
    private readonly List<TruthRecord> _made = [];
    private int _entity;

    protected TruthMaker(int records, int seed, int families)
    {
        Random = new Random(seed);
        Slips = new Slips(Random);
        Names = new NameSource(Random, families);
        _streets =
        [
            .. Enumerable.Range(0, Math.Clamp(records / 60, 200, 6_000)).Select(_ => Names.Family()).Distinct(),
        ];
        _towns = [.. Enumerable.Range(0, Math.Clamp(records / 200, 60, 3_000)).Select(_ => NewTown())];
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

    /// <summary>The values of a record as a source writes them, with some left out.</summary>
    protected abstract string?[] ValuesOf(T entity, Source source);

    /// <summary>Adds an entity without copies, and returns its number.</summary>
    protected int AddEntity(T entity)
    {
        Add(_entity, "", -1, entity);
        return _entity++;
    }

    /// <summary>Adds another entity that looks like this one.</summary>
    protected void AddLookAlike(string sort, int looksLike, T entity) => Add(_entity++, "~" + sort, looksLike, entity);

    protected Town Town() => _towns[Names.Zipf(_towns.Length)];

    /// <summary>A line of the streets of a country.</summary>
    protected string Street(Habit habit) =>
        string.Format(
            CultureInfo.InvariantCulture,
            habit.Street,
            Random.Next(1, 180),
            _streets[Names.Zipf(_streets.Length)],
            Slips.Pick(habit.Kinds).Full
        );

    protected string Postcode(Town town) => Filled(town.Postcode);

    protected Phone Phone(Town town) => new(town.Habit, town.Area, Digits(town.Habit.Line));

    protected string? Maybe(string? value, double missing) => Slips.Chance(missing) ? null : value;

    /// <summary>Whether a record is thin: it has the name and one more value.</summary>
    protected bool IsThin => Slips.Chance(0.02);

    /// <summary>Leaves out all values of several groups but those of one, and leaves others alone.</summary>
    protected string?[] OnlyOne(string?[] values, params int[][] groups)
    {
        var kept = groups.Where(group => group.Any(at => values[at] is not null)).ToList();
        if (kept.Count == 0)
            return values;
        foreach (var at in groups.Except([Slips.Pick(kept)]).SelectMany(group => group))
            values[at] = null;
        return values;
    }

    protected string Digits(int count) => Filled(new string('#', count));

    private Town NewTown()
    {
        var habit = Slips.Share(Habit.All);
        var half = habit.Postcode.Length / 2;
        return new Town(
            habit,
            Names.Family() + Slips.Pick(PlaceEndings),
            Filled(habit.Postcode[..half]) + habit.Postcode[half..],
            $"{Random.Next(1, 10)}{Digits(habit.Area - 1)}"
        );
    }

    private string Filled(string pattern) =>
        string.Concat(
            pattern.Select(each =>
                each switch
                {
                    '#' => (char)('0' + Random.Next(10)),
                    '@' => (char)('A' + Random.Next(20)),
                    _ => each,
                }
            )
        );

    private void MakeEntity()
    {
        var original = New();
        var entity = _entity++;
        Add(entity, "", -1, original);
        var kind = Random.NextDouble();
        var copies =
            kind < WithManyCopies ? Random.Next(3, MostCopies + 1)
            : kind < WithTwoCopies ? 2
            : kind < WithCopy ? 1
            : 0;
        var made = new List<(T Values, string Class)> { (original, "") };
        for (; copies > 0; copies--)
        {
            var of = made.Count > 1 && Slips.Chance(OfCopy) ? made[Random.Next(1, made.Count)] : made[0];
            made.Add(Copy(entity, of.Values, of.Class));
        }

        if (Slips.Chance(WithLookAlike))
            LookAlike(entity, original);
    }

    private (T Values, string Class) Copy(int entity, T of, string done)
    {
        var copy = of;
        var names = done.Length > 0 ? done.Split('+').ToList() : [];
        var wanted = names.Count + (Slips.Chance(WithOneError) ? 1 : Random.Next(2, 4));
        for (var tries = 0; names.Count < wanted && tries < MostTries; tries++)
        {
            var before = copy;
            var name = Corrupt(ref copy);
            if (!copy.Equals(before) && !names.Contains(name))
                names.Add(name);
        }

        var klass = string.Join('+', names);
        Add(entity, klass, -1, copy);
        return (copy, klass);
    }

    private void Add(int entity, string klass, int looksLike, T values) =>
        _made.Add(new TruthRecord(entity, klass, looksLike, ValuesOf(values, Slips.Share(Sources.All))));
}
