using Kettlefog.Core.Drafting;
using Kettlefog.Core.Map.Checking;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Schema;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Maps;

/// <summary>Finds what only rights and data show about a map that fits its database.</summary>
internal sealed class MapInspector(Session session, CheckedMap map, MapDocument document)
{
    private const int SureEnough = 85;
    private const int MaxRepeatedKeys = 5;

    /// <summary>
    /// References that the values suggest and the map does not name, once <see cref="FindAsync"/> has measured them.
    /// </summary>
    public IReadOnlyList<ReferenceGuess> Unnamed => _unnamed;

    private readonly List<ReferenceGuess> _unnamed = [];

    /// <summary>
    /// Checks rights, references that the data shows and the map does not name, and sums over values that are not
    /// numbers.
    /// </summary>
    public async Task<IReadOnlyList<MapFinding>> FindAsync(CancellationToken cancellationToken)
    {
        var findings = new List<MapFinding>();
        var rights = await session.Engine.Rights.ListMissingAsync(session, Uses(), cancellationToken);
        findings.AddRange(
            rights.Select(right => new MapFinding(FindingSeverity.Error, 0, right.Message, right.Remedy)
            {
                Statement = right.Statement,
            })
        );

        // Tables that may not be read cannot be checked.
        if (rights.Any(right => right.KeepsFromReading))
            return findings;
        var profiler = new DatabaseProfiler(session, map.Catalog);
        var profile = await profiler.ReadAsync(map.Map.Name, cancellationToken);
        foreach (var type in map.Map.RecordTypes.Where(type => !type.HasUniqueKey))
            findings.AddRange(await RepeatedKeysAsync(type, cancellationToken));
        findings.AddRange(SumsOfTexts(profile));
        findings.AddRange(await UnnamedReferencesAsync(profiler, profile, cancellationToken));
        return findings;
    }

