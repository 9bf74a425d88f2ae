using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Schema;

namespace Kettlefog.Core.Drafting;

/// <summary>
/// Drafts a record map from a database's catalog and samples of its values. Pure computation: the samples, and the
/// check of guessed references against all values, are read elsewhere.
/// </summary>
public sealed class MapDrafter
{
    private const int SureEnough = 50;

    /// <summary>Tables with no more rows are lists to choose from, such as countries.</summary>
    private const long MaxLookupRows = 20;

    private readonly bool _isGuessed;

    private readonly DatabaseProfile _profile;
    private readonly List<TableReading> _tables;
    private readonly List<(TableReading Table, IReadOnlyList<string> Why)> _recordTables;
    private readonly List<TableReading> _keyless = [];

    /// <summary>Reads a database.</summary>
    /// <param name="profile">The database.</param>
    /// <param name="only">The tables that hold records; empty to find them.</param>
    /// <exception cref="KettlefogException">A table that was named is not there, or has no primary key.</exception>
    public MapDrafter(DatabaseProfile profile, IReadOnlyList<string> only)
    {
        ArgumentNullException.ThrowIfNull(profile);
        ArgumentNullException.ThrowIfNull(only);
        _profile = profile;
        _tables = [.. profile.Tables.Select(TableReading.Of)];
        _isGuessed = only.Count == 0;
        _recordTables = only.Count > 0 ? [.. only.Select(Named)] : [.. Found()];
    }

    /// <summary>The guessed references; those that the database does not declare are to be measured.</summary>
    public IReadOnlyList<ReferenceGuess> References =>
        [.. _recordTables.SelectMany(drafted => ReferenceGuesser.Of(drafted.Table, _tables))];

    /// <summary>
    /// The guessed references to related rows that may be removed because of a conflict, where the database does not
    /// declare them; they are to be measured, too.
    /// </summary>
    /// <param name="measured">The references to records, with their measurements.</param>
    public IReadOnlyList<ReferenceGuess> DependentsOf(IReadOnlyList<ReferenceGuess> measured)
    {
        ArgumentNullException.ThrowIfNull(measured);
        var colliding = measured
            .Where(IsWritten)
            .Select(guess => (Guess: guess, Rows: _tables.First(table => table.Name == guess.Table)))
            .Where(each =>
                each.Rows.Profile.Table.PrimaryKey.Count == 1
                && each.Rows.Profile.Table.UniqueKeys.Any(key =>
                    each.Guess.Columns.All(column => key.Columns.OfType<string>().ToList().ContainsIdentifier(column))
                )
                && _recordTables.All(record => record.Table != each.Rows)
            )
            .Select(each => each.Rows)
            .Distinct();
        return
        [
            .. colliding
                .SelectMany(rows => ReferenceGuesser.Of(rows, _tables))
                .Where(guess =>
                    guess is { Declared: false, ByValues: false, Prefix: null } && guess.Table != guess.Target
                ),
        ];
    }

    /// <summary>Drafts the map.</summary>
    /// <param name="measured">The references, with their measurements.</param>
    /// <param name="dependents">What refers to related rows, measured; see <see cref="DependentsOf"/>.</param>
    /// <exception cref="KettlefogException">No table looks like one of people or organisations.</exception>
    public MapDraft Draft(IReadOnlyList<ReferenceGuess> measured, IReadOnlyList<ReferenceGuess> dependents)
    {
        ArgumentNullException.ThrowIfNull(measured);
        ArgumentNullException.ThrowIfNull(dependents);
        if (_recordTables.Count == 0)
        {
            throw new KettlefogException(
                ErrorCode.InvalidMap,
                $"None of the {_tables.Count} tables of {_profile.Name} looks like a list of people or "
                    + "organisations: names with addresses, phones or e-mails, which other tables refer to.",
                _keyless.Count > 0
                    ? $"{string.Join(", ", _keyless.Select(table => table.Name))} would, but without "
                        + $"a primary key {(_keyless.Count == 1 ? "its" : "their")} rows cannot be told apart: give "
                        + $"{(_keyless.Count == 1 ? "it" : "each of them")} one first."
                    : "Name the tables that hold records with '--table', and review the draft."
            );
        }

        var page = new DraftReport();
        var names = new HashSet<string>();
        var types = _recordTables
            .Select(drafted => new DraftedType(
                drafted.Table,
                Free(names, NameWords.ForMap(string.Join('_', drafted.Table.Stem))),
                [.. Bound(measured.Where(guess => guess.Target == drafted.Table.Name))],
                [.. Bound(dependents).Where(IsWritten)],
                _tables
            ))
            .ToList();
        foreach (var (type, (_, why)) in types.Zip(_recordTables))
            new TypeDrafter(type, types, page).Write(why);
        foreach (var table in _keyless)
            page.Ask(
                $"{table.Name} looks like a list of people or organisations, "
                    + "but its rows cannot be told apart: it has no "
                    + "primary key, and no unique columns that are never blank. Give it one, and draft again."
            );
        AskAboutOthers(page);
        return page.Close(_profile.Name, [.. names]);
    }

