namespace Kettlefog.Core.Merging;

/// <summary>States in which a record may not be merged.</summary>
internal sealed class ForbiddenValueCheck : IBlockerCheck
{
    /// <inheritdoc/>
    public IEnumerable<Blocker> Check(BlockerContext context)
    {
        var (snapshot, records, fields, _) = context;
        var type = snapshot.Type;
        foreach (var field in fields.Where(field => type.Blockers.Forbid.ContainsKey(field.Field.Name)))
        {
            for (var index = 0; index < records.Count; index++)
            {
                if (field.Values[index].ToText() is { } text && type.Blockers.Forbid[field.Field.Name].Contains(text))
                {
                    yield return new Blocker(
                        $"{field.Field.Title} of {records[index].Key} is '{text}', and such a "
                            + $"{type.Title.ToLowerInvariant()} may not be merged.",
                        $"Change its {field.Field.Title.ToLowerInvariant()} first, or leave out the record."
                    );
                }
            }
        }
    }
}
