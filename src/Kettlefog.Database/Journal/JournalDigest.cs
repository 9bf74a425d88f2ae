using System.Globalization;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Journal;

/// <summary>Computes the digest of what an entry journaled, which its hash in the history covers.</summary>
internal sealed class JournalDigest(Session session)
{
    private const int RowsPerDigestText = 5_000;
    private const int MaxRangesPerQuery = 20;

    private static readonly SqlName Column = new("column");

    private readonly Sql _steps = session.Dialect.Own("journal_step");
    private readonly Sql _rows = session.Dialect.Own("journal_row");
    private readonly Sql _cells = session.Dialect.Own("journal_cell");

    /// <summary>
    /// SHA-256 over everything that an entry journaled, in hexadecimal digits. The database converts the rows to text,
    /// many at once, so that a million of them do not take minutes.
    /// </summary>
    public async Task<string> ComputeAsync(long journal, CancellationToken cancellationToken)
    {
        using var digest = new Sha256Digest();
        var steps = await session.QueryAsync(
            Sql.Of(
                $"SELECT step, operation, table_name, reference, key_columns, row_count FROM {_steps} WHERE "
                    + $"journal = {journal} ORDER BY step"
            ),
            row => row.Values(6),
            cancellationToken
        );
        await session.QueryAsync(
            Sql.Of(
                $"SELECT step, {Column}, before, after FROM {_cells} WHERE journal = {journal} ORDER BY step, {Column}"
            ),
            row => AddAll(row.Values(4)),
            cancellationToken
        );
        AddAll([.. steps.SelectMany(step => step)]);

        // Counted, so that no row outside the steps is missed.
        digest.Add(
            await session.QueryLongAsync(
                Sql.Of($"SELECT COUNT(*) FROM {_rows} WHERE journal = {journal}"),
                cancellationToken
            )
        );
        var ranges = steps.SelectMany(step =>
            RowRanges
                .Of(long.Parse(step[5].ToText()!, CultureInfo.InvariantCulture), RowsPerDigestText)
                .Select(range =>
                    (
                        Step: long.Parse(step[0].ToText()!, CultureInfo.InvariantCulture),
                        Keys: JournalStep.ReadKey(step[4].ToText()!).KeyColumns.Count,
                        range.First,
                        range.Last
                    )
                )
        );
        foreach (var chunk in ranges.Chunk(MaxRangesPerQuery))
        {
            var texts = chunk.Select(
                (range, place) =>
                {
                    var columns = session.Dialect.ConcatenateWith(
                        ',',
                        KeyConditions
                            .JournalColumns(range.Keys)
                            .Select(column => session.Dialect.JournalText(Sql.Of($"{new SqlName(column)}")))
                    );
                    return Sql.Of(
                        $"SELECT {(long)place} AS place, "
                            + $"{session.Dialect.ConcatenateRows(columns, Sql.Of($"row"))} AS content FROM {_rows} "
                            + $"WHERE journal = {journal} AND step = {range.Step} AND row BETWEEN {range.First} AND "
                            + $"{range.Last}"
                    );
                }
            );
            await session.QueryAsync(
                Sql.Of($"{Sql.Join(" UNION ALL ", texts)} ORDER BY place"),
                row => AddAll(row.Values(2)),
                cancellationToken
            );
        }

        return Convert.ToHexStringLower(digest.Finish());

        int AddAll(IReadOnlyList<ColumnValue> values)
        {
            digest.Add(values.Count);
            foreach (var value in values)
                digest.Add(value);
            return values.Count;
        }
    }

    /// <summary>
    /// The digest as computed before version 3 of Kettlefog's tables: over every value in turn. Entries of that time
    /// still have it.
    /// </summary>
    public async Task<string> ComputeEarlyAsync(long journal, CancellationToken cancellationToken)
    {
        using var digest = new Sha256Digest();
        var parts = new[]
        {
            (
                Sql.Of(
                    $"SELECT step, operation, table_name, reference, key_columns, row_count FROM {_steps} "
                        + $"WHERE journal = {journal} ORDER BY step"
                ),
                6
            ),
            (
                Sql.Of(
                    $"SELECT step, row, "
                        + $"{Sql.Join(", ", KeyConditions.JournalColumns(KeyConditions.MaxColumns))} FROM {_rows} "
                        + $"WHERE journal = {journal} ORDER BY step, row"
                ),
                2 + KeyConditions.MaxColumns
            ),
            (
                Sql.Of(
                    $"SELECT step, {Column}, before, after FROM {_cells} WHERE journal = {journal} ORDER BY "
                        + $"step, {Column}"
                ),
                4
            ),
        };
        foreach (var (sql, columns) in parts)
        {
            digest.Add(columns);
            await foreach (var row in session.StreamAsync(sql, row => row.Values(columns), cancellationToken))
            {
                foreach (var value in row)
                    digest.Add(value);
            }
        }

        return Convert.ToHexStringLower(digest.Finish());
    }
}
