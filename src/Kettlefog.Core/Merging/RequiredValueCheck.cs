namespace Kettlefog.Core.Merging;

/// <summary>Columns that may not be blank.</summary>
internal sealed class RequiredValueCheck : IBlockerCheck
{
    /// <inheritdoc/>
    public IEnumerable<Blocker> Check(BlockerContext context)
    {
        var (snapshot, _, fields, _) = context;
        var type = snapshot.Type;
        foreach (var field in fields)
        {
            var column = snapshot.Table.Find(field.Field.Column)!;
            if (field.Changes && column.NotNull && field.Value.IsNull)
            {
                yield return new Blocker(
                    $"{field.Field.Title} would be blank, which the column {column.Name} does not allow.",
                    "Choose a record's value that is filled in, or type one."
                );
            }
        }
    }
}
