namespace Kettlefog.Core.Merging;

/// <summary>Fields whose values must not differ between the records, such as currency or legal entity.</summary>
internal sealed class MustAgreeCheck : IBlockerCheck
{
    /// <inheritdoc/>
    public IEnumerable<Blocker> Check(BlockerContext context)
    {
        var (snapshot, records, fields, _) = context;
        var type = snapshot.Type;
        // Records of different partitions, such as legal entities, are not merged either, unless a rule crosses them.
        var mustAgree = snapshot.Rule is { CrossPartitions: true }
            ? type.Blockers.MustAgree
            : type.Blockers.MustAgree.Union(type.Matching.Partition);
        foreach (var field in fields.Where(field => mustAgree.Contains(field.Field.Name) && field.Differs))
        {
            var values = records.Select((record, index) => $"{record.Key} has {ValueText.Of(field.Values[index])}");
            yield return new Blocker(
                $"{field.Field.Title} must agree, but {string.Join(", ", values)}.",
                "Leave the records that differ out of the merge, or correct their "
                    + $"{field.Field.Title.ToLowerInvariant()} first."
            );
        }
    }
}