    /// <summary>Other tables with names that rows refer to: users, devices, sites get duplicates, too.</summary>
    private void AskAboutOthers(DraftReport page)
    {
        var others = _tables
            .Where(table =>
                !_recordTables.Any(record => record.Table == table)
                && table.Key.Count > 0
                && table.Profile.Rows > MaxLookupRows
                && table.Columns.Any(column => column.IsAbout("name") || column.Kind is FieldKind.Email)
                && _tables.Any(other =>
                    other.Profile.Table.ForeignKeys.Any(key => Identifiers.Same(key.Target, table.Name))
                )
            )
            .Select(table => table.Name)
            .ToList();
        if (_isGuessed && others.Count > 0)
            page.Ask(
                $"Do {string.Join(", ", others)} hold records that get duplicates, too? To include them, draft again "
                    + $"with '--table' for each table: {Options(_recordTables.Select(each => each.Table.Name))} "
                    + $"{Options(others)}."
            );
    }

    private static string Options(IEnumerable<string> tables) =>
        string.Join(' ', tables.Select(table => $"--table {table}"));

    /// <summary>
    /// Of guesses about the same columns the most certain; a column that refers to several types, depending on another
    /// column, does not also refer to one.
    /// </summary>
    private static IEnumerable<ReferenceGuess> Bound(IEnumerable<ReferenceGuess> guesses) =>
        guesses
            .Where(guess => guess.Declared || guess.Confidence > 0)
            .GroupBy(guess => $"{guess.Table}|{string.Join('|', guess.Columns)}", StringComparer.OrdinalIgnoreCase)
            .Select(same =>
                same.OrderByDescending(guess => guess.When is not null)
                    .ThenByDescending(guess => guess.Confidence)
                    .First()
            );

    /// <summary>True if a reference is certain enough to be written to the draft, and not only asked about.</summary>
    internal static bool IsWritten(ReferenceGuess guess) => guess.Confidence >= SureEnough;

    /// <summary>A name that is not taken yet.</summary>
    internal static string Free(HashSet<string> taken, string name)
    {
        for (var number = 1; ; number++)
        {
            var free = number == 1 ? name : $"{name}_{number}";
            if (taken.Add(free))
                return free;
        }
    }

    private IEnumerable<(TableReading, IReadOnlyList<string>)> Found() =>
        _tables
            .Select(table =>
                (
                    Table: table,
                    Scored: table.RecordScore(
                        _tables.Sum(other =>
                            other.Profile.Table.ForeignKeys.Count(key =>
                                Identifiers.Same(key.Target, table.Name) && !Identifiers.Same(other.Name, table.Name)
                            )
                        )
                    )
                )
            )
            .Where(each => each.Scored is not null)
            .OrderByDescending(each => each.Scored!.Value.Score)
            .Where(each => each.Table.Key.Count > 0 || !Remember(each.Table))
            .Select(each => (each.Table, each.Scored!.Value.Why));

    private bool Remember(TableReading table)
    {
        _keyless.Add(table);
        return true;
    }

    private (TableReading, IReadOnlyList<string>) Named(string name)
    {
        var table = _tables.FirstOrDefault(each => Identifiers.Same(each.Name, name))
            ?? throw new KettlefogException(
                ErrorCode.InvalidMap,
                $"The database has no table '{name}'.",
                Spelling.Instead(name, _tables.Select(each => each.Name))
            );
        if (table.Key.Count == 0)
            throw new KettlefogException(
                ErrorCode.InvalidMap,
                $"The table '{table.Name}' has neither a primary key nor unique columns that are never blank, "
                    + "so its rows cannot be told apart.",
                "Give it a primary key, or name another table."
            );
        return (table, ["you named it"]);
    }
}
