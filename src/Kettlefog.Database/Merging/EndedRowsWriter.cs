using System.Globalization;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Records;

namespace Kettlefog.Database.Merging;

/// <summary>Ends rows of duplicates that only one record may have, such as running agreements.</summary>
internal sealed class EndedRowsWriter(Session session, CheckedMap map)
{
    private const int MaxEndedRows = 1_000;

    /// <summary>
    /// Journals and ends the rows of the duplicates by the rules that were chosen, as the first steps of a merge.
    /// </summary>
    /// <exception cref="KettlefogException">There are too many, or the database refuses the change.</exception>
    public async Task<IReadOnlyList<EndedRow>> EndAsync(
        RecordType type,
        MergeChoices choices,
        IReadOnlyList<RecordSnapshot> records,
        long journal,
        DateTimeOffset at,
        CancellationToken cancellationToken
    )
    {
        var writer = new JournalWriter(session);
        var ended = new List<EndedRow>();
        foreach (var rule in type.Blockers.AtMostOne.Where(rule => choices.End.Contains(rule.Name)))
        {
            var reference = type.RequireReference(rule.Reference);
            var table = map.Catalog.Require(reference.Table);
            var rows = await new ActiveRowsReader(session, map).ReadKeysAsync(
                type,
                rule,
                records,
                MaxEndedRows + 1,
                cancellationToken
            );
            if (rows.Count > MaxEndedRows)
                throw new KettlefogException(
                    ErrorCode.InvalidChoice,
                    $"More than {MaxEndedRows} {rule.Title.ToLowerInvariant()} would end with the merge.",
                    "End them in the operational system first."
                );
            var date = at.UtcDateTime.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
            var set = rule
                .End.Select(cell =>
                    (
                        table.Require([cell.Key])[0],
                        ActiveRowsReader.Value(
                            table,
                            cell.Key,
                            cell.Value?.Replace(AtMostOneRule.DatePlaceholder, date, StringComparison.Ordinal)
                        )
                    )
                )
                .ToList();
            foreach (var (record, row) in rows)
            {
                ended.Add(new EndedRow(rule, record, row, ended.Count + 1));
                writer.Update(journal, ended.Count, reference.Name, table, reference.Key, row, set);
            }
        }

        await writer.FlushAsync(cancellationToken);
        return ended;
    }
}
