using Kettlefog.Core.Drafting;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Records;

/// <summary>
/// Looks for duplicates' keys in columns that seem to refer to records, although the map does not name them as
/// references: their rows are left as they are, which a plan must say.
/// </summary>
internal sealed class UnnamedReferenceReader(Session session, CheckedMap map)
{
    /// <summary>More columns are not looked at, and more rows of one not counted, so that a plan stays quick.</summary>
    private const int MaxColumns = 40;
    private const long MaxRows = 1_000;

    /// <summary>More rows are read only if an index leads to them.</summary>
    private const long MaxScannedRows = 50_000;

    /// <summary>One sentence for each column that holds keys of duplicates.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="duplicates">The keys of the duplicates.</param>
    /// <param name="guesses">The columns that seem to refer to records.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<IReadOnlyList<string>> WarningsAsync(
        RecordType type,
        IReadOnlyList<RecordKey> duplicates,
        IEnumerable<ReferenceGuess> guesses,
        CancellationToken cancellationToken
    )
    {
        var warnings = new List<string>();
        foreach (
            var guess in guesses
                .Where(guess =>
                    Identifiers.Same(guess.Target, type.Table)
                    && guess.TargetColumns.SequenceEqual(type.Key, StringComparer.OrdinalIgnoreCase)
                )
                .Take(MaxColumns)
        )
        {
            if (
                map.Catalog.Find(guess.Table) is not { } table
                || guess.Columns.Any(column => table.Find(column) is null)
            )
                continue;
            foreach (var duplicate in duplicates)
            {
                var held = guess.As is { } template
                    ? [ColumnValue.Of(template.Replace("{key}", duplicate.ToString(), StringComparison.Ordinal))]
                    : duplicate.Parts;
                if (await CountAsync(table, guess, held, cancellationToken) is not (> 0 and var rows))
                    continue;
                var (many, hold, keep) =
                    rows == 1 ? ("row", "holds", "it is left as it is") : ("rows", "hold", "they are left as they are");
                warnings.Add(
                    $"{(rows == MaxRows ? $"{rows} or more" : rows)} {many} of '{guess.Table}' {hold} "
                        + $"{string.Join(", ", held)} in '{string.Join(", ", guess.Columns)}', which the record map "
                        + $"does not name as a reference: {keep}."
                );
            }
        }

        return warnings;
    }

    private async Task<long> CountAsync(
        TableSchema table,
        ReferenceGuess guess,
        IReadOnlyList<ColumnValue> held,
        CancellationToken cancellationToken
    )
    {
        var columns = table.Require(guess.Columns);

        // Where a text cannot be a value of the column, no row holds it.
        var values = columns.Zip(held, (column, value) => column.TryRead(value.ToText() ?? "")).ToList();
        if (values.Any(value => value is null))
            return 0;
        var key = new RecordKey([.. values.Select(value => value!.Value)]);
        var source = session.Dialect.Table(table);
        if (!LeadsTo(table, guess))
            source = Sql.Of($"(SELECT * FROM {source} LIMIT {MaxScannedRows})");
        var when =
            guess.When is var (name, text) && table.Find(name) is { } column
                ? Sql.Of($" AND {session.Dialect.AsText(Sql.Of($"t.{new SqlName(column.Name)}"))} = {text}")
                : Sql.Of($"");
        return await session.QueryLongAsync(
            Sql.Of(
                $"SELECT COUNT(*) FROM (SELECT 1 FROM {source} t WHERE {session.Keys.Equal(columns, key, "t")}{when} "
                    + $"LIMIT {MaxRows}) s"
            ),
            cancellationToken
        );
    }

    /// <summary>True if an index begins with the columns.</summary>
    private static bool LeadsTo(TableSchema table, ReferenceGuess guess) =>
        table
            .UniqueKeys.Select(key => key.Columns)
            .Append([.. table.PrimaryKey])
            .Concat(table.Indexes ?? [])
            .Any(index => index.Count > 0 && index[0] is { } first && guess.Columns.ContainsIdentifier(first));
}