    /// <summary>Keys that several rows have, where the database does not keep them unique; the first few.</summary>
    private async Task<IEnumerable<MapFinding>> RepeatedKeysAsync(RecordType type, CancellationToken cancellationToken)
    {
        var table = map.Catalog.Require(type.Table);
        var columns = type.Key.Select(column => Sql.Of($"t.{new SqlName(column)}")).ToList();
        var repeated = await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT COUNT(*), {Sql.Join(", ", columns.Select(session.Dialect.Read))}
                FROM {session.Dialect.Table(table)} t
                WHERE {Sql.Join(" AND ", columns.Select(column => Sql.Of($"{column} IS NOT NULL")))}
                GROUP BY {Sql.Join(", ", columns)} HAVING COUNT(*) > 1 ORDER BY 2 LIMIT {(long)MaxRepeatedKeys}
                """
            ),
            row => (Rows: row.Long(), Key: row.Key(columns.Count)),
            cancellationToken
        );
        return repeated.Select(each => new MapFinding(
            FindingSeverity.Error,
            document.LineOf($"record_types.{type.Name}.key"),
            $"{each.Rows} rows of '{type.Table}' have the key {each.Key}: they cannot be merged.",
            "Give each its own key in the operational system, or name other columns as the key."
        ));
    }

    private List<TableUse> Uses()
    {
        var uses = new Dictionary<string, TableUse>(StringComparer.OrdinalIgnoreCase);
        foreach (var type in map.Map.RecordTypes)
        {
            foreach (var reference in type.References)
                Add(reference.Table, RowChanges.None, []);
            foreach (var (table, changes) in MapRisks.Written(type))
                Add(table, changes, Updated(type, table));
        }

        return [.. uses.Values];

        void Add(string name, RowChanges changes, IReadOnlyList<string>? updated)
        {
            var known = uses.GetValueOrDefault(name) ?? new TableUse(map.Catalog.Require(name), RowChanges.None, []);
            uses[name] = known with
            {
                Changes = known.Changes | changes,
                Updated = known.Updated is null || updated is null ? null : [.. known.Updated.Union(updated)],
            };
        }
    }

    /// <summary>The columns of a table that merges of a type set; null for any of them.</summary>
    private static IReadOnlyList<string>? Updated(RecordType type, string table)
    {
        var references = type
            .References.Where(reference =>
                Identifiers.Same(reference.Table, table) && reference.Policy == ReferencePolicy.Reassign
            )
            .ToList();
        if (references.Any(reference => reference.Collision == CollisionPolicy.Combine))
            return null;
        var columns = references
            .SelectMany(reference => reference.Columns)
            .Concat(
                type.References.SelectMany(reference => reference.Dependents)
                    .Where(dependent => Identifiers.Same(dependent.Table, table))
                    .SelectMany(dependent => dependent.Columns)
            )
            .Concat(
                type.Blockers.AtMostOne.Where(rule =>
                        Identifiers.Same(type.RequireReference(rule.Reference).Table, table)
                    )
                    .SelectMany(rule => rule.End.Keys)
            );
        return
        [
            .. (
                Identifiers.Same(type.Table, table)
                    ? columns.Concat(type.Fields.Select(field => field.Column)).Concat(type.Retirement.Mark.Keys)
                    : columns
            ).Distinct(),
        ];
    }

    private IEnumerable<MapFinding> SumsOfTexts(DatabaseProfile profile)
    {
        foreach (var type in map.Map.RecordTypes)
        {
            foreach (var figure in type.Figures.Where(figure => figure.Operation == FigureOperation.Sum))
            {
                var column = profile
                    .Tables.FirstOrDefault(table =>
                        Identifiers.Same(table.Table.Name, type.RequireReference(figure.Reference).Table)
                    )
                    ?.Columns.First(column => Identifiers.Same(column.Column.Name, figure.Column!));
                if (
                    column?.Values.FirstOrDefault(value =>
                        !decimal.TryParse(
                            value,
                            System.Globalization.NumberStyles.Float,
                            System.Globalization.CultureInfo.InvariantCulture,
                            out _
                        )
                    ) is
                    { } text
                )
                    yield return new MapFinding(
                        FindingSeverity.Warning,
                        document.LineOf($"record_types.{type.Name}.figures.{figure.Name}"),
                        $"'{figure.Name}' adds up '{figure.Column}', which contains '{text}', which is not a number.",
                        "Name a column of numbers, or correct the values."
                    );
            }
        }
    }

    private async Task<IReadOnlyList<MapFinding>> UnnamedReferencesAsync(
        DatabaseProfiler profiler,
        DatabaseProfile profile,
        CancellationToken cancellationToken
    )
    {
        var findings = new List<MapFinding>();
        var types = map
            .Map.RecordTypes.Where(type => map.Catalog.Require(type.Table).PrimaryKey.Count > 0)
            .DistinctBy(type => type.Table)
            .ToList();
        foreach (
            var guess in new MapDrafter(profile, [.. types.Select(type => type.Table)]).References.Where(guess =>
                !guess.Declared && !IsNamed(guess)
            )
        )
        {
            var measured = await profiler.MeasureAsync(guess, cancellationToken);
            var isSure = measured.Confidence >= SureEnough;
            if (!isSure && !measured.AreAllKeys)
                continue;
            _unnamed.Add(measured);
            var type = types.First(type => type.Table == guess.Target);
            findings.Add(
                new MapFinding(
                    isSure ? FindingSeverity.Warning : FindingSeverity.Advice,
                    document.LineOf($"record_types.{type.Name}.references"),
                    $"{guess.Table}.{string.Join(", ", guess.Columns)} {(isSure ? "seems to" : "may")} refer to "
                        + $"'{guess.Target}' ({guess.Why}; {measured.Included:0 %} of its values found), but the map "
                        + "does not name it: its rows would stay with the duplicate.",
                    $"If it does, add under 'references': '{guess.InMap}'."
                )
            );
        }

        return findings;
    }

    private bool IsNamed(ReferenceGuess guess) =>
        map
            .Map.RecordTypes.SelectMany(type => type.References.Select(reference => (Type: type, Reference: reference)))
            .Any(each =>
                Identifiers.Same(each.Reference.Table, guess.Table)
                && each.Reference.Columns.SequenceEqual(guess.Columns, StringComparer.OrdinalIgnoreCase)
                && (guess.Prefix is null || Identifiers.Same(each.Type.Table, guess.Target))
                && (
                    guess.When is not { } when
                    || each.Reference.When.Count == 0
                    || (
                        Identifiers.Same(each.Type.Table, guess.Target)
                        && each.Reference.When.Values.Contains(when.Value)
                    )
                )
            );
}
