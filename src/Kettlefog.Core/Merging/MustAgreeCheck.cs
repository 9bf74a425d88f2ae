namespace Kettlefog.Core.Merging;

/// <summary>Fields whose values must not differ between the records, such as currency or legal entity.</summary>
internal sealed class MustAgreeCheck : IBlockerCheck
{
    /// <summary>Of more records it is said by value who has it.</summary>
    private const int MostOneByOne = 4;

    /// <summary>As many are named of those that have one value.</summary>
    private const int MostNamed = 3;

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
            yield return new Blocker(
                $"{field.Field.Title} must agree, but {string.Join(", ", Holders(records, field))}.",
                "Leave the records that differ out of the merge, or correct their "
                    + $"{field.Field.Title.ToLowerInvariant()} first."
            );
        }
    }

    private static IEnumerable<string> Holders(IReadOnlyList<PlannedRecord> records, PlannedField field)
    {
        var holders = records.Select((record, index) => (record.Key, Value: field.Values[index])).ToList();
        if (holders.Count <= MostOneByOne)
            return holders.Select(each => $"{each.Key} has {ValueText.Of(each.Value)}");
        return holders
            .GroupBy(each => each.Value, each => each.Key.ToString())
            .Select(each =>
            {
                var keys = each.ToList();
                var named = keys.Count > MostNamed + 1 ? keys.Take(MostNamed).ToList() : keys;
                var more = keys.Count > named.Count ? $" and {keys.Count - named.Count} more" : "";
                return $"{string.Join(", ", named)}{more} {(keys.Count == 1 ? "has" : "have")} "
                    + ValueText.Of(each.Key);
            });
    }
}
