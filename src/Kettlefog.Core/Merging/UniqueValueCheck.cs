using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>A marked duplicate keeps its row, and so its values that must be unique in the table.</summary>
internal sealed class UniqueValueCheck : IBlockerCheck
{
    /// <inheritdoc/>
    public IEnumerable<Blocker> Check(BlockerContext context)
    {
        var (snapshot, records, fields, _) = context;
        if (snapshot.Type.Retirement.Delete)
            yield break;
        foreach (
            var unique in snapshot.Table.UniqueKeys.Where(key =>
                key.Filter is null && key.Columns.All(column => column is not null)
            )
        )
        {
            var columns = unique.Columns.Select(column => column!).ToList();
            var changed = fields
                .Where(field => field.Changes && columns.ContainsIdentifier(field.Field.Column))
                .ToList();
            if (changed.Count == 0 || columns.Any(snapshot.Type.Retirement.Mark.ContainsKey))
                continue;
            ColumnValue After(string column) =>
                fields.FirstOrDefault(field => Identifiers.Same(field.Field.Column, column))?.Value
                ?? snapshot.Records[0][column];
            for (var index = 1; index < records.Count; index++)
            {
                if (columns.All(column => !After(column).IsNull && snapshot.Records[index][column] == After(column)))
                {
                    yield return new Blocker(
                        $"{changed[0].Field.Title} must be unique, and the retired record {records[index].Key} "
                            + $"keeps {ValueText.Of(changed[0].Value)}.",
                        $"Keep the master's {changed[0].Field.Title.ToLowerInvariant()}, or make "
                            + $"{records[index].Key} the master."
                    );
                }
            }
        }
    }
}
